"""What requests about block models hold."""

from typing import Annotated, Literal

from pydantic import Field

from velvet_moth.core.blocks.cells import MOST_ENTRIES, SIDE
from velvet_moth.core.blocks.drawing import BlockStroke
from velvet_moth.core.blocks.model import LARGEST, SMALLEST
from velvet_moth.core.blocks.moving import BlockMove
from velvet_moth.core.blocks.operations import SetBlockName, SetBlockSize, SetEntry, SetMerged, SetPalette
from velvet_moth.web.api.schemas import Id, Strict, Title

_Layer = Annotated[int, Field(ge=0, le=SIDE - 1)]
_Number = Annotated[int, Field(ge=1, le=MOST_ENTRIES)]


class BlockView(Strict):
    """What the page shows of a model: all of it, or the layers across an ``axis`` between two, both included."""

    axis: Literal["", "x", "y", "z"] = ""
    first: _Layer = 0
    last: _Layer = SIDE - 1


class OfMeshRequest(Strict):
    """A new model of a mesh: the side of a block (m), where entries come from, and the palette; "" for the first one."""

    mesh: Annotated[str, Field(max_length=32)]
    size: Annotated[float, Field(ge=SMALLEST, le=LARGEST)] = 0.1
    by: Literal["one", "parts", "colours"] = "colours"
    palette: Annotated[str, Field(max_length=12)] = ""


class CellRequest(Strict):
    x: _Layer
    y: _Layer
    z: _Layer


class NewBlocksRequest(Strict):
    name: Title = "Blocks"


class BlockStep(BlockView):
    """Something done to a model on the revision the page saw."""

    revision: Id


class DrawRequest(BlockStep):
    """Shapes that one movement of the hand draws, one after the other."""

    strokes: Annotated[list[BlockStroke], Field(min_length=1, max_length=400)]


class MoveRequest(BlockStep):
    move: BlockMove


class ExchangeRequest(BlockStep):
    one: _Number
    other: _Number


class BlockEdit(BlockStep):
    """An edit of what a model is besides its cells."""

    operation: Annotated[SetBlockName | SetBlockSize | SetMerged | SetPalette | SetEntry, Field(discriminator="op")]


class BlockJump(BlockStep):
    """Which step of the history is to be the newest that holds; 0 is before all of them."""

    number: Id
