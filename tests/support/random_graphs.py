"""Whole graphs drawn by hypothesis: any nodes, wired and set in any way that fits."""

from typing import Any

from hypothesis import strategies as st

from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.document.graph import Graph, Node, Source, empty_graph
from velvet_moth.core.document.parts import PARTS
from velvet_moth.core.language.types import P_BOOL, P_FLEXIBLE, P_SURFACE, P_TEXTURE, P_VEC3, can_carry
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import AddNode

MOST_NODES = 12

KINDS = [
    k
    for k in sorted(CATALOGUE.values(), key=lambda k: k.key)
    if not k.hidden and not k.role and all(p.type is not P_SURFACE for p in [*k.inputs.values(), *k.outputs.values()])
]


def _value(draw: st.DrawFn, port: Input) -> Any:
    if port.type is P_BOOL:
        return (float(draw(st.booleans())),)
    if port.type.stop:
        return port.default
    low, high = (-1.0, 1.0) if port.type is P_VEC3 else (port.low, min(port.high, 16.0))
    width = 1 if port.type is P_FLEXIBLE else len(port.default)
    steps = st.integers(0, 64)
    return tuple(low + (high - low) * draw(steps) / 64 for _ in range(width))


def _fitting(graph: Graph, port: Input) -> list[Source]:
    """What fits the input, of each output the whole or a part."""
    given = [(source, type_) for source, type_ in lower(graph).types.items() if source.node != DOCK]
    whole = [source for source, type_ in given if can_carry(type_, port.type)]
    parts = [
        Source(source.node, source.output, part.key)
        for source, type_ in given
        for part in PARTS.values()
        if type_ in part.given and can_carry(part.made, port.type)
    ]
    return [*whole, *parts]


@st.composite
def graphs(draw: st.DrawFn) -> Graph:
    """A graph of up to MOST_NODES nodes, each reading those before it where something fits."""
    graph = empty_graph("Random")
    for number in range(draw(st.integers(2, MOST_NODES))):
        kind: NodeType = draw(st.sampled_from(KINDS))
        wires, values = {}, {}
        for key, port in kind.inputs.items():
            sources = _fitting(graph, port) if port.wirable else []
            if sources and draw(st.booleans()):
                wires[key] = draw(st.sampled_from(sources))
            elif port.type is not P_TEXTURE and not port.source:
                values[key] = _value(draw, port)
        settings = {
            key: draw(st.sampled_from(s.choices)) if s.choices else draw(st.integers(s.low, min(s.high, s.low + 2)))
            for key, s in kind.settings.items()
        }
        graph, _ = AddNode(Node(f"n{number}", kind.key, values, settings, wires)).apply(graph)
    return graph
