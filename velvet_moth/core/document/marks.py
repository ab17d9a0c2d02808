"""Marks: what is written onto a graph besides its nodes, for whoever reads it later."""

from dataclasses import dataclass
from typing import Literal, Union

# The tints a frame can have; what each looks like is the page's business.
TINTS = ("stone", "plum", "ochre", "verdigris", "slate", "rose")
MOST_MARKS = 500
LONGEST_NOTE = 1000


@dataclass(frozen=True)
class Frame:
    """A titled area around cards. It grows with its members; ``folded`` it is one line."""

    id: str
    title: str
    nodes: tuple[str, ...]
    tint: str = "stone"
    folded: bool = False
    kind: Literal["frame"] = "frame"


@dataclass(frozen=True)
class Note:
    """Words at a place of the graph, in the page's pixels at full size."""

    id: str
    text: str
    place: tuple[float, float]
    kind: Literal["note"] = "note"


@dataclass(frozen=True)
class Bookmark:
    """A view to come back to: what lies in the middle, and how near."""

    id: str
    title: str
    place: tuple[float, float]
    zoom: float = 1.0
    kind: Literal["bookmark"] = "bookmark"


Mark = Union[Frame, Note, Bookmark]
