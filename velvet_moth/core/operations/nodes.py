"""Operations on nodes and on the graph as a whole."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Flag, Place
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.checks import check_new_id, check_place, checked_name
from velvet_moth.core.document.graph import MOST_NODES, Graph, Node, Source
from velvet_moth.core.document.marks import Mark
from velvet_moth.core.document.values import Name, NodeId, is_id
from velvet_moth.core.lowering.motifs import MOST_NESTED, depth_of, height_of, outline_of, reaches
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations.checks import check_value, check_wire, checked_setting, loop_refused, node_of
from velvet_moth.core.operations.marks import PutMarks, emptied, putting_back
from velvet_moth.core.operations.operation import Applied, Operation
from velvet_moth.core.operations.outlines import MOST_PORTS, check_settings, checked_outline
from velvet_moth.core.operations.parameters import AddParameter, restoring, without_parameters
from velvet_moth.core.operations.wires import Wire


@dataclass(frozen=True)
class AddNode(Operation):
    """Adds a node, with whatever values, settings and incoming wires it carries."""

    node: Node
    op: Literal["add_node"] = "add_node"

    def apply(self, graph: Graph) -> Applied:
        return with_nodes(graph, [self.node]), RemoveNodes((self.node.id,))

    def words(self, graph: Graph) -> str:
        known = CATALOGUE.get(self.node.type) or self.node.outline
        return f"added {self.node.label or (known.name if known else 'a motif')}"


def with_nodes(graph: Graph, nodes: Sequence[Node], wires: Sequence[Wire] = ()) -> Graph:
    """The graph with more nodes, each with its own wires, and then more ``wires``; checked as a whole, in linear time."""
    every = dict(graph.nodes)
    for node in nodes:
        check_new_id(node.id, every, "node")
        if len(every) > MOST_NODES:
            raise OperationRefused(
                f"A graph holds at most {MOST_NODES} nodes.", graph.title, "Split it into two graphs."
            )
        every[node.id] = checked_node(graph, node)
    wired: dict[str, dict[str, Source]] = {}
    for wire in [*(Wire.of(n.id, key, source) for n in nodes for key, source in n.wires.items()), *wires]:
        reader = every[wire.node] if wire.node in every else node_of(graph, wire.node)
        check_wire(every, reader, wire.input, wire.source)
        wired.setdefault(wire.node, {})[wire.input] = wire.source
    for key, more in wired.items():
        every[key] = replace(every[key], wires={**every[key].wires, **more})
    found = loop_in(every) if wired else None
    if found:
        giver, node, key = found
        raise loop_refused(giver, node, key)
    _check_ports(graph, every, nodes)
    return replace(graph, nodes=every)


def _check_ports(graph: Graph, every: Mapping[str, Node], added: Sequence[Node]) -> None:
    if any(every[n.id].kind.role for n in added) and sum(bool(n.kind.role) for n in every.values()) > MOST_PORTS:
        raise OperationRefused(
            f"A motif has at most {MOST_PORTS} inputs and outputs.", graph.title, "Make two motifs of it."
        )


def loop_in(nodes: Mapping[str, Node]) -> tuple[Node, Node, str] | None:
    """A wire that closes a loop, as the node it comes from, the node it goes to and its input; None without any."""
    done: set[str] = set()
    for start in nodes:
        if start in done:
            continue
        open_, stack = {start}, [(start, iter(nodes[start].wires.items()))]
        while stack:
            key, wires = stack[-1]
            for name, source in wires:
                if source.node in open_:
                    return nodes[source.node], nodes[key], name
                if source.node not in done:
                    open_.add(source.node)
                    stack.append((source.node, iter(nodes[source.node].wires.items())))
                    break
            else:
                stack.pop()
                open_.discard(key)
                done.add(key)
    return None


def checked_node(graph: Graph, node: Node) -> Node:
    """The node as a graph takes it, without its wires; OperationRefused says what of it does not fit."""
    made = _outlined(graph, node)
    if made.place is not None:
        check_place(made.place, f"node {made.id}")
    for key, value in made.values.items():
        check_value(made, key, value)
    if made.outline is not None:
        check_settings(made.settings, f"node {made.id}")
    else:
        for key, chosen in made.settings.items():
            checked_setting(made, key, chosen)
    return replace(made, wires={}, label=checked_name(made.label, "label") if made.label else "")


def _outlined(graph: Graph, node: Node) -> Node:
    """The node with the ports of its motif; a type that nobody knows must bring its own."""
    if node.type in CATALOGUE:
        if CATALOGUE[node.type].hidden:
            raise OperationRefused(
                f"{CATALOGUE[node.type].name} is always there.", f"node {node.id}", "Choose another by search."
            )
        return replace(node, outline=None)
    if node.type in graph.motifs:
        check_nesting(graph, node.type)
        return replace(node, outline=outline_of(graph.motifs[node.type]))
    if node.outline is None or not is_id(node.type):
        raise OperationRefused(f"There is no node type {node.type[:40]!r}.", f"node {node.id}", "Choose one by search.")
    return replace(node, outline=checked_outline(node.outline, f"node {node.id}"))


def check_nesting(graph: Graph, type_: str) -> None:
    """Whether a graph can use a motif: never inside itself, and not too many one in the other."""
    if not graph.motif:
        return
    if reaches(graph.motifs, type_, graph.motif):
        raise OperationRefused(
            "A motif cannot stand inside itself.", graph.title, "Use another motif, or unpack this one first."
        )
    if 1 + depth_of(graph.motifs, type_) + height_of(graph.motifs, graph.motif) > MOST_NESTED:
        raise OperationRefused(
            f"At most {MOST_NESTED} motifs stand one in another.", graph.title, "Unpack one of them first."
        )


@dataclass(frozen=True)
class RemoveNodes(Operation):
    """Removes nodes with their wires, their parameters, and what variants set on those."""

    nodes: tuple[NodeId, ...]
    op: Literal["remove_nodes"] = "remove_nodes"

    def apply(self, graph: Graph) -> Applied:
        nodes = tuple(dict.fromkeys(self.nodes))
        gone = {node_of(graph, key).id for key in nodes}
        if DOCK in gone:
            raise OperationRefused(
                "The dock stays: it is where the graph ends.", "dock", "Unwire its channels instead."
            )
        marks = emptied(graph.marks, gone)
        wires = [Wire.of(key, i, s) for key in nodes for i, s in graph.nodes[key].wires.items()]
        others = (node for key, node in graph.nodes.items() if key not in gone)
        wires += [Wire.of(n.id, i, s) for n in others for i, s in n.wires.items() if s.node in gone]
        undo = RestoreNodes(
            tuple(replace(graph.nodes[key], wires={}) for key in nodes),
            tuple(wires),
            tuple(restoring(graph, p) for p in graph.parameters if p.node in gone),
            putting_back(graph.marks, marks).marks,
        )
        lost = {p.id for p in graph.parameters if p.node in gone}
        after = replace(
            without_parameters(graph, lost),
            nodes={
                k: replace(n, wires={i: s for i, s in n.wires.items() if s.node not in gone})
                for k, n in graph.nodes.items()
                if k not in gone
            },
            marks=marks,
        )
        return after, undo

    def words(self, graph: Graph) -> str:
        named = [graph.nodes[k].name for k in self.nodes if k in graph.nodes]
        return f"removed {named[0]}" if len(named) == 1 else f"removed {len(named)} nodes"


@dataclass(frozen=True)
class RestoreNodes(Operation):
    """Brings removed nodes back: the nodes bare, then all their wires, their parameters, the frames they were in."""

    nodes: tuple[Node, ...]
    wires: tuple[Wire, ...]
    parameters: tuple[AddParameter, ...]
    marks: tuple[Mark, ...] = ()
    op: Literal["restore_nodes"] = "restore_nodes"

    def apply(self, graph: Graph) -> Applied:
        after = with_nodes(graph, self.nodes, self.wires)
        steps: list[Operation] = [*self.parameters, *([PutMarks(self.marks)] if self.marks else [])]
        for step in steps:
            after, _ = step.apply(after)
        undo = RemoveNodes(tuple(node.id for node in self.nodes))
        if undo.apply(after)[0] != graph:
            raise OperationRefused(
                "This brings back more than its nodes had.", graph.title, "Leave out what belongs to other nodes."
            )
        return after, undo

    def words(self, graph: Graph) -> str:
        return f"brought back {len(self.nodes)} node{'' if len(self.nodes) == 1 else 's'}"


def card_of(graph: Graph, key: str) -> Node:
    """A node that has a card: the dock has its own fixed place and name."""
    if key == DOCK:
        raise OperationRefused("The dock keeps its place and its name.", "dock", "Choose a card.")
    return node_of(graph, key)


@dataclass(frozen=True)
class LabelNode(Operation):
    """Gives a node a name of its own; empty takes it back to its type's name."""

    node: NodeId
    label: Name
    op: Literal["label_node"] = "label_node"

    def apply(self, graph: Graph) -> Applied:
        node = card_of(graph, self.node)
        label = checked_name(self.label, "label") if self.label.strip() else ""
        return graph.with_node(replace(node, label=label)), LabelNode(node.id, node.label)

    def words(self, graph: Graph) -> str:
        node = graph.nodes.get(self.node)
        return f"named {node.kind.name if node else 'a node'} {self.label or 'as its type'}"


