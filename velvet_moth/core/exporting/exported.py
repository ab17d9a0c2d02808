"""A graph as a text in a language, and as plain data all that an engine must give it."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass
from typing import Any, Literal, NotRequired

from pydantic import TypeAdapter
from typing_extensions import TypedDict

from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.stand_ins import WORDS, stand_ins
from velvet_moth.core.document.tracks.pieces import pieces_to_json
from velvet_moth.core.document.values import Value
from velvet_moth.core.exporting.choices import Choices, checked
from velvet_moth.core.exporting.packing import CHANNELS, Packing
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import SURFACE_INPUTS, SurfaceInput
from velvet_moth.core.language.interpreters.bound import Bounds
from velvet_moth.core.language.interpreters.glsl.outside import UNIFORMS
from velvet_moth.core.language.interpreters.precision import Reduced, reduced
from velvet_moth.core.language.interpreters.text.entry import Entry
from velvet_moth.core.language.interpreters.text.layout import SamplerSlot
from velvet_moth.core.language.interpreters.text.module import Computed, Module, ValueMember, write_module
from velvet_moth.core.language.texture import Filter, Wrap
from velvet_moth.core.lighting.stage_textures import STAGE_TEXTURES
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.pictures.reading import ROLES
from velvet_moth.core.render.binding_list import ReadTexture
from velvet_moth.core.render.shading import shared_textures
from velvet_moth.core.workbench.problems.ranges import uniform_bounds

_DRAWN = {uniform.name: uniform.words for uniform in UNIFORMS}
STEP_OF_A_PICTURE = 1 / 255
NO_PACKING = Packing()
_SPACES = (
    "Places and directions are in the world: metres, right-handed, Y up. Colours are linear light.",
    "Normals that come out are in tangent space: X along the tangent, Y along cross(normal, tangent) times the tangent's w.",
    "V runs up: the first row of a texture's data is its lowest. Where yours is the highest, turn the rows or V round.",
)


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


@dataclass(frozen=True)
class Exported:
    """The text of a graph in a language, and what is bound to it.

    ``nodes`` are the ids of those that lines hold, by their numbers from 1; ``words`` are sentences about what was chosen.
    """

    text: str
    module: Module
    bound: Bound
    nodes: Mapping[int, tuple[str, ...]]
    words: tuple[str, ...] = ()


def lowered_for_export(graph: Graph, variant: str, switched: bool = False) -> LoweredGraph:
    """A graph as every language takes it: only what parameters open stays outside, toggles where they are ``switched``."""
    return lower(graph, variant, folded=True, switched=switched)


def exported(
    graph: Graph,
    choices: Choices,
    textures: Mapping[str, ReadTexture],
    lowered: LoweredGraph | None = None,
    packing: Packing = NO_PACKING,
) -> Exported:
    """A graph in a language and shape; OperationRefused where the choices cannot be.

    Only what parameters open stays outside; all other values are part of the text. ``textures`` are those of the graph by id. No
    word of the artist's comes into the text: names are made of the catalogue's. ``lowered`` is the graph by
    ``lowered_for_export``, where that is known: it is the same for all languages. ``packing`` says which textures were put together.
    """
    checked(choices)
    lowered = packing.applied(lowered or lowered_for_export(graph, choices.variant, choices.switches))
    functions = SHAPES[choices.shape].functions(lowered)
    values = graph.uniform_values(choices.variant)
    kept = _reduced(lowered, choices, functions[0])
    outputs = {computed.name: list(computed.members) for computed in functions}
    module = write_module(
        choices.dialect,
        functions,
        lambda key: _member_name(graph, key),
        lowered.names,
        lambda made: _head(graph, choices, made, outputs, kept, packing),
        prefix=choices.prefix,
        same=shared_textures(graph),
        is_on=lambda key: values[_place(key)[:2]] == (1.0,),
        reduced=kept.values,
        has_entry=choices.entry,
    )
    made_by: dict[Expr, dict[str, None]] = {}
    for source, found in lowered.outputs.items():
        if isinstance(found, Expr):
            made_by.setdefault(found, {})[source.node] = None
    nodes = {line: tuple(made_by[expr]) for line, expr in module.lines.items() if expr in made_by}
    bound = _bound(graph, choices, module, outputs, values, textures)
    for slot, one in zip(module.samplers, bound["textures"], strict=True):
        if one["texture"] in packing.members and not isinstance(slot.key, str):
            held = [_holds(graph, place) for place in packing.members[one["texture"]]]
            one["holds"] = "numbers that were put together"
            one["channels"] = dict(zip(CHANNELS, held, strict=False))
    if module.entry:
        bound["entry"] = _entry(module, module.entry)
    if choices.reduced:
        values_named = module.lines.values()
        bound["precision"] = {
            "values": sum(e in kept.values for e in values_named),
            "of": len(values_named),
            "errors": {key: off for key, off in kept.errors.items() if off},
        }
    words = _precision_words(kept) if choices.reduced else ()
    return Exported(module.text, module, bound, nodes, words)


def _reduced(lowered: LoweredGraph, choices: Choices, function: Computed) -> Reduced:
    """What the first function may hold with fewer bits: no result is further off than a step of an 8-bit picture."""
    if not choices.reduced:
        return Reduced()
    bounds = Bounds(uniform_bounds(lowered.graph, lowered.graph.uniform_values(choices.variant)))
    return reduced(function.members, lowered.names, bounds, STEP_OF_A_PICTURE)


def _place(key: Hashable) -> tuple[str, str, str]:
    """The node, the input and the number of the stop that a key of a value or texture names."""
    assert isinstance(key, tuple)
    plain, _, stop = str(key[1]).partition("#")
    return str(key[0]), plain, stop


def _kind(graph: Graph, node: str) -> NodeType | None:
    """The kind of a node, where it is of the catalogue: the names of others are the artist's."""
    return CATALOGUE.get(graph.nodes[node].type) if node in graph.nodes else None


