"""Stacks as plain data: written, and checked as they are read."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Annotated, Any, Union

from annotated_types import MaxLen, MinLen
from pydantic import TypeAdapter

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.base.records import MEND, Number, Text, read
from velvet_moth.core.catalogue.settings import MOST_TILES, Setting
from velvet_moth.core.stacks.stack import LONGEST_ID, MOST_STEPS, AStack, Held, Output, Stack, TakenFrom, Tile, Use
from velvet_moth.core.stacks.step import Family, Step
from velvet_moth.core.stacks.stroke import Stroke

_Key = Annotated[Text, MinLen(1), MaxLen(LONGEST_ID)]
_Title = Annotated[Text, MaxLen(80)]


def stack_to_json(stack: Stack) -> dict[str, Any]:
    """A stack as plain data, which ``stack_of`` reads."""
    return {
        "name": stack.name,
        "steps": [
            {"id": u.id, "step": u.kind.key, "values": {k: value_to_json(v) for k, v in sorted(u.values.items())}}
            for u in stack.steps
        ],
        "outputs": [
            {"id": o.id, "name": o.name, "step": o.step, "layer": o.layer, "depth": o.depth} for o in stack.outputs
        ],
    }


def value_to_json(value: Union[Held, Tile, Stroke]) -> Any:
    """What is set on a step as plain data, which ``value_from_json`` reads."""
    if isinstance(value, Stroke):
        return _STROKE.dump_python(value, mode="json")
    if isinstance(value, TakenFrom):
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
class StackRecord:
    """A stack as it is written. What a value may be follows from its step, so it is read after that."""

    name: _Title
    steps: Annotated[tuple[_Use, ...], MaxLen(MOST_STEPS)]
    outputs: tuple[Output, ...] = ()


_TAKEN: TypeAdapter[TakenFrom] = TypeAdapter(TakenFrom)
_STROKE: TypeAdapter[Stroke] = TypeAdapter(Stroke)
_STROKES: TypeAdapter[tuple[Stroke, ...]] = TypeAdapter(tuple[Stroke, ...])
_NUMBERS: TypeAdapter[tuple[float, ...]] = TypeAdapter(tuple[Number, ...])
_TILES: TypeAdapter[tuple[_Tile, ...]] = TypeAdapter(Annotated[tuple[_Tile, ...], MaxLen(MOST_TILES)])


def stack_of(kind: type[AStack], found: StackRecord, where: str, **more: Any) -> AStack:
    """The stack that a record is, with what else its kind has; FileRefused names the first thing that is wrong and its place."""
    family = kind.family
    steps: dict[str, Use] = {}
    reshapes = True
    for number, record in enumerate(found.steps):
        place = f"{where}/steps[{number}]"
        if record.id in steps:
            raise FileRefused(f"Two steps have the id {record.id!r}.", place, MEND)
        use = steps[record.id] = _use_in(record, family, place)
        if use.kind.reshapes and not reshapes:
            raise FileRefused(f"{use.kind.name} stands below steps that need what it gives.", place, "Move it up.")
        reshapes = use.kind.reshapes
    if len(steps) < family.fewest:
        raise FileRefused("A stack has at least one step.", f"{where}/steps", "Add one.")
    outputs: dict[str, Output] = {}
    for number, output in enumerate(found.outputs[: family.most_outputs]):
        place = f"{where}/outputs[{number}]"
        if output.id in outputs:
            raise FileRefused(f"Two outputs have the id {output.id!r}.", place, MEND)
        outputs[output.id] = _checked_output(output, family, steps, place)
    name = found.name.strip() or "Made"
    return kind(name=name, steps=tuple(steps.values()), outputs=tuple(outputs.values()), **more)


def _use_in(use: _Use, family: Family, where: str) -> Use:
    kind = family.steps.get(use.step)
    if kind is None:
        raise FileRefused(f"There is no step {use.step!r}.", where, "Remove it, or update the program.")
    values = {
        name: value_from_json(value, kind, name, f"{where}/values/{name[:40]}") for name, value in use.values.items()
    }
    return Use(use.id, kind, values)


def value_from_json(data: Any, kind: Step, name: str, where: str) -> Held:
    """What plain data sets on a step of that kind; FileRefused where it does not take it."""
    setting: Setting | None = kind.settings.get(name)
    if setting is None:
        raise FileRefused(f"{kind.name} has nothing called {name!r} to set.", where, MEND)
    if setting.is_taken:
        taken = read(_TAKEN, data, where)
        if (taken.texture and not setting.takes_textures) or (taken.step and not setting.takes_steps):
            raise FileRefused(f"{setting.name} takes {setting.where_from}.", where, "Choose another one.")
        return taken
    if setting.kind == "tiles":
        tiles = read(_TILES, data, where)
        return tuple(_tile_in(tile, setting, f"{where}[{number}]") for number, tile in enumerate(tiles))
    if setting.kind == "strokes":
        drawn = read(_STROKES, data, where)
        if wrong := setting.check(drawn):
            raise FileRefused(wrong, where, "Use another step.")
        return drawn
    value = read(_NUMBERS, data, where) if isinstance(data, list) else data
    if setting.kind == "whole" and isinstance(value, float) and value.is_integer():
        value = int(value)
    wrong = setting.check(value)
    if wrong:
        raise FileRefused(wrong, where, "Choose another value.")
    return value


def _tile_in(tile: _Tile, setting: Setting, where: str) -> Tile:
    declared = {tile_map.key: tile_map for tile_map in setting.maps}
    maps: list[tuple[str, Union[TakenFrom, tuple[float, ...]]]] = []
    for key, held in sorted(tile.maps.items()):
        place = f"{where}/maps/{key[:40]}"
        if key not in declared:
            raise FileRefused(f"A tile has no map called {key!r}.", place, f"It has {', '.join(declared)}.")
        if isinstance(held, dict):
            maps.append((key, read(_TAKEN, held, place)))
            continue
        value, needed = read(_NUMBERS, held, place), len(declared[key].plain)
        if len(value) != needed or not needed or not all(-1 <= part <= 64 for part in value):
            raise FileRefused(
                f"{declared[key].name} takes a picture or {needed} numbers.", place, "Choose another value."
            )
        maps.append((key, value))
    return Tile(tile.name[:80].strip(), tuple(maps))


def no_output(family: Family, kind: Step, layer: str) -> str:
    """Why nothing comes of a layer that is of another kind."""
    return f"No {family.noun} is made of {kind.gives[layer]}, which {kind.name} gives there."


def _checked_output(output: Output, family: Family, steps: Mapping[str, Use], where: str) -> Output:
    use = steps.get(output.step)
    if use is None or output.layer not in use.kind.layers or use.kind.reshapes:
        raise FileRefused(
            f"This {family.noun} comes from a step or a layer that is not in the stack.", where, "Choose another."
        )
    if use.kind.gives[output.layer] != family.layer:
        raise FileRefused(no_output(family, use.kind, output.layer), where, family.instead)
    depth = output.depth or family.depths[0]
    if depth not in family.depths:
        raise FileRefused(f"The depth {depth!r} is not known.", where, f"Use one of {', '.join(family.depths)}.")
    if family.places and output.id not in family.places:
        raise FileRefused(f"There is no place {output.id!r} for it.", where, f"Use one of {', '.join(family.places)}.")
    return replace(output, name=output.name.strip() or "Made", depth=depth)
