"""Laying strokes: how much of each vertex a stroke covers, and what its brush makes of the numbers there.

What a stroke covers follows from where a vertex is and faces alone, so the same place gets the same whatever mesh it is on.
"""

import os
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.painting.surface import Indices, Numbers, Surface
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.stacks.stroke import PAINTED, WIDTH, Stroke

Painted = NDArray[np.float32]

# A surface that faces away from the brush gets nothing; from here to there (cosines) it fades in.
_FACES_FROM, _FACES_TO = -0.1, 0.3
_AXES = ("x", "y", "z")
# So many strokes are looked at together.
_TOGETHER = 32
# So many pairs of a piece and a vertex are looked at together; a line may go over a whole mesh so many times.
_AT_ONCE, _MOST_OFTEN = 1 << 21, 100
_THREADS = os.cpu_count() or 1
# The softening brush blurs by a Gaussian of this share of its first radius, cut off at so many deviations.
_BLUR, _CUT_OFF = 1 / 3, 2.5


def eased(share: Numbers) -> Numbers:
    """0 to 1 with no corner at either end: 3 t^2 - 2 t^3."""
    t = np.clip(share, 0.0, 1.0)
    return t * t * (3.0 - 2.0 * t)


def segments(rows: NDArray[np.float32], mirror: str = "", begins: bool = True) -> tuple[Numbers, Numbers]:
    """The straight pieces of a line of points (n, 9): where each begins and where it ends, (k, 9).

    Where the line ``begins`` here, its first point is a piece of no length.
    """
    line: Numbers = rows.astype(np.float64)
    starts, ends = line[:-1], line[1:]
    if begins:
        starts, ends = np.concatenate((line[:1], starts)), np.concatenate((line[:1], ends))
    if mirror not in _AXES:
        return starts, ends
    turned = np.ones(WIDTH)
    axis = _AXES.index(mirror)
    turned[[axis, axis + 3]] = -1.0
    return np.concatenate((starts, starts * turned)), np.concatenate((ends, ends * turned))


def strokes_over(strokes: Sequence[Stroke], place: Numbers) -> list[int]:
    """Which strokes go over a place (3,), by their numbers, the last one first; those that fill go over everything."""
    found = []
    for number, stroke in enumerate(strokes):
        starts, ends = segments(stroke.rows, stroke.mirror)
        along = ends - starts
        length = np.einsum("ij,ij->i", along[:, :3], along[:, :3])
        share = np.einsum("ij,ij->i", place - starts[:, :3], along[:, :3]) / np.maximum(length, 1e-18)
        here = starts + along * np.clip(share, 0.0, 1.0)[:, None]
        if stroke.fill or (np.linalg.norm(here[:, :3] - place, axis=1) <= here[:, 6]).any():
            found.append(number)
    return found[::-1]


@dataclass(frozen=True, eq=False)
class Line:
    """A stretch of a stroke: straight pieces from ``starts`` to ``ends``, (k, 9) each, drawn by the brush of ``stroke``."""

    stroke: Stroke
    starts: Numbers
    ends: Numbers


# The vertices that something covers, and how much of each, 0..1: (k,) both.
Cover = tuple[Indices, Numbers]


