"""Recipes as plain data: written, and checked as they are read."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Union

from annotated_types import MaxLen, MinLen
from pydantic import TypeAdapter

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.base.records import MEND, Number, Text, read
from velvet_moth.core.catalogue.settings import MOST_TILES, Setting
from velvet_moth.core.making.exchange import DEPTHS
from velvet_moth.core.making.recipe import (
    LONGEST_ID,
    MOST_OUTPUTS,
    MOST_STEPS,
    Held,
    Output,
    PictureFrom,
    Recipe,
    Tile,
    Use,
    wrong_size,
)
from velvet_moth.core.making.step import STEPS, Step

_Key = Annotated[Text, MinLen(1), MaxLen(LONGEST_ID)]
_Title = Annotated[Text, MaxLen(80)]


def recipe_to_json(recipe: Recipe) -> dict[str, Any]:
    """A recipe as plain data, which ``recipe_from_json`` reads."""

    return {
        "name": recipe.name,
        "size": [recipe.columns, recipe.rows],
        "steps": [
            {"id": u.id, "step": u.step, "values": {k: value_to_json(v) for k, v in sorted(u.values.items())}}
            for u in recipe.steps
        ],
        "outputs": [
            {"id": o.id, "name": o.name, "step": o.step, "layer": o.layer, "depth": o.depth} for o in recipe.outputs
        ],
    }


def value_to_json(value: Union[Held, Tile]) -> Any:
    """What is set on a step as plain data, which ``value_from_json`` reads."""
    if isinstance(value, PictureFrom):
        held = (("step", value.step), ("layer", value.layer), ("texture", value.texture))
        return {key: text for key, text in held if text}
    if isinstance(value, Tile):
        return {"name": value.name, "maps": {key: value_to_json(held) for key, held in value.maps}}
    return [value_to_json(part) for part in value] if isinstance(value, tuple) else value


@dataclass(frozen=True)
class _Tile:
    name: Text = ""
    maps: Mapping[Text, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class _Use:
    id: _Key
    step: Text
    values: Mapping[Text, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class _Recipe:
    """A recipe as it is written. What a value may be follows from its step, so it is read after that."""

    name: _Title
    size: tuple[Number, Number]
    steps: Annotated[tuple[_Use, ...], MinLen(1), MaxLen(MOST_STEPS)]
    outputs: tuple[Output, ...] = ()


_RECIPE: TypeAdapter[_Recipe] = TypeAdapter(_Recipe)
_PICTURE: TypeAdapter[PictureFrom] = TypeAdapter(PictureFrom)
_NUMBERS: TypeAdapter[tuple[float, ...]] = TypeAdapter(tuple[Number, ...])
_TILES: TypeAdapter[tuple[_Tile, ...]] = TypeAdapter(Annotated[tuple[_Tile, ...], MaxLen(MOST_TILES)])


def recipe_from_json(data: Any, where: str = "recipe") -> Recipe:
    """The recipe in plain data; FileRefused names the first thing that is wrong and its place."""
    found = read(_RECIPE, data, where)
    columns, rows = (int(side) for side in found.size)
    if wrong := wrong_size(columns, rows):
        raise FileRefused(wrong, f"{where}/size", "Choose another size.")
    steps: dict[str, Use] = {}
    for number, use in enumerate(found.steps):
        place = f"{where}/steps[{number}]"
        if use.id in steps:
            raise FileRefused(f"Two steps have the id {use.id!r}.", place, MEND)
        steps[use.id] = _use_in(use, place)
    outputs = tuple(
        _checked_output(output, steps, f"{where}/outputs[{number}]")
        for number, output in enumerate(found.outputs[:MOST_OUTPUTS])
    )
    return Recipe(found.name.strip() or "Made", columns, rows, tuple(steps.values()), outputs)


def _use_in(use: _Use, where: str) -> Use:
    kind = STEPS.get(use.step)
    if kind is None:
        raise FileRefused(f"There is no step {use.step!r}.", where, "Remove it, or update the program.")
    values = {
        name: value_from_json(value, kind, name, f"{where}/values/{name[:40]}") for name, value in use.values.items()
    }
    return Use(use.id, use.step, values)


def value_from_json(data: Any, kind: Step, name: str, where: str) -> Held:
    """What plain data sets on a step of that kind; FileRefused where it does not take it."""
    setting: Setting | None = kind.settings.get(name)
    if setting is None:
        raise FileRefused(f"{kind.name} has nothing called {name!r} to set.", where, MEND)
    if setting.kind == "picture":
        return read(_PICTURE, data, where)
    if setting.kind == "tiles":
        tiles = read(_TILES, data, where)
        return tuple(_tile_in(tile, setting, f"{where}[{number}]") for number, tile in enumerate(tiles))
    value = read(_NUMBERS, data, where) if isinstance(data, list) else data
    if setting.kind == "whole" and isinstance(value, float) and value.is_integer():
        value = int(value)
    wrong = setting.check(value)
    if wrong:
        raise FileRefused(wrong, where, "Choose another value.")
    return value


def _tile_in(tile: _Tile, setting: Setting, where: str) -> Tile:
    declared = {tile_map.key: tile_map for tile_map in setting.maps}
    maps: list[tuple[str, Union[PictureFrom, tuple[float, ...]]]] = []
    for key, held in sorted(tile.maps.items()):
        place = f"{where}/maps/{key[:40]}"
        if key not in declared:
            raise FileRefused(f"A tile has no map called {key!r}.", place, f"It has {', '.join(declared)}.")
        if isinstance(held, dict):
            maps.append((key, read(_PICTURE, held, place)))
            continue
        value, needed = read(_NUMBERS, held, place), len(declared[key].plain)
        if len(value) != needed or not needed or not all(-1 <= part <= 64 for part in value):
            raise FileRefused(
                f"{declared[key].name} takes a picture or {needed} numbers.", place, "Choose another value."
            )
        maps.append((key, value))
    return Tile(tile.name[:80].strip(), tuple(maps))


def _checked_output(output: Output, steps: Mapping[str, Use], where: str) -> Output:
    use = steps.get(output.step)
    if use is None or output.layer not in use.kind.layers:
        raise FileRefused(
            "This texture comes from a step or a layer that is not in the stack.", where, "Choose another."
        )
    if output.depth not in DEPTHS:
        raise FileRefused(f"The depth {output.depth!r} is not known.", where, f"Use one of {', '.join(DEPTHS)}.")
    return replace(output, name=output.name.strip() or "Made")
