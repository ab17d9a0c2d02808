"""Settings: what is chosen on a node or a step by hand and never wired, declared once with the check of its values."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, Union

from velvet_moth.core.pictures.reading import RoleKey

SettingValue = Union[float, str, tuple[float, ...], None]
SettingKind = Literal[
    "number",
    "whole",
    "choice",
    "colour",
    "stops",
    "picture",
    "values",
    "directions",
    "texture",
    "part",
    "tiles",
    "text",
    "strokes",
]
# What is taken from elsewhere, and from where.
_TAKEN: Mapping[str, str] = {
    "picture": "a step above it or a texture",
    "values": "a step above it",
    "directions": "a step of directions above it",
    "texture": "a texture",
}
MOST_STOPS = 8
MOST_TILES = 256
LONGEST_PART = 200
LONGEST_WORDS = 80
MOST_STROKES = 5000
# Light above this is no colour of a surface or lamp.
BRIGHTEST = 64


def spoken(key: str) -> str:
    """``from_low`` as ``From low``; UV keeps its capitals."""
    words = key.replace("_", " ")
    return words.upper() if words == "uv" else words[:1].upper() + words[1:]


@dataclass(frozen=True)
class TileMap:
    """One of the maps each tile has. ``plain`` is what it holds where nothing is set: a colour, a number, or nothing.

    Without a ``role`` it takes whatever picture is given.
    """

    key: str
    role: RoleKey | Literal[""] = ""
    plain: tuple[float, ...] = ()

    @property
    def name(self) -> str:
        """Its key as words."""
        return spoken(self.key)


@dataclass(frozen=True)
class Setting:
    """One thing that can be set. ``low``, ``high`` and ``unit`` belong to numbers, ``choices`` to a choice and to
    strokes, whose brushes they are, ``maps`` to tiles.

    Stops are (place, red, green, blue) one after the other, places rising from 0 to 1, colours linear light.
    What is taken from elsewhere may stay unset where it is ``optional``. ``reads`` names the texture input whose reading a setting of a node belongs to.
    """

    kind: SettingKind
    words: str = ""
    low: float = 0.0
    high: float = 1.0
    unit: str = ""
    choices: tuple[str, ...] = ()
    optional: bool = False
    maps: tuple[TileMap, ...] = ()
    reads: str = ""
    default: SettingValue = None
    key: str = ""
    name: str = ""

    def named(self, key: str) -> "Setting":
        """The same setting under its key, named after it where it has no name."""
        return replace(self, key=key, name=self.name or spoken(key))

    @property
    def is_taken(self) -> bool:
        """Whether it is taken from elsewhere, and has no value of its own."""
        return self.kind in _TAKEN

    @property
    def where_from(self) -> str:
        """From where it is taken, for sentences."""
        return _TAKEN[self.kind]

    @property
    def takes_steps(self) -> bool:
        """Whether it can be taken from a step."""
        return "step" in _TAKEN.get(self.kind, "")

    @property
    def takes_textures(self) -> bool:
        """Whether it can be taken from a texture."""
        return "texture" in _TAKEN.get(self.kind, "")

    def check(self, value: Any) -> str:
        """Why a value cannot stand here; empty where it can."""
        return _CHECKS[self.kind](self, value)


def number(low: float, high: float, words: str = "", unit: str = "") -> Setting:
    """Declares a setting for a number of that range."""
    return Setting("number", words, low, high, unit)


def whole(low: int, high: int, words: str = "", default: int | None = None) -> Setting:
    """Declares a setting for a whole number of that range."""
    return Setting("whole", words, low, high, default=default)


def choice(*choices: str, words: str = "") -> Setting:
    """Declares a setting for one of some words; the first one is the default where nothing else says it."""
    return Setting("choice", words, choices=choices, default=choices[0])


def colour(words: str = "") -> Setting:
    """Declares a setting for a colour in linear light."""
    return Setting("colour", words)


def stops(words: str = "") -> Setting:
    """Declares a setting for the stops of a gradient."""
    return Setting("stops", words)


def picture(words: str = "", optional: bool = False) -> Setting:
    """Declares a setting for a layer of a step above, or a texture."""
    return Setting("picture", words, optional=optional)


def values(words: str = "", optional: bool = False) -> Setting:
    """Declares a setting for the numbers of a step above."""
    return Setting("values", words, optional=optional)


def directions(words: str = "", optional: bool = False) -> Setting:
    """Declares a setting for the directions of a step above."""
    return Setting("directions", words, optional=optional)


def texture(words: str = "") -> Setting:
    """Declares a setting for a texture of the project."""
    return Setting("texture", words)


def part(words: str = "") -> Setting:
    """Declares a setting for one of the parts of a mesh, by its name; empty for the whole of it."""
    return Setting("part", words, default="")


def text(words: str = "") -> Setting:
    """Declares a setting for some words of the artist's own."""
    return Setting("text", words, default="")


