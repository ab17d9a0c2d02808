"""The surface of a block model: faces that can be seen, equal ones merged where nothing at their corners differs."""

from collections.abc import Collection
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.blocks.cells import (
    CHUNK,
    CHUNKS,
    EMPTY,
    MOST_ENTRIES,
    Blocks,
    Box,
    Cells,
    ChunkKey,
    changed_chunks,
)
from velvet_moth.core.blocks.model import ORIGIN
from velvet_moth.core.forms.mesh import Mesh, white

_Whole = NDArray[np.int64]
# Farther than any model reaches: no border inside of it.
WHOLE = 2 * CHUNK * CHUNKS


@dataclass(frozen=True)
class _Side:
    """A side of a block: the axes that point out of it, to the right on it, and up on it, each with its sign."""

    out: tuple[int, int]
    right: tuple[int, int]
    up: tuple[int, int]


_X, _Y, _Z = 0, 1, 2
# Seen from outside, up on a wall is up in the world; right is as it is to somebody who stands before it.
SIDES = (
    _Side((_Z, 1), (_X, 1), (_Y, 1)),
    _Side((_X, 1), (_Z, -1), (_Y, 1)),
    _Side((_Z, -1), (_X, -1), (_Y, 1)),
    _Side((_X, -1), (_Z, 1), (_Y, 1)),
    _Side((_Y, 1), (_X, 1), (_Z, -1)),
    _Side((_Y, -1), (_X, 1), (_Z, 1)),
)


@dataclass(frozen=True, eq=False)
class Faces:
    """Rectangles of block faces, one row of ``at`` (n, 3) each: which layer, and where along up and right they begin, in cells.

    ``wide`` and ``high`` count cells, ``side`` into ``SIDES``. Layers, up and right run along the axes of the side, with
    their signs.
    """

    at: _Whole
    wide: _Whole
    high: _Whole
    entry: _Whole
    side: _Whole

    def __len__(self) -> int:
        return len(self.entry)


def faces_in(blocks: Blocks, box: Box, see_through: Collection[int] = (), within: Box | None = None) -> Faces:
    """All faces of the cells of a box that can be seen, one by one.

    One is hidden by a neighbour, but not by one of another entry that is see-through. What is outside of ``within`` is taken
    as empty.
    """
    low, high = np.array(box[0]), np.array(box[1])
    cells = blocks.dense((_cell(low - 1), _cell(high + 1)))
    if within is not None:
        _clear_outside(cells, low - 1, within)
    inner = np.ascontiguousarray(cells[1:-1, 1:-1, 1:-1])
    parts = [_of_side(cells, inner, number, see_through, low) for number in range(len(SIDES))]
    return _joined(parts)


def _cell(place: _Whole) -> tuple[int, int, int]:
    return int(place[0]), int(place[1]), int(place[2])


def _clear_outside(cells: Cells, low: _Whole, within: Box) -> None:
    for axis in range(3):
        place = np.arange(cells.shape[axis]) + low[axis]
        outside = (place < within[0][axis]) | (place >= within[1][axis])
        np.moveaxis(cells, axis, 0)[outside] = EMPTY


def _of_side(cells: Cells, inner: Cells, number: int, see_through: Collection[int], low: _Whole) -> Faces:
    """The faces of one side of ``inner`` cells; ``cells`` reach one farther each way."""
    side = SIDES[number]
    axis, sign = side.out
    shift = [slice(1, -1)] * 3
    shift[axis] = slice(2, None) if sign > 0 else slice(0, -2)
    beyond = cells[tuple(shift)]
    is_open = beyond == EMPTY
    if see_through:
        clear = np.zeros(MOST_ENTRIES + 1, dtype=bool)
        clear[list(see_through)] = True
        is_open |= clear[beyond] & (inner != beyond)
    found = np.flatnonzero((inner != EMPTY) & is_open)
    places = np.stack(np.unravel_index(found, inner.shape), axis=1) + low
    # Along an axis that runs backwards the cell from 3 to 4 begins at -4.
    at = [places[:, a] if s > 0 else -1 - places[:, a] for a, s in (side.out, side.up, side.right)]
    one = np.ones(len(found), dtype=np.int64)
    entry = inner.ravel()[found].astype(np.int64)
    return Faces(np.stack(at, axis=1), one, one, entry, np.full(len(found), number, dtype=np.int64))


