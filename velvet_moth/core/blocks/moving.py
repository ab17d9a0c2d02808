"""A chosen part of a model moved, turned, mirrored, copied; and entries exchanged everywhere."""

from dataclasses import dataclass
from typing import Annotated

import numpy as np
from annotated_types import Ge, Le

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Flag, Whole
from velvet_moth.core.blocks.cells import EMPTY, MOST_ENTRIES, SIDE, Blocks, Cells
from velvet_moth.core.blocks.drawing import WholeCell

# The two axes that a turn about x, y or z takes into each other, the first into the second.
_TURNED = ((1, 2), (2, 0), (0, 1))


@dataclass(frozen=True)
class BlockMove:
    """The blocks from ``low`` to ``high`` (both included), put with their lowest corner at ``to``.

    First mirrored along some axes, then turned by quarters about x, y and z, in this order and anticlockwise seen from the end
    of each axis. What was there before them is taken away unless it is a ``copy``.
    """

    low: WholeCell
    high: WholeCell
    to: WholeCell
    turns: tuple[Annotated[Whole, Ge(0), Le(3)], Annotated[Whole, Ge(0), Le(3)], Annotated[Whole, Ge(0), Le(3)]] = (
        0,
        0,
        0,
    )
    mirrored: tuple[Flag, Flag, Flag] = (False, False, False)
    copy: Flag = False


def moved(blocks: Blocks, move: BlockMove) -> Blocks:
    """The blocks with a part of them elsewhere; OperationRefused where there is none, or it would leave the model.

    Empty cells of the part leave what is there.
    """
    low, high = np.array(move.low), np.array(move.high)
    if (low > high).any() or (low < 0).any() or (high >= SIDE).any():
        raise OperationRefused("This part is not inside the model.", "chosen part", "Choose another part.")
    part = blocks.dense((move.low, tuple((high + 1).tolist())))
    if not part.any():
        raise OperationRefused("There are no blocks in this part.", "chosen part", "Choose another part.")
    if not move.copy:
        blocks = blocks.with_cells(np.argwhere(part) + low, EMPTY)
    turned = turned_cells(part, move.turns, move.mirrored)
    filled = np.argwhere(turned)
    places = filled + np.array(move.to)
    if (places < 0).any() or (places >= SIDE).any():
        raise OperationRefused("Blocks would be outside the model there.", "chosen part", "BlockMove it less far.")
    return blocks.with_cells(places, turned[tuple(filled.T)])


def turned_cells(part: Cells, turns: tuple[int, int, int], mirrored: tuple[bool, bool, bool]) -> Cells:
    """Cells mirrored along some axes, then turned by quarters about each."""
    found: Cells = np.flip(part, tuple(axis for axis, is_mirrored in enumerate(mirrored) if is_mirrored))
    for axes, quarters in zip(_TURNED, turns, strict=True):
        found = np.asarray(np.rot90(found, quarters, axes), dtype=np.uint16)
    return found


def exchanged(blocks: Blocks, one: int, other: int) -> Blocks:
    """With two entries exchanged everywhere; OperationRefused where neither is used."""
    if any(not 1 <= number <= MOST_ENTRIES for number in (one, other)):
        raise OperationRefused(f"An entry is 1 to {MOST_ENTRIES}.", "palette", "Choose one of the palette.")
    if not {one, other} & set(blocks.uses):
        raise OperationRefused("Neither entry is used.", "palette", "Choose one that some blocks have.")

    def swapped(cells: Cells) -> Cells:
        return np.where(cells == one, other, np.where(cells == other, one, cells)).astype(np.uint16)

    return blocks.with_chunks(
        {key: swapped(c.cells) for key, c in blocks.chunks.items() if c.uses[one] or c.uses[other]}
    )
