"""Textures: import of a large file, and stacks of steps. Run: .venv/bin/python -m bench.textures

Import: checking, decoding and all levels of a 4096x4096 PNG, against the raw library calls for decoding and halving.
Stacks: noise to normal map at 2048x2048 and as a preview, against the same computation written by hand in NumPy.
"""

import time
from collections.abc import Callable
from typing import Any

import cv2
import numpy as np

from bench.evaluate import noise_by_hand
from velvet_moth.core.making.beginnings import noise
from velvet_moth.core.making.recipe import MakingContext, evaluate, recipe_from_json
from velvet_moth.core.pictures.formats import read_picture, write_png
from velvet_moth.core.pictures.levels import levels_of
from velvet_moth.core.pictures.reading import Reading

ROUNDS = 3


def least(work: Callable[[], object]) -> float:
    """Seconds of the quickest of a few rounds, as this machine's speed swings."""
    times = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        work()
        times.append(time.perf_counter() - began)
    return min(times)


def large_file() -> bytes:
    """A PNG such as artists have: a grain in colour, 4096x4096, 8 bits."""
    random = np.random.default_rng(3)
    small = random.integers(0, 256, (512, 512, 4), dtype=np.uint8)
    return write_png(np.asarray(cv2.resize(small, (4096, 4096), interpolation=cv2.INTER_LINEAR)), 3)


def raw_import(data: bytes) -> None:
    """Decoding and halving by the library alone: nothing checked, colours averaged as encoded."""
    level: Any = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
    while max(level.shape[:2]) > 1:
        level = cv2.resize(
            level, (max(level.shape[1] // 2, 1), max(level.shape[0] // 2, 1)), interpolation=cv2.INTER_AREA
        )


def whole_import(data: bytes) -> None:
    picture, _ = read_picture(data, "large.png")
    levels_of(picture, Reading("data"))


def by_hand(size: int) -> None:
    """Five layers of gradient noise and their normal map, straightforwardly."""
    at = ((np.arange(size) + 0.5) / size).astype(np.float32)
    u, v = np.meshgrid(at, at)
    total = np.zeros_like(u)
    for layer in range(5):
        total += noise_by_hand(u * 6 * 2**layer, v * 6 * 2**layer, layer) * np.float32(0.5**layer)
    height = (total - total.min()) / (total.max() - total.min()) * np.float32(0.03 * size)
    right, up = ((np.roll(height, -1, a) - np.roll(height, 1, a)) * np.float32(0.5) for a in (1, 0))
    normal = np.stack((-right, -up, np.ones_like(right)))
    normal / np.linalg.norm(normal, axis=0)


def stack(size: int) -> None:
    recipe = recipe_from_json(noise("Grain", 2048, "fractal_noise", {}, 0.03))
    evaluate(recipe, recipe.preview(size), MakingContext(lambda key, canvas: None))


def verdict(value: float, most: float) -> str:
    return "kept" if value <= most else "MISSED"


def main() -> None:
    data = large_file()
    raw, whole = least(lambda: raw_import(data)), least(lambda: whole_import(data))
    print(f"import of 4096x4096 ({len(data) >> 20} MB): {whole:.2f} s, raw calls {raw:.2f} s")
    print(f"ratio {whole / raw:.2f}, budget 1.5 {verdict(whole / raw, 1.5)}")
    made, hand = least(lambda: stack(2048)), least(lambda: by_hand(2048))
    print(f"noise to normal, 2048x2048: {made:.2f} s, budget 1.5 s {verdict(made, 1.5)}; by hand {hand:.2f} s")
    print(f"ratio {made / hand:.2f}")
    preview = least(lambda: stack(512)) * 1000
    print(f"its preview, 512x512: {preview:.0f} ms, budget 100 ms {verdict(preview, 100)}")


if __name__ == "__main__":
    main()
