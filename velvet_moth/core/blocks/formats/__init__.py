"""Open file formats that hold blocks, one file each; meshes of blocks have those of ``core/meshes/formats``."""

from collections.abc import Mapping

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.blocks.cells import Blocks
from velvet_moth.core.blocks.formats.base import Asked, BlockFormat, Colours
from velvet_moth.core.blocks.formats.points import POINTS
from velvet_moth.core.blocks.formats.slices import HEIGHTS, SLICES

__all__ = ["BLOCK_FORMATS", "Asked", "BlockFormat", "Colours", "read_blocks"]

MOST_BYTES = 64 << 20
BLOCK_FORMATS: Mapping[str, BlockFormat] = {one.key: one for one in (POINTS, SLICES, HEIGHTS)}


def read_blocks(data: bytes, asked: Asked) -> Blocks:
    """The blocks of a file of any of the formats; FileRefused with a sentence where it is none of them."""
    if len(data) > MOST_BYTES:
        raise FileRefused(f"The file is larger than {MOST_BYTES >> 20} MB.", asked.where, "Make it smaller first.")
    found = next((one for one in BLOCK_FORMATS.values() if one.is_this(data)), None)
    if found is None:
        names = ", ".join(f"{one.name} ({one.holds})" for one in BLOCK_FORMATS.values())
        raise FileRefused("This file holds no blocks.", asked.where, f"Choose one of these: {names}.")
    return found.decode(data, asked)
