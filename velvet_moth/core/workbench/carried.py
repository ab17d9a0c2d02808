"""What the mesh under a graph carries: the names of its channels for ports, and channels that are read and not there."""

from collections.abc import Iterator, Mapping

from velvet_moth.core.document.graph import Graph, Source
from velvet_moth.core.workbench.problems.record import Problem


def _channels(graph: Graph) -> Iterator[tuple[Source, str]]:
    """Every output that gives a channel of the vertex data, and which."""
    for node in graph.nodes.values():
        for output in node.kind.outputs:
            channel = node.kind.vertex_channel(output, dict(node.settled))
            if channel:
                yield Source(node.id, output), channel


def names_on_ports(graph: Graph, carried: Mapping[str, str] | None) -> dict[Source, str]:
    """What outputs mean on this mesh, where somebody has said so."""
    return {source: name for source, channel in _channels(graph) if (name := (carried or {}).get(channel, ""))}


def channels_not_carried(graph: Graph, carried: Mapping[str, str] | None) -> list[Problem]:
    """Wires from channels that the mesh has no numbers for."""
    if carried is None:
        return []
    found = []
    for source, channel in _channels(graph):
        if channel in carried or not any(read == source for _, _, read in graph.readers(source.node)):
            continue
        has = ", ".join(f"{place} ({name})" if name else place for place, name in carried.items()) or "no vertex data"
        what = f"The mesh has no numbers for {channel}: it reads as 1. It has {has}."
        where = f"{graph.nodes[source.node].kind.name}, {channel}"
        found.append(Problem("no-channel", "warning", node=source.node, input="", what=what, where=where, mends=()))
    return found
