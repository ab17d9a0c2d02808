"""What the records of a document are made of: ids, what they refer to, values, and choices of a list."""

import re
from collections.abc import Container
from dataclasses import dataclass
from typing import Annotated, Any, Union

from pydantic import Discriminator, Tag

from velvet_moth.core.base.records import LARGEST_NUMBER, Number, Text
from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.catalogue.settings import MOST_STOPS
from velvet_moth.core.language.types import P_BOOL, P_FLEXIBLE, P_SURFACE, P_TEXTURE

ID_PATTERN = re.compile(r"[a-z][a-z0-9_]{0,31}")
# Every object of a script has something of this name: a table by ids would find it there.
NO_ID = "constructor"
LONGEST_NAME = 80
_NUMBERED = re.compile(r"_\d+$")
LONGEST_KEY = 64


@dataclass(frozen=True)
class RefersTo:
    """Marks a text as the id of something: a node, an input, a texture of the project."""

    what: str


NodeId = Annotated[Text, RefersTo("node")]
InputKey = Annotated[Text, RefersTo("input")]
OutputKey = Annotated[Text, RefersTo("output")]
SettingKey = Annotated[Text, RefersTo("setting")]
ParameterId = Annotated[Text, RefersTo("parameter")]
VariantId = Annotated[Text, RefersTo("variant")]
MarkId = Annotated[Text, RefersTo("mark")]
# Of the project, outside the document.
TextureId = Annotated[Text, RefersTo("texture")]
MeshId = Annotated[Text, RefersTo("mesh")]
RuleKey = Annotated[Text, RefersTo("rule")]
GraphKey = Annotated[Text, RefersTo("graph")]
NewId = Annotated[Text, RefersTo("new")]
Name = Annotated[Text, RefersTo("name")]

# Components of a number, vector, colour or toggle; or a texture's id.
Value = Annotated[
    Union[Annotated[tuple[Number, ...], Tag("<numbers>")], Annotated[Text, Tag("<text>")]],
    Discriminator(lambda value: "<text>" if isinstance(value, str) else "<numbers>"),
    RefersTo("value"),
]


def is_id(text: str) -> bool:
    """Whether a text can be the id of anything: a small letter, then up to 31 small letters, digits or _."""
    return ID_PATTERN.fullmatch(text) is not None and text != NO_ID


def fresh_id(wanted: str, taken: Container[str], first: int = 1) -> str:
    """The id numbered on, from ``first``, to one that is not taken."""
    stem, number = _NUMBERED.sub("", wanted)[:24], first
    while f"{stem}_{number}" in taken:
        number += 1
    return f"{stem}_{number}"


def fresh_name(wanted: str, taken: Container[str]) -> str:
    """The wanted name, cut where it is too long, numbered from 2 where it is taken."""
    number, name = 2, wanted[:LONGEST_NAME].strip()
    while name in taken:
        ending = f" {number}"
        name = f"{wanted[: LONGEST_NAME - len(ending)].strip()}{ending}"
        number += 1
    return name


def is_key(text: str) -> bool:
    """Whether a text can be the key that something outside the graph is kept by."""
    return 1 <= len(text) <= LONGEST_KEY and text.isprintable()


def fits(declared: Input, value: Any) -> bool:
    """Whether a value can stand on an unwired input: its number of components, their size, or a texture's id."""
    if declared.type is P_TEXTURE:
        return isinstance(value, str) and len(value) <= LONGEST_KEY and value.isprintable()
    if declared.type is P_SURFACE or declared.source or not isinstance(value, tuple):
        return False
    if declared.type is P_BOOL:
        return value in ((0.0,), (1.0,))
    if not all(isinstance(c, float) and abs(c) <= LARGEST_NUMBER for c in value):
        return False
    if declared.type.stop:
        places = value[:: declared.type.stop]
        is_whole = len(value) % declared.type.stop == 0 and 2 <= len(places) <= MOST_STOPS
        return is_whole and places[0] >= 0.0 and places[-1] <= 1.0 and list(places) == sorted(places)
    if declared.type is P_FLEXIBLE:
        return 1 <= len(value) <= 4
    return len(value) == len(declared.default)


def split_stops(declared: Input, value: tuple[float, ...]) -> list[tuple[float, ...]]:
    """The components of each stop of a gradient or curve: its place first."""
    width = declared.type.stop
    return [value[i : i + width] for i in range(0, len(value), width)]


def shown_value(value: Value) -> str:
    """A value for people: sizes as "2 × 3", others with spaces, four digits each."""
    if isinstance(value, str):
        return value or "none"
    return (" × " if len(value) == 2 else " ").join(f"{c:.4g}" for c in value)
