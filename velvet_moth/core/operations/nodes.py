"""Operations on nodes and on the graph as a whole."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.catalogue import CATALOGUE
from velvet_moth.core.errors import FileRefused, OperationRefused
from velvet_moth.core.forms import form_kind, is_form
from velvet_moth.core.graph import ID_PATTERN, MOST_NODES, Graph, Node
from velvet_moth.core.marks import Mark
from velvet_moth.core.motifs import outline_of, reaches
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations.checks import Applied, Reversible, check_new_id, check_value, checked_name, node_of
from velvet_moth.core.operations.marks import PutMarks, emptied, putting_back
from velvet_moth.core.operations.parameters import AddParameter, restoring, variant_without
from velvet_moth.core.operations.wires import SetSetting, Wire


@dataclass(frozen=True)
class AddNode:
    """Adds a node, with whatever values, settings and incoming wires it carries."""

    node: Node
    op: Literal["add_node"] = "add_node"

    def apply(self, graph: Graph) -> Applied:
        node = _outlined(graph, self.node)
        check_new_id(node.id, graph.nodes, "node")
        if len(graph.nodes) >= MOST_NODES:
            raise OperationRefused(
                f"A graph holds at most {MOST_NODES} nodes.", graph.title, "Split it into two graphs."
            )
        for key, value in node.values.items():
            check_value(node, key, value)
        bare = replace(node, wires={}, settings={}, label=checked_name(node.label, "label") if node.label else "")
        after = graph.with_node(bare)
        if node.outline:
            after = after.with_node(replace(bare, settings=node.settings))
        for setting, chosen in node.settings.items() if not node.outline else ():
            after, _ = SetSetting(node.id, setting, chosen).apply(after)
        for key, source in node.wires.items():
            after, _ = Wire.of(node.id, key, source).apply(after)
        return after, RemoveNodes((node.id,))

    def words(self, graph: Graph) -> str:
        known = self.node.type in CATALOGUE or self.node.outline
        return f"added {self.node.name if known else 'a motif'}"


def _outlined(graph: Graph, node: Node) -> Node:
    """The node with the ports of its motif; a type that nobody knows must bring its own."""
    if node.type in CATALOGUE:
        if CATALOGUE[node.type].hidden:
            raise OperationRefused(f"{node.name} is always there.", f"node {node.id}", "Choose another by search.")
        return replace(node, outline=None)
    if node.type in graph.motifs:
        if graph.motif and reaches(graph.motifs, node.type, graph.motif):
            raise OperationRefused(
                "A motif cannot stand inside itself.", graph.title, "Use another motif, or unpack this one first."
            )
        return replace(node, outline=outline_of(graph.motifs[node.type]))
    if node.outline is None or not ID_PATTERN.fullmatch(node.type):
        raise OperationRefused(f"There is no node type {node.type!r}.", f"node {node.id}", "Choose one by search.")
    return node


@dataclass(frozen=True)
class RemoveNodes:
    """Removes nodes with their wires, their parameters, and what variants set on those."""

    nodes: tuple[str, ...]
    op: Literal["remove_nodes"] = "remove_nodes"

    def apply(self, graph: Graph) -> Applied:
        gone = {node_of(graph, key).id for key in self.nodes}
        if DOCK in gone:
            raise OperationRefused(
                "The dock stays: it is where the graph ends.", "dock", "Unwire its channels instead."
            )
        marks = emptied(graph.marks, gone)
        wires = [Wire.of(key, i, s) for key in self.nodes for i, s in graph.nodes[key].wires.items()]
        wires += [Wire.of(n, i, s) for key in self.nodes for n, i, s in graph.readers(key) if n not in gone]
        undo = RestoreNodes(
            tuple(replace(graph.nodes[key], wires={}) for key in self.nodes),
            tuple(wires),
            tuple(restoring(graph, p, at) for at, p in enumerate(graph.parameters) if p.node in gone),
            putting_back(graph.marks, marks).marks,
        )
        lost = {p.id for p in graph.parameters if p.node in gone}
        after = replace(
            graph,
            nodes={
                k: replace(n, wires={i: s for i, s in n.wires.items() if s.node not in gone})
                for k, n in graph.nodes.items()
                if k not in gone
            },
            parameters=tuple(p for p in graph.parameters if p.id not in lost),
            variants=tuple(variant_without(v, lost) for v in graph.variants),
            marks=marks,
        )
        return after, undo

    def words(self, graph: Graph) -> str:
        named = [graph.nodes[k].name for k in self.nodes if k in graph.nodes]
        return f"removed {named[0]}" if len(named) == 1 else f"removed {len(named)} nodes"


@dataclass(frozen=True)
class RestoreNodes:
    """Brings removed nodes back: the nodes bare, then all their wires, their parameters, the frames they were in."""

    nodes: tuple[Node, ...]
    wires: tuple[Wire, ...]
    parameters: tuple[AddParameter, ...]
    marks: tuple[Mark, ...] = ()
    op: Literal["restore_nodes"] = "restore_nodes"

    def apply(self, graph: Graph) -> Applied:
        steps: list[Reversible] = [*(AddNode(node) for node in self.nodes), *self.wires, *self.parameters]
        for step in [*steps, PutMarks(self.marks)] if self.marks else steps:
            graph, _ = step.apply(graph)
        return graph, RemoveNodes(tuple(node.id for node in self.nodes))

    def words(self, graph: Graph) -> str:
        return f"brought back {len(self.nodes)} node{'' if len(self.nodes) == 1 else 's'}"


@dataclass(frozen=True)
class LabelNode:
    """Gives a node a name of its own; empty takes it back to its type's name."""

    node: str
    label: str
    op: Literal["label_node"] = "label_node"

    def apply(self, graph: Graph) -> Applied:
        node = node_of(graph, self.node)
        label = checked_name(self.label, "label") if self.label.strip() else ""
        return graph.with_node(replace(node, label=label)), LabelNode(node.id, node.label)

    def words(self, graph: Graph) -> str:
        node = graph.nodes.get(self.node)
        return f"named {node.kind.name if node else 'a node'} {self.label or 'as its type'}"


