"""Problems of how a graph is wired: types that do not fit, values that come too late, things that are missing."""

from collections.abc import Mapping

import numpy as np

from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.stand_ins import WORDS, stand_ins
from velvet_moth.core.editing.mends import Mend, conversions
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import P_NUMBER, P_SURFACE, P_TEXTURE
from velvet_moth.core.lowering.lowered import LoweredGraph, Mismatch, PerPixelInVertexShader
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import RemoveNodes, SetValue, Unwire, Wire
from velvet_moth.core.workbench.problems.record import Problem, Severity, end

_CHANNELS = ("red", "green", "blue", "alpha")


def textures_read_by(graph: Graph, node: Node) -> dict[str, str]:
    """The ids of the textures a node reads by its inputs, its own or those of a wired Texture choice; empty where there are none."""
    found = {}
    for key, declared in node.kind.inputs.items():
        if declared.type is P_TEXTURE:
            source = node.wires.get(key)
            found[key] = texture_read_by(graph, graph.nodes[source.node]) if source else str(node.value(key))
    return found


def texture_read_by(graph: Graph, node: Node) -> str:
    """The id of the first texture a node reads; empty where there is none."""
    return next(iter(textures_read_by(graph, node).values()), "")


def _channel_words(texture: Texture, index: int) -> tuple[bool, str]:
    """Whether a channel carries anything, and what it runs over."""
    values = texture.levels[0][index]
    low, high = float(np.min(values)), float(np.max(values))
    if high - low < 1.5 / 255:
        return False, f"{end(low)} everywhere"
    return True, f"{end(low)} … {end(high)}"


def channel_mends(
    graph: Graph, source: Source, node: str, key: str, textures: Mapping[str, Texture]
) -> tuple[Mend, ...]:
    """Each single channel of a texture, those that carry something first, for an input that takes one number."""
    reader = graph.nodes[source.node]
    if not set(_CHANNELS) <= set(reader.kind.outputs):
        return ()
    texture = textures.get(texture_read_by(graph, reader))
    told = [
        (name, *(_channel_words(texture, index) if texture else (True, ""))) for index, name in enumerate(_CHANNELS)
    ]
    told.insert(0, ("luminance", True, ""))
    return tuple(
        Mend(f"Use {name}" + (f" ({words})" if words else ""), Wire(node, key, source.node, name))
        for name, _, words in sorted(told, key=lambda t: not t[1])
        if name in reader.kind.outputs
    )


def mismatch_problem(graph: Graph, found: Mismatch, textures: Mapping[str, Texture]) -> Problem:
    """A wire whose value the input does not take, with nodes that convert it."""
    node, source = graph.nodes[found.node], graph.nodes[found.source.node]
    name = node.kind.inputs[found.input].name
    mends = conversions(graph, found.source, found.given.name, node.id, found.input, found.taken.name)
    if found.taken is P_NUMBER:
        mends = channel_mends(graph, found.source, node.id, found.input, textures) or mends
    advice = ": " + " or ".join(m.words.split(" (")[0].lower() for m in mends[:3]) if mends else ""
    return Problem(
        "type-mismatch",
        "error",
        node=node.id,
        input=found.input,
        what=f"This input takes {found.taken.words}; the wire carries {found.given.words}{advice}.",
        where=f"{source.name} to {name} of {node.name}",
        mends=(*mends, Mend("Remove the wire", Unwire(node.id, found.input))),
    )


def per_pixel_problem(graph: Graph, found: PerPixelInVertexShader) -> Problem:
    """A value that exists for single pixels, wired to where vertices are moved."""
    node, source = graph.nodes[found.node], graph.nodes[found.source.node]
    what = (
        "The form is moved vertex by vertex, and this value exists for single pixels only: it reads a texture at a"
        " level chosen by the screen, or what lies behind, or which side is seen. The form stays in place."
    )
    return Problem(
        "per-pixel",
        "error",
        node=node.id,
        input=found.input,
        what=what,
        where=f"{source.name} to {node.kind.inputs[found.input].name} of {node.name}",
        mends=(Mend("Remove the wire", Unwire(node.id, found.input)),),
    )


def missing_inputs(lowered: LoweredGraph, textures: Mapping[str, Texture]) -> list[Problem]:
    """Textures that are not chosen or gone, and whole surfaces that are not wired: what stands in for each."""
    problems = []
    missing = stand_ins(lowered.graph)
    for node in lowered.graph.nodes.values():
        for key, declared in node.kind.inputs.items():
            if key in node.wires:
                continue
            where = f"{declared.name} of {node.name}"
            if declared.type is P_TEXTURE and node.value(key) not in textures:
                stand_in = WORDS[missing[node.id, key]]
                is_gone = bool(node.value(key))
                what = f"{'The chosen texture is gone' if is_gone else 'No texture is chosen'}; it reads as {stand_in}."
                severity: Severity = "warning" if is_gone else "note"
                mends = (Mend("Leave it empty", SetValue(node.id, key, None)),) if is_gone else ()
                problems.append(
                    Problem("missing-texture", severity, node=node.id, input=key, what=what, where=where, mends=mends)
                )
            elif declared.type is P_SURFACE and not declared.fills and node.id != DOCK:
                what = f"No surface is wired to {declared.name}; a plain grey one stands in."
                problems.append(Problem("missing-surface", "note", node.id, key, what, where))
    return problems


def mended_parts(graph: Graph) -> list[Problem]:
    """What of the kept document could not be read as it stands."""
    return [
        Problem(
            "mended-document",
            "warning",
            DOCK,
            "",
            f"A part of this graph could not be read and was left out or made to fit: {note}. With your next edit, the"
            " graph as it was is kept among its versions.",
            "The graph",
        )
        for note in graph.mended
    ]


def unknown_nodes(graph: Graph) -> list[Problem]:
    """Nodes whose type nobody knows here: a motif that is gone, or a node of a newer version."""
    return [
        Problem(
            "unknown-node",
            "error",
            node=node.id,
            input="",
            what=f"This program knows no node of the type {node.type}; its outputs read as middle grey. Its wiring is kept.",
            where=node.name,
            mends=(Mend("Remove the node", RemoveNodes((node.id,))),),
        )
        for node in graph.nodes.values()
        if node.outline is not None and node.type not in graph.motifs
    ]
