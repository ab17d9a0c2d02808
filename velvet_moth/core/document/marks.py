"""Marks: what is written onto a graph besides its nodes, for whoever reads it later."""

from dataclasses import dataclass
from typing import Annotated, Literal, Union

from pydantic import Field

from velvet_moth.core.base.records import Flag, NoteText, Number, OneOf, Place, Text
from velvet_moth.core.document.values import MarkId, Name, NodeId

# The tints a frame can have; what each looks like is the page's business.
TINTS = ("stone", "plum", "ochre", "verdigris", "slate", "rose")
MOST_MARKS = 500


@dataclass(frozen=True)
class Frame:
    """A titled area around cards. It grows with its members; ``folded`` it is one line."""

    id: MarkId
    title: Name
    nodes: tuple[NodeId, ...]
    tint: Annotated[Text, OneOf({tint: tint for tint in TINTS})] = "stone"
    folded: Flag = False
    kind: Literal["frame"] = "frame"


@dataclass(frozen=True)
class Note:
    """Words at a place of the graph, in the page's pixels at full size."""

    id: MarkId
    text: NoteText
    place: Place
    kind: Literal["note"] = "note"


@dataclass(frozen=True)
class Bookmark:
    """A view to come back to: what lies in the middle, and how near."""

    id: MarkId
    title: Name
    place: Place
    zoom: Number = 1.0
    kind: Literal["bookmark"] = "bookmark"


Mark = Annotated[Union[Frame, Note, Bookmark], Field(discriminator="kind")]
