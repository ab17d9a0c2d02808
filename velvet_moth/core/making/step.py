"""What a step is: one decorated function. Its signature gives what can be set, its docstring the help."""

import inspect
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Literal, Union, get_args, get_origin

from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.pictures.reading import RoleKey

Value = Union[float, str, tuple[float, ...], None]
# Gives a picture at the size it is needed in.
Supply = Callable[[Canvas], Layer]
MOST_STOPS = 8
MOST_TILES = 256


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
        return self.key.replace("_", " ").capitalize()


@dataclass(frozen=True)
class PlacedTile:
    """A tile as a step gets it: for each map that is set a picture, or one value all over."""

    name: str
    maps: Mapping[str, Union[Supply, tuple[float, ...]]]


SettingKind = Literal["number", "whole", "choice", "colour", "stops", "picture", "tiles"]


@dataclass(frozen=True)
class Setting:
    """One thing that can be set. ``kind`` is number, whole, choice, colour, stops, picture or tiles; ``unit`` as for people.

    Stops are (place, red, green, blue) one after the other, places rising from 0 to 1, colours linear light.
    """

    kind: SettingKind
    words: str = ""
    low: float = 0.0
    high: float = 1.0
    unit: str = ""
    choices: tuple[str, ...] = ()
    optional: bool = False
    maps: tuple[TileMap, ...] = ()
    key: str = ""
    default: Value = None

    @property
    def name(self) -> str:
        """Its key as words."""
        return self.key.replace("_", " ").capitalize()

    def check(self, value: Any) -> str:
        """Why a value cannot stand here; empty where it can."""
        return _CHECKS[self.kind](self, value)


def number(low: float, high: float, words: str = "", unit: str = "") -> Setting:
    """Declares a setting for a number of that range."""
    return Setting("number", words, low, high, unit)


def whole(low: int, high: int, words: str = "") -> Setting:
    """Declares a setting for a whole number of that range."""
    return Setting("whole", words, low, high)


def choice(*choices: str, words: str = "") -> Setting:
    """Declares a setting for one of some words."""
    return Setting("choice", words, choices=choices)


def colour(words: str = "") -> Setting:
    """Declares a setting for a colour in linear light."""
    return Setting("colour", words)


def stops(words: str = "") -> Setting:
    """Declares a setting for the stops of a gradient."""
    return Setting("stops", words)


def picture(words: str = "", optional: bool = False) -> Setting:
    """Declares a setting for a layer of a step above, or a texture."""
    return Setting("picture", words, optional=optional)


def tiles(*maps: TileMap, words: str = "") -> Setting:
    """A row of tiles, each with a name and these maps."""
    return Setting("tiles", words, maps=maps, default=())


SEED = whole(0, 9999, "another number is another picture of the same kind")


def _is_number(value: Any) -> bool:
    return isinstance(value, (int, float)) and not isinstance(value, bool) and abs(value) < 1e9


def _range(setting: Setting, value: Any) -> str:
    if not _is_number(value) or not setting.low <= value <= setting.high:
        return f"{setting.name} takes a number from {setting.low:g} to {setting.high:g}."
    if setting.kind == "whole" and value != int(value):
        return f"{setting.name} takes a whole number."
    return ""


def _one_of(setting: Setting, value: Any) -> str:
    return "" if value in setting.choices else f"{setting.name} is one of {', '.join(setting.choices)}."


def _light(setting: Setting, value: Any) -> str:
    fits = isinstance(value, tuple) and len(value) == 3 and all(_is_number(c) and 0 <= c <= 64 for c in value)
    return "" if fits else f"{setting.name} takes three numbers, red, green and blue, from 0 up."


def _places(setting: Setting, value: Any) -> str:
    fits = isinstance(value, tuple) and len(value) % 4 == 0 and 2 <= len(value) // 4 <= MOST_STOPS
    if not fits or not all(_is_number(c) for c in value):
        return f"{setting.name} takes 2 to {MOST_STOPS} stops of a place and a colour."
    places = list(value[::4])
    if places != sorted(places) or places[0] < 0 or places[-1] > 1:
        return f"The places of {setting.name} rise from 0 to 1."
    return ""


_CHECKS: Mapping[str, Callable[[Setting, Any], str]] = {
    "number": _range,
    "whole": _range,
    "choice": _one_of,
    "colour": _light,
    "stops": _places,
    "picture": lambda setting, value: "",
    "tiles": lambda setting, value: "" if len(value) <= MOST_TILES else f"There are at most {MOST_TILES} tiles.",
}


@dataclass(frozen=True)
class Step:
    """A kind of step. ``layers`` are the names of what it makes, the first one what the next step goes on with.

    ``wrong`` says why its settings do not go together; empty where they do.
    """

    key: str
    name: str
    group: str
    help: str
    settings: Mapping[str, Setting]
    layers: tuple[str, ...]
    run: Callable[..., Any] = field(repr=False)
    wrong: Callable[[Mapping[str, Any]], str] = field(repr=False, default=lambda values: "")

    @property
    def begins(self) -> bool:
        """Whether it needs no picture to begin with."""
        return all(s.kind != "picture" or s.optional for s in self.settings.values())


STEPS: dict[str, Step] = {}
GROUPS = ("Begin", "Shapes", "Adjust", "Height", "Combine", "Sets")


def step(
    name: str,
    group: str,
    layers: tuple[str, ...] = ("picture",),
    wrong: Callable[[Mapping[str, Any]], str] = lambda values: "",
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Declares a step. The function takes the canvas and its settings, and gives a Layer or one for each name."""

    def declare(function: Callable[..., Any]) -> Callable[..., Any]:
        key = function.__name__
        if key in STEPS or group not in GROUPS or not function.__doc__:
            raise TypeError(f"The step {key} is declared twice, lacks its help, or names no known group.")
        settings: dict[str, Setting] = {}
        for parameter in list(inspect.signature(function).parameters.values())[1:]:
            if get_origin(parameter.annotation) is not Annotated:
                raise TypeError(f"{key}: {parameter.name} says nothing of what it takes.")
            declared: Setting = get_args(parameter.annotation)[1]
            has_default = parameter.default is not inspect.Parameter.empty
            settings[parameter.name] = replace(
                declared, key=parameter.name, default=parameter.default if has_default else None
            )
            unfit = settings[parameter.name].check(parameter.default) if has_default else ""
            if unfit:
                raise TypeError(f"{key}: the default of {parameter.name} does not fit. {unfit}")
        STEPS[key] = Step(
            key,
            name,
            group=group,
            help=inspect.cleandoc(function.__doc__),
            settings=settings,
            layers=layers,
            run=function,
            wrong=wrong,
        )
        return function

    return declare


def made(found: Step, canvas: Canvas, values: Mapping[str, Any]) -> dict[str, Layer]:
    """What a step gives, by the names of its layers."""
    result = found.run(canvas, **values)
    return dict(zip(found.layers, (result,) if isinstance(result, Layer) else result, strict=True))
