"""What answers say of kinds of nodes and steps; see ``answers``."""

from typing import Any, Literal

from typing_extensions import TypedDict

from velvet_moth.core.catalogue.settings import SettingKind
from velvet_moth.core.pictures.reading import RoleKey


class Port(TypedDict):
    """An input of a node type. ``reads`` names the texture input whose reading it belongs to; an ``extra`` one is
    shown only where it is used or asked for. Another value of one that ``reshapes`` is another shader, or another texture in it;
    there is nothing between two values of one that goes ``in_steps``.
    """

    key: str
    name: str
    type: str
    default: list[float]
    low: float
    high: float
    step: float
    unit: str
    words: str
    source: str
    wirable: bool
    reads: str
    extra: bool
    fills: bool
    reshapes: bool
    in_steps: bool


class TileMapInfo(TypedDict):
    key: str
    name: str
    role: RoleKey | Literal[""]
    plain: list[float]


class Setting(TypedDict):
    """Something to set on a node or a step. ``maps`` are what each tile has, where the setting is tiles."""

    key: str
    name: str
    kind: SettingKind
    words: str
    low: float
    high: float
    unit: str
    choices: list[str]
    optional: bool
    maps: list[TileMapInfo]
    reads: str
    default: Any


class OutputPort(TypedDict):
    key: str
    name: str
    type: str
    strands: int
    unit: str


class NodeType(TypedDict):
    key: str
    role: str
    name: str
    group: str
    hidden: bool
    inputs: list[Port]
    settings: list[Setting]
    outputs: list[OutputPort]
    sentence: str
    formula: str
    use: str
