"""Shapes that one movement of the hand draws: which cells of a model they hold."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.blocks.cells import EMPTY, SIDE, Blocks, Places

Cell = tuple[int, int, int]
# The cells (n, 3) that a shape from one cell to another holds; those beyond the model are left out later.
Cover = Callable[[Blocks, Cell, Cell], Places]


@dataclass(frozen=True)
class Shape:
    """A shape: its name, what it does in a sentence, whether it has two ends, and the cells it covers."""

    name: str
    words: str
    has_ends: bool
    cover: Cover


SHAPES: dict[str, Shape] = {}


def _shape(name: str, has_ends: bool) -> Callable[[Cover], Cover]:
    def decorate(cover: Cover) -> Cover:
        key = (cover.__name__).removeprefix("_")
        SHAPES[key] = Shape(name, " ".join((cover.__doc__ or "").split()), has_ends, cover)
        return cover

    return decorate


@_shape("Single", has_ends=False)
def _single(blocks: Blocks, first: Cell, last: Cell) -> Places:
    """One block."""
    return np.array([first])


@_shape("Line", has_ends=True)
def _line(blocks: Blocks, first: Cell, last: Cell) -> Places:
    """A straight row of blocks from one to the other."""
    steps = max(abs(b - a) for a, b in zip(first, last, strict=True))
    # A half goes away from the first end, so that a line is the same as its mirror picture.
    share = np.linspace(0.0, 1.0, steps + 1)[:, None]
    by = share * (np.array(last) - np.array(first))
    found: Places = np.array(first) + (np.sign(by) * np.floor(np.abs(by) + 0.5)).astype(np.int64)
    return found


@_shape("Box", has_ends=True)
def _box(blocks: Blocks, first: Cell, last: Cell) -> Places:
    """All blocks between two corners."""
    # What is outside is never made: it may be far away.
    ranges = [np.arange(max(min(ends), 0), min(max(ends) + 1, SIDE)) for ends in zip(first, last, strict=True)]
    found: Places = np.stack(np.meshgrid(*ranges, indexing="ij"), axis=-1).reshape(-1, 3)
    return found


@_shape("Ball", has_ends=True)
def _ball(blocks: Blocks, first: Cell, last: Cell) -> Places:
    """All blocks around a middle, as far as the other end."""
    radius = float(np.linalg.norm(np.subtract(last, first)))
    around = int(radius + 0.5)
    found = _box(blocks, _moved(first, -around), _moved(first, around))
    near: Places = found[np.linalg.norm(found - np.array(first), axis=1) <= radius + 0.5]
    return near


@_shape("Joined", has_ends=False)
def _joined(blocks: Blocks, first: Cell, last: Cell) -> Places:
    """All blocks of the same entry that are joined to one, side by side."""
    entry, box = _entry_at(blocks, first), blocks.box
    assert box is not None
    labels, _ = ndimage.label(blocks.dense(box) == entry)
    low = np.array(box[0])
    found: Places = np.argwhere(labels == labels[tuple(np.array(first) - low)]) + low
    return found


@_shape("All of it", has_ends=False)
def _entry(blocks: Blocks, first: Cell, last: Cell) -> Places:
    """All blocks of the same entry, wherever they are."""
    return blocks.places(_entry_at(blocks, first))


def _moved(cell: Cell, by: int) -> Cell:
    x, y, z = cell
    return x + by, y + by, z + by


def _entry_at(blocks: Blocks, cell: Cell) -> int:
    (entry,) = blocks.at(np.array([cell]))
    if entry == EMPTY:
        raise OperationRefused("There is no block here.", "block model", "Point at a block.")
    return int(entry)


SHAPE_NAMES: Mapping[str, str] = {key: shape.name for key, shape in SHAPES.items()}
