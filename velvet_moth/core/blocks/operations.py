"""The only ways to change a kept block model."""

import base64
from abc import abstractmethod
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

from annotated_types import Ge, Lt, MaxLen

from velvet_moth.core.base.operation import AnyOf, BatchOf, DocumentOperation
from velvet_moth.core.base.records import Flag, Number, Text, Whole
from velvet_moth.core.blocks.cells import CHUNKS, Blocks, changed_chunks, packed_cells, unpacked_cells
from velvet_moth.core.blocks.drawing import WAYS, BlockStroke, drawn
from velvet_moth.core.blocks.model import AS_IT_IS, BlockModel, Entry
from velvet_moth.core.blocks.moving import BlockMove, exchanged, moved
from velvet_moth.core.blocks.shapes import SHAPES

_At = Annotated[Whole, Ge(0), Lt(CHUNKS)]
# A chunk of cells that are all different takes up to 8 KB, which base64 makes a third longer.
_Packed = Annotated[str, MaxLen(12_000)]


class BlockOperation(DocumentOperation[BlockModel], family=True):
    """A change of a block model."""

    @abstractmethod
    def apply(self, model: BlockModel) -> "tuple[BlockModel, BlockOperation]":
        """The changed model and what takes the change back; OperationRefused where it does not fit."""

    @abstractmethod
    def words(self, model: BlockModel) -> str:
        """What it does to the model as it is before, as a line of the history."""


AnyBlockOperation = Annotated[BlockOperation, AnyOf(BlockOperation)]


@dataclass(frozen=True)
class PackedChunk:
    """A chunk by its place, and its cells as ``packed_cells`` in base64."""

    at: tuple[_At, _At, _At]
    cells: _Packed


@dataclass(frozen=True)
class SetChunks(BlockOperation):
    """Puts other cells in the place of some chunks, which is what every drawing comes to."""

    chunks: tuple[PackedChunk, ...]
    summary: Text
    op: Literal["set_chunks"] = "set_chunks"

    def apply(self, model: BlockModel) -> tuple[BlockModel, BlockOperation]:
        made = {one.at: unpacked_cells(base64.b64decode(one.cells), "blocks") for one in self.chunks}
        after = model.blocks.with_chunks(made)
        return replace(model, blocks=after), _chunks_of(model.blocks, list(made), self.summary)

    def words(self, model: BlockModel) -> str:
        return self.summary


def _chunks_of(blocks: Blocks, keys: Sequence[tuple[int, int, int]], summary: str) -> SetChunks:
    packed = (PackedChunk(key, base64.b64encode(packed_cells(blocks.chunk(key))).decode()) for key in keys)
    return SetChunks(tuple(packed), summary)


def change_of(before: Blocks, after: Blocks, summary: str) -> SetChunks:
    """What makes one state of the cells another."""
    return _chunks_of(after, changed_chunks(before, after), summary)


def _counted(count: int) -> str:
    return "1 block" if count == 1 else f"{count:,} blocks"


def stroke_change(model: BlockModel, strokes: Sequence[BlockStroke], entry_name: str) -> SetChunks:
    """What strokes of one kind change of a model; OperationRefused as ``drawn``. ``entry_name`` is what their entry is called."""
    after, stroke = model.blocks, strokes[0]
    for one in strokes:
        after = drawn(after, one)
    name = SHAPES[stroke.shape].name.lower() if len(strokes) == 1 else f"row of {len(strokes)}"
    more = _counted(abs(after.count - model.blocks.count))
    said = {
        "put": f"put a {name} of {entry_name}",
        "take": f"took away {more}",
        "recolour": f"recoloured to {entry_name}",
    }
    assert said.keys() == WAYS.keys()
    return change_of(model.blocks, after, said[stroke.way])


def move_change(model: BlockModel, move: BlockMove) -> SetChunks:
    """What moving or copying a part changes; OperationRefused as ``moved``."""
    words = "copied a part" if move.copy else "moved a part"
    return change_of(model.blocks, moved(model.blocks, move), words)


def exchange_change(model: BlockModel, one: int, other: int, names: tuple[str, str]) -> SetChunks:
    """What exchanging two entries changes; OperationRefused as ``exchanged``."""
    return change_of(model.blocks, exchanged(model.blocks, one, other), f"exchanged {names[0]} and {names[1]}")


@dataclass(frozen=True)
class SetBlockName(BlockOperation):
    """Renames the model."""

    name: Text
    op: Literal["set_block_name"] = "set_block_name"

    def apply(self, model: BlockModel) -> tuple[BlockModel, BlockOperation]:
        return model.with_settings(name=self.name), SetBlockName(model.name)

    def words(self, model: BlockModel) -> str:
        return f"renamed it {self.name}"


@dataclass(frozen=True)
class SetBlockSize(BlockOperation):
    """Makes every block of another side, in metres."""

    size: Number
    op: Literal["set_block_size"] = "set_block_size"

    def apply(self, model: BlockModel) -> tuple[BlockModel, BlockOperation]:
        return model.with_settings(size=self.size), SetBlockSize(model.settings.size)

    def words(self, model: BlockModel) -> str:
        return f"made blocks {self.size:g} m large"


@dataclass(frozen=True)
class SetPalette(BlockOperation):
    """Draws the model in the palette of another stack; of none where the text is empty."""

    palette: Text
    op: Literal["set_palette"] = "set_palette"

    def apply(self, model: BlockModel) -> tuple[BlockModel, BlockOperation]:
        return model.with_settings(palette=self.palette), SetPalette(model.settings.palette)

    def words(self, model: BlockModel) -> str:
        return "chose another palette" if self.palette else "took the palette away"


@dataclass(frozen=True)
class SetMerged(BlockOperation):
    """Whether equal faces of the model's mesh are merged."""

    merged: Flag
    op: Literal["set_merged"] = "set_merged"

    def apply(self, model: BlockModel) -> tuple[BlockModel, BlockOperation]:
        return model.with_settings(merged=self.merged), SetMerged(model.settings.merged)

    def words(self, model: BlockModel) -> str:
        return "merged equal faces" if self.merged else "gave every face corners of its own"


@dataclass(frozen=True)
class SetEntry(BlockOperation):
    """Sets what an entry is besides its tile."""

    number: Whole
    entry: Entry = AS_IT_IS
    op: Literal["set_entry"] = "set_entry"

    def apply(self, model: BlockModel) -> tuple[BlockModel, BlockOperation]:
        entries = {**model.settings.entries, self.number: self.entry}
        return model.with_settings(entries=entries), SetEntry(self.number, model.entry(self.number))

    def words(self, model: BlockModel) -> str:
        before = model.entry(self.number)
        if (before.graph, before.variant) != (self.entry.graph, self.entry.variant):
            return f"chose what entry {self.number} shows"
        return f"made entry {self.number} {'see-through' if self.entry.see_through else 'opaque'}"


@dataclass(frozen=True)
class BlockBatch(BatchOf[BlockModel], BlockOperation):
    """Several operations as one step: all of them or none."""

    operations: tuple[AnyBlockOperation, ...]
    summary: Text = ""
    op: Literal["batch"] = "batch"

    @classmethod
    def of(cls, operations: Sequence[Any], summary: str = "") -> "BlockBatch":
        return cls(tuple(operations), summary)
