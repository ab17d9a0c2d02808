"""Making a motif out of chosen nodes, and taking a use of one apart again."""

from collections.abc import Collection
from dataclasses import dataclass, field, replace

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Motif, Node, Parameter, Source, empty_graph
from velvet_moth.core.document.parts import part_of_part
from velvet_moth.core.document.values import Value, fresh_id
from velvet_moth.core.language.types import P_FLEXIBLE, P_SURFACE, PortType
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.motifs import outline_of
from velvet_moth.core.nodes.motifs import INPUT_NODES, OUTPUT_NODES
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import AddNode, Batch, Operation, RemoveNodes, Wire
from velvet_moth.core.operations.parameters import restoring


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


def _becomes_a_port(graph: Graph, parameter: Parameter) -> bool:
    node = graph.nodes[parameter.node]
    declared = node.kind.inputs[parameter.input]
    return declared.wirable and parameter.input not in node.wires and _port_node(node, parameter.input) != ""


def _port_node(node: Node, key: str) -> str:
    """The node that lets in what an input carries by itself; empty where there is none."""
    value = node.value(key)
    if isinstance(value, str):
        return INPUT_NODES["texture"]
    name = node.kind.inputs[key].type.name
    by_width = {1: "number", 2: "vec2", 3: "colour"}.get(len(value), "")
    return INPUT_NODES.get(by_width if name == "flexible" else name, "")


def _inside(graph: Graph, chosen: Collection[str]) -> set[str]:
    """The chosen nodes, without those whose parameter no port can take: they stay outside and are read from there."""
    found = {key for key in chosen if key in graph.nodes and key != DOCK}
    return found - {p.node for p in graph.parameters if p.node in found and not _becomes_a_port(graph, p)}


@dataclass
class _Making:
    """A motif while it is put together: ports by what they stand for."""

    graph: Graph
    motif: Graph
    sources: dict[Source, str] = field(default_factory=dict)
    opened: dict[tuple[str, str], str] = field(default_factory=dict)
    results: dict[Source, str] = field(default_factory=dict)

    def _port(self, type_: str, label: str, value: Value | None = None) -> str:
        number = len(self.sources) + len(self.opened) + 1
        values = {} if value is None else {"value": value}
        self.motif = self.motif.with_node(Node(f"in_{number}", type_, values, label=label, place=(0.0, 90.0 * number)))
        return f"in_{number}"

    def take(self, source: Source, found: PortType) -> None:
        """A port for what is read from outside."""
        if found.name not in INPUT_NODES:
            raise OperationRefused(
                f"A motif cannot take {found.words} from outside.",
                self.graph.nodes[source.node].name,
                "Select that node as well, so that it lies inside.",
            )
        self.sources[source] = self._port(INPUT_NODES[found.name], _port_name(self.graph, source))

    def open(self, parameter: Parameter) -> None:
        """A port for what a parameter opened, so that it stays a parameter of the use."""
        node = self.graph.nodes[parameter.node]
        port = self._port(_port_node(node, parameter.input), parameter.name, node.value(parameter.input))
        self.opened[parameter.node, parameter.input] = port

    def hold(self, node: Node, keys: Collection[str]) -> None:
        """A chosen node, its wires from outside coming through the ports."""

        def through(port: str) -> Source:
            return Source(port, next(iter(self.motif.nodes[port].kind.outputs)))

        wires = {k: s if s.node in keys else through(self.sources[s]) for k, s in node.wires.items()}
        wires.update({key: through(port) for (owner, key), port in self.opened.items() if owner == node.id})
        self.motif = self.motif.with_node(replace(node, wires=wires, place=None))

    def give(self, source: Source, is_surface: bool) -> None:
        """A port for what is read by others outside."""
        number = len(self.results) + 1
        self.results[source] = f"out_{number}"
        self.motif = self.motif.with_node(
            Node(
                f"out_{number}",
                OUTPUT_NODES["surface" if is_surface else P_FLEXIBLE.name],
                wires={"value": source},
                label=_port_name(self.graph, source),
                place=(900.0, 90.0 * number),
            )
        )

    def use(self, key: str, place: tuple[float, float] | None) -> tuple[Node, list[Operation]]:
        """The motif's first use, with the parameters that it keeps."""
        graph, type_ = self.graph, self.motif.motif
        values = {port: graph.nodes[node].value(name) for (node, name), port in self.opened.items()}
        wires = {port: source for source, port in self.sources.items()}
        node = Node(key, type_, values, wires=wires, outline=outline_of(Motif(type_, self.motif)), place=place)
        kept: list[Operation] = []
        for p in graph.parameters:
            port = self.opened.get((p.node, p.input))
            if port is not None:
                kept.append(replace(restoring(graph, p), parameter=replace(p, node=key, input=port)))
        return node, kept