@dataclass(frozen=True)
class MoveNodes(Operation):
    """Puts cards at places by hand; None lets a card be laid out by itself again."""

    places: Mapping[NodeId, Place | None]
    op: Literal["move_nodes"] = "move_nodes"

    def apply(self, graph: Graph) -> Applied:
        moved = {}
        for key, place in self.places.items():
            node = card_of(graph, key)
            if place is not None:
                check_place(place, f"node {key}")
            moved[key] = replace(node, place=place)
        before = {key: graph.nodes[key].place for key in moved}
        return replace(graph, nodes={**graph.nodes, **moved}), MoveNodes(before)

    def words(self, graph: Graph) -> str:
        names = [graph.nodes[k].name for k in self.places if k in graph.nodes]
        if not any(self.places.values()):
            return f"laid out {names[0]}" if len(names) == 1 else f"laid out {len(names)} cards"
        return f"moved {names[0]}" if len(names) == 1 else f"moved {len(names)} cards"


@dataclass(frozen=True)
class MuteNodes(Operation):
    """Makes nodes do nothing, so that what comes in goes out, or makes them work again."""

    nodes: tuple[NodeId, ...]
    muted: Flag
    op: Literal["mute_nodes"] = "mute_nodes"

    def apply(self, graph: Graph) -> Applied:
        changed = []
        for key in self.nodes:
            node = node_of(graph, key)
            if key == DOCK or node.kind.role:
                raise OperationRefused(f"{node.name} cannot be muted.", f"node {key}", "Unwire it instead.")
            if node.muted != self.muted:
                changed.append(key)
                graph = graph.with_node(replace(node, muted=self.muted))
        return graph, MuteNodes(tuple(changed), not self.muted)

    def words(self, graph: Graph) -> str:
        named = [graph.nodes[k].name for k in self.nodes if k in graph.nodes]
        return f"{'muted' if self.muted else 'unmuted'} {named[0] if len(named) == 1 else f'{len(named)} nodes'}"
