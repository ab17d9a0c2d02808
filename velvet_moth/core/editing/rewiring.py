"""Changing what stands between: a node put into a wire, pulled out of its place, its inputs swapped."""

from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.marks import Frame
from velvet_moth.core.document.values import fits
from velvet_moth.core.editing.joining import fitted_source
from velvet_moth.core.language.types import P_FLEXIBLE, can_carry
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import (
    AddNode,
    Batch,
    Operation,
    PutMarks,
    RemoveNodes,
    RemoveParameter,
    SetValue,
    Unwire,
    Wire,
)
from velvet_moth.core.operations.checks import check_input, node_of
from velvet_moth.core.operations.parameters import restoring


@dataclass(frozen=True)
class InsertNode:
    """Puts a node, a new one or one of the graph, into the wire that arrives at ``into``, joined on both sides."""

    into: str
    input: str
    node: Node | None = None
    existing: str = ""
    craft: Literal["insert_node"] = "insert_node"

    def batch(self, graph: Graph) -> Batch:
        reader = node_of(graph, self.into)
        check_input(reader, self.input)
        source = reader.wires.get(self.input)
        if source is None:
            raise OperationRefused("There is no wire here any more.", reader.name, "Drop it on another wire.")
        steps: list[Operation] = []
        after = graph
        if self.node is not None:
            added = AddNode(self.node)
            steps.append(added)
            after, _ = added.apply(graph)
        key = self.node.id if self.node is not None else self.existing
        node = node_of(after, key)
        if key in (reader.id, source.node):
            raise OperationRefused("This card is at an end of the wire already.", node.name, "Drop another card.")
        lowered = lower(after)
        arriving = [
            (k, found)
            for k, i in node.kind.inputs.items()
            if i.wirable and (found := fitted_source(lowered, source, i.type))
        ]
        # The whole value rather than a part of it, its own type rather than a wider one.
        given = lowered.types[source.whole]
        arriving.sort(key=lambda e: (e[1] != source, node.kind.inputs[e[0]].type not in (given, P_FLEXIBLE)))
        if not arriving:
            raise OperationRefused(
                f"{node.name} takes nothing of what this wire carries.", reader.name, "Choose another node."
            )
        steps.append(Wire.of(key, *arriving[0]))
        after, _ = steps[-1].apply(after)
        lowered = lower(after, before=lowered)
        taken = reader.kind.inputs[self.input].type
        leaving = (fitted_source(lowered, Source(key, output), taken) for output in node.kind.outputs)
        onward = next((found for found in leaving if found is not None), None)
        if onward is None:
            raise OperationRefused(
                f"{node.name} gives nothing that {reader.kind.inputs[self.input].name} takes.",
                reader.name,
                "Choose another node.",
            )
        steps.append(Wire.of(reader.id, self.input, onward))
        steps += _joining_frame(graph, key, source.node, reader.id)
        name = reader.kind.inputs[self.input].name
        return Batch(tuple(steps), f"put {node.name} before {name} of {reader.name}")


def _joining_frame(graph: Graph, key: str, *around: str) -> list[Operation]:
    """A node that comes between cards of one frame is in that frame too."""
    frames = (mark for mark in graph.marks.values() if isinstance(mark, Frame) and set(around) <= set(mark.nodes))
    return [PutMarks((replace(f, nodes=(*f.nodes, key)),)) for f in frames if key not in f.nodes]


def _passing(node: Node, output: str) -> Source | None:
    """What comes in for an output when its node is gone: the first wire into an input of that type."""
    made = node.kind.outputs[output].type
    for key, source in node.wires.items():
        declared = node.kind.inputs[key].type
        if declared is made or (made is P_FLEXIBLE and can_carry(declared, P_FLEXIBLE)) or declared is P_FLEXIBLE:
            return source
    return None


@dataclass(frozen=True)
class PullOut:
    """Takes nodes out of their wires so that their neighbours join; with ``remove`` they leave the graph too."""

    nodes: tuple[str, ...]
    remove: bool = False
    craft: Literal["pull_out"] = "pull_out"

    def batch(self, graph: Graph) -> Batch:
        steps: list[Operation] = []
        after = graph
        for key in self.nodes:
            node = node_of(after, key)
            moves: list[Operation] = []
            for reader, name, source in after.readers(key):
                passed = _passing(node, source.output)
                moves.append(Wire.of(reader, name, passed) if passed else Unwire(reader, name))
            moves += [Unwire(key, name) for name in node.wires]
            for move in moves:
                after, _ = move.apply(after)
            steps += moves
        if self.remove:
            steps.append(RemoveNodes(self.nodes))
        if not steps:
            raise OperationRefused("Nothing is wired to this card.", graph.title, "Select a card between others.")
        named = [graph.nodes[k].name for k in self.nodes]
        what = named[0] if len(named) == 1 else f"{len(named)} cards"
        return Batch(tuple(steps), f"{'removed' if self.remove else 'pulled out'} {what}, neighbours joined")


@dataclass(frozen=True)
class SwapInputs:
    """Swaps what two inputs of a node carry: wires, values and parameters."""

    node: str
    first: str
    second: str
    craft: Literal["swap_inputs"] = "swap_inputs"

    def batch(self, graph: Graph) -> Batch:
        node = node_of(graph, self.node)
        steps: list[Operation] = []
        opened: list[Operation] = []
        for key, other in ((self.first, self.second), (self.second, self.first)):
            check_input(node, key)
            declared = node.kind.inputs[other]
            if key == other or not declared.wirable:
                raise OperationRefused("Two inputs that take wires are needed.", node.name, "Choose two of them.")
            if not fits(declared, node.value(key)) and key not in node.wires and node.value(key):
                raise OperationRefused(
                    f"{declared.name} takes {declared.type.words}.", node.name, "Choose inputs that take the same."
                )
            if key in node.wires:
                steps.append(Wire.of(node.id, other, node.wires[key]))
            elif other in node.wires:
                steps.append(Unwire(node.id, other))
            if node.value(key) != node.value(other) and fits(declared, node.value(key)):
                steps.append(SetValue(node.id, other, node.value(key)))
            parameter = graph.parameter_at(node.id, key)
            if parameter is not None:
                steps.insert(0, RemoveParameter(parameter.id))
                kept = restoring(graph, parameter)
                opened.append(replace(kept, parameter=replace(parameter, input=other)))
        if not steps:
            raise OperationRefused("Both inputs carry the same.", node.name, "Wire one of them first.")
        names = " and ".join(node.kind.inputs[k].name for k in (self.first, self.second))
        return Batch((*steps, *opened), f"swapped {names} of {node.name}")
