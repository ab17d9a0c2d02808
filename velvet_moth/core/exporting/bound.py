"""As plain data, all that an engine must give an exported text."""

from collections.abc import Mapping
from typing import Any, Literal, NotRequired

from pydantic import TypeAdapter
from typing_extensions import TypedDict

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.stand_ins import WORDS, stand_ins
from velvet_moth.core.document.tracks.pieces import pieces_to_json
from velvet_moth.core.document.values import Value
from velvet_moth.core.exporting.choices import Choices
from velvet_moth.core.exporting.naming import holds, input_words, place_of
from velvet_moth.core.exporting.packing import Packing
from velvet_moth.core.language.inputs import SurfaceInput
from velvet_moth.core.language.interpreters.precision import Reduced
from velvet_moth.core.language.interpreters.text.entry import Entry
from velvet_moth.core.language.interpreters.text.layout import SamplerSlot
from velvet_moth.core.language.interpreters.text.module import Module, ValueMember
from velvet_moth.core.language.texture import Filter, Wrap
from velvet_moth.core.lighting.stage_textures import STAGE_TEXTURES
from velvet_moth.core.pictures.reading import ROLES
from velvet_moth.core.render.binding_list import ReadTexture


class InputRead(TypedDict):
    """What an engine gives at a point, as a member of a structure."""

    name: str
    floats: int
    holds: str


class ValueRead(TypedDict):
    """A value as a member of the structure of values, ``offset`` bytes from its beginning."""

    name: str
    floats: int
    offset: int
    holds: str
    value: list[float]
    parameter: str | None


class TextureRead(TypedDict):
    """A texture as the text names it. ``texture`` is its id, one of the stage's own, or what stands in for it.

    Of several that were packed, ``channels`` says what each holds.
    """

    name: str
    texture: str
    file: str | None
    holds: str
    role: str
    wrap: tuple[Wrap, Wrap]
    filter: Filter
    parameter: str | None
    channels: NotRequired[dict[str, str]]


class ParameterRead(TypedDict):
    """A parameter with the members that hold it; a variant's values by the variant's name."""

    name: str
    group: str
    help: str
    unit: str
    low: float
    high: float
    step: float
    members: list[str]
    variants: dict[str, Any]
    track: Any


class SwitchRead(TypedDict):
    """A yes or no that is settled where the text is built."""

    name: str
    holds: str
    value: bool
    parameter: str | None


class MemberRead(TypedDict):
    """What is the same for a draw, as a member of the structure ``PerDraw``, ``offset`` bytes from its beginning."""

    name: str
    floats: int
    offset: int
    holds: str


class EntryRead(TypedDict):
    """The entry point for pixels: what vertices give by location, what is the same for a draw, and what each target holds of a result."""

    name: str
    given: list[InputRead]
    per_draw: list[MemberRead]
    targets: list[dict[str, str]]


class PrecisionRead(TypedDict):
    """How many of the values of the text may be held with fewer bits, and how far each result can be off for it."""

    values: int
    of: int
    errors: dict[str, float]


class BoundsRead(TypedDict):
    """The corners of the box that a form never leaves, metres in the world."""

    low: list[float]
    high: list[float]


class Bound(TypedDict):
    """All that is bound to an exported text.

    Where it is packaged, ``files`` are those of textures by their ids, which variants name too, and ``bounds`` are there.
    """

    format: Literal["velvet-moth-export"]
    version: Literal[1]
    title: str
    language: str
    shape: str
    functions: dict[str, list[InputRead]]
    results: dict[str, list[str]]
    values: list[ValueRead]
    switches: list[SwitchRead]
    textures: list[TextureRead]
    parameters: list[ParameterRead]
    time: dict[str, float]
    entry: NotRequired[EntryRead]
    precision: NotRequired[PrecisionRead]
    files: NotRequired[dict[str, str]]
    bounds: NotRequired[BoundsRead]


BOUND = TypeAdapter(Bound)