_ARRAYS = tuple(field.name for field in fields(Faces))
NO_FACES = Faces(np.zeros((0, 3), dtype=np.int64), *[np.zeros(0, dtype=np.int64)] * 4)


def _joined(parts: list[Faces]) -> Faces:
    return Faces(*(np.concatenate([getattr(part, name) for part in parts]) for name in _ARRAYS))


def _taken(faces: Faces, rows: _Whole) -> Faces:
    return Faces(*(getattr(faces, name)[rows] for name in _ARRAYS))


def merged(faces: Faces, within: int = WHOLE) -> Faces:
    """Neighbouring faces of one entry as larger rectangles: rows first, then equal rows above each other.

    None crosses a border between cubes of ``within`` cells a side.
    """
    layer, up, right = faces.at.T
    order = np.lexsort((right, up, layer, faces.side))
    side, layer, up, right, entry = (v[order] for v in (faces.side, layer, up, right, faces.entry))
    starts = _starts((side, layer, up, entry), right, within)
    wide = np.diff(np.append(starts, len(order)))
    side, layer, up, right, entry = (v[starts] for v in (side, layer, up, right, entry))
    order = np.lexsort((up, entry, wide, right, layer, side))
    side, layer, up, right, entry, wide = (v[order] for v in (side, layer, up, right, entry, wide))
    starts = _starts((side, layer, right, wide, entry), up, within)
    high = np.diff(np.append(starts, len(order)))
    at = np.stack((layer[starts], up[starts], right[starts]), axis=1)
    return Faces(at, wide[starts], high, entry[starts], side[starts])


def _starts(same: tuple[_Whole, ...], along: _Whole, within: int) -> _Whole:
    """Where runs begin: in each of them ``same`` do not change, and ``along`` counts by one and passes no multiple of ``within``."""
    if not len(along):
        return np.zeros(0, dtype=np.int64)
    # Borders are at the same numbers along an axis that runs backwards, where -16 is the cell from 15 to 16.
    goes_on = (np.diff(along) == 1) & (along[1:] % within != 0)
    for values in same:
        goes_on &= np.diff(values) == 0
    return np.flatnonzero(np.append(True, ~goes_on))


def mesh_of(faces: Faces, size: float) -> Mesh:
    """Faces as triangles, in metres about the origin (``ORIGIN``).

    First coordinates count cells along right and up, so that each block has the whole of a tile; the second are the entry and
    the side of a block in metres, the same all over a face.
    """
    axes = np.array([[side.out, side.up, side.right] for side in SIDES])[faces.side]
    rows = np.arange(len(faces))
    # From the lower left corner, anticlockwise seen from outside.
    wide, high = (np.stack(v, axis=1) for v in zip(*[_corner(faces, i) for i in range(4)], strict=True))
    layer = faces.at[:, 0] + 1
    places = np.zeros((len(faces), 4, 3))
    for at, values in ((0, np.repeat(layer[:, None], 4, axis=1)), (1, high), (2, wide)):
        axis, sign = axes[:, at, 0], axes[:, at, 1]
        places[rows, :, axis] = sign[:, None] * values
    normals, tangents = (_directions(axes[:, at]) for at in (0, 2))
    count = 4 * len(faces)
    first = 4 * np.arange(len(faces), dtype=np.uint32)[:, None]
    second = np.stack((faces.entry, np.full(len(faces), size)), axis=1)
    return Mesh(
        ((places - np.array(ORIGIN)) * size).reshape(-1, 3).astype(np.float32),
        np.repeat(normals, 4, axis=0),
        np.repeat(np.concatenate((tangents, np.ones((len(faces), 1), np.float32)), axis=1), 4, axis=0),
        np.stack((wide, high), axis=-1).reshape(-1, 2).astype(np.float32),
        white(count),
        (first + np.array((0, 1, 2, 0, 2, 3), dtype=np.uint32)).reshape(-1, 3),
        second=np.repeat(second, 4, axis=0).astype(np.float32),
    )


