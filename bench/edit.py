"""Server time of one structural edit on a 60-node graph, with its parts. Run: .venv/bin/python -m bench.edit

The baseline is hand-written NumPy for the same kind of work (noise, remap, mix on 40x40 pixels for
ten branches), run in this process, so that the ratio does not depend on the machine.
"""

import json
import statistics
import time
from collections.abc import Callable

import numpy as np

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from tests.support.graphs import TEXTURES, long_graph
from velvet_moth.core.formats.graph_json import graph_to_json
from velvet_moth.core.graph import Graph, Node, Source
from velvet_moth.core.lower import lower
from velvet_moth.core.operations import AddNode, Unwire, Wire
from velvet_moth.core.problems import find_problems
from velvet_moth.core.session import Session
from velvet_moth.core.shading import drawing

ROUNDS = 40
BUDGET = 40.0


def measured(work: Callable[[], object]) -> float:
    started = time.perf_counter()
    work()
    return (time.perf_counter() - started) * 1000


def handwritten() -> None:
    """Ten branches of 2D gradient noise, remap and mix, as an expert would write them in NumPy."""
    u, v = np.meshgrid(np.linspace(0, 1, 40, dtype=np.float32), np.linspace(0, 1, 40, dtype=np.float32))
    colour = np.full((3, 40, 40), 0.2, dtype=np.float32)

    def slope(x: np.ndarray, y: np.ndarray, seed: int) -> tuple[np.ndarray, np.ndarray]:
        a = x.astype(np.uint32) * np.uint32(1664525) + np.uint32(1013904223)
        b = y.astype(np.uint32) * np.uint32(1664525) + np.uint32(1013904223)
        c = np.uint32(seed * 1664525 + 1013904223)
        a = a + b * c
        b = b + c * a
        c = c + a * b
        a, b, c = a ^ (a >> np.uint32(16)), b ^ (b >> np.uint32(16)), c ^ (c >> np.uint32(16))
        a = a + b * c
        b = b + c * a
        return (a >> np.uint32(8)) * np.float32(2.0**-23) - 1, (b >> np.uint32(8)) * np.float32(2.0**-23) - 1

    for i in range(10):
        x, y = u * 8 * (1 + i % 7), v * 8 * (2 + i % 3)
        cx, cy = np.floor(x), np.floor(y)
        fx, fy = x - cx, y - cy
        tx, ty = fx**3 * (fx * (fx * 6 - 15) + 10), fy**3 * (fy * (fy * 6 - 15) + 10)
        corner = []
        for dy in (0, 1):
            for dx in (0, 1):
                sx, sy = slope(cx + dx, cy + dy, i)
                corner.append(sx * (fx - dx) + sy * (fy - dy))
        low = corner[0] + (corner[1] - corner[0]) * tx
        high = corner[2] + (corner[3] - corner[2]) * tx
        noise = (low + (high - low) * ty) * 0.5 + 0.5
        amount = np.clip((noise - 0.2) / 0.6, 0, 1)
        tint = np.array([0.1 + i % 9 / 10, 0.3, 0.5], dtype=np.float32).reshape(3, 1, 1)
        colour = (colour + (tint - colour) * amount) * 0.95


def edits(graph: Graph) -> list[Callable[[Graph], Graph]]:
    """Structural edits in the middle of the graph, there and back."""
    put = AddNode(Node("clamp_here", "clamp", wires={"value": Source("mix_4", "result")}))
    return [
        lambda g: put.apply(g)[0],
        lambda g: Wire("scale_4", "a", "clamp_here", "result").apply(g)[0],
        lambda g: Unwire("mix_2", "amount").apply(g)[0],
        lambda g: Wire("mix_2", "amount", "range_3", "result").apply(g)[0],
    ]


def main() -> None:
    parts: dict[str, list[float]] = {}

    def timed(name: str, work: Callable[[], object]) -> None:
        parts.setdefault(name, []).append(measured(work))

    Session().show(long_graph(60), "", None, TEXTURES.get)
    for _ in range(ROUNDS // 4):
        graph, session = long_graph(60), Session()
        session.show(graph, "", None, TEXTURES.get)
        for edit in edits(graph):
            after = edit(graph)
            values = after.uniform_values()
            timed("apply", lambda e=edit, g=graph: e(g))
            timed("lower", lambda g=after: lower(g))
            lowered = lower(after)
            timed("emit", lambda low=lowered: drawing(low))
            timed("problems", lambda low=lowered: find_problems(low, {}))
            timed("swatches", lambda low=lowered, v=values, s=session: s.swatch_pass.update(low, v, {}))
            timed("document as JSON", lambda g=after: json.dumps(graph_to_json(g)))
            graph = after
        fresh, whole = long_graph(60), Session()
        whole.show(fresh, "", None, TEXTURES.get)
        for edit in edits(fresh):
            fresh = edit(fresh)
            timed("whole edit", lambda g=fresh, s=whole: s.show(g, "", None, TEXTURES.get))
        timed("handwritten NumPy", handwritten)
    medians = {name: statistics.median(times) for name, times in parts.items()}
    for name, median in medians.items():
        print(f"{name:20} {median:8.2f} ms")
    print(f"whole edit / handwritten NumPy of its pixels: {medians['whole edit'] / medians['handwritten NumPy']:.2f}")
    print(f"budget {BUDGET:.0f} ms: {'kept' if medians['whole edit'] < BUDGET else 'MISSED'}")


if __name__ == "__main__":
    main()
