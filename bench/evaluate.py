"""NumPy evaluation of a 60-node graph at 1024x1024 against straightforward NumPy of the same graph: time and memory.

Run: .venv/bin/python -m bench.evaluate
"""

import statistics
import time
import tracemalloc
from collections.abc import Callable
from typing import Any

import numpy as np

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from tests.support.graphs import long_graph
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate_in_tiles
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.tracing.staged import uniform_arrays

SIZE = 1024
ROUNDS = 3
LEAST_SAVING = 10.0


def _slope(x: np.ndarray, y: np.ndarray, seed: int) -> tuple[np.ndarray, np.ndarray]:
    a = x.astype(np.uint32) * np.uint32(1664525) + np.uint32(1013904223)
    b = y.astype(np.uint32) * np.uint32(1664525) + np.uint32(1013904223)
    c: Any = np.uint32((seed * 1664525 + 1013904223) % 2**32)
    a = a + b * c
    b = b + c * a
    c = c + a * b
    a, b, c = a ^ (a >> np.uint32(16)), b ^ (b >> np.uint32(16)), c ^ (c >> np.uint32(16))
    a = a + b * c
    b = b + c * a
    return (a >> np.uint32(8)) * np.float32(2.0**-23) - 1, (b >> np.uint32(8)) * np.float32(2.0**-23) - 1


def noise_by_hand(x: np.ndarray, y: np.ndarray, seed: int) -> np.ndarray:
    """Gradient noise 0..1 on float32 coordinates, as an expert would write it in NumPy."""
    cx, cy = np.floor(x), np.floor(y)
    fx, fy = x - cx, y - cy
    tx, ty = fx**3 * (fx * (fx * 6 - 15) + 10), fy**3 * (fy * (fy * 6 - 15) + 10)
    corner = []
    for dy in (0, 1):
        for dx in (0, 1):
            sx, sy = _slope(cx + dx, cy + dy, seed)
            corner.append(sx * (fx - dx) + sy * (fy - dy))
    low = corner[0] + (corner[1] - corner[0]) * tx
    high = corner[2] + (corner[3] - corner[2]) * tx
    return np.asarray((low + (high - low) * ty) * 0.5 + 0.5)


def by_hand(u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """The graph of ``long_graph(60)`` as one would write it: each node's picture a variable, kept to the end."""
    kept: dict[str, np.ndarray] = {}
    one = np.float32(1)
    last = (u, v)
    colour: np.ndarray | None = None
    for i in range(10):
        at = last if i % 5 == 0 else (u, v)
        kept[f"tile_{i}"] = np.stack((at[0] * np.float32(1 + i % 7), at[1] * np.float32(2 + i % 3)))
        across, up = kept[f"tile_{i}"] * np.float32(8)
        kept[f"noise_{i}"] = noise_by_hand(across, up, i)
        t = np.clip((kept[f"noise_{i}"] - np.float32(0.2)) / np.float32(0.6), 0, one)
        kept[f"range_{i}"] = t
        tint = np.array([0.1 + i % 9 / 10, 0.3, 0.5], dtype=np.float32).reshape(3, 1, 1)
        before = np.full((3, 1, 1), 0.2, dtype=np.float32) if colour is None else colour
        kept[f"mix_{i}"] = before + (tint - before) * t
        colour = kept[f"scale_{i}"] = kept[f"mix_{i}"] * np.float32(0.95)
    assert colour is not None
    return colour


def measured(work: Callable[[], np.ndarray]) -> tuple[float, float, np.ndarray]:
    """Seconds, megabytes held at most beside the inputs, and the result."""
    times = []
    for _ in range(ROUNDS):
        started = time.perf_counter()
        result = work()
        times.append(time.perf_counter() - started)
    tracemalloc.start()
    work()
    peak = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    return statistics.median(times), peak / 2**20, result


def main() -> None:
    at = ((np.arange(SIZE) + 0.5) / SIZE).astype(np.float32)
    u, v = np.meshgrid(at, at)
    graph = long_graph(60)
    output = lower(graph).surface["base_colour"]
    bindings = Bindings({"uv": np.stack((u, v))}, uniform_arrays(graph.uniform_values()))
    ours, our_peak, found = measured(lambda: evaluate_in_tiles([output], bindings, (SIZE, SIZE))[0])
    hand, hand_peak, expected = measured(lambda: by_hand(u, v))
    off = float(np.abs(found - expected).max())
    picture = found.nbytes / 2**20
    print(f"by hand   {hand:6.2f} s, {hand_peak:7.1f} MB")
    print(f"evaluated {ours:6.2f} s, {our_peak:7.1f} MB, of which {picture:.1f} MB the picture itself")
    saving = hand_peak / our_peak
    kept = ours <= hand and saving >= LEAST_SAVING and off < 1e-4
    print(
        f"{hand / ours:.2f}x as fast, 1/{saving:.0f} of the memory, off by at most {off:.1e}: {'kept' if kept else 'MISSED'}"
    )


if __name__ == "__main__":
    main()
