"""Making a motif out of chosen nodes, and taking a use of one apart again."""

from collections.abc import Collection
from dataclasses import dataclass, replace

from velvet_moth.core.errors import OperationRefused
from velvet_moth.core.graph import Graph, Motif, Node, Source, empty_graph
from velvet_moth.core.lower import lower
from velvet_moth.core.motifs import outline_of
from velvet_moth.core.nodes.motifs import INPUT_NODES, OUTPUT_NODES
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import AddNode, Batch, Operation, RemoveNodes, Wire
from velvet_moth.core.types import P_FLEXIBLE, P_SURFACE


@dataclass(frozen=True)
class Extraction:
    """A motif made out of chosen nodes, and what puts its first use in their place."""

    motif: Graph
    operation: Operation


def _crossing(graph: Graph, chosen: Collection[str]) -> tuple[list[Source], list[Source]]:
    """Sources outside that the chosen nodes read, and their own outputs read from outside, each once."""
    inward: dict[Source, None] = {}
    outward: dict[Source, None] = {}
    for node in graph.nodes.values():
        for source in node.wires.values():
            if node.id in chosen and source.node not in chosen:
                inward[source] = None
            elif node.id not in chosen and source.node in chosen:
                outward[source] = None
    return list(inward), list(outward)


def extract(graph: Graph, chosen: Collection[str], title: str, type_: str) -> Extraction:
    """Makes a motif of ``chosen`` nodes; what they read and give across their edge becomes its ports.

    Parameters of the chosen nodes become plain values inside. OperationRefused where that cannot be.
    """
    inside = [graph.nodes[key] for key in chosen if key in graph.nodes and key != DOCK]
    keys = {n.id for n in inside}
    if not inside:
        raise OperationRefused("No node is selected.", graph.title, "Select the nodes that belong together.")
    inward, outward = _crossing(graph, keys)
    if not outward:
        raise OperationRefused(
            "Nothing outside reads these nodes.", graph.title, "Wire one of them on first: that becomes the output."
        )
    for source in outward:
        if any(graph.reaches(s.node, source.node) for s in inward):
            raise OperationRefused(
                "A wire leaves these nodes and comes back to them.",
                graph.nodes[source.node].name,
                "Select the nodes between as well.",
            )
    lowered = lower(graph)
    motif = replace(empty_graph(title), motif=type_, motifs=graph.motifs)
    ports: dict[Source, str] = {}
    for number, source in enumerate(inward, 1):
        found = lowered.types[source]
        if found.name not in INPUT_NODES:
            raise OperationRefused(
                f"A motif cannot take {found.words} from outside.",
                graph.nodes[source.node].name,
                "Select that node as well, so that it lies inside.",
            )
        made = Node(
            f"in_{number}", INPUT_NODES[found.name], label=_port_name(graph, source), place=(0.0, 90.0 * number)
        )
        motif = motif.with_node(made)
        ports[source] = made.id
    for node in inside:
        wires = {
            k: s if s.node in keys else Source(ports[s], next(iter(motif.nodes[ports[s]].kind.outputs)))
            for k, s in node.wires.items()
        }
        motif = motif.with_node(replace(node, wires=wires, place=None))
    results: dict[Source, str] = {}
    for number, source in enumerate(outward, 1):
        kind = OUTPUT_NODES["surface" if lowered.types[source] is P_SURFACE else P_FLEXIBLE.name]
        made = Node(
            f"out_{number}",
            kind,
            wires={"value": source},
            label=_port_name(graph, source),
            place=(900.0, 90.0 * number),
        )
        motif = motif.with_node(made)
        results[source] = made.id
    use = next(f"motif_use_{i}" for i in range(1, len(graph.nodes) + 2) if f"motif_use_{i}" not in graph.nodes)
    node = Node(
        use,
        type_,
        wires={ports[s]: s for s in inward},
        outline=outline_of(Motif(type_, motif)),
        place=inside[0].place,
    )
    rewired = [
        Wire(reader, key, use, results[s])
        for source in outward
        for reader, key, s in graph.readers(source.node)
        if s == source and reader not in keys
    ]
    steps: tuple[Operation, ...] = (AddNode(node), *rewired, RemoveNodes(tuple(sorted(keys))))
    return Extraction(motif, Batch(steps, f"made the motif {title}"))


def _port_name(graph: Graph, source: Source) -> str:
    node = graph.nodes[source.node]
    output = node.kind.outputs[source.output]
    return node.name if len(node.kind.outputs) == 1 else f"{node.name}: {output.name}"[:80]


def unpacked(graph: Graph, key: str) -> Operation:
    """What replaces a use of a motif by the nodes inside it, its inputs' defaults kept as values."""
    use = graph.nodes[key]
    motif = graph.motifs.get(use.type)
    if motif is None:
        raise OperationRefused("This node is not a motif of the project.", use.name, "Choose a motif.")
    inner = motif.graph
    ids: dict[str, str] = {}
    for node in inner.nodes.values():
        if not node.kind.role and node.id != DOCK:
            number = 1
            while f"{node.id[:24]}_{number}" in {*graph.nodes, *ids.values()}:
                number += 1
            ids[node.id] = f"{node.id[:24]}_{number}"
    steps: list[Operation] = []
    wires: list[Operation] = []
    for inner_id, made_id in ids.items():
        node = inner.nodes[inner_id]
        values = dict(node.values)
        for name, source in node.wires.items():
            if source.node in ids:
                wires.append(Wire(made_id, name, ids[source.node], source.output))
            elif source.node in use.wires:
                outer = use.wires[source.node]
                wires.append(Wire(made_id, name, outer.node, outer.output))
            else:
                held = use.values.get(source.node) or inner.nodes[source.node].value("value")
                declared = node.kind.inputs[name]
                if declared.type is not P_SURFACE and not declared.source:
                    values[name] = held
        steps.append(AddNode(Node(made_id, node.type, values, node.settings, {}, node.label, None, node.outline)))
    for reader, name, source in graph.readers(key):
        inside = inner.nodes[source.output].wires.get("value") if source.output in inner.nodes else None
        if inside is not None and inside.node in ids:
            wires.append(Wire(reader, name, ids[inside.node], inside.output))
        elif inside is not None and inside.node in use.wires:
            outer = use.wires[inside.node]
            wires.append(Wire(reader, name, outer.node, outer.output))
    return Batch((*steps, *wires, RemoveNodes((key,))), f"unpacked {use.name}")
