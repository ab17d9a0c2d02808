"""The cells of a block model, kept in chunks: sparse, never changed in place, so that every earlier state stays as it was."""

import zlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused, OperationRefused

# A model has at most so many cells along a side; so many along a side of a chunk.
SIDE, CHUNK = 256, 16
CHUNKS = SIDE // CHUNK
# Entries count from 1; an empty cell is 0.
MOST_ENTRIES = 256
EMPTY = 0

Cells = NDArray[np.uint16]
Places = NDArray[np.int64]
# A chunk by its place among the chunks, each 0 to CHUNKS - 1.
ChunkKey = tuple[int, int, int]
Box = tuple[tuple[int, int, int], tuple[int, int, int]]

_NOTHING: Cells = np.zeros((CHUNK, CHUNK, CHUNK), dtype=np.uint16)
_NOTHING.flags.writeable = False


@dataclass(frozen=True, eq=False)
class Chunk:
    """The cells of a chunk that is not empty, (CHUNK, CHUNK, CHUNK) along x, y, z, read only; and what is counted of them."""

    cells: Cells

    @cached_property
    def uses(self) -> NDArray[np.int32]:
        """How many cells have each entry, (MOST_ENTRIES + 1,), the empty ones first."""
        return np.bincount(self.cells.ravel(), minlength=MOST_ENTRIES + 1).astype(np.int32)

    @cached_property
    def ends(self) -> tuple[list[int], list[int]]:
        """The lowest filled cell along each axis, and one past the highest."""
        filled = self.cells > 0
        along = [np.flatnonzero(filled.any(axis=across)) for across in ((1, 2), (0, 2), (0, 1))]
        return [int(one[0]) for one in along], [int(one[-1]) + 1 for one in along]


