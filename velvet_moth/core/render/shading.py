"""From a graph to what is drawn: the shader of its surface or of one output, and what binds to it."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, replace

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Source
from velvet_moth.core.document.stand_ins import stand_ins
from velvet_moth.core.document.values import Value
from velvet_moth.core.emitting.emitter import Emitter
from velvet_moth.core.emitting.per_instance import INSTANCE_OF_PIXEL, per_instance_of
from velvet_moth.core.language.expr import Expr, Structural
from velvet_moth.core.language.interpreters.cost import Cost, cost
from velvet_moth.core.language.interpreters.glsl import Shader, emit, emit_pixels
from velvet_moth.core.language.primitives import select
from velvet_moth.core.language.texture import ALPHA_CUTOFF
from velvet_moth.core.language.types import P_BOOL, P_VEC3
from velvet_moth.core.lighting.channels import CHANNELS, Surface
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.rigs import lamps_of
from velvet_moth.core.lighting.shown import Appearance, appearance, lit_picture, plain_picture, unit_picture
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.render.looks import look_at

# Of see-through instances what covers less than this is left out.
_THINNEST = 0.02


def shown_look(lowered: LoweredGraph, shown: Source | None = None) -> Appearance:
    """The whole surface under the rig, or one output by itself on the form as the surface moves it."""
    picture = None if shown is None else shown_picture(lowered, shown)
    found = appearance(lowered.surface, picture, lowered.graph.kind, lamps_of(lowered.graph.rig))
    in_passes = None if found.is_projected else per_instance_of(lowered.graph.emitter)
    if in_passes is None:
        return found
    instancing = in_passes.reading
    opacity, kind = lowered.surface["opacity"], KINDS[lowered.graph.kind]
    if kind.hides or kind.is_cut or opacity.operator is Structural.CONSTANT:
        return replace(found, instancing=instancing)
    # Of many sheets the nearest is seen: one that is not there must not hide the next.
    return replace(found, instancing=instancing, opacity=opacity - _THINNEST + ALPHA_CUTOFF)


def shown_picture(lowered: LoweredGraph, shown: Source) -> Expr:
    """The display colour of one output looked at by itself.

    Surfaces are lit; vectors of three are shown around mid-grey, since they go below zero.
    """
    way = look_at(shown)
    if way is not None:
        return way.paint(lowered.surface)
    if shown.node == DOCK and shown.output in lowered.surface.channels:
        value = lowered.surface[shown.output]
        return unit_picture(value) if CHANNELS[shown.output].type is P_VEC3 else plain_picture(value)
    if shown not in lowered.outputs:
        raise OperationRefused("This output is no longer in the graph.", f"node {shown.node}", "Show another one.")
    found = lowered.outputs[shown]
    if isinstance(found, Surface):
        return lit_picture(found)
    if lowered.types[shown] is P_VEC3:
        return unit_picture(found)
    if lowered.types[shown] is P_BOOL:
        return plain_picture(select(found, 1.0, 0.0))
    return plain_picture(found)


def instance_shaders(emitter: Emitter) -> list[Shader]:
    """The shaders that paint what each instance of an emitter knows, drawn before the form itself; none where it is off."""
    in_passes = per_instance_of(emitter)
    passes = () if in_passes is None else in_passes.passes
    return [emit_pixels(kept, INSTANCE_OF_PIXEL) for kept in passes]


@dataclass(frozen=True)
class Drawing:
    """A shader with the cost of what it shows, without the lighting."""

    shader: Shader
    cost: Cost


def drawing(lowered: LoweredGraph, shown: Source | None = None) -> Drawing:
    """The shaders of a graph, or of one output of it that is shown, with their cost."""
    found = shown_look(lowered, shown)
    channels = lowered.surface.channels.values() if shown is None else (found.picture,)
    same = shared_textures(lowered.graph)
    further = [filled for _, filled in found.buffers[1:]]
    shader = emit(
        found.picture,
        lowered.names,
        found.offset,
        found.opacity,
        given=found.given,
        same=same,
        further=further,
        instancing=found.instancing,
    )
    return Drawing(shader, cost(channels))


def shared_textures(graph: Graph) -> dict[Hashable, Hashable]:
    """For every place that holds the same texture as one before it, the first such place; those in motifs included.

    What a parameter opens stays by itself: a variant or an engine sets it to another texture.
    """
    opened = {(p.node, p.input) for p in graph.parameters}
    places = [(graph, "")] + [(motif.graph, f"{type_}/") for type_, motif in graph.used_motifs().items()]
    first: dict[Value, Hashable] = {}
    found: dict[Hashable, Hashable] = {}
    for owner, prefix in places:
        for (node, key), _ in owner.own_textures():
            texture, place = owner.nodes[node].value(key), (f"{prefix}{node}", key)
            if texture and place not in opened and first.setdefault(texture, place) is not place:
                found[place] = first[texture]
    return found


def values_array(shader: Shader, values: Mapping[tuple[str, str], Value]) -> list[float]:
    """The contents of the shader's ``values`` array."""
    packed = [0.0] * shader.floats
    for slot in shader.slots:
        assert isinstance(slot.key, tuple)
        value = values[slot.key]
        assert not isinstance(value, str)
        packed[slot.offset : slot.offset + slot.width] = value
    return packed


def bound_textures(graph: Graph, shader: Shader, values: Mapping[tuple[str, str], Value]) -> dict[str, str]:
    """For each sampler of the shader the id of its texture, of one of the stage's own, or of what stands in for it."""
    missing = stand_ins(graph)

    def bound(key: Hashable) -> str:
        if isinstance(key, str):
            return key
        assert isinstance(key, tuple)
        return str(values[key]) or missing[key]

    return {s.name: bound(s.key) for s in shader.samplers}
