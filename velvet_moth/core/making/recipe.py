"""A recipe: a stack of steps and the textures it makes, computed from the first to the last."""

from collections.abc import Callable, Hashable, Iterator, Mapping
from dataclasses import dataclass, field
from functools import partial
from typing import Annotated, Any, Union

from annotated_types import MaxLen, MinLen

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Text
from velvet_moth.core.catalogue.settings import SettingValue
from velvet_moth.core.making.layer import Canvas, Layer, fitted
from velvet_moth.core.making.step import STEPS, PlacedTile, Step, Supply, made
from velvet_moth.core.pictures.atlas import Grid

LONGEST_ID = 32
MOST_STEPS = 40
MOST_OUTPUTS = 8
SIZES = (64, 128, 256, 512, 1024, 2048, 4096)
Layers = dict[str, Layer]


def wrong_size(columns: int, rows: int) -> str:
    """Why textures of that many pixels cannot be made; empty where they can."""
    fits = columns in SIZES and rows in SIZES
    return "" if fits else f"A side has {', '.join(map(str, SIZES))} pixels, not {columns} × {rows}."


@dataclass(frozen=True)
class PictureFrom:
    """Where a step takes a picture from: a layer of a step before it, or a texture of the project."""

    step: Text = ""
    layer: Text = ""
    texture: Text = ""


@dataclass(frozen=True)
class Tile:
    """One tile of a set: a name, and by the key of a map where its picture comes from, or one value all over."""

    name: str
    maps: tuple[tuple[str, Union[PictureFrom, tuple[float, ...]]], ...] = ()


Held = Union[SettingValue, PictureFrom, tuple[Tile, ...]]


@dataclass(frozen=True)
class Use:
    """One step of a stack, by an id of its own, with the values set on it."""

    id: str
    step: str
    values: Mapping[str, Held] = field(default_factory=dict)

    @property
    def kind(self) -> Step:
        """The kind of step it is."""
        return STEPS[self.step]

    def tiles(self, key: str) -> tuple[Tile, ...]:
        """The tiles set on a setting; none where it holds something else."""
        held = self.values.get(key)
        return tuple(t for t in held if isinstance(t, Tile)) if isinstance(held, tuple) else ()

    def pictures(self) -> Iterator[tuple[str, PictureFrom]]:
        """Every picture that is set, those of tiles by ``setting/number/map``."""
        for key, value in self.values.items():
            if isinstance(value, PictureFrom):
                yield key, value
            for number, tile in enumerate(self.tiles(key)):
                yield from ((_in_tile(key, number, m), v) for m, v in tile.maps if isinstance(v, PictureFrom))


@dataclass(frozen=True)
class Output:
    """A texture that comes of a stack: which layer of which step, under what name, in what depth."""

    id: Annotated[Text, MinLen(1), MaxLen(LONGEST_ID)]
    name: Annotated[Text, MaxLen(80)]
    step: Text
    layer: Text
    depth: Text = "8 bit"


@dataclass(frozen=True)
class Recipe:
    """A stack of steps; ``columns`` and ``rows`` are the size of the textures in pixels."""

    name: str
    columns: int
    rows: int
    steps: tuple[Use, ...]
    outputs: tuple[Output, ...] = ()

    @property
    def canvas(self) -> Canvas:
        """The canvas of the textures it makes."""
        return Canvas(self.columns, self.rows)

    def preview(self, most: int) -> Canvas:
        """A canvas of the same shape whose sides are at most ``most``."""
        shrink = max(1.0, max(self.columns, self.rows) / most)
        return Canvas(max(1, round(self.columns / shrink)), max(1, round(self.rows / shrink)))

    def use(self, key: str) -> Use | None:
        """The step of that id, if there is one."""
        return next((u for u in self.steps if u.id == key), None)

    def output(self, key: str) -> Output | None:
        """The output of that id, if there is one."""
        return next((o for o in self.outputs if o.id == key), None)

    def textures(self) -> set[str]:
        """The ids of the textures its steps read."""
        return {source.texture for use in self.steps for _, source in use.pictures() if source.texture}


def _in_tile(setting: str, number: int, map_key: str) -> str:
    return f"{setting}/{number}/{map_key}"


def sources(recipe: Recipe, at: int) -> dict[str, PictureFrom]:
    """What each picture of a step is taken from; the first one, where nothing is set, from the step just before."""
    use = recipe.steps[at]
    found = dict(use.pictures())
    first = next((s for s in use.kind.settings.values() if s.kind == "picture"), None)
    if at and first is not None and first.key not in found and not first.optional:
        found[first.key] = PictureFrom(step=recipe.steps[at - 1].id)
    return found