def _member_name(graph: Graph, key: Hashable) -> str:
    node, plain, stop = _place(key)
    kind = _kind(graph, node)
    return ("motif_value" if kind is None else f"{kind.key}_{plain}") + (f"_{int(stop) + 1}" if stop else "")


def _holds(graph: Graph, key: Hashable) -> str:
    """What a value is, in words of the catalogue."""
    node, plain, stop = _place(key)
    kind = _kind(graph, node)
    found = "a value of a motif" if kind is None else f"{kind.inputs[plain].name} of {kind.name}"
    return found + (f", stop {int(stop) + 1}" if stop else "")


def _input_words(declared: SurfaceInput) -> str:
    return declared.words or _DRAWN[declared.name]


def _head(
    graph: Graph,
    choices: Choices,
    module: Module,
    outputs: Mapping[str, list[str]],
    kept: Reduced,
    packing: Packing,
) -> list[str]:
    """What somebody must know who calls the functions."""
    lines = [f"{choices.dialect.name}: {SHAPES[choices.shape].words}", *_SPACES]
    for name, inputs in module.inputs.items():
        lines += ["", f"{choices.prefix}{name} gives {', '.join(outputs[name])}. It is given:"]
        lines += [f"  {declared.name}: {_input_words(declared)}" for declared in inputs] or ["  nothing of the point"]
    if module.values:
        lines += ["", "Values, and where each is from the beginning of the constants, in bytes:"]
        lines += [f"  {member.offset:4d}  {member.name}: {_holds(graph, member.key)}" for member in module.values]
    if module.switches:
        lines += ["", "Switches, which who builds the text may set otherwise:"]
        lines += [f"  {one.name}: {_holds(graph, one.key)}" for one in module.switches]
    if module.entry:
        lines += ["", *_entry_words(module.entry)]
    if choices.reduced:
        lines += ["", *_precision_words(kept)]
    if module.samplers:
        lines += ["", "Textures, each read with levels of detail:"]
        lines += [f"  {slot.name}: {_read_as(graph, slot, packing)}" for slot in module.samplers]
    return lines


def _entry_words(entry: Entry) -> list[str]:
    """What the entry point takes and makes."""
    lines = [f"The entry point {entry.name}, for pixels, is given by vertices, location by location:"]
    lines += [f"  {at}  {one.name}: {_input_words(one)}" for at, one in enumerate(entry.given)] or ["  nothing"]
    if entry.per_draw:
        lines.append("For a draw it is given:")
        lines += [f"  {one.name}: {_input_words(one)}" for one in entry.per_draw]
    lines.append("It makes, target by target:")
    return lines + [f"  {at}  {_target_words(target)}" for at, target in enumerate(entry.targets)]


def _target_words(target: Mapping[str, str]) -> str:
    return ", ".join(f"{letters} {key}" for key, letters in target.items())