@dataclass(frozen=True)
class MoveNodes:
    """Puts cards at places by hand; None lets a card be laid out by itself again."""

    places: Mapping[str, tuple[float, float] | None]
    op: Literal["move_nodes"] = "move_nodes"

    def apply(self, graph: Graph) -> Applied:
        before = {key: node_of(graph, key).place for key in self.places}
        for key, place in self.places.items():
            if place is not None and not all(math.isfinite(c) and abs(c) <= 1e6 for c in place):
                raise OperationRefused("A card cannot lie that far out.", f"node {key}", "Move it nearer.")
            graph = graph.with_node(replace(graph.nodes[key], place=place))
        return graph, MoveNodes(before)

    def words(self, graph: Graph) -> str:
        names = [graph.nodes[k].name for k in self.places if k in graph.nodes]
        return f"moved {names[0]}" if len(names) == 1 else f"moved {len(names)} cards"


@dataclass(frozen=True)
class MuteNodes:
    """Makes nodes do nothing, so that what comes in goes out, or makes them work again."""

    nodes: tuple[str, ...]
    muted: bool
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


@dataclass(frozen=True)
class ChooseForm:
    """Chooses the form the graph is judged on."""

    form: str
    op: Literal["choose_form"] = "choose_form"

    def apply(self, graph: Graph) -> Applied:
        try:
            form_kind(self.form)
        except FileRefused as error:
            raise OperationRefused(error.what, graph.title, error.mend) from error
        return replace(graph, form=self.form), ChooseForm(graph.form)

    def words(self, graph: Graph) -> str:
        return f"put it on the {form_kind(self.form).name.lower() if is_form(self.form) else 'form'}"


@dataclass(frozen=True)
class Rename:
    """Renames the graph."""

    title: str
    op: Literal["rename"] = "rename"

    def apply(self, graph: Graph) -> Applied:
        return replace(graph, title=checked_name(self.title, "graph")), Rename(graph.title)

    def words(self, graph: Graph) -> str:
        return f"renamed the graph {self.title}"
