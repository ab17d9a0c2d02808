"""Operations on parameters."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import LARGEST_NUMBER, Whole
from velvet_moth.core.document.checks import check_new_id, checked_name
from velvet_moth.core.document.graph import MOST_PARAMETERS, Graph, Parameter, Variant
from velvet_moth.core.document.values import ParameterId, Value, VariantId, fits
from velvet_moth.core.operations.checks import check_input, check_value, node_of
from velvet_moth.core.operations.operation import Applied, Operation


@dataclass(frozen=True)
class AddParameter(Operation):
    """Makes an input's value a parameter; ``overrides`` are what variants set on it, by variant."""

    parameter: Parameter
    at: Whole | None = None
    overrides: Mapping[VariantId, Value] | None = None
    op: Literal["add_parameter"] = "add_parameter"

    def apply(self, graph: Graph) -> Applied:
        made = _checked_parameter(graph, self.parameter)
        check_new_id(made.id, {p.id for p in graph.parameters}, "parameter")
        if len(graph.parameters) >= MOST_PARAMETERS:
            raise OperationRefused(f"A graph has at most {MOST_PARAMETERS} parameters.", made.name, "Close one first.")
        node = node_of(graph, made.node)
        check_input(node, made.input)
        if graph.parameter_at(made.node, made.input):
            raise OperationRefused("This value is a parameter already.", node.name, "Edit that parameter.")
        if not fits(node.kind.inputs[made.input], node.value(made.input)):
            raise OperationRefused(
                "Only a value can become a parameter.", f"{node.name}, {made.input}", "Choose a number or colour."
            )
        at = len(graph.parameters) if self.at is None else max(0, min(self.at, len(graph.parameters)))
        parameters = (*graph.parameters[:at], made, *graph.parameters[at:])
        overrides = self.overrides or {}
        for value in overrides.values():
            check_override(graph, made, value)
        variants = tuple(
            replace(v, values={**v.values, made.id: overrides[v.id]}) if v.id in overrides else v
            for v in graph.variants
        )
        return replace(graph, parameters=parameters, variants=variants), RemoveParameter(made.id)

    def words(self, graph: Graph) -> str:
        return f"made {self.parameter.name} a parameter"


def _checked_parameter(graph: Graph, parameter: Parameter) -> Parameter:
    low, high, step = parameter.low, parameter.high, parameter.step
    if not (abs(low) <= LARGEST_NUMBER and abs(high) <= LARGEST_NUMBER and low < high and 0 < step <= high - low):
        raise OperationRefused(
            "A parameter's low end lies below its high end, and a step fits between.", parameter.name, "Mend the range."
        )
    name = checked_name(parameter.name, "parameter")
    unit = parameter.unit.strip()
    if len(unit) > 12 or not (unit.isprintable() or not unit):
        raise OperationRefused("A unit has at most 12 characters.", name, "Use a short one: m, s, °.")
    group, help_ = " ".join(parameter.group.split()), " ".join(parameter.help.split())
    if len(group) > 40 or len(help_) > 200 or not (group + help_).replace(" ", "x").isprintable():
        raise OperationRefused(
            "A group has at most 40 characters, a help line at most 200.", name, "Use shorter words."
        )
    if any(p.name == name and p.id != parameter.id for p in graph.parameters):
        raise OperationRefused("Another parameter has this name.", name, "Choose another name.")
    return replace(parameter, name=name, unit=unit, group=group, help=help_)


@dataclass(frozen=True)
class EditParameter(Operation):
    """Changes a parameter's name, range, step, unit, group or help, not what it opens."""

    parameter: Parameter
    op: Literal["edit_parameter"] = "edit_parameter"

    def apply(self, graph: Graph) -> Applied:
        before = parameter_of(graph, self.parameter.id)
        made = replace(_checked_parameter(graph, self.parameter), node=before.node, input=before.input)
        after = replace(graph, parameters=tuple(made if p.id == made.id else p for p in graph.parameters))
        return after, EditParameter(before)

    def words(self, graph: Graph) -> str:
        return f"edited parameter {self.parameter.name}"


@dataclass(frozen=True)
class OrderParameter(Operation):
    """Moves a parameter to another place in the list, counted from 0."""

    parameter: ParameterId
    at: Whole
    op: Literal["order_parameter"] = "order_parameter"

    def apply(self, graph: Graph) -> Applied:
        found = parameter_of(graph, self.parameter)
        before = graph.parameters.index(found)
        rest = [p for p in graph.parameters if p is not found]
        rest.insert(max(0, min(self.at, len(rest))), found)
        return replace(graph, parameters=tuple(rest)), OrderParameter(found.id, before)

    def words(self, graph: Graph) -> str:
        found = graph.parameter(self.parameter)
        return f"moved parameter {found.name if found else ''}".rstrip()


def check_override(graph: Graph, parameter: Parameter, value: Value) -> None:
    """Whether a variant can set a parameter to a value."""
    check_value(node_of(graph, parameter.node), parameter.input, value)


def parameter_of(graph: Graph, key: str) -> Parameter:
    """The parameter of that id; OperationRefused where it is gone."""
    found = graph.parameter(key)
    if found is None:
        raise OperationRefused("This parameter is gone.", key, "Undo brings it back.")
    return found


@dataclass(frozen=True)
class RemoveParameter(Operation):
    """Closes a parameter; the default stays as a plain value, variants lose theirs."""

    parameter: ParameterId
    op: Literal["remove_parameter"] = "remove_parameter"

    def apply(self, graph: Graph) -> Applied:
        found = parameter_of(graph, self.parameter)
        undo = restoring(graph, found, graph.parameters.index(found))
        after = replace(
            graph,
            parameters=tuple(p for p in graph.parameters if p.id != found.id),
            variants=tuple(variant_without(v, {found.id}) for v in graph.variants),
        )
        return after, undo

    def words(self, graph: Graph) -> str:
        found = graph.parameter(self.parameter)
        return f"made {found.name if found else 'a parameter'} a plain value"


def variant_without(variant: Variant, parameters: set[str]) -> Variant:
    """The variant without what it sets on some parameters."""
    return replace(variant, values={k: v for k, v in variant.values.items() if k not in parameters})


def restoring(graph: Graph, parameter: Parameter, at: int) -> "AddParameter":
    """What brings a parameter back at its place, with what variants set on it."""
    overrides = {v.id: v.values[parameter.id] for v in graph.variants if parameter.id in v.values}
    return AddParameter(parameter, at, overrides)