def _precision_words(kept: Reduced) -> tuple[str, ...]:
    name, off = kept.worst
    if not name:
        return ("By their ranges, no values may be held with fewer bits.",)
    return (
        "Values of reduced precision may be held to one part in 1024.",
        f"By their ranges, no result is off by more than {off:.5f} for it ({name}).",
    )


def _entry(module: Module, entry: Entry) -> EntryRead:
    return {
        "name": entry.name,
        "given": [_input(one) for one in entry.given],
        "per_draw": [
            {
                "name": one.name,
                "floats": one.type.width,
                "offset": one.offset,
                "holds": _input_words(SURFACE_INPUTS[one.name]),
            }
            for one in module.per_draw
        ],
        "targets": [dict(target) for target in entry.targets],
    }


def _input(declared: SurfaceInput) -> InputRead:
    return {"name": declared.name, "floats": declared.type.width, "holds": _input_words(declared)}


def _read_as(graph: Graph, slot: SamplerSlot, packing: Packing) -> str:
    what = STAGE_TEXTURES[slot.key] if isinstance(slot.key, str) else _holds(graph, slot.key)
    held = next((found for found in packing.members.values() if found[0] == slot.key), ())
    if held:
        channels = zip(CHANNELS, held, strict=False)
        what = ", ".join(f"{channel} {_holds(graph, place)}" for channel, place in channels)
    way = "linear between pixels" if slot.filter == "smooth" else "nearest pixel"
    wraps = slot.wrap[0] if slot.wrap[0] == slot.wrap[1] else f"{slot.wrap[0]} along U, {slot.wrap[1]} along V"
    return f"{what}; {way}, {wraps}"


def _bound(
    graph: Graph,
    choices: Choices,
    module: Module,
    outputs: Mapping[str, list[str]],
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[str, ReadTexture],
) -> Bound:
    opened = {(p.node, p.input): p.name for p in graph.parameters}
    return {
        "format": "velvet-moth-export",
        "version": 1,
        "title": graph.title,
        "language": choices.dialect.name,
        "shape": choices.shape,
        "functions": {
            f"{choices.prefix}{name}": [_input(one) for one in inputs] for name, inputs in module.inputs.items()
        },
        "results": {f"{choices.prefix}{name}": members for name, members in outputs.items()},
        "values": [_value(graph, member, values, opened) for member in module.values],
        "switches": [
            {
                "name": one.name,
                "holds": _holds(graph, one.key),
                "value": one.value,
                "parameter": opened.get(_place(one.key)[:2]),
            }
            for one in module.switches
        ],
        "textures": [_texture(graph, slot, values, textures, opened) for slot in module.samplers],
        "parameters": _parameters(graph, choices, module),
        "time": {"seconds": graph.timing.length, "frames_per_second": graph.timing.rate},
    }


def _value(
    graph: Graph,
    member: ValueMember,
    values: Mapping[tuple[str, str], Value],
    opened: Mapping[tuple[str, str], str],
) -> ValueRead:
    node, plain, _ = _place(member.key)
    assert isinstance(member.key, tuple)
    held = values[member.key]
    assert not isinstance(held, str)
    return {
        "name": member.name,
        "floats": member.type.width,
        "offset": member.offset,
        "holds": _holds(graph, member.key),
        "value": [float(v) for v in held],
        "parameter": opened.get((node, plain)),
    }


def _texture(
    graph: Graph,
    slot: SamplerSlot,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[str, ReadTexture],
    opened: Mapping[tuple[str, str], str],
) -> TextureRead:
    if isinstance(slot.key, str):
        found, holds, parameter = slot.key, STAGE_TEXTURES[slot.key], None
    else:
        assert isinstance(slot.key, tuple)
        found, holds = str(values[slot.key]) or stand_ins(graph)[slot.key], _holds(graph, slot.key)
        parameter = opened.get((slot.key[0], slot.key[1]))
    read = textures.get(found)
    return {
        "name": slot.name,
        "texture": found,
        "file": read.name if read else None,
        "holds": holds,
        "role": ROLES[read.reading.role].words if read else WORDS.get(found, "the stage's own"),
        "wrap": slot.wrap,
        "filter": slot.filter,
        "parameter": parameter,
    }


def _parameters(graph: Graph, choices: Choices, module: Module) -> list[ParameterRead]:
    keyed = graph.pieces_of(choices.variant)
    found: list[ParameterRead] = []
    for parameter in graph.parameters:
        place = (parameter.node, parameter.input)
        members = [one.name for one in module.values if _place(one.key)[:2] == place]
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
