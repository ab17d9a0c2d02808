"""Laying strokes: how much of each vertex a stroke covers, and what its brush makes of the numbers there.

What a stroke covers follows from where a vertex is and faces alone, so the same place gets the same whatever mesh it is on.
"""

import os
from collections.abc import Iterator, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.painting.media import NUMBERS, Medium, Touched
from velvet_moth.core.baking.painting.surface import Indices, Numbers, Surface
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.stacks.stroke import WIDTH, Stroke

Painted = NDArray[np.float32]
# The brush that gives the way it goes.
COMB = "comb"

# A surface that faces away from the brush gets nothing; from here to there (cosines) it fades in.
_FACES_FROM, _FACES_TO = -0.1, 0.3
_AXES = ("x", "y", "z")
# So many strokes are looked at together.
_TOGETHER = 32
# So many pieces are looked at first, when nothing is known of how many vertices one meets.
_FIRST = 8
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


@dataclass(frozen=True, eq=False)
class Cover:
    """The vertices that something covers and how much of each, 0..1: (k,) both.

    ``run`` (k, 3) is how far the brush has gone over each, in metres, weighed by how much it covered there: the way it was
    combed. Only strokes that comb have one.
    """

    vertex: Indices
    amount: Numbers
    run: Numbers | None = None

    def taken(self, which: NDArray[np.bool_]) -> "Cover":
        """Some of the vertices."""
        return Cover(self.vertex[which], self.amount[which], None if self.run is None else self.run[which])


class _Pieces:
    """The straight pieces of some lines, number by number: ``begin`` and ``way`` to the end are (9, k)."""

    def __init__(self, lines: Sequence[Line]) -> None:
        self.lines = lines
        starts, ends = (np.concatenate([getattr(line, end) for line in lines]) for end in ("starts", "ends"))
        self.begin, self.way = np.ascontiguousarray(starts.T), np.ascontiguousarray((ends - starts).T)
        self.line_of = np.repeat(np.arange(len(lines)), [len(line.starts) for line in lines])
        length = np.einsum("ik,ik->k", self.way[:3], self.way[:3])
        self.per_length = 1.0 / np.maximum(length, 1e-18)
        self.middles = (starts[:, :3] + ends[:, :3]) / 2
        self.reach = np.sqrt(length) / 2 + np.maximum(starts[:, 6], ends[:, 6])
        self.softness = np.array([max(line.stroke.softness, 1e-6) for line in lines])
        self.is_one_sided = np.array([line.stroke.side == "this side" for line in lines])
        self.combs = any(line.stroke.mode == COMB for line in lines)