def strokes(*brushes: str, words: str = "") -> Setting:
    """Declares a setting for what these brushes have drawn."""
    return Setting("strokes", words, choices=brushes, default=())


def tiles(*maps: TileMap, words: str = "") -> Setting:
    """Declares a setting for a row of tiles, each with a name and these maps."""
    return Setting("tiles", words, maps=maps, default=())


def _is_number(value: Any) -> bool:
    return isinstance(value, (int, float)) and not isinstance(value, bool) and abs(value) < 1e9


def _number(setting: Setting, value: Any) -> str:
    if _is_number(value) and setting.low <= value <= setting.high:
        return ""
    return f"{setting.name} takes a number from {setting.low:g} to {setting.high:g}."


def _whole(setting: Setting, value: Any) -> str:
    return _number(setting, value) or ("" if isinstance(value, int) else f"{setting.name} takes a whole number.")


def _choice(setting: Setting, value: Any) -> str:
    return "" if value in setting.choices else f"{setting.name} is one of {', '.join(setting.choices)}."


def _light(setting: Setting, value: Any) -> str:
    fits = isinstance(value, tuple) and len(value) == 3 and all(_is_number(c) and 0 <= c <= BRIGHTEST for c in value)
    return "" if fits else f"{setting.name} takes three numbers, red, green and blue, from 0 to {BRIGHTEST}."


def _stops(setting: Setting, value: Any) -> str:
    fits = isinstance(value, tuple) and len(value) % 4 == 0 and 2 <= len(value) // 4 <= MOST_STOPS
    if not fits or not all(_is_number(c) for c in value):
        return f"{setting.name} takes 2 to {MOST_STOPS} stops of a place and a colour."
    places = list(value[::4])
    if places != sorted(places) or places[0] < 0 or places[-1] > 1:
        return f"The places of {setting.name} rise from 0 to 1."
    return ""


def _part(setting: Setting, value: Any) -> str:
    return "" if isinstance(value, str) and len(value) <= LONGEST_PART else f"{setting.name} takes the name of a part."


def _text(setting: Setting, value: Any) -> str:
    fits = isinstance(value, str) and len(value) <= LONGEST_WORDS
    return "" if fits else f"{setting.name} takes at most {LONGEST_WORDS} letters."


def _strokes(setting: Setting, value: Any) -> str:
    if len(value) > MOST_STROKES:
        return f"There are at most {MOST_STROKES:,} strokes in a step."
    other = next((one.mode for one in value if one.mode not in setting.choices), "")
    return f"{setting.name} are drawn to {', '.join(setting.choices)}, not to {other}." if other else ""


def _taken(setting: Setting, value: Any) -> str:
    # Where it comes from is a record of its own, checked as it is read.
    return ""


def _tiles(setting: Setting, value: Any) -> str:
    return "" if len(value) <= MOST_TILES else f"There are at most {MOST_TILES} tiles."


_CHECKS: Mapping[SettingKind, Callable[[Setting, Any], str]] = {
    "number": _number,
    "whole": _whole,
    "choice": _choice,
    "colour": _light,
    "stops": _stops,
    "picture": _taken,
    "values": _taken,
    "directions": _taken,
    "texture": _taken,
    "part": _part,
    "tiles": _tiles,
    "text": _text,
    "strokes": _strokes,
}
