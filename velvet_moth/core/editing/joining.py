"""Joining outputs to inputs by hand: what a wire takes where the whole does not fit, and many wires at once."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.parts import fit, fitting_part
from velvet_moth.core.language.types import P_NUMBER, PortType, can_carry
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations import AddNode, Batch, Operation, Unwire, Wire
from velvet_moth.core.operations.checks import check_input, node_of

# What a texture reading offers to an input that takes one number: it tells something wherever any channel does.
_TELLING_OUTPUT = "luminance"


def fitted_source(lowered: LoweredGraph, source: Source, taken: PortType) -> Source | None:
    """The same wire where it fits, else one that takes less of the value; None where nothing of it fits."""
    given = lowered.types.get(source.whole)
    if given is None:
        return None
    outputs = lowered.graph.nodes[source.node].kind.outputs
    telling = outputs.get(_TELLING_OUTPUT)
    if not can_carry(given, taken) and len(outputs) > 1 and telling and taken is P_NUMBER:
        return Source(source.node, _TELLING_OUTPUT)
    part = fitting_part(given, taken)
    return None if part is None else Source(source.node, source.output, part)


@dataclass(frozen=True)
class Taker:
    """An input that a wire from an output can go to; ``fit`` says how well, as ``parts.fit``."""

    output: str
    node: str
    input: str
    fit: int


def takers(lowered: LoweredGraph, nodes: Sequence[str]) -> list[Taker]:
    """Every end of a wire from an output of some nodes that closes no loop; OperationRefused where one of them is gone."""
    graph = lowered.graph
    before = set(graph.upstream(node_of(graph, key).id for key in nodes))
    ends = [
        (node.id, declared.key, declared.type)
        for node in graph.nodes.values()
        if node.id not in before
        for declared in node.kind.inputs.values()
        if declared.wirable
    ]
    return [
        Taker(output, node, key, fit(given, taken) if given else 0)
        for giver in nodes
        if giver != DOCK
        for output, given in ((key, lowered.types.get(Source(giver, key))) for key in graph.nodes[giver].kind.outputs)
        for node, key, taken in ends
    ]


@dataclass(frozen=True)
class Join:
    """Wires an output to an input; takes a part of the value where the whole does not fit.

    ``taken_from`` is the (node, input) that gives the wire away, when an end is moved; ``added`` a node that
    comes with the wire.
    """

    node: str
    input: str
    from_node: str
    from_output: str
    taken_from: tuple[str, str] | None = None
    added: Node | None = None
    craft: Literal["join"] = "join"

    def batch(self, graph: Graph) -> Batch:
        steps: list[Operation] = []
        if self.added is not None:
            steps.append(AddNode(self.added))
            graph, _ = steps[0].apply(graph)
        node, giver = node_of(graph, self.node), node_of(graph, self.from_node)
        check_input(node, self.input)
        lowered = lower(graph)
        asked = Source(giver.id, self.from_output)
        # What fits in no way is wired as asked, and shown with its mends.
        source = fitted_source(lowered, asked, node.kind.inputs[self.input].type) or asked
        if self.taken_from and self.taken_from != (self.node, self.input):
            taken = node_of(graph, self.taken_from[0])
            if self.taken_from[1] in taken.wires:
                steps.append(Unwire(*self.taken_from))
        steps.append(Wire.of(self.node, self.input, source))
        words = steps[-1].words(graph)
        return Batch(tuple(steps), f"added {self.added.name} and {words}" if self.added else words)


@dataclass(frozen=True)
class JoinAll:
    """Wires several nodes to one: the first output of each to the next input that takes it, from ``input`` on."""

    nodes: tuple[str, ...]
    node: str
    input: str = ""
    craft: Literal["join_all"] = "join_all"

    def batch(self, graph: Graph) -> Batch:
        goal = node_of(graph, self.node)
        lowered = lower(graph)
        keys = [k for k, i in goal.kind.inputs.items() if i.wirable]
        if self.input:
            check_input(goal, self.input)
            keys = keys[keys.index(self.input) :] if self.input in keys else []
        steps: list[Operation] = []
        for key in self.nodes:
            giver = node_of(graph, key)
            if not giver.kind.outputs or key == goal.id:
                continue
            source = Source(key, next(iter(giver.kind.outputs)))
            for at, name in enumerate(keys):
                found = fitted_source(lowered, source, goal.kind.inputs[name].type)
                if found is not None:
                    steps.append(Wire.of(goal.id, name, found))
                    keys = keys[at + 1 :]
                    break
            else:
                raise OperationRefused(
                    f"{goal.name} has no further input for {giver.name}.", goal.name, "Select fewer cards."
                )
        if not steps:
            raise OperationRefused("No other card is selected.", goal.name, "Select the cards to wire from.")
        words = f"wired {len(steps)} cards to {goal.name}" if len(steps) > 1 else steps[0].words(graph)
        return Batch(tuple(steps), words)
