"""A stack as it is kept: its steps in order, what is set on them, and what comes of them."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, ClassVar, TypeVar, Union

from annotated_types import MaxLen, MinLen

from velvet_moth.core.base.records import Text
from velvet_moth.core.catalogue.settings import SettingValue
from velvet_moth.core.stacks.step import Family, Step
from velvet_moth.core.stacks.stroke import Stroke

LONGEST_ID = 32
MOST_STEPS = 96


@dataclass(frozen=True)
class TakenFrom:
    """Where a step takes something from: a layer of a step before it, or a texture of the project."""

    step: Text = ""
    layer: Text = ""
    texture: Text = ""


@dataclass(frozen=True)
class Tile:
    """One tile of a set: a name, and by the key of a map where its picture comes from, or one value all over."""

    name: str
    maps: tuple[tuple[str, Union[TakenFrom, tuple[float, ...]]], ...] = ()


Held = Union[SettingValue, TakenFrom, tuple[Tile, ...], tuple[Stroke, ...]]
AHeld = TypeVar("AHeld")
AStack = TypeVar("AStack", bound="Stack")


@dataclass(frozen=True)
class Use:
    """One step of a stack, by an id of its own, with the values set on it."""

    id: str
    kind: Step
    values: Mapping[str, Held] = field(default_factory=dict)

    def tiles(self, key: str) -> tuple[Tile, ...]:
        """The tiles set on a setting; none where it holds something else."""
        held = self.values.get(key)
        return tuple(t for t in held if isinstance(t, Tile)) if isinstance(held, tuple) else ()

    def strokes(self, key: str) -> tuple[Stroke, ...]:
        """The strokes set on a setting; none where it holds something else."""
        held = self.values.get(key)
        return tuple(s for s in held if isinstance(s, Stroke)) if isinstance(held, tuple) else ()

    def tile_rows(self) -> dict[str, tuple[Tile, ...]]:
        """The tiles by the setting that takes them."""
        return {key: self.tiles(key) for key, setting in self.kind.settings.items() if setting.kind == "tiles"}

    def taken(self) -> Iterator[tuple[str, TakenFrom]]:
        """Everything that is taken from elsewhere by its setting; what tiles take by ``setting/number/map``."""
        for key, value in self.values.items():
            if isinstance(value, TakenFrom):
                yield key, value
            for number, tile in enumerate(self.tiles(key)):
                yield from ((in_tile(key, number, m), v) for m, v in tile.maps if isinstance(v, TakenFrom))

    def settled(self) -> dict[str, Any]:
        """Every setting with a value of its own, set or by default."""
        plain = {key: s for key, s in self.kind.settings.items() if not s.is_taken and s.kind != "tiles"}
        return {key: self.values.get(key, setting.default) for key, setting in plain.items()}


@dataclass(frozen=True)
class Output:
    """What comes of a stack: which layer of which step, under what name, in what depth."""

    id: Annotated[Text, MinLen(1), MaxLen(LONGEST_ID)]
    name: Annotated[Text, MaxLen(80)]
    step: Text
    layer: Text
    depth: Text = ""


@dataclass(frozen=True)
class Stack:
    """A stack of steps of one family."""

    family: ClassVar[Family]

    name: str
    steps: tuple[Use, ...] = ()
    outputs: tuple[Output, ...] = ()

    def use(self, key: str) -> Use | None:
        """The step of that id, if there is one."""
        return next((u for u in self.steps if u.id == key), None)

    def output(self, key: str) -> Output | None:
        """The output of that id, if there is one."""
        return next((o for o in self.outputs if o.id == key), None)

    def textures(self) -> set[str]:
        """The ids of the textures its steps read."""
        return {source.texture for use in self.steps for _, source in use.taken() if source.texture}

    def with_textures(self: AStack, ids: Mapping[str, str]) -> AStack:
        """The stack with the textures it reads, by id, replaced by others."""
        steps = (replace(u, values={key: _with_textures(v, ids) for key, v in u.values.items()}) for u in self.steps)
        return replace(self, steps=tuple(steps))

    def form(self: AStack) -> AStack:
        """The steps alone that change what all others work on."""
        return replace(self, steps=self.steps[: self.reshaping()], outputs=())

    def reshaping(self) -> int:
        """How many steps at the top change what all others work on."""
        return sum(use.kind.reshapes for use in self.steps)


def _with_textures(held: AHeld, ids: Mapping[str, str]) -> AHeld:
    made: Any = held
    if isinstance(held, TakenFrom):
        made = replace(held, texture=ids.get(held.texture, held.texture))
    elif isinstance(held, Tile):
        made = replace(held, maps=tuple((key, _with_textures(value, ids)) for key, value in held.maps))
    elif isinstance(held, tuple):
        made = tuple(_with_textures(part, ids) for part in held)
    found: AHeld = made
    return found


def in_tile(setting: str, number: int, map_key: str) -> str:
    """The key of what a map of a tile takes."""
    return f"{setting}/{number}/{map_key}"


def sources(stack: Stack, at: int) -> dict[str, TakenFrom]:
    """What each step takes from where; the first, where nothing is set, from the nearest step above that gives its kind."""
    use = stack.steps[at]
    found = dict(use.taken())
    first = next((s for s in use.kind.settings.values() if s.is_taken), None)
    if first is not None and first.takes_steps and first.key not in found and not first.optional:
        above = (u for u in reversed(stack.steps[:at]) if not u.kind.reshapes)
        nearest = next((u for u in above if u.kind.gives[u.kind.layers[0]] == first.kind), None)
        if nearest is not None:
            found[first.key] = TakenFrom(step=nearest.id)
    return found


def problems(stack: Stack) -> dict[str, str]:
    """What keeps each step from being made, as sentences by the step's id."""
    found: dict[str, str] = {}
    for at, use in enumerate(stack.steps):
        taken = sources(stack, at)
        before = {u.id: u.kind for u in stack.steps[:at] if not u.kind.reshapes}
        wrong = use.kind.wrong({**use.settled(), **use.tile_rows()})
        if wrong:
            found[use.id] = wrong
        for key, setting in use.kind.settings.items():
            if setting.is_taken and key not in taken and not setting.optional:
                found[use.id] = f"{use.kind.name} needs {setting.name.lower()}: choose {setting.where_from}."
        for key, source in taken.items():
            if not source.step:
                continue
            name, _, tile = key.partition("/")
            part = f"Tile {int(tile.split('/')[0]) + 1}" if tile else use.kind.settings[name].name
            kind = before.get(source.step)
            if kind is None:
                found[use.id] = f"{part} of {use.kind.name} comes from a step that is not above it."
            elif not tile and kind.gives.get(source.layer or kind.layers[0]) != use.kind.settings[name].kind:
                found[use.id] = f"{part} of {use.kind.name} cannot be taken from {kind.name}: choose another source."
    return found