def covered(lines: Sequence[Line], surface: Surface) -> list[Cover]:
    """What each of some lines covers: of all its pieces the most at each vertex.

    Many at once take hardly longer than one. OperationRefused where a line goes over the same vertices too often.
    """
    pieces, count = _Pieces(lines), len(surface.positions)
    found: list[tuple[Indices, Indices, Numbers, Numbers]] = []
    met = np.zeros(len(lines), dtype=np.int64)
    # The widest first, a few at once; those after them meet no more vertices each than they do.
    order, at, together = np.argsort(-pieces.reach, kind="stable"), 0, _FIRST
    while at < len(order):
        some = order[at : at + together]
        piece, vertex = surface.within(pieces.middles[some], pieces.reach[some])
        met += np.bincount(pieces.line_of[some[piece]], minlength=len(lines))
        if met.max() > _MOST_OFTEN * count + _AT_ONCE:
            raise OperationRefused(
                "A stroke goes over the same surface too often for its radius.",
                "stroke",
                "Remove it, and draw it with fewer points.",
            )
        found.append(_of_pieces(pieces, some[piece], vertex, surface))
        at += len(some)
        together = max(1, _AT_ONCE * len(some) // max(len(piece), len(some)))
    line, vertex, cover, run = (np.concatenate(parts) for parts in zip(*found, strict=True))
    return _joined(line, vertex, cover, run, lines, count)


def _of_pieces(
    pieces: _Pieces, piece: Indices, vertex: Indices, surface: Surface
) -> tuple[Indices, Indices, Numbers, Numbers]:
    """For pairs of a piece and a vertex the line, the vertex, how much is covered and how far the piece goes; those that

    are not covered are left out. Each coordinate by itself: rows of three take twice as long.
    """
    begin, way = pieces.begin, pieces.way
    along = [way[i][piece] for i in range(3)]
    off = [surface.position_rows[i][vertex] - begin[i][piece] for i in range(3)]
    share = off[0] * along[0] + off[1] * along[1] + off[2] * along[2]
    share *= pieces.per_length[piece]
    np.clip(share, 0.0, 1.0, out=share)
    for i in range(3):
        off[i] -= along[i] * share
    squared = off[0] * off[0] + off[1] * off[1] + off[2] * off[2]
    radius = begin[6][piece] + way[6][piece] * share
    near = np.flatnonzero(squared <= radius * radius)
    piece, vertex, share = piece[near], vertex[near], share[near]
    distance = np.sqrt(squared[near]) / radius[near]
    line = pieces.line_of[piece]
    softness = pieces.softness[line]
    strength, pressure = (begin[i][piece] + way[i][piece] * share for i in (7, 8))
    cover = (1.0 - eased((distance - (1.0 - softness)) / softness)) * strength * pressure
    facing = np.zeros(len(near))
    for i in range(3):
        facing += surface.normal_rows[i][vertex] * (begin[3 + i][piece] + way[3 + i][piece] * share)
    fades = eased((facing - _FACES_FROM) / (_FACES_TO - _FACES_FROM))
    cover *= np.where(pieces.is_one_sided[line], fades, 1.0)
    kept = np.flatnonzero(cover > 0)
    run = np.empty((len(kept), 0))
    if pieces.combs:
        run = np.stack([along[i][near[kept]] for i in range(3)], axis=1) * cover[kept, None]
    return line[kept], vertex[kept], cover[kept], run


def _joined(
    line: Indices, vertex: Indices, cover: Numbers, run: Numbers, lines: Sequence[Line], vertices: int
) -> list[Cover]:
    """For each line its vertices, each once with the most that covers it, and all of the way that goes over it."""
    key = line * vertices + vertex
    order = np.argsort(key, kind="stable")
    key = key[order]
    first = np.flatnonzero(np.diff(key, prepend=-1))
    most = np.maximum.reduceat(cover[order], first) if len(first) else np.zeros(0)
    runs = np.add.reduceat(run[order], first) if len(first) and run.shape[1] else np.zeros((len(first), 3))
    ends = np.searchsorted(key[first], np.arange(1, len(lines)) * vertices)
    parts = zip(lines, *(np.split(part, ends) for part in (key[first] % vertices, most, runs)), strict=True)
    return [Cover(at, most, run if one.stroke.mode == COMB else None) for one, at, most, run in parts]


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
    first, last = stroke.rows[[0, -1]].astype(np.float64)
    vertex = np.flatnonzero(surface.extent(stroke.fill, first[:3]))
    # A whole part is combed from the first point to the last.
    run = np.broadcast_to(last[:3] - first[:3], (len(vertex), 3)) if stroke.mode == COMB else None
    return Cover(vertex, np.full(len(vertex), first[7] * first[8]), run)


def held(stroke: Stroke, rows: NDArray[np.float32], cover: Cover, surface: Surface) -> Cover:
    """What is left of a cover where a stroke is held to the part or island where its line (n, 9) begins."""
    if not stroke.held:
        return cover
    return cover.taken(surface.extent(stroke.held, rows[0, :3].astype(np.float64))[cover.vertex])


class Softening:
    """The mean of the numbers around vertices, over the surface that belongs to them, as they are before a stroke."""

    def __init__(self, before: Painted, stroke: Stroke, surface: Surface, medium: Medium) -> None:
        self.before = before[:, medium.columns(stroke)]
        self.spread = float(stroke.rows[0, 6]) * _BLUR
        self.surface = surface

    def at(self, vertex: Indices) -> Numbers:
        """At some vertices, (k, columns)."""
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
        """With a wide brush there are too many neighbours to look at: the same by diffusion over the surface, (n, columns)."""
        return np.stack([self.surface.blurred(layer, self.spread) for layer in self.before.T], axis=1)


def brushed(
    stroke: Stroke, cover: Cover, before: Painted, under: Painted, softening: "Softening", medium: Medium
) -> Painted:
    """What the brush of a stroke makes of the painted numbers where it covers, (k, 4); ``before`` and ``under`` are (n, 4)."""
    made = before[cover.vertex]
    if len(cover.vertex):
        columns = medium.columns(stroke)
        touched = Touched(
            stroke,
            made[:, columns].astype(np.float64),
            under[cover.vertex][:, columns].astype(np.float64),
            cover.amount[:, None],
            softening.surface.normals[cover.vertex],
            cover.run,
            lambda: softening.at(cover.vertex),
        )
        made[:, columns] = medium.brushes[stroke.mode](touched)
    return made


def over(under: Painted, painted: Painted, opacity: float) -> Painted:
    """What is seen of painted layers over what lies below them, (k, 4) all."""
    return np.asarray(under + (painted - under) * np.float32(opacity), dtype=np.float32)


def laid(
    strokes: tuple[Stroke, ...], painted: Painted, under: Painted, surface: Surface, medium: Medium = NUMBERS
) -> Painted:
    """The painted numbers (n, 4) after more strokes, one after the other; ``under`` is what lies below all strokes."""
    found = painted.copy()
    for stroke, cover in zip(strokes, covers_of(strokes, surface), strict=True):
        found[cover.vertex] = brushed(stroke, cover, found, under, Softening(found, stroke, surface, medium), medium)
    return found