def extract(graph: Graph, chosen: Collection[str], title: str, type_: str) -> Extraction:
    """Makes a motif of ``chosen`` nodes; what they read and give across their edge becomes its ports.

    Parameters inside stay parameters, of the use. OperationRefused where it cannot be.
    """
    keys = _inside(graph, chosen)
    if not keys:
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
    making = _Making(graph, replace(empty_graph(title), motif=type_, motifs=graph.motifs))
    for source in inward:
        making.take(source, lowered.type_of(source) or lowered.types[source.whole])
    for parameter in graph.parameters:
        if parameter.node in keys:
            making.open(parameter)
    for key in sorted(keys):
        making.hold(graph.nodes[key], keys)
    for source in outward:
        making.give(source, lowered.type_of(source) is P_SURFACE)
    use = next(f"motif_use_{i}" for i in range(1, len(graph.nodes) + 2) if f"motif_use_{i}" not in graph.nodes)
    node, kept = making.use(use, graph.nodes[min(keys)].place)
    rewired = [
        Wire(reader, key, use, making.results[s])
        for source in outward
        for reader, key, s in graph.readers(source.node)
        if s == source and reader not in keys
    ]
    steps: tuple[Operation, ...] = (AddNode(node), *rewired, RemoveNodes(tuple(sorted(keys))), *kept)
    return Extraction(making.motif, Batch(steps, f"made the motif {title}"))


def _port_name(graph: Graph, source: Source) -> str:
    node = graph.nodes[source.node]
    output = node.kind.outputs[source.output]
    return node.name if len(node.kind.outputs) == 1 else f"{node.name}: {output.name}"[:80]


def _through(source: Source, part: str) -> Source:
    """The wire that takes ``part`` of what another wire takes."""
    return replace(source, part=part_of_part(source.part, part))


def unpacked(graph: Graph, key: str) -> Operation:
    """What replaces a use of a motif by the nodes inside it, its values and parameters kept where they arrive."""
    use = graph.nodes[key]
    motif = graph.motifs.get(use.type)
    if motif is None:
        raise OperationRefused("This node is not a motif of the project.", use.name, "Choose a motif.")
    inner = motif.graph
    ids: dict[str, str] = {}
    for node in inner.nodes.values():
        if not node.kind.role and node.id != DOCK:
            ids[node.id] = fresh_id(node.id, {*graph.nodes, *ids.values()})
    steps: list[Operation] = []
    wires: list[Operation] = []
    kept: dict[str, Operation] = {}
    for inner_id, made_id in ids.items():
        node = inner.nodes[inner_id]
        values = dict(node.values)
        for name, source in node.wires.items():
            if source.node in ids:
                wires.append(Wire.of(made_id, name, replace(source, node=ids[source.node])))
            elif source.node in use.wires:
                wires.append(Wire.of(made_id, name, _through(use.wires[source.node], source.part)))
            else:
                held = use.values.get(source.node) or inner.nodes[source.node].value("value")
                declared = node.kind.inputs[name]
                if declared.type is not P_SURFACE and not declared.source:
                    values[name] = held
                    opened = graph.parameter_at(key, source.node)
                    if opened is not None and opened.id not in kept:
                        moved = replace(opened, node=made_id, input=name)
                        kept[opened.id] = replace(restoring(graph, opened), parameter=moved)
        steps.append(
            AddNode(
                Node(
                    made_id,
                    node.type,
                    values=values,
                    settings=node.settings,
                    wires={},
                    label=node.label,
                    place=None,
                    outline=node.outline,
                )
            )
        )
    for reader, name, source in graph.readers(key):
        inside = inner.nodes[source.output].wires.get("value") if source.output in inner.nodes else None
        if inside is not None and inside.node in ids:
            wires.append(Wire.of(reader, name, _through(replace(inside, node=ids[inside.node]), source.part)))
        elif inside is not None and inside.node in use.wires:
            outer = _through(use.wires[inside.node], inside.part)
            wires.append(Wire.of(reader, name, _through(outer, source.part)))
    return Batch((*steps, *wires, RemoveNodes((key,)), *kept.values()), f"unpacked {use.name}")
