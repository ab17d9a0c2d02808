"""A block model as it is kept: its cells, how large a block is, and the palette it is drawn in."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated

from annotated_types import MaxLen
from pydantic import TypeAdapter

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Flag, Number, Text, read
from velvet_moth.core.blocks.cells import MOST_ENTRIES, SIDE, Blocks

SMALLEST, LARGEST = 0.001, 10.0
LONGEST_NAME = 80


@dataclass(frozen=True)
class Entry:
    """What is set of an entry besides its tile: whether one sees through it, and a graph that its blocks show instead.

    ``graph`` is a key of the project, and ``variant`` one of that graph; "" for none.
    """

    see_through: Flag = False
    graph: Text = ""
    variant: Text = ""


@dataclass(frozen=True)
class Settings:
    """All of a model but its cells. ``size`` is the side of a block in metres, ``palette`` the stack that makes its tiles.

    ``merged``: whether equal faces of its mesh are one; where data is baked at vertices, each block needs corners of its own.
    """

    name: Text
    size: Number = 0.1
    palette: Text = ""
    entries: Annotated[Mapping[int, Entry], MaxLen(MOST_ENTRIES)] = field(default_factory=dict)
    merged: Flag = True


_SETTINGS = TypeAdapter(Settings)
AS_IT_IS = Entry()


@dataclass(frozen=True, eq=False)
class BlockModel:
    """A block model. Its cells stand about the origin: the middle of the lowest layer is there."""

    settings: Settings
    blocks: Blocks = field(default_factory=Blocks)

    @property
    def name(self) -> str:
        """What it is called."""
        return self.settings.name

    def entry(self, number: int) -> Entry:
        """What is set of an entry."""
        return self.settings.entries.get(number, AS_IT_IS)

    @property
    def see_through(self) -> frozenset[int]:
        """The entries that one sees through."""
        return frozenset(number for number, entry in self.settings.entries.items() if entry.see_through)

    def with_settings(self, **changed: object) -> "BlockModel":
        """With some of its settings changed; OperationRefused where they do not fit."""
        return replace(self, settings=checked_settings(replace(self.settings, **changed)))  # type: ignore[arg-type]  # names are given by the fields of the operations


# The cell whose lowest corner is at the origin.
ORIGIN = (SIDE // 2, 0, SIDE // 2)


def checked_settings(settings: Settings) -> Settings:
    """The settings; OperationRefused where they do not fit."""
    name = " ".join(settings.name.split())
    if not 1 <= len(name) <= LONGEST_NAME:
        raise OperationRefused(f"A name has 1 to {LONGEST_NAME} letters.", "block model", "Type another one.")
    if not SMALLEST <= settings.size <= LARGEST:
        raise OperationRefused(
            f"A block is {SMALLEST:g} to {LARGEST:g} metres large.", settings.name, "Type another size."
        )
    if any(not 1 <= number <= MOST_ENTRIES for number in settings.entries):
        raise OperationRefused(f"An entry is 1 to {MOST_ENTRIES}.", settings.name, "Choose one of the palette.")
    kept = {number: entry for number, entry in settings.entries.items() if entry != AS_IT_IS}
    return replace(settings, name=name, entries=kept)


def settings_from_json(data: object, where: str) -> Settings:
    """Settings from plain data; FileRefused where they cannot be read."""
    return checked_settings(read(_SETTINGS, data, where))


def settings_to_json(settings: Settings) -> dict[str, object]:
    """Settings as plain data."""
    found: dict[str, object] = _SETTINGS.dump_python(settings, mode="json")
    return found
