"""Recipes as plain data: written, and checked as they are read."""

from typing import Any, Union

from velvet_moth.core.files.reader import Reader
from velvet_moth.core.making.exchange import DEPTHS
from velvet_moth.core.making.recipe import (
    MOST_OUTPUTS,
    MOST_STEPS,
    SIZES,
    Held,
    Output,
    PictureFrom,
    Recipe,
    Tile,
    Use,
)
from velvet_moth.core.making.step import MOST_TILES, STEPS, Setting, Step


def recipe_to_json(recipe: Recipe) -> dict[str, Any]:
    def out(value: Union[Held, Tile]) -> Any:
        if isinstance(value, PictureFrom):
            held = (("step", value.step), ("layer", value.layer), ("texture", value.texture))
            return {key: text for key, text in held if text}
        if isinstance(value, Tile):
            return {"name": value.name, "maps": {key: out(held) for key, held in value.maps}}
        return [out(part) for part in value] if isinstance(value, tuple) else value

    return {
        "name": recipe.name,
        "size": [recipe.columns, recipe.rows],
        "steps": [
            {"id": u.id, "step": u.step, "values": {k: out(v) for k, v in sorted(u.values.items())}}
            for u in recipe.steps
        ],
        "outputs": [
            {"id": o.id, "name": o.name, "step": o.step, "layer": o.layer, "depth": o.depth} for o in recipe.outputs
        ],
    }


def recipe_from_json(data: Any, where: str = "recipe") -> Recipe:
    """The recipe in plain data; FileRefused names the first thing that is wrong and its place."""
    file = Reader(data, where)
    columns, rows = (int(side.number()) for side in file.at("size").pair())
    if columns not in SIZES or rows not in SIZES:
        raise file.at("size").refuse(
            "This is not a size that can be made.", f"A side has {', '.join(map(str, SIZES))} pixels."
        )
    entries = file.at("steps").items()
    if not 1 <= len(entries) <= MOST_STEPS:
        raise file.at("steps").refuse(f"A stack has 1 to {MOST_STEPS} steps.", "Add or remove some.")
    steps: list[Use] = []
    for entry in entries:
        use = _use_in(entry)
        if any(u.id == use.id for u in steps):
            raise entry.refuse(f"Two steps have the id {use.id!r}.")
        steps.append(use)
    outputs = tuple(_output_in(entry, steps) for entry in file.at("outputs", []).items()[:MOST_OUTPUTS])
    return Recipe(file.at("name").text(80).strip() or "Made", columns, rows, tuple(steps), outputs)


def _use_in(entry: Reader) -> Use:
    key = entry.at("step").text()
    if key not in STEPS:
        raise entry.refuse(f"There is no step {key!r}.", "Remove it, or update the program.")
    values = {name: _value_in(value, STEPS[key], name) for name, value in entry.at("values", {}).fields().items()}
    return Use(entry.at("id").text(32), key, values)


def _picture_in(entry: Reader) -> PictureFrom:
    return PictureFrom(*(entry.at(part, "").text() for part in ("step", "layer", "texture")))


def _tile_in(entry: Reader, setting: Setting) -> Tile:
    declared = {tile_map.key: tile_map for tile_map in setting.maps}
    maps: list[tuple[str, Union[PictureFrom, tuple[float, ...]]]] = []
    for key, held in sorted(entry.at("maps", {}).fields().items()):
        if key not in declared:
            raise held.refuse(f"A tile has no map called {key!r}.", f"It has {', '.join(declared)}.")
        if isinstance(held.data, dict):
            maps.append((key, _picture_in(held)))
            continue
        value, needed = tuple(part.number() for part in held.items()), len(declared[key].plain)
        if len(value) != needed or not needed or not all(-1 <= part <= 64 for part in value):
            raise held.refuse(f"{declared[key].name} takes a picture or {needed} numbers.", "Choose another value.")
        maps.append((key, value))
    return Tile(entry.at("name", "").text(80).strip(), tuple(maps))


def _value_in(entry: Reader, kind: Step, name: str) -> Held:
    setting: Setting | None = kind.settings.get(name)
    if setting is None:
        raise entry.refuse(f"{kind.name} has nothing called {name!r} to set.")
    if setting.kind == "picture":
        return _picture_in(entry)
    if setting.kind == "tiles":
        if len(entry.items()) > MOST_TILES:
            raise entry.refuse(f"There are at most {MOST_TILES} tiles.", "Take some away.")
        return tuple(_tile_in(part, setting) for part in entry.items())
    value = tuple(c.number() for c in entry.items()) if isinstance(entry.data, list) else entry.data
    wrong = setting.check(value)
    if wrong:
        raise entry.refuse(wrong, "Choose another value.")
    return value


def _output_in(entry: Reader, steps: list[Use]) -> Output:
    step, layer, depth = (entry.at(part).text() for part in ("step", "layer", "depth"))
    use = next((u for u in steps if u.id == step), None)
    if use is None or layer not in use.kind.layers:
        raise entry.refuse("This texture comes from a step or a layer that is not in the stack.", "Choose another.")
    if depth not in DEPTHS:
        raise entry.refuse(f"The depth {depth!r} is not known.", f"Use one of {', '.join(DEPTHS)}.")
    return Output(entry.at("id").text(32), entry.at("name").text(80).strip() or "Made", step, layer, depth)
