"""Motifs: the ports a graph gives as one node, and keeping its uses up to date."""

from collections.abc import Mapping
from dataclasses import replace
from functools import lru_cache

from velvet_moth.core.graph import Graph, Motif, Source
from velvet_moth.core.lower import lower, motif_inputs, motif_outputs
from velvet_moth.core.outline import Outline, OutlinePort


@lru_cache(maxsize=256)
def outline_of(motif: Motif) -> Outline:
    """The ports of a motif, in the order their cards lie from top to bottom."""
    lowered = lower(motif.graph)
    inputs = []
    for node in motif_inputs(motif.graph):
        declared = next(iter(node.kind.outputs.values()))
        value = next(iter(node.kind.inputs.values()), None)
        default = node.value(value.key) if value and value.type.name != "texture" else ()
        low, high = (value.low, value.high) if value else (0.0, 1.0)
        held = () if isinstance(default, str) else default
        inputs.append(OutlinePort(node.id, node.name, declared.type.name, held, low, high))
    outputs = [
        OutlinePort(n.id, n.name, lowered.types[Source(n.id, next(iter(n.kind.outputs)))].name)
        for n in motif_outputs(motif.graph)
    ]
    count = sum(n.kind.role == "" for n in motif.graph.nodes.values()) - 1
    sentence = f"A motif of {count} node{'' if count == 1 else 's'}; edited once, it changes wherever it is used."
    return Outline(motif.graph.title, tuple(inputs), tuple(outputs), sentence)


def refreshed(graph: Graph, motifs: Mapping[str, Motif]) -> Graph:
    """The graph with its uses of motifs brought up to date; a port that is gone stays while it is wired."""
    outlines = {type_: outline_of(motif) for type_, motif in motifs.items()}
    nodes = dict(graph.nodes)
    for key, node in graph.nodes.items():
        if node.type in outlines and node.outline is not None:
            fresh = outlines[node.type]
            has = {p.key for p in (*fresh.inputs, *fresh.outputs)}
            read = {s.output for _, _, s in graph.readers(key)}
            gone_in = tuple(p for p in node.outline.inputs if p.key in node.wires and p.key not in has)
            gone_out = tuple(p for p in node.outline.outputs if p.key in read and p.key not in has)
            whole = replace(fresh, inputs=(*fresh.inputs, *gone_in), outputs=(*fresh.outputs, *gone_out))
            nodes[key] = replace(node, outline=whole)
    return replace(graph, nodes=nodes, motifs=motifs)


def uses(graph: Graph, type_: str) -> list[str]:
    """The nodes that are uses of a motif."""
    return [n.id for n in graph.nodes.values() if n.type == type_]


def reaches(motifs: Mapping[str, Motif], start: str, goal: str) -> bool:
    """Whether the motif ``start`` uses ``goal`` somewhere inside, or is it."""
    if start == goal:
        return True
    used = {n.type for n in motifs[start].graph.nodes.values()} & set(motifs) if start in motifs else set()
    return any(reaches(motifs, inner, goal) for inner in used)


def resolved(graphs: Mapping[str, Graph]) -> dict[str, Motif]:
    """The motifs of a project from their graphs as they were kept, by type; each knows those inside it."""
    done: dict[str, Motif] = {}

    def resolve(type_: str, above: frozenset[str]) -> None:
        graph = graphs[type_]
        for inner in sorted({n.type for n in graph.nodes.values()} & set(graphs) - set(done)):
            # What was kept has no cycle; should a file bring one, it is cut here and shows as unknown.
            if inner not in above:
                resolve(inner, above | {inner})
        done[type_] = Motif(type_, replace(refreshed(graph, dict(done)), motif=type_))

    for type_ in sorted(graphs):
        if type_ not in done:
            resolve(type_, frozenset({type_}))
    return done
