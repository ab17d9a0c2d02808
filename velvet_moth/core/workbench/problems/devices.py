"""Limits of devices: what OpenGL ES 3.0 promises a shader, and the cards that take more."""

from collections.abc import Callable
from dataclasses import dataclass

from velvet_moth.core.document.graph import Graph
from velvet_moth.core.language.interpreters.glsl import Needs, Shader
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.render.shading import drawing
from velvet_moth.core.workbench.problems.record import Problem

# No stage of its own reads more than this, so smaller graphs need not be written to be judged.
_OWN_TEXTURES, _OWN_VECTORS = 4, 64
_NAMED_CARDS = 6


@dataclass(frozen=True)
class Limit:
    """One promise. Source: OpenGL ES 3.0 specification, tables 6.31 to 6.33, the least a device may have."""

    most: int
    needed: Callable[[Needs], int]
    what: str
    mend: str


_TEXTURES = "textures at once"
_VECTORS = "vectors of values"
_FEWER_TEXTURES = "Put masks into the channels of one texture, or pictures into an atlas."
_FEWER_VALUES = "Wire values that are always equal from one card, or export with plain values folded."


def _units(needs: Needs) -> int:
    return len(needs.samplers)


def _vectors(needs: Needs) -> int:
    return needs.vectors


IN_PIXELS = (Limit(16, _units, _TEXTURES, _FEWER_TEXTURES), Limit(224, _vectors, _VECTORS, _FEWER_VALUES))
IN_VERTICES = (Limit(16, _units, _TEXTURES, _FEWER_TEXTURES), Limit(256, _vectors, _VECTORS, _FEWER_VALUES))


def beyond_devices(graph: Graph, shader: Shader) -> list[Problem]:
    """What of a shader some devices need not have, each with the cards that take most of it."""
    found = []
    for stage, needs, limits in (
        ("each pixel", shader.in_pixels, IN_PIXELS),
        ("each vertex", shader.in_vertices, IN_VERTICES),
    ):
        for limit in limits:
            taken = limit.needed(needs)
            if taken > limit.most:
                keys = [s.key for s in (needs.samplers if limit.needed is _units else shader.slots)]
                found.append(_problem(graph, stage, limit, taken, _cards(graph, keys)))
    return found


def _cards(graph: Graph, keys: list[object]) -> list[str]:
    """The nodes that hold what some places of values or textures carry; a motif's stand for those inside."""
    held: dict[str, None] = {}
    for key in keys:
        if not isinstance(key, tuple):
            continue
        motif, _, inner = str(key[0]).rpartition("/")
        nodes = [n.id for n in graph.nodes.values() if n.type == motif] if motif else [inner]
        held.update((node, None) for node in nodes if node in graph.nodes)
    return list(held)


def _problem(graph: Graph, stage: str, limit: Limit, taken: int, cards: list[str]) -> Problem:
    names = [graph.nodes[c].name for c in cards]
    more = len(names) - _NAMED_CARDS
    listed = ", ".join(names[:_NAMED_CARDS]) + (f" and {more} more" if more > 0 else "")
    what = (
        f"The shader takes {taken} {limit.what} for {stage}, the stage's own among them; OpenGL ES 3.0 promises "
        f"{limit.most}. Some phones will not draw it. {limit.mend}"
    )
    return Problem("device-limit", "warning", node=cards[-1] if cards else DOCK, input="", what=what, where=listed)


def device_problems(lowered: LoweredGraph) -> list[Problem]:
    """What the shader of a graph takes beyond what devices promise."""
    graph = lowered.graph
    textures = len(graph.own_textures()) + sum(len(m.graph.own_textures()) for m in graph.used_motifs().values())
    values = sum(len(n.unwired) for n in graph.nodes.values())
    if textures + _OWN_TEXTURES <= IN_PIXELS[0].most and values + _OWN_VECTORS <= IN_PIXELS[1].most:
        return []
    return beyond_devices(graph, drawing(lowered).shader)
