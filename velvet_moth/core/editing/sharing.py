"""One parameter for several inputs: set once, used in many places."""

from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.values import Value, fresh_id
from velvet_moth.core.editing.joining import fitted_source
from velvet_moth.core.language.types import P_BOOL, P_COLOUR, P_TEXTURE, PortType
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import AddNode, Batch, MoveNodes, Operation, RemoveParameter, Wire
from velvet_moth.core.operations.checks import check_input, node_of
from velvet_moth.core.operations.parameters import parameter_of, restoring

_BY_WIDTH = {1: "number", 2: "pair", 3: "triple", 4: "quad"}
_BY_TYPE = {P_BOOL: "toggle", P_COLOUR: "colour", P_TEXTURE: "texture_choice"}


def value_node(type_: PortType, value: Value) -> str:
    """The node that carries such a value by itself; empty where there is none."""
    return _BY_TYPE.get(type_) or ("" if isinstance(value, str) or type_.stop else _BY_WIDTH.get(len(value), ""))


@dataclass(frozen=True)
class ShareParameter:
    """Lets a parameter feed one more input; where it opened an input itself, a value card takes its place first.

    With no ``node`` only the value card is made, at ``place``.
    """

    parameter: str
    node: str = ""
    input: str = ""
    place: tuple[float, float] | None = None
    craft: Literal["share_parameter"] = "share_parameter"

    def batch(self, graph: Graph) -> Batch:
        parameter = parameter_of(graph, self.parameter)
        goal = node_of(graph, self.node) if self.node else None
        if goal:
            check_input(goal, self.input)
        if goal and (parameter.node, parameter.input) == (goal.id, self.input):
            raise OperationRefused("The parameter feeds this input already.", goal.name, "Drop it on another input.")
        owner = graph.nodes[parameter.node]
        declared = owner.kind.inputs[parameter.input]
        steps: list[Operation] = []
        after = graph
        if declared.wirable:
            value = owner.value(parameter.input)
            kind = value_node(declared.type, value)
            if not kind or parameter.input in owner.wires:
                raise OperationRefused(
                    "This parameter cannot feed other inputs.", parameter.name, "Wire a value card to both instead."
                )
            made = Node(
                fresh_id(kind, graph.nodes),
                kind,
                {"value": value} if value else {},
                label=parameter.name,
                place=self.place,
            )
            kept = restoring(graph, parameter)
            steps += [
                RemoveParameter(parameter.id),
                AddNode(made),
                replace(kept, parameter=replace(parameter, node=made.id, input="value")),
                Wire(owner.id, parameter.input, made.id, next(iter(made.kind.outputs))),
            ]
            for step in steps:
                after, _ = step.apply(after)
            owner = made
        elif not goal and self.place:
            steps.append(MoveNodes({owner.id: self.place}))
        if not goal:
            if not steps:
                raise OperationRefused("The parameter has its card already.", parameter.name, "Drop it on an input.")
            words = f"put {parameter.name} on a card of its own" if declared.wirable else steps[0].words(graph)
            return Batch(tuple(steps), words)
        source = Source(owner.id, next(iter(owner.kind.outputs)))
        lowered = lower(after)
        found = fitted_source(lowered, source, goal.kind.inputs[self.input].type)
        if found is None:
            raise OperationRefused(
                f"{parameter.name} does not fit {goal.kind.inputs[self.input].name}, which takes "
                f"{goal.kind.inputs[self.input].type.words}.",
                goal.name,
                "Drop it on another input.",
            )
        steps.append(Wire.of(goal.id, self.input, found))
        return Batch(tuple(steps), f"shared {parameter.name} with {goal.kind.inputs[self.input].name} of {goal.name}")