def _corner(faces: Faces, number: int) -> tuple[_Whole, _Whole]:
    _, up, right = faces.at.T
    return right + faces.wide * (number in (1, 2)), up + faces.high * (number in (2, 3))


def _directions(axes: _Whole) -> NDArray[np.float32]:
    found = np.zeros((len(axes), 3), dtype=np.float32)
    found[np.arange(len(axes)), axes[:, 0]] = axes[:, 1]
    return found


def chunk_box(key: ChunkKey) -> Box:
    """The cells of a chunk."""
    low = np.array(key) * CHUNK
    return _cell(low), _cell(low + CHUNK)


@dataclass(frozen=True, eq=False)
class ChunkedFaces:
    """Merged faces in the order of their chunks, which are ``keys``; how many there are of each in ``counts``."""

    faces: Faces
    keys: list[ChunkKey]
    counts: list[int]


def faces_by_chunk(
    blocks: Blocks, keys: Collection[ChunkKey] | None, see_through: Collection[int] = (), within: Box | None = None
) -> ChunkedFaces:
    """The faces of some chunks, or of all, merged inside of each; chunks without any are left out. Else as ``faces_in``."""
    boxes = [chunk_box(key) for key in keys] if keys is not None else [blocks.box] if blocks.box else []
    found = [faces_in(blocks, box, see_through, within) for box in boxes]
    faces = merged(_joined(found), CHUNK) if found else NO_FACES
    chunk = _cells_of(faces) // CHUNK
    number = (chunk[:, 0] * CHUNKS + chunk[:, 1]) * CHUNKS + chunk[:, 2]
    order = np.argsort(number, kind="stable")
    starts = np.flatnonzero(np.diff(number[order], prepend=-1))
    places = [_cell(chunk[order[start]]) for start in starts]
    return ChunkedFaces(_taken(faces, order), places, np.diff(np.append(starts, len(order))).tolist())


def _cells_of(faces: Faces) -> _Whole:
    """The cell (n, 3) that each face begins at."""
    found = np.zeros((len(faces), 3), dtype=np.int64)
    rows = np.arange(len(faces))
    for at, axes in enumerate(zip(*((s.out, s.up, s.right) for s in SIDES), strict=True)):
        axis, sign = np.array(axes)[faces.side].T
        found[rows, axis] = np.where(sign > 0, faces.at[:, at], -1 - faces.at[:, at])
    return found


def touched_chunks(before: Blocks, after: Blocks) -> list[ChunkKey]:
    """The chunks whose surface differs between two states: those that were changed, and neighbours of what was changed at a side."""
    found: dict[ChunkKey, None] = {}
    for key in changed_chunks(before, after):
        found[key] = None
        apart = before.chunk(key) != after.chunk(key)
        for axis in range(3):
            for side, step in ((0, -1), (-1, 1)):
                beside = [*key]
                beside[axis] += step
                if 0 <= beside[axis] < CHUNKS and np.take(apart, side, axis=axis).any():
                    found[beside[0], beside[1], beside[2]] = None
    return list(found)


def surface_of(blocks: Blocks, size: float, see_through: Collection[int] = (), is_merged: bool = True) -> Mesh | None:
    """The surface of a whole model; None where it is empty."""
    if blocks.box is None:
        return None
    faces = faces_in(blocks, blocks.box, see_through)
    return mesh_of(merged(faces) if is_merged else faces, size)