def problems(recipe: Recipe) -> dict[str, str]:
    """What keeps each step from being made, as sentences by the step's id."""
    found: dict[str, str] = {}
    for at, use in enumerate(recipe.steps):
        taken = sources(recipe, at)
        before = {u.id for u in recipe.steps[:at]}
        wrong = use.kind.wrong({**settled(use), **_tiles_by_setting(use)})
        if wrong:
            found[use.id] = wrong
        for key, setting in use.kind.settings.items():
            if setting.kind == "picture" and key not in taken and not setting.optional:
                found[use.id] = f"{use.kind.name} needs {setting.name.lower()}: choose a step above it or a texture."
        for key, source in taken.items():
            if source.step and source.step not in before:
                name, _, tile = key.partition("/")
                part = f"Tile {int(tile.split('/')[0]) + 1}" if tile else use.kind.settings[name].name
                found[use.id] = f"{part} of {use.kind.name} comes from a step that is not above it."
    return found


def grid_of(use: Use) -> Grid | None:
    """The grid a step lays its tiles on; None for steps without tiles."""
    if not _tiles_by_setting(use):
        return None
    values = settled(use)
    return Grid(values["columns"], values["rows"], values["padding"])


def _tiles_by_setting(use: Use) -> dict[str, tuple[Tile, ...]]:
    return {key: use.tiles(key) for key, setting in use.kind.settings.items() if setting.kind == "tiles"}


TextureLayer = tuple[Hashable, Callable[[], Layer]]
# Gives what tells the states of a texture apart, and its layer on a canvas; None where it is gone.
Textures = Callable[[str, Canvas], TextureLayer | None]
Remember = Callable[[Hashable, Callable[[], Layers]], Layers]


def _anew(_: Hashable, make: Callable[[], Layers]) -> Layers:
    return make()


@dataclass(frozen=True)
class MakingContext:
    """What computing a recipe needs from outside: textures by id, and a memory of what was made before."""

    textures: Textures
    remember: Remember = _anew


def evaluate(
    recipe: Recipe, canvas: Canvas, context: MakingContext, wanted: set[str] | None = None
) -> dict[str, Layers]:
    """The layers of each step (or of those ``wanted`` and what they need), by the step's id.

    Raises OperationRefused with what is wrong and at which step.
    """
    wrong = problems(recipe)
    needed = _needed(recipe, wanted if wanted is not None else {u.id for u in recipe.steps})
    found: dict[str, Layers] = {}
    marks: dict[str, Hashable] = {}
    for at, use in enumerate(recipe.steps):
        if use.id not in needed:
            continue
        where = f"step {at + 1}, {use.kind.name}"
        if use.id in wrong:
            raise OperationRefused(wrong[use.id], where, "Set it, or remove the step.")
        pictures: dict[str, Supply] = {}
        came: list[Hashable] = []
        for key, source in sources(recipe, at).items():
            if source.texture:
                given = context.textures(source.texture, canvas)
                if given is None:
                    raise OperationRefused("The texture it reads is gone.", where, "Choose another one.")
                pictures[key] = partial(_textured, context, source.texture)
                came.append((key, given[0]))
            else:
                pictures[key] = partial(_chosen, found[source.step], source.layer)
                came.append((key, marks[source.step], source.layer))
        plain = (*settled(use).items(), *_tiles_by_setting(use).items())
        marks[use.id] = (use.step, canvas, plain, tuple(came))
        found[use.id] = context.remember(marks[use.id], partial(_run, use, canvas, pictures))
    return found


def _chosen(layers: Layers, layer: str, canvas: Canvas) -> Layer:
    return fitted(layers.get(layer) or next(iter(layers.values())), canvas)


def _textured(context: MakingContext, texture: str, canvas: Canvas) -> Layer:
    given = context.textures(texture, canvas)
    assert given is not None, "asked for before"
    return given[1]()


def _run(use: Use, canvas: Canvas, pictures: Mapping[str, Supply]) -> Layers:
    whole = {key: take(canvas) for key, take in pictures.items() if "/" not in key}
    placed = {
        key: tuple(
            PlacedTile(
                tile.name, {m: pictures[_in_tile(key, n, m)] if isinstance(v, PictureFrom) else v for m, v in tile.maps}
            )
            for n, tile in enumerate(tiles)
        )
        for key, tiles in _tiles_by_setting(use).items()
    }
    return made(use.kind, canvas, {**settled(use), **whole, **placed})


def settled(use: Use) -> dict[str, Any]:
    """Every setting of a step that is neither picture nor tiles, set or by default."""
    found = {}
    for key, setting in use.kind.settings.items():
        if setting.kind not in ("picture", "tiles"):
            found[key] = use.values.get(key, setting.default)
    return found


def _needed(recipe: Recipe, wanted: set[str]) -> set[str]:
    needed = set(wanted)
    for at in range(len(recipe.steps) - 1, -1, -1):
        if recipe.steps[at].id in needed:
            needed |= {s.step for s in sources(recipe, at).values() if s.step}
    return needed