def bound_of(
    graph: Graph,
    choices: Choices,
    module: Module,
    results: Mapping[str, list[str]],
    textures: Mapping[str, ReadTexture],
    kept: Reduced,
    packing: Packing,
) -> Bound:
    """All that is bound to a module of a graph.

    ``results`` are the members that each function gives, ``textures`` those of the graph by id.
    """
    values = graph.uniform_values(choices.variant)
    opened = {(p.node, p.input): p.name for p in graph.parameters}
    found: Bound = {
        "format": "velvet-moth-export",
        "version": 1,
        "title": graph.title,
        "language": choices.dialect.name,
        "shape": choices.shape,
        "functions": {
            f"{choices.prefix}{name}": [_input(one) for one in inputs] for name, inputs in module.inputs.items()
        },
        "results": {f"{choices.prefix}{name}": members for name, members in results.items()},
        "values": [_value(graph, member, values, opened) for member in module.values],
        "switches": [
            {
                "name": one.name,
                "holds": holds(graph, one.key),
                "value": one.value,
                "parameter": opened.get(place_of(one.key)[:2]),
            }
            for one in module.switches
        ],
        "textures": [_texture(graph, slot, values, textures, opened, packing) for slot in module.samplers],
        "parameters": _parameters(graph, choices, module),
        "time": {"seconds": graph.timing.length, "frames_per_second": graph.timing.rate},
    }
    if module.entry:
        found["entry"] = _entry(module, module.entry)
    if choices.reduced:
        named = module.lines.values()
        found["precision"] = {
            "values": sum(e in kept.values for e in named),
            "of": len(named),
            "errors": {key: off for key, off in kept.errors.items() if off},
        }
    return found


def _entry(module: Module, entry: Entry) -> EntryRead:
    words = {one.name: input_words(one) for one in entry.per_draw}
    return {
        "name": entry.name,
        "given": [{**_input(one), "name": entry.given_name(one)} for one in entry.given],
        "per_draw": [
            {
                "name": one.name,
                "floats": one.type.width,
                "offset": one.offset,
                "holds": words[one.name],
            }
            for one in module.per_draw
        ],
        "targets": [dict(target) for target in entry.targets],
    }


def _input(declared: SurfaceInput) -> InputRead:
    return {"name": declared.name, "floats": declared.type.width, "holds": input_words(declared)}


def _value(
    graph: Graph,
    member: ValueMember,
    values: Mapping[tuple[str, str], Value],
    opened: Mapping[tuple[str, str], str],
) -> ValueRead:
    node, plain, _ = place_of(member.key)
    assert isinstance(member.key, tuple)
    held = values[member.key]
    assert not isinstance(held, str)
    return {
        "name": member.name,
        "floats": member.type.width,
        "offset": member.offset,
        "holds": holds(graph, member.key),
        "value": [float(v) for v in held],
        "parameter": opened.get((node, plain)),
    }


def _texture(
    graph: Graph,
    slot: SamplerSlot,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[str, ReadTexture],
    opened: Mapping[tuple[str, str], str],
    packing: Packing,
) -> TextureRead:
    if isinstance(slot.key, str):
        found, words, parameter = slot.key, STAGE_TEXTURES[slot.key], None
    else:
        assert isinstance(slot.key, tuple)
        found, words = str(values[slot.key]) or stand_ins(graph)[slot.key], holds(graph, slot.key)
        parameter = opened.get((slot.key[0], slot.key[1]))
    read = textures.get(found)
    made: TextureRead = {
        "name": slot.name,
        "texture": found,
        "file": read.name if read else None,
        "holds": words,
        "role": ROLES[read.reading.role].words if read else WORDS.get(found, "the stage's own"),
        "wrap": slot.wrap,
        "filter": slot.filter,
        "parameter": parameter,
    }
    held = packing.channels_at(slot.key)
    if held:
        made["holds"] = "numbers that were put together"
        made["channels"] = {channel: holds(graph, place) for channel, place in held.items()}
    return made


def _parameters(graph: Graph, choices: Choices, module: Module) -> list[ParameterRead]:
    keyed = graph.pieces_of(choices.variant)
    found: list[ParameterRead] = []
    for parameter in graph.parameters:
        place = (parameter.node, parameter.input)
        members = [one.name for one in module.values if place_of(one.key)[:2] == place]
        members += [one.name for one in module.switches if one.key == place]
        members += [slot.name for slot in module.samplers if slot.key == place]
        held = {v.name: graph.set_by(v.id)[parameter.id] for v in graph.variants if parameter.id in graph.set_by(v.id)}
        found.append(
            {
                "name": parameter.name,
                "group": parameter.group,
                "help": parameter.help,
                "unit": parameter.unit,
                "low": parameter.low,
                "high": parameter.high,
                "step": parameter.step,
                "members": members,
                "variants": held,
                "track": pieces_to_json(keyed[parameter.id]) if parameter.id in keyed else None,
            }
        )
    return found