@dataclass(frozen=True, eq=False)
class Blocks:
    """Which entry each cell has. ``chunks`` holds those that are not empty."""

    chunks: Mapping[ChunkKey, Chunk] = field(default_factory=dict)

    def chunk(self, key: ChunkKey) -> Cells:
        """The cells of a chunk; all empty where it is not kept."""
        found = self.chunks.get(key)
        return _NOTHING if found is None else found.cells

    @cached_property
    def count(self) -> int:
        """How many cells are filled."""
        return sum(self.uses.values())

    @cached_property
    def uses(self) -> Mapping[int, int]:
        """How many blocks there are of each entry that is used."""
        if not self.chunks:
            return {}
        found = np.sum([chunk.uses for chunk in self.chunks.values()], axis=0)
        return {int(entry): int(found[entry]) for entry in np.flatnonzero(found) if entry != EMPTY}

    @cached_property
    def box(self) -> Box | None:
        """The lowest filled cell along each axis, and one past the highest; None where nothing is filled."""
        if not self.chunks:
            return None
        keys = np.array(list(self.chunks))
        # Only chunks at the ends can reach them.
        at_ends = np.flatnonzero(((keys == keys.min(axis=0)) | (keys == keys.max(axis=0))).any(axis=1))
        outer = keys[at_ends]
        ends = np.array([self.chunks[x, y, z].ends for x, y, z in outer.tolist()])
        low, high = (outer * CHUNK + ends[:, 0]).min(axis=0), (outer * CHUNK + ends[:, 1]).max(axis=0)
        return tuple(low.tolist()), tuple(high.tolist())

    def at(self, places: Places) -> Cells:
        """The entries of cells (n, 3); empty for those beyond the model."""
        found = np.zeros(len(places), dtype=np.uint16)
        for key, rows, inside in _by_chunk(places):
            found[rows] = self.chunk(key)[tuple(inside.T)]
        return found

    def dense(self, box: Box) -> Cells:
        """The entries of a box, (x, y, z) from its lowest cell; it may reach beyond the model, which is empty there."""
        low, high = np.array(box[0]), np.array(box[1])
        found = np.zeros(tuple(np.maximum(high - low, 0)), dtype=np.uint16)
        first, last = np.maximum(low // CHUNK, 0), np.minimum((high - 1) // CHUNK, CHUNKS - 1)
        for key in np.ndindex(*np.maximum(last - first + 1, 0)):
            at = (int(first[0] + key[0]), int(first[1] + key[1]), int(first[2] + key[2]))
            if at not in self.chunks:
                continue
            begin = np.array(at) * CHUNK
            start, end = np.maximum(low, begin), np.minimum(high, begin + CHUNK)
            there = tuple(slice(a, b) for a, b in zip(start - low, end - low, strict=True))
            here = tuple(slice(a, b) for a, b in zip(start - begin, end - begin, strict=True))
            found[there] = self.chunk(at)[here]
        return found

    def with_cells(self, places: Places, entries: Cells | int) -> "Blocks":
        """With other entries (one, or one for each) in some cells (n, 3), where the last of several for one cell holds.

        Refuses (OperationRefused) cells beyond the model and entries that there cannot be.
        """
        wanted = np.broadcast_to(np.asarray(entries, dtype=np.int64), len(places))
        if places.size and not (places.min() >= 0 and places.max() < SIDE):
            raise OperationRefused(
                f"A block model has {SIDE} cells along each side.", "block model", "Draw inside its bounds."
            )
        if wanted.size and not (wanted.min() >= 0 and wanted.max() <= MOST_ENTRIES):
            raise OperationRefused(f"An entry is 1 to {MOST_ENTRIES}.", "block model", "Choose one of the palette.")
        made = dict(self.chunks)
        for key, rows, inside in _by_chunk(places):
            cells = self.chunk(key).copy()
            cells[tuple(inside.T)] = wanted[rows]
            _put(made, key, cells)
        return Blocks(made)

    def with_chunks(self, chunks: Mapping[ChunkKey, Cells]) -> "Blocks":
        """With other chunks in the place of some."""
        made = dict(self.chunks)
        for key, cells in chunks.items():
            _put(made, key, cells)
        return Blocks(made)

    def places(self, entry: int | None = None) -> Places:
        """The filled cells (n, 3), or those of one entry, by chunks."""
        found = [
            np.argwhere(chunk.cells if entry is None else chunk.cells == entry) + np.array(key) * CHUNK
            for key, chunk in self.chunks.items()
        ]
        return np.concatenate(found) if found else np.zeros((0, 3), dtype=np.int64)


def _put(chunks: dict[ChunkKey, Chunk], key: ChunkKey, cells: Cells) -> None:
    if cells.any():
        cells.flags.writeable = False
        chunks[key] = Chunk(cells)
    else:
        chunks.pop(key, None)


def _by_chunk(places: Places) -> Iterator[tuple[ChunkKey, NDArray[np.int64], Places]]:
    """For each chunk that some places lie in: its key, their rows in their order, and their places inside it."""
    inside = (places >= 0).all(axis=1) & (places < SIDE).all(axis=1)
    rows = np.flatnonzero(inside)
    if not rows.size:
        return
    keys = places[rows] // CHUNK
    number = (keys[:, 0] * CHUNKS + keys[:, 1]) * CHUNKS + keys[:, 2]
    order = np.argsort(number, kind="stable")
    starts = np.flatnonzero(np.diff(number[order], prepend=-1))
    for group in np.split(order, starts[1:]):
        key = keys[group[0]]
        yield (int(key[0]), int(key[1]), int(key[2])), rows[group], places[rows[group]] - key * CHUNK


def changed_chunks(before: Blocks, after: Blocks) -> list[ChunkKey]:
    """The chunks that differ between two states; what both share is not looked at."""
    apart = sorted({key for key, _ in before.chunks.items() ^ after.chunks.items()})
    return [key for key in apart if not np.array_equal(before.chunk(key), after.chunk(key))]


def blocks_of(cells: Cells) -> Blocks:
    """The blocks of a whole array (x, y, z) of at most SIDE along each axis, from the lowest corner of the model."""
    made: dict[ChunkKey, Chunk] = {}
    for key in np.ndindex(*(-(-length // CHUNK) for length in cells.shape)):
        low = [CHUNK * k for k in key]
        part = cells[tuple(slice(a, a + CHUNK) for a in low)]
        whole = np.zeros((CHUNK, CHUNK, CHUNK), dtype=np.uint16)
        whole[tuple(slice(0, length) for length in part.shape)] = part
        _put(made, (key[0], key[1], key[2]), whole)
    return Blocks(made)


def packed_cells(cells: Cells) -> bytes:
    """The cells of a chunk as compressed bytes: 16-bit numbers, the lower byte first, z fastest."""
    return zlib.compress(cells.astype("<u2").tobytes(), 1)


def unpacked_cells(data: bytes, where: str) -> Cells:
    """The reverse of ``packed_cells``; FileRefused where the bytes are no chunk."""
    wanted = CHUNK**3 * 2
    try:
        plain = zlib.decompressobj().decompress(data, wanted + 1)
    except zlib.error as error:
        raise FileRefused("The blocks cannot be unpacked.", where, "Choose another file.") from error
    cells = np.frombuffer(plain, dtype="<u2") if len(plain) == wanted else np.zeros(0, dtype="<u2")
    if not cells.size or cells.max() > MOST_ENTRIES:
        raise FileRefused("A chunk of blocks is not as it should be.", where, "Choose another file.")
    found = cells.astype(np.uint16).reshape(CHUNK, CHUNK, CHUNK)
    found.flags.writeable = False
    return found
