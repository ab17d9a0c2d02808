"""Operations on parameters."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import LARGEST_NUMBER, Whole
from velvet_moth.core.document.checks import check_new_id, checked_name
from velvet_moth.core.document.graph import MOST_PARAMETERS, Graph, Parameter, Variant
from velvet_moth.core.document.tracks.track import Track
from velvet_moth.core.document.values import ParameterId, Value, VariantId, fits
from velvet_moth.core.operations.checks import check_input, check_value, node_of
from velvet_moth.core.operations.operation import Applied, Operation
from velvet_moth.core.operations.tracks import SetTrack

LONGEST_GROUP = 40


@dataclass(frozen=True)
class AddParameter(Operation):
    """Makes an input's value a parameter; ``overrides`` are what variants set on it, by variant.

    ``tracks`` are its keys, by the variant they belong to ("" for the graph).
    """

    parameter: Parameter
    at: Whole | None = None
    overrides: Mapping[VariantId, Value] | None = None
    tracks: Mapping[VariantId, Track] | None = None
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
        after = replace(graph, parameters=parameters, variants=variants)
        for variant, track in (self.tracks or {}).items():
            after, _ = SetTrack(made.id, track, variant).apply(after)
        return after, RemoveParameter(made.id)

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
    if len(group) > LONGEST_GROUP or len(help_) > 200 or not (group + help_).replace(" ", "x").isprintable():
        raise OperationRefused(
            f"A group has at most {LONGEST_GROUP} characters, a help line at most 200.", name, "Use shorter words."
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
    """Closes a parameter; the default stays as a plain value, variants lose theirs, and its keys go."""

    parameter: ParameterId
    op: Literal["remove_parameter"] = "remove_parameter"

    def apply(self, graph: Graph) -> Applied:
        found = parameter_of(graph, self.parameter)
        undo = restoring(graph, found)
        return without_parameters(graph, {found.id}), undo

    def words(self, graph: Graph) -> str:
        found = graph.parameter(self.parameter)
        return f"made {found.name if found else 'a parameter'} a plain value"


def without_parameters(graph: Graph, gone: set[str]) -> Graph:
    """The graph without some parameters, their keys, and what variants set on them."""
    return replace(
        graph,
        parameters=tuple(p for p in graph.parameters if p.id not in gone),
        tracks={target: track for target, track in graph.tracks.items() if target not in gone},
        variants=tuple(_variant_without(v, gone) for v in graph.variants),
    )


def _variant_without(variant: Variant, parameters: set[str]) -> Variant:
    values = {key: value for key, value in variant.values.items() if key not in parameters}
    tracks = {target: track for target, track in variant.tracks.items() if target not in parameters}
    return replace(variant, values=values, tracks=tracks)


def restoring(graph: Graph, parameter: Parameter) -> "AddParameter":
    """What brings a parameter back at its place, with its keys and what variants set on it."""
    overrides = {v.id: v.values[parameter.id] for v in graph.variants if parameter.id in v.values}
    tracks = {variant: track for variant, target, track in graph.every_track() if target == parameter.id}
    return AddParameter(parameter, graph.parameters.index(parameter), overrides, tracks)
