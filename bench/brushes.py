"""A brush on meshes of 100,000 and a million vertices: from new points to what they change, its parts, and opening many strokes.

Run: .venv/bin/python -m bench.brushes
"""

import statistics
import time
from collections.abc import Callable
from typing import TypeVar

import numpy as np

from bench.bakes import hills
from velvet_moth.core.baking.brush import drawing_on
from velvet_moth.core.baking.painting.laying import laid
from velvet_moth.core.baking.painting.surface import AtVertices
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.baking.stack import EMPTY, MeshStack
from velvet_moth.core.baking.step import BakingContext
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.stacks.operations import AddStep, AddStroke
from velvet_moth.core.stacks.stroke import WIDTH, Stroke, text_of

Made = TypeVar("Made")
SIDES = (317, 1000)
BUDGETS = (25.0, 60.0)
# Points that come together at 60 frames a second and full speed of the pointer.
TOGETHER = 4
STROKES, POINTS = 2000, 30
RADIUS = 0.02


def line(random: np.random.Generator, count: int) -> np.ndarray:
    """Points (count, 9) of a stroke over the hills, a quarter of the radius apart."""
    at, turn = random.random(2), random.random() * 2 * np.pi
    way = np.array((np.cos(turn), np.sin(turn)))
    places = np.clip(at + np.arange(count)[:, None] * (RADIUS / 4) * way, 0, 1)
    rows = np.zeros((count, WIDTH), dtype=np.float32)
    rows[:, 0], rows[:, 2] = places.T
    rows[:, 1] = 0.08 * np.sin(40 * places[:, 0]) * np.cos(37 * (1 - places[:, 1]))
    rows[:, 4], rows[:, 6], rows[:, 7:] = 1, RADIUS, 1
    return rows


def timed(work: Callable[[], Made]) -> tuple[float, Made]:
    """Milliseconds that something takes, and what it gives."""
    at = time.perf_counter()
    made = work()
    return (time.perf_counter() - at) * 1000, made


def raw(mesh: Mesh, place: np.ndarray) -> np.ndarray:
    """The same circle by hand: every vertex looked at, no side, no pressure."""
    off = mesh.positions - place
    cover = np.clip(1 - np.sqrt(np.einsum("ij,ij->i", off, off)) / RADIUS, 0, 1)
    return np.asarray(cover * cover * (3 - 2 * cover))


def main() -> None:
    stack = AddStep("paint", id="wet").apply(EMPTY)[0]
    assert isinstance(stack, MeshStack)
    for side, budget in zip(SIDES, BUDGETS, strict=True):
        mesh, random = hills(side), np.random.default_rng(2)
        print(f"{len(mesh.positions):,} vertices")
        first, drawn = timed(lambda m=mesh: drawing_on(stack, "wet", m, m, BakingContext()))  # type: ignore[misc] # a default
        _ = drawn.drawing.surface.tree
        again, drawn = timed(lambda m=mesh: drawing_on(stack, "wet", m, m, BakingContext()))  # type: ignore[misc] # a default
        print(f"  the first stroke begins after {first:.0f} ms, the next ones after {again:.1f} ms")
        times = []
        for _ in range(60):
            brush = Stroke(text_of(line(random, TOGETHER)), ("red",))
            drawn.drawing.rows = drawn.drawing.rows[:0]
            times.append(timed(lambda d=drawn, b=brush: d.go_on(b))[0])  # type: ignore[misc] # a default
        hand = statistics.median(timed(lambda m=mesh: raw(m, m.positions[7]))[0] for _ in range(9))  # type: ignore[misc] # a default
        middle = statistics.median(times)
        print(
            f"  {TOGETHER} new points: {middle:.2f} ms (budget {budget:.0f} ms), a circle over all vertices by hand in NumPy "
            f"{hand:.2f} ms: {hand / middle:.1f}x as fast"
        )
    mesh, random = hills(SIDES[0]), np.random.default_rng(3)
    surface = AtVertices(mesh, Skin.of(mesh))
    nothing = np.zeros((len(mesh.positions), 4), dtype=np.float32)
    strokes = tuple(Stroke(text_of(line(random, POINTS)), ("red",)) for _ in range(STROKES))
    took, _ = timed(lambda: laid(strokes, nothing, nothing, surface))
    print(f"{STROKES} strokes of {POINTS} points on {len(mesh.positions):,} vertices laid in {took / 1000:.1f} s")
    full = stack
    for stroke in strokes[:50]:
        grown = AddStroke("wet", stroke).apply(full)[0]
        assert isinstance(grown, MeshStack)
        full = grown
    drawing_on(full, "wet", mesh, mesh, BakingContext())
    grown = AddStroke("wet", strokes[60]).apply(full)[0]
    assert isinstance(grown, MeshStack)
    took, _ = timed(lambda: drawing_on(grown, "wet", mesh, mesh, BakingContext()))
    print(f"one stroke more on what was laid before: {took:.0f} ms")


if __name__ == "__main__":
    main()
