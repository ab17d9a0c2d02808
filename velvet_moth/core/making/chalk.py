"""Marks as a hand draws them with chalk: strokes with ragged edges, broken by the grain beneath."""

from itertools import pairwise
from typing import Annotated as A

import numpy as np

from velvet_moth.core.catalogue.settings import choice, colour, number
from velvet_moth.core.language.texture import Floats
from velvet_moth.core.making.layer import Canvas, Layer, smooth
from velvet_moth.core.making.noise import layered
from velvet_moth.core.making.step import SEED, step

Points = list[tuple[float, float]]


def _arc(x: float, y: float, radius: float, start: float, end: float, count: int = 28) -> Points:
    """Points on a circle from one angle to another, in turns counter-clockwise from the right."""
    turns = np.linspace(start, end, count) * 2 * np.pi
    return [(x + radius * float(np.cos(t)), y + radius * float(np.sin(t))) for t in turns]


def _wave() -> Points:
    return [(x, 0.5 + 0.16 * float(np.sin(x * 4 * np.pi))) for x in np.linspace(0.12, 0.88, 40)]


def _spiral() -> Points:
    turns = np.linspace(0, 2.6, 80)
    radii = 0.04 + 0.13 * turns
    return [
        (0.5 + float(r * np.cos(t * 2 * np.pi)), 0.5 + float(r * np.sin(t * 2 * np.pi)))
        for r, t in zip(radii, turns, strict=True)
    ]


# The strokes of each mark as lines of points, 0..1 from the left and from the bottom.
MARKS: dict[str, list[Points]] = {
    "tally": [[(x, 0.2), (x + 0.02, 0.8)] for x in (0.24, 0.39, 0.54, 0.69)] + [[(0.14, 0.32), (0.86, 0.68)]],
    "arrow": [[(0.14, 0.5), (0.84, 0.5)], [(0.6, 0.74), (0.85, 0.5), (0.6, 0.26)]],
    "ring": [_arc(0.5, 0.5, 0.32, 0.2, 1.24)],
    "cross": [[(0.22, 0.2), (0.78, 0.8)], [(0.21, 0.79), (0.8, 0.22)]],
    "wave": [_wave()],
    "eye": [_arc(0.5, 0.28, 0.42, 0.09, 0.41), _arc(0.5, 0.72, 0.42, 0.59, 0.91), _arc(0.5, 0.5, 0.09, 0, 1)],
    "spiral": [_spiral()],
    "level": [[(0.14, 0.36), (0.86, 0.36)], [(0.26, 0.72), (0.5, 0.4), (0.74, 0.72), (0.26, 0.72)]],
    "house": [[(0.24, 0.2), (0.24, 0.56), (0.5, 0.82), (0.76, 0.56), (0.76, 0.2), (0.24, 0.2)]],
    "heron": [
        [(0.52, 0.14), (0.5, 0.4)],
        [(0.3, 0.42), (0.56, 0.4), (0.66, 0.52), (0.58, 0.66), (0.64, 0.8), (0.86, 0.74)],
        [(0.3, 0.42), (0.44, 0.56), (0.66, 0.52)],
    ],
}


def _span(pixels: int, a: float, b: float, margin: float) -> slice:
    """The pixels along a side from one place to another, and a margin more."""
    return slice(max(int((min(a, b) - margin) * pixels), 0), max(int((max(a, b) + margin) * pixels) + 1, 0))


def _erode(away: Floats, u: Floats, v: Floats, points: Points, reach: float) -> None:
    """Lets ``away`` be how far each place is from a line of points, where that is less and within ``reach``."""
    rows, columns = away.shape
    for (ax, ay), (bx, by) in pairwise(points):
        window = _span(rows, ay, by, reach), _span(columns, ax, bx, reach)
        x, y, dx, dy = u[window] - ax, v[window] - ay, bx - ax, by - ay
        along = np.clip((x * dx + y * dy) / max(dx * dx + dy * dy, 1e-9), 0, 1)
        away[window] = np.minimum(away[window], np.hypot(x - along * dx, y - along * dy))


@step("Chalk mark", "Shapes")
def chalk_mark(
    canvas: Canvas,
    mark: A[str, choice(*MARKS)] = "tally",
    width: A[float, number(0.01, 0.2, "of a stroke")] = 0.055,
    ragged: A[float, number(0, 1, "how much its edge wanders")] = 0.5,
    worn: A[float, number(0, 1, "how much the grain beneath breaks it")] = 0.4,
    tint: A[tuple[float, float, float], colour()] = (0.82, 0.80, 0.72),
    seed: A[int, SEED] = 1,
) -> Layer:
    """One mark drawn with chalk: its colour, and alpha where the chalk stuck."""
    u, v = canvas.uv()
    wander = layered(canvas, 5, 3, 0.5, seed)
    fine = layered(canvas, 48, 2, 0.6, seed + 1)
    away = np.full(canvas.shape, 9, dtype=np.float32)
    for points in MARKS[mark]:
        _erode(away, u + wander * 0.03, v + wander * 0.02, points, width + 0.05)
    edge = width / 2 * (1 + fine * ragged * 0.7) - away
    soft = max(0.004, 1.5 / canvas.columns)
    stuck = 1 - worn * smooth(-0.1, 0.45, fine + wander * 0.5)
    alpha = np.clip(smooth(-soft, soft, edge) * stuck, 0, 1)
    shade = np.array(tint, dtype=np.float32).reshape(3, 1, 1) * (1 + 0.12 * fine)
    return Layer(np.concatenate((np.clip(shade, 0, 1), alpha[None])).astype(np.float32), "colour")
