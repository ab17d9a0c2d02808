"""What one movement of the hand makes of a model: which cells it changes, and what they become."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated

import numpy as np

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Flag, Number, OneOf, Text, Three, Whole
from velvet_moth.core.blocks.cells import EMPTY, MOST_ENTRIES, SIDE, Blocks, Cells, Places
from velvet_moth.core.blocks.shapes import SHAPE_NAMES, SHAPES

WholeCell = tuple[Whole, Whole, Whole]


@dataclass(frozen=True)
class Way:
    """What becomes of the cells of a shape: its name, and their entries, of those they have and the one that is chosen."""

    name: str
    become: Callable[[Cells, int], Cells]


def _all(now: Cells, entry: int) -> Cells:
    return np.full_like(now, entry)


WAYS: Mapping[str, Way] = {
    "put": Way("Put", _all),
    "take": Way("Take away", lambda now, entry: np.zeros_like(now)),
    "recolour": Way("Recolour", lambda now, entry: np.where(now == EMPTY, now, _all(now, entry))),
}


@dataclass(frozen=True)
class BlockStroke:
    """A shape from one cell to another, drawn with an entry.

    ``mirrored`` along x, y, z about planes at ``about`` (cells; 128 is between the cells 127 and 128). Only cells from
    ``low`` to ``high`` are changed, both included.
    """

    shape: Annotated[Text, OneOf(SHAPE_NAMES)]
    way: Annotated[Text, OneOf({key: way.name for key, way in WAYS.items()})]
    first: WholeCell
    last: WholeCell
    entry: Whole = 1
    mirrored: tuple[Flag, Flag, Flag] = (False, False, False)
    about: Three = (SIDE / 2, SIDE / 2, SIDE / 2)
    low: WholeCell = (0, 0, 0)
    high: WholeCell = (SIDE - 1, SIDE - 1, SIDE - 1)


def drawn(blocks: Blocks, stroke: BlockStroke) -> Blocks:
    """The blocks with a shape drawn; OperationRefused where nothing of it is inside, or it is none."""
    if stroke.shape not in SHAPES or stroke.way not in WAYS:
        raise OperationRefused("There is no such shape.", "block model", f"Choose one of {', '.join(SHAPES)}.")
    if not 1 <= stroke.entry <= MOST_ENTRIES:
        raise OperationRefused(f"An entry is 1 to {MOST_ENTRIES}.", "palette", "Choose one of the palette.")
    reach = 2 * SIDE
    if any(not -reach <= part <= reach for part in (*stroke.first, *stroke.last)):
        raise OperationRefused("A shape ends too far outside the model.", "block model", "Draw inside its bounds.")
    shape = SHAPES[stroke.shape]
    places = shape.cover(blocks, stroke.first, stroke.last if shape.has_ends else stroke.first)
    for axis, (is_mirrored, middle) in enumerate(zip(stroke.mirrored, stroke.about, strict=True)):
        if is_mirrored:
            places = np.concatenate((places, mirror_places(places, axis, middle)))
    inside = ((places >= np.maximum(stroke.low, 0)) & (places <= np.minimum(stroke.high, SIDE - 1))).all(axis=1)
    places = places[inside]
    if not len(places):
        raise OperationRefused("Nothing of this is inside the model.", "block model", "Draw inside its bounds.")
    return blocks.with_cells(places, WAYS[stroke.way].become(blocks.at(places), stroke.entry))


def mirror_places(places: Places, axis: int, middle: Number) -> Places:
    """Cells on the other side of a plane across an axis, in cells: a whole one is between two cells, a half one inside of one."""
    found = places.copy()
    found[:, axis] = np.round(2 * middle).astype(np.int64) - 1 - places[:, axis]
    return found
