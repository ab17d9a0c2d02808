"""Crafts: what one movement of the hand means for a graph, as a batch of operations. May import operations and lowering.

A craft knows the graph it is asked of; the batch it gives does not, so that undo, redo and history stay simple.
"""

from typing import Union

from velvet_moth.core.editing.copying import Duplicate, Paste
from velvet_moth.core.editing.joining import Join, JoinAll
from velvet_moth.core.editing.keying import EaseKeys, LineUpKeys, MoveKeys, PasteKeys, ReverseKeys, ScaleKeys
from velvet_moth.core.editing.renaming import RenameEverywhere
from velvet_moth.core.editing.retexturing import ReplaceTexture
from velvet_moth.core.editing.rewiring import InsertNode, PullOut, SwapInputs
from velvet_moth.core.editing.sharing import ShareParameter

Craft = Union[
    Join,
    JoinAll,
    InsertNode,
    PullOut,
    SwapInputs,
    Paste,
    Duplicate,
    ShareParameter,
    RenameEverywhere,
    ReplaceTexture,
    MoveKeys,
    ScaleKeys,
    ReverseKeys,
    LineUpKeys,
    EaseKeys,
    PasteKeys,
]

__all__ = [
    "Craft",
    "Duplicate",
    "EaseKeys",
    "InsertNode",
    "Join",
    "JoinAll",
    "LineUpKeys",
    "MoveKeys",
    "Paste",
    "PasteKeys",
    "PullOut",
    "RenameEverywhere",
    "ReplaceTexture",
    "ReverseKeys",
    "ScaleKeys",
    "ShareParameter",
    "SwapInputs",
]