def covered(lines: Sequence[Line], surface: Surface) -> list[Cover]:
    """What each of some lines covers: of all its pieces the most at each vertex.

    Many at once take hardly longer than one. OperationRefused where a line goes over the same vertices too often.
    """
    starts, ends = (np.concatenate([getattr(line, end) for line in lines]) for end in ("starts", "ends"))
    line_of = np.repeat(np.arange(len(lines)), [len(line.starts) for line in lines])
    half = np.linalg.norm(ends[:, :3] - starts[:, :3], axis=1) / 2
    circles = (starts[:, :3] + ends[:, :3]) / 2, half + np.maximum(starts[:, 6], ends[:, 6])
    counts = surface.count_within(*circles)
    if np.bincount(line_of, counts).max() > _MOST_OFTEN * len(surface.positions) + _AT_ONCE:
        raise OperationRefused(
            "A stroke goes over the same surface too often for its radius.",
            "stroke",
            "Remove it, and draw it with fewer points.",
        )
    found: list[tuple[Indices, Indices, Numbers]] = []
    for some in np.split(np.arange(len(counts)), np.flatnonzero(np.diff(np.cumsum(counts) // _AT_ONCE)) + 1):
        piece, vertex = surface.within(circles[0][some], circles[1][some])
        found.append(_of_pieces(lines, line_of, starts, ends, some[piece], vertex, surface))
    line, vertex, cover = (np.concatenate(parts) for parts in zip(*found, strict=True))
    return _most(line, vertex, cover, len(lines), len(surface.positions))


def _of_pieces(
    lines: Sequence[Line],
    line_of: Indices,
    starts: Numbers,
    ends: Numbers,
    piece: Indices,
    vertex: Indices,
    surface: Surface,
) -> tuple[Indices, Indices, Numbers]:
    """For pairs of a piece and a vertex the line, the vertex and how much is covered; those that are not covered are left out."""
    along = ends[piece] - starts[piece]
    length = np.einsum("ij,ij->i", along[:, :3], along[:, :3])
    off = surface.positions[vertex] - starts[piece, :3]
    share = np.clip(np.einsum("ij,ij->i", off, along[:, :3]) / np.maximum(length, 1e-18), 0.0, 1.0)
    off -= along[:, :3] * share[:, None]
    brush = starts[piece, 6:] + along[:, 6:] * share[:, None]
    distance = np.sqrt(np.einsum("ij,ij->i", off, off)) / brush[:, 0]
    near = np.flatnonzero(distance <= 1.0)
    line, vertex, share, distance = line_of[piece[near]], vertex[near], share[near], distance[near]
    softness = np.array([max(one.stroke.softness, 1e-6) for one in lines])[line]
    cover = (1.0 - eased((distance - (1.0 - softness)) / softness)) * brush[near, 1] * brush[near, 2]
    is_one_sided = np.array([one.stroke.side == "this side" for one in lines])[line]
    normal = starts[piece[near], 3:6] + along[near, 3:6] * share[:, None]
    facing = np.einsum("ij,ij->i", surface.normals[vertex], normal)
    cover *= np.where(is_one_sided, eased((facing - _FACES_FROM) / (_FACES_TO - _FACES_FROM)), 1.0)
    kept = cover > 0
    return line[kept], vertex[kept], cover[kept]


def _most(line: Indices, vertex: Indices, cover: Numbers, lines: int, vertices: int) -> list[Cover]:
    """For each line its vertices, each once with the most that covers it."""
    key = line * vertices + vertex
    order = np.argsort(key, kind="stable")
    key = key[order]
    first = np.flatnonzero(np.diff(key, prepend=-1))
    most = np.maximum.reduceat(cover[order], first) if len(first) else np.zeros(0)
    ends = np.searchsorted(key[first], np.arange(1, lines) * vertices)
    return list(zip(np.split(key[first] % vertices, ends), np.split(most, ends), strict=True))


def covers_of(strokes: Sequence[Stroke], surface: Surface) -> Iterator[Cover]:
    """What each of some strokes covers."""

    def of(some: Sequence[Stroke]) -> list[Cover]:
        drawn = [Line(one, *segments(one.rows, one.mirror)) for one in some if not one.fill]
        found = iter(covered(drawn, surface) if drawn else ())
        return [
            filled(stroke, surface) if stroke.fill else held(stroke, stroke.rows, next(found), surface)
            for stroke in some
        ]

    parts = [strokes[at : at + _TOGETHER] for at in range(0, len(strokes), _TOGETHER)]
    with ThreadPoolExecutor(_THREADS) as pool:
        for covers in pool.map(of, parts):
            yield from covers


def filled(stroke: Stroke, surface: Surface) -> Cover:
    """What a stroke covers that fills a whole part, island or mesh."""
    first = stroke.rows[0].astype(np.float64)
    vertex = np.flatnonzero(surface.extent(stroke.fill, first[:3]))
    return vertex, np.full(len(vertex), first[7] * first[8])


def held(stroke: Stroke, rows: NDArray[np.float32], cover: Cover, surface: Surface) -> Cover:
    """What is left of a cover where a stroke is held to the part or island where its line (n, 9) begins."""
    if not stroke.held:
        return cover
    inside = surface.extent(stroke.held, rows[0, :3].astype(np.float64))[cover[0]]
    return cover[0][inside], cover[1][inside]


def _mixed(before: Numbers, other: Numbers | float, cover: Numbers) -> Numbers:
    return before + (other - before) * cover


class Softening:
    """The mean of the numbers around vertices, over the surface that belongs to them, as they are before a stroke."""

    def __init__(self, before: Painted, stroke: Stroke, surface: Surface) -> None:
        self.before = before[:, [PAINTED.index(name) for name in stroke.touches]]
        self.spread = float(stroke.rows[0, 6]) * _BLUR
        self.surface = surface

    def at(self, vertex: Indices) -> Numbers:
        """At some vertices, (k, layers)."""
        places, reach = self.surface.positions[vertex], np.full(len(vertex), self.spread * _CUT_OFF)
        if int(self.surface.count_within(places, reach).sum()) > _AT_ONCE:
            return self._everywhere[vertex]
        owner, near = self.surface.within(places, reach)
        off = self.surface.positions[near] - places[owner]
        weight = np.exp(np.einsum("ij,ij->i", off, off) / (-2.0 * self.spread * self.spread)) * self.surface.areas[near]
        sums = [np.bincount(owner, weight * layer[near], len(vertex)) for layer in self.before.T]
        return np.stack(sums, axis=1) / np.bincount(owner, weight, len(vertex))[:, None]

    @cached_property
    def _everywhere(self) -> Numbers:
        """With a wide brush there are too many neighbours to look at: the same by diffusion over the surface, (n, layers)."""
        return np.stack([self.surface.blurred(layer, self.spread) for layer in self.before.T], axis=1)


# What a brush makes of the numbers at vertices (k, layers): of those before the stroke, those under all strokes, and how
# much is covered (k, 1).
Brush = Callable[[Numbers, Numbers, Numbers, Stroke, Callable[[], Numbers]], Numbers]
_BRUSHES: Mapping[str, Brush] = {
    "set": lambda before, under, cover, stroke, mean: _mixed(before, stroke.value, cover),
    "add": lambda before, under, cover, stroke, mean: np.minimum(
        before + stroke.value * cover, np.maximum(before, 1.0)
    ),
    "take away": lambda before, under, cover, stroke, mean: np.maximum(
        before - stroke.value * cover, np.minimum(before, 0.0)
    ),
    "soften": lambda before, under, cover, stroke, mean: _mixed(before, mean(), cover),
    "sharpen": lambda before, under, cover, stroke, mean: np.clip(before + (before - mean()) * cover, 0.0, 1.0),
    "erase": lambda before, under, cover, stroke, mean: _mixed(before, under, cover),
    "invert": lambda before, under, cover, stroke, mean: _mixed(before, 1.0 - before, cover),
}


def brushed(
    stroke: Stroke, vertex: Indices, cover: Numbers, before: Painted, under: Painted, softening: Softening
) -> Painted:
    """What the brush of a stroke makes of the painted layers at some vertices, (k, 4); ``before`` and ``under`` are (n, 4)."""
    layers = [PAINTED.index(name) for name in stroke.touches]
    made = before[vertex]
    if len(vertex):
        made[:, layers] = _BRUSHES[stroke.mode](
            made[:, layers].astype(np.float64),
            under[vertex][:, layers].astype(np.float64),
            cover[:, None],
            stroke,
            lambda: softening.at(vertex),
        )
    return made


def over(under: Painted, painted: Painted, opacity: float) -> Painted:
    """What is seen of painted layers over what lies below them, (k, 4) all."""
    return np.asarray(under + (painted - under) * np.float32(opacity), dtype=np.float32)


def laid(strokes: tuple[Stroke, ...], painted: Painted, under: Painted, surface: Surface) -> Painted:
    """The painted layers (n, 4) after more strokes, one after the other; ``under`` is what lies below all strokes."""
    found = painted.copy()
    for stroke, (vertex, cover) in zip(strokes, covers_of(strokes, surface), strict=True):
        found[vertex] = brushed(stroke, vertex, cover, found, under, Softening(found, stroke, surface))
    return found
