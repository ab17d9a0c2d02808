"""What a file format of blocks declares of itself, and what they have in common."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.blocks.cells import SIDE, Blocks, Places
from velvet_moth.core.blocks.model import ORIGIN

# The mean colours of a palette's tiles, linear light, (tiles, 3).
Colours = NDArray[np.float64]
AGAIN = "Export it again from where it was made."


@dataclass(frozen=True)
class Asked:
    """How a file of blocks is read: the name of the file, the palette in which colours are found, and for a picture of heights

    how many blocks high white is, and the entry of all blocks.
    """

    name: str
    colours: Colours
    high: int = 32
    entry: int = 1

    @property
    def where(self) -> str:
        """The file, for sentences."""
        return f"file {self.name!r}"


@dataclass(frozen=True)
class BlockFormat:
    """One open file format that can hold blocks: how it is recognised, read, and written where that is possible.

    ``holds`` says for people what is read of it. ``encode`` takes the side of a block (m) and the palette's colours.
    """

    key: str
    name: str
    holds: str
    suffix: str
    mimetype: str
    is_this: Callable[[bytes], bool]
    decode: Callable[[bytes, Asked], Blocks]
    encode: Callable[[Blocks, float, Colours], bytes] | None = None


def standing(places: Places, entries: NDArray[np.int64], where: str) -> Blocks:
    """Blocks at cells of any numbering, moved so that the lowest layer is on the ground and all are about the middle.

    FileRefused where there are none, or they need more than a model has.
    """
    if not len(places):
        raise FileRefused("There are no blocks in the file.", where, "Choose another file.")
    low, high = places.min(axis=0), places.max(axis=0)
    size = high - low + 1
    if (size > SIDE).any():
        raise FileRefused(f"The file is {size.max()} blocks long; a model has {SIDE}.", where, "Make it smaller first.")
    shift = np.array(ORIGIN) - low - np.array((size[0] // 2, 0, size[2] // 2))
    return Blocks().with_cells(places + shift, entries.astype(np.uint16))
