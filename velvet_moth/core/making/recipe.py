"""A recipe: a stack of steps and the textures it makes."""

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Any, ClassVar

from pydantic import TypeAdapter

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.base.records import Number, read
from velvet_moth.core.making.layer import Canvas, Layer, fitted
from velvet_moth.core.making.step import TEXTURES, PictureAt, PlacedTile
from velvet_moth.core.pictures.atlas import Grid
from velvet_moth.core.stacks.computing import Remember, computed, each_time, only_taken_by
from velvet_moth.core.stacks.plain import StackRecord, stack_of, stack_to_json
from velvet_moth.core.stacks.stack import Stack, TakenFrom, Use, in_tile
from velvet_moth.core.stacks.step import Family, Step

SIZES = (64, 128, 256, 512, 1024, 2048, 4096)
Layers = dict[str, Layer]


def wrong_size(columns: int, rows: int) -> str:
    """Why textures of that many pixels cannot be made; empty where they can."""
    fits = columns in SIZES and rows in SIZES
    return "" if fits else f"A side has {', '.join(map(str, SIZES))} pixels, not {columns} × {rows}."


@dataclass(frozen=True)
class Recipe(Stack):
    """A stack of steps; ``columns`` and ``rows`` are the size of the textures in pixels."""

    family: ClassVar[Family] = TEXTURES

    columns: int = 512
    rows: int = 512

    @property
    def canvas(self) -> Canvas:
        """The canvas of the textures it makes."""
        return Canvas(self.columns, self.rows)

    def preview(self, most: int) -> Canvas:
        """A canvas of the same shape whose sides are at most ``most``."""
        shrink = max(1.0, max(self.columns, self.rows) / most)
        return Canvas(max(1, round(self.columns / shrink)), max(1, round(self.rows / shrink)))


@dataclass(frozen=True, kw_only=True)
class _Record(StackRecord):
    size: tuple[Number, Number]


_RECIPE: TypeAdapter[_Record] = TypeAdapter(_Record)


def recipe_to_json(recipe: Recipe) -> dict[str, Any]:
    """A recipe as plain data, which ``recipe_from_json`` reads."""
    return {"size": [recipe.columns, recipe.rows], **stack_to_json(recipe)}


def recipe_from_json(data: Any, where: str = "recipe") -> Recipe:
    """The recipe in plain data; FileRefused names the first thing that is wrong and its place."""
    found = read(_RECIPE, data, where)
    columns, rows = (int(side) for side in found.size)
    if wrong := wrong_size(columns, rows):
        raise FileRefused(wrong, f"{where}/size", "Choose another size.")
    return stack_of(Recipe, found, where, columns=columns, rows=rows)


def grid_of(use: Use) -> Grid | None:
    """The grid a step lays its tiles on; None for steps without tiles."""
    if not use.tile_rows():
        return None
    values = use.settled()
    return Grid(values["columns"], values["rows"], values["padding"])


TextureLayer = tuple[Hashable, Callable[[], Layer]]
# Gives what tells the states of a texture apart, and its layer on a canvas; None where it is gone.
Textures = Callable[[str, Canvas], TextureLayer | None]


@dataclass(frozen=True)
class MakingContext:
    """What computing a recipe needs from outside: textures by id, and a memory of what was made before."""

    textures: Textures
    remember: Remember = each_time


def evaluate(
    recipe: Recipe, canvas: Canvas, context: MakingContext, wanted: set[str] | None = None
) -> dict[str, Layers]:
    """The layers of each step (or of those ``wanted`` and what they need), by the step's id.

    Raises OperationRefused with what is wrong and at which step.
    """
    every = {use.id for use in recipe.steps} if wanted is None else wanted
    return computed(recipe, _on_canvas(recipe, canvas, context.textures, every), wanted, context.remember)[0]


# A picture that is only ever a tile is made so many times as large as a tile, and not as the whole.
_FINER = 2


def _on_canvas(recipe: Recipe, canvas: Canvas, textures: Textures, wanted: set[str]) -> "_OnCanvas":
    grids = {u.id: grid for u in recipe.steps if (grid := grid_of(u)) is not None}
    if not grids:
        return _OnCanvas(canvas, textures)
    takers = {f"{u.id} {key}" for u in recipe.steps if u.id in grids for key in u.tile_rows()}
    tiles = [grid.content(canvas.columns, canvas.rows) for grid in grids.values()]
    columns, rows = (_FINER * max(side) for side in zip(*tiles, strict=True))
    small = Canvas(min(columns, canvas.columns), min(rows, canvas.rows))
    return _OnCanvas(canvas, textures, small, frozenset(only_taken_by(recipe, takers, wanted)))


def made(found: Step, canvas: Canvas, values: Mapping[str, Any]) -> Layers:
    """What a step gives, by the names of its layers."""
    result = found.run(canvas, **values)
    return dict(zip(found.layers, (result,) if isinstance(result, Layer) else result, strict=True))


@dataclass(frozen=True)
class _OnCanvas:
    """Steps that work on a canvas; what they take is asked for at the size it is needed in.

    Those that make ``tiles`` alone work on a ``small`` one.
    """

    canvas: Canvas
    textures: Textures
    small: Canvas | None = None
    tiles: frozenset[str] = frozenset()

    def key_of(self, use: Use) -> Hashable:
        return self._under(use)

    def _under(self, use: Use) -> Canvas:
        return self.small if self.small is not None and use.id in self.tiles else self.canvas

    def layer(self, made: Layers, layer: str) -> PictureAt:
        return partial(fitted, made.get(layer) or next(iter(made.values())))

    def texture(self, key: str) -> tuple[Hashable, PictureAt] | None:
        given = self.textures(key, self.canvas)
        return given and (given[0], partial(self._textured, key))

    def _textured(self, key: str, canvas: Canvas) -> Layer:
        given = self.textures(key, canvas)
        assert given is not None, "asked for before"
        return given[1]()

    def run(self, use: Use, taken: Mapping[str, PictureAt]) -> Layers:
        canvas = self._under(use)
        whole = {key: take(canvas) for key, take in taken.items() if "/" not in key}
        placed = {
            key: tuple(
                PlacedTile(
                    tile.name,
                    {m: taken[in_tile(key, n, m)] if isinstance(v, TakenFrom) else v for m, v in tile.maps},
                )
                for n, tile in enumerate(tiles)
            )
            for key, tiles in use.tile_rows().items()
        }
        return made(use.kind, canvas, {**use.settled(), **whole, **placed})

    def after(self, made: Layers, key: Hashable) -> "_OnCanvas":
        return self
