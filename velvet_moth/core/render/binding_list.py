"""All that an engine must bind to draw a graph's shaders, as plain data for ``parameters.json``."""

from collections.abc import Mapping
from dataclasses import asdict, dataclass
from itertools import islice
from typing import Any

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.document.stand_ins import WORDS
from velvet_moth.core.document.tracks.pieces import pieces_to_json
from velvet_moth.core.document.tracks.targets import is_of_scene
from velvet_moth.core.document.values import Value
from velvet_moth.core.emitting.emitter import Emitter
from velvet_moth.core.emitting.per_instance import ACROSS, INSTANCE_TEXTURES
from velvet_moth.core.language.interpreters.glsl import SamplerSlot, Shader, Slot
from velvet_moth.core.language.interpreters.glsl.outside import ATTRIBUTES, SUN_PASS, UNIFORMS, Given
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.stage_textures import STAGE_TEXTURES
from velvet_moth.core.pictures.reading import ROLES, Reading
from velvet_moth.core.render.shading import bound_textures, instance_shaders, values_array

_OUTLINE = "the alpha of a colour texture that is an outline is scaled so that each level covers the same share"
_COLOUR_LEVELS = (
    f"stored as sRGB; each pixel of a level is the mean of four as linear light, weighed by alpha; {_OUTLINE}"
)
_PLAIN_LEVELS = "stored as plain numbers; each pixel of a level is the mean of four"


@dataclass(frozen=True)
class ReadTexture:
    """A texture of a graph as an engine finds it: the name of its file, and how it is read."""

    name: str
    reading: Reading


def binding_list(
    graph: Graph,
    shader: Shader,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[str, ReadTexture],
    variant: str = "",
) -> dict[str, Any]:
    """The values array with what each of its places holds, textures, parameters, uniforms, attributes, and keys over time.

    ``textures`` are those of the graph by id; what has none there is one of those that stand in.
    """
    read = bound_textures(graph, shader, values)
    opened = {(p.node, p.input): p.name for p in graph.parameters}
    samplers = {s.key: s.name for s in shader.samplers}
    keyed = graph.pieces_of(variant)
    needed = {u.name for u in (*shader.in_vertices.uniforms, *shader.in_pixels.uniforms)}
    return {
        "title": graph.title,
        "kind": {"key": graph.kind, "name": KINDS[graph.kind].name, "casts_shadows": KINDS[graph.kind].casts},
        "values": values_array(shader, values),
        "places": [_place(graph, slot, opened) for slot in shader.slots],
        "parameters": [
            {
                "name": p.name,
                "value": _held(values, p.node, p.input),
                "low": p.low,
                "high": p.high,
                "step": p.step,
                "unit": p.unit,
                "offsets": [s.offset for s in shader.slots if _input_of(s) == (p.node, p.input)],
                "sampler": samplers.get((p.node, p.input)),
                **({"track": pieces_to_json(keyed[p.id])} if p.id in keyed else {}),
            }
            for p in graph.parameters
        ],
        "time": {"seconds": graph.timing.length, "frames_per_second": graph.timing.rate},
        "scene": {target: pieces_to_json(pieces) for target, pieces in keyed.items() if is_of_scene(target)},
        "samplers": [_sampler(slot, read[slot.name], textures, opened) for slot in shader.samplers],
        "uniforms": [_written(u) for u in UNIFORMS if u.name in needed] + [_written(SUN_PASS)],
        "attributes": [_written(a) for a in ATTRIBUTES],
        **({"instances": _instances(graph.emitter)} if graph.emitter.is_on else {}),
    }


def _instances(emitter: Emitter) -> dict[str, Any]:
    """What is drawn before the form, pass by pass, into textures of 32-bit floats that the vertex shader reads."""
    textures = iter(INSTANCE_TEXTURES)
    return {
        "count": emitter.slots,
        "across": ACROSS,
        "emitter": asdict(emitter),
        "inputs": {name: value.ravel().tolist() for name, value in emitter.inputs.items()},
        "passes": [
            {
                "fragment": name,
                "textures": list(islice(textures, shader.pictures)),
                "samplers": [{"name": s.name, "holds": STAGE_TEXTURES[str(s.key)]} for s in shader.samplers],
                "uniforms": [_written(u) for u in shader.in_pixels.uniforms],
            }
            for name, shader in instance_files(emitter).items()
        ],
    }


def instance_files(emitter: Emitter) -> dict[str, Shader]:
    """The shaders that paint what each instance knows, by the names of the files they are written to; none where it is off."""
    return {f"instances_{number}.glsl": shader for number, shader in enumerate(instance_shaders(emitter), start=1)}


def _input_of(slot: Slot) -> tuple[str, str]:
    assert isinstance(slot.key, tuple)
    return slot.key[0], slot.key[1].partition("#")[0]


def _held(values: Mapping[tuple[str, str], Value], node: str, key: str) -> Any:
    """The value of an input; that of a list of stops is a list of lists."""
    if (node, key) in values:
        value = values[node, key]
        return value if isinstance(value, str) else list(value)
    return [list(value) for (of, place), value in values.items() if of == node and place.partition("#")[0] == key]


def _written(given: Given) -> dict[str, str]:
    return {"name": given.name, "type": given.type, "holds": given.words}


def _place(graph: Graph, slot: Slot, opened: Mapping[tuple[str, str], str]) -> dict[str, Any]:
    """One place of the values array; a stop of a list is named with its number."""
    assert isinstance(slot.key, tuple)
    node, key = slot.key
    plain, _, stop = key.partition("#")
    card = graph.nodes[node]
    of = card.kind.inputs[plain].name + (f", stop {int(stop) + 1}" if stop else "")
    return {
        "offset": slot.offset,
        "floats": slot.width,
        "card": card.name,
        "node": node,
        "input": key,
        "holds": f"{of} of {card.name}",
        "parameter": opened.get((node, plain)),
    }


def _sampler(
    slot: SamplerSlot, texture: str, textures: Mapping[str, ReadTexture], opened: Mapping[tuple[str, str], str]
) -> dict[str, Any]:
    made: dict[str, Any] = {
        "name": slot.name,
        "texture": texture,
        "wrap": list(slot.wrap),
        "filter": "linear between pixels and levels" if slot.filter == "smooth" else "nearest",
        "parameter": opened.get(slot.key) if isinstance(slot.key, tuple) else None,
    }
    if isinstance(slot.key, str):
        return {**made, "role": "stage", "holds": STAGE_TEXTURES[slot.key], "levels": "none"}
    found = textures.get(texture)
    if found is None:
        missing = "no texture is chosen" if texture in WORDS else "this texture is not in the graph's file"
        return {**made, "role": "stand-in", "holds": missing, "levels": "none"}
    role = ROLES[found.reading.role]
    return {
        **made,
        "file": found.name,
        "role": role.key,
        "holds": role.words,
        "green": found.reading.green if role.is_signed else None,
        "levels": _COLOUR_LEVELS if role.is_colour else _PLAIN_LEVELS,
    }
