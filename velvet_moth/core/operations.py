"""Operations: the only way a graph changes. Each is checked, applied, put into words, and inverted."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal, Union

from velvet_moth.core.catalogue import CATALOGUE
from velvet_moth.core.errors import OperationRefused
from velvet_moth.core.graph import (
    ID_PATTERN,
    LARGEST_NUMBER,
    LONGEST_NAME,
    MOST_NODES,
    Graph,
    Node,
    Parameter,
    Source,
    Value,
    Variant,
    fits,
)
from velvet_moth.core.nodes.surfaces import DOCK

Applied = tuple[Graph, "Operation"]


def _node(graph: Graph, key: str) -> Node:
    if key not in graph.nodes:
        raise OperationRefused(
            "This node is no longer in the graph.",
            f"node {key}",
            "It may have been deleted elsewhere; undo brings it back.",
        )
    return graph.nodes[key]


def _name(text: str, of: str) -> str:
    clean = " ".join(text.split())
    if not clean or len(clean) > LONGEST_NAME or not clean.isprintable():
        raise OperationRefused(f"A name of 1 to {LONGEST_NAME} characters is needed.", of, "Type a shorter name.")
    return clean


def _new_id(key: str, taken: Any, of: str) -> None:
    if not ID_PATTERN.fullmatch(key):
        raise OperationRefused(
            "An id is a small letter followed by letters, digits or _.", f"{of} {key!r}", "Use another."
        )
    if key in taken:
        raise OperationRefused("This id is taken.", f"{of} {key}", "Use another.")


def _input(node: Node, key: str) -> None:
    if key not in node.kind.inputs:
        raise OperationRefused(f"{node.name} has no input {key!r}.", f"node {node.id}", "Choose one of its inputs.")


def _checked_value(node: Node, key: str, value: Value) -> None:
    _input(node, key)
    declared = node.kind.inputs[key]
    if not fits(declared, value):
        raise OperationRefused(
            f"{declared.name} takes {declared.type.words} between -{LARGEST_NUMBER:g} and {LARGEST_NUMBER:g}.",
            f"{node.name}, {declared.name}",
            "Type another value.",
        )


def _without(mapping: Mapping[str, Any], key: str) -> dict[str, Any]:
    return {k: v for k, v in mapping.items() if k != key}


def _shown(value: Value) -> str:
    return value or "none" if isinstance(value, str) else " ".join(f"{c:.4g}" for c in value)


@dataclass(frozen=True)
class AddNode:
    """Adds a node, with whatever values, settings and incoming wires it carries."""

    node: Node
    op: Literal["add_node"] = "add_node"

    def apply(self, graph: Graph) -> Applied:
        node = self.node
        _new_id(node.id, graph.nodes, "node")
        if node.type not in CATALOGUE or CATALOGUE[node.type].hidden:
            raise OperationRefused(f"There is no node type {node.type!r}.", f"node {node.id}", "Choose one by search.")
        if len(graph.nodes) >= MOST_NODES:
            raise OperationRefused(
                f"A graph holds at most {MOST_NODES} nodes.", graph.title, "Split it into two graphs."
            )
        for key, value in node.values.items():
            _checked_value(node, key, value)
        bare = replace(node, wires={}, settings={}, label=_name(node.label, "label") if node.label else "")
        after = graph.with_node(bare)
        for setting, chosen in node.settings.items():
            after, _ = SetSetting(node.id, setting, chosen).apply(after)
        for key, source in node.wires.items():
            after, _ = Wire(node.id, key, source.node, source.output).apply(after)
        return after, RemoveNodes((node.id,))

    def words(self, graph: Graph) -> str:
        return f"added {self.node.name if self.node.type in CATALOGUE else self.node.type}"


@dataclass(frozen=True)
class RemoveNodes:
    """Removes nodes with their wires, their parameters, and what variants set on those."""

    nodes: tuple[str, ...]
    op: Literal["remove_nodes"] = "remove_nodes"

    def apply(self, graph: Graph) -> Applied:
        gone = {_node(graph, key).id for key in self.nodes}
        if DOCK in gone:
            raise OperationRefused(
                "The dock stays: it is where the graph ends.", "dock", "Unwire its channels instead."
            )
        undo: list[Operation] = [AddNode(replace(graph.nodes[k], wires={})) for k in self.nodes]
        for key in self.nodes:
            undo += [Wire(key, i, s.node, s.output) for i, s in graph.nodes[key].wires.items()]
            undo += [Wire(n, i, s.node, s.output) for n, i, s in graph.readers(key) if n not in gone]
        for at, parameter in enumerate(graph.parameters):
            if parameter.node in gone:
                undo.append(_restored_parameter(graph, parameter, at))
        lost = {p.id for p in graph.parameters if p.node in gone}
        after = replace(
            graph,
            nodes={
                k: replace(n, wires={i: s for i, s in n.wires.items() if s.node not in gone})
                for k, n in graph.nodes.items()
                if k not in gone
            },
            parameters=tuple(p for p in graph.parameters if p.id not in lost),
            variants=tuple(_variant_without(v, lost) for v in graph.variants),
        )
        return after, Batch(tuple(undo))

    def words(self, graph: Graph) -> str:
        named = [graph.nodes[k].name for k in self.nodes if k in graph.nodes]
        return f"removed {named[0]}" if len(named) == 1 else f"removed {len(named)} nodes"


def _variant_without(variant: Variant, parameters: set[str]) -> Variant:
    return replace(variant, values={k: v for k, v in variant.values.items() if k not in parameters})


def _restored_parameter(graph: Graph, parameter: Parameter, at: int) -> "AddParameter":
    overrides = {v.id: v.values[parameter.id] for v in graph.variants if parameter.id in v.values}
    return AddParameter(parameter, at, overrides)


@dataclass(frozen=True)
class Wire:
    """Joins an output to an input, in place of what was wired there. A mismatch of types is kept and shown."""

    node: str
    input: str
    from_node: str
    from_output: str
    op: Literal["wire"] = "wire"

    def apply(self, graph: Graph) -> Applied:
        node, source = _node(graph, self.node), _node(graph, self.from_node)
        _input(node, self.input)
        declared = node.kind.inputs[self.input]
        if not declared.wirable:
            raise OperationRefused(
                f"{declared.name} is set by hand.", f"{node.name}, {declared.name}", "Type its value."
            )
        if self.from_output not in source.kind.outputs or self.from_node == DOCK:
            raise OperationRefused(
                f"{source.name} has no output {self.from_output!r}.", f"node {source.id}", "Choose another."
            )
        if graph.reaches(self.from_node, self.node):
            raise OperationRefused(
                f"This wire would close a loop: {source.name} already depends on {node.name}.",
                f"{source.name} to {node.name}, {declared.name}",
                "Wire from a node further left.",
            )
        after = graph.with_node(
            replace(node, wires={**node.wires, self.input: Source(self.from_node, self.from_output)})
        )
        return after, _rewire(node, self.input)

    def words(self, graph: Graph) -> str:
        source, node = graph.nodes.get(self.from_node), graph.nodes.get(self.node)
        if source is None or node is None:
            return "wired"
        target = node.kind.inputs[self.input].name if self.input in node.kind.inputs else self.input
        return f"wired {source.name} to {target}" + ("" if node.id == DOCK else f" of {node.name}")


def _rewire(node: Node, key: str) -> "Operation":
    """What brings back the wire that an input has now, or its absence."""
    before = node.wires.get(key)
    return Wire(node.id, key, before.node, before.output) if before else Unwire(node.id, key)


@dataclass(frozen=True)
class Unwire:
    """Takes the wire off an input."""

    node: str
    input: str
    op: Literal["unwire"] = "unwire"

    def apply(self, graph: Graph) -> Applied:
        node = _node(graph, self.node)
        _input(node, self.input)
        if self.input not in node.wires:
            raise OperationRefused(
                "There is no wire here.", f"{node.name}, {self.input}", "Reload to see the graph as it is."
            )
        return graph.with_node(replace(node, wires=_without(node.wires, self.input))), _rewire(node, self.input)

    def words(self, graph: Graph) -> str:
        node = graph.nodes.get(self.node)
        return f"unwired {node.kind.inputs[self.input].name} of {node.name}" if node else "unwired"


@dataclass(frozen=True)
class SetValue:
    """Sets the value that an unwired input carries; None takes it back to the node's own default."""

    node: str
    input: str
    value: Value | None
    op: Literal["set_value"] = "set_value"

    def apply(self, graph: Graph) -> Applied:
        node = _node(graph, self.node)
        _input(node, self.input)
        values = _without(node.values, self.input)
        if self.value is not None:
            _checked_value(node, self.input, self.value)
            values[self.input] = self.value
        undo = SetValue(node.id, self.input, node.values.get(self.input))
        return graph.with_node(replace(node, values=values)), undo

    def words(self, graph: Graph) -> str:
        node = graph.nodes.get(self.node)
        if node is None or self.input not in node.kind.inputs:
            return "set a value"
        parameter = graph.parameter_at(self.node, self.input)
        name = parameter.name if parameter else f"{node.kind.inputs[self.input].name} of {node.name}"
        return f"reset {name}" if self.value is None else f"set {name} to {_shown(self.value)}"


@dataclass(frozen=True)
class SetSetting:
    """Settles a choice of a node; the shader is rebuilt."""

    node: str
    setting: str
    value: str | int
    op: Literal["set_setting"] = "set_setting"

    def apply(self, graph: Graph) -> Applied:
        node = _node(graph, self.node)
        declared = node.kind.settings.get(self.setting)
        if declared is None or not declared.accepts(self.value):
            offered = ", ".join(declared.options) if declared and declared.options else ""
            offered = offered or (f"{declared.low} to {declared.high}" if declared else "nothing of that name")
            raise OperationRefused(
                f"{self.value!r} is not a choice here.", f"{node.name}, {self.setting}", f"It takes {offered}."
            )
        before = node.settings.get(self.setting, declared.default)
        after = replace(node, settings={**node.settings, self.setting: self.value})
        return graph.with_node(after), SetSetting(node.id, self.setting, before)

    def words(self, graph: Graph) -> str:
        node = graph.nodes.get(self.node)
        return f"set {self.setting} of {node.name if node else self.node} to {self.value}"


@dataclass(frozen=True)
class LabelNode:
    """Gives a node a name of its own; empty takes it back to its type's name."""

    node: str
    label: str
    op: Literal["label_node"] = "label_node"

    def apply(self, graph: Graph) -> Applied:
        node = _node(graph, self.node)
        label = _name(self.label, "label") if self.label.strip() else ""
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
        before = {key: _node(graph, key).place for key in self.places}
        for key, place in self.places.items():
            if place is not None and not all(math.isfinite(c) and abs(c) <= 1e6 for c in place):
                raise OperationRefused("A card cannot lie that far out.", f"node {key}", "Move it nearer.")
            graph = graph.with_node(replace(graph.nodes[key], place=place))
        return graph, MoveNodes(before)

    def words(self, graph: Graph) -> str:
        names = [graph.nodes[k].name for k in self.places if k in graph.nodes]
        return f"moved {names[0]}" if len(names) == 1 else f"moved {len(names)} cards"


@dataclass(frozen=True)
class AddParameter:
    """Makes an input's value a parameter; ``overrides`` are what variants set on it, by variant."""

    parameter: Parameter
    at: int | None = None
    overrides: Mapping[str, Value] | None = None
    op: Literal["add_parameter"] = "add_parameter"

    def apply(self, graph: Graph) -> Applied:
        made = _checked_parameter(graph, self.parameter)
        _new_id(made.id, {p.id for p in graph.parameters}, "parameter")
        node = _node(graph, made.node)
        _input(node, made.input)
        if graph.parameter_at(made.node, made.input):
            raise OperationRefused("This value is a parameter already.", node.name, "Edit that parameter.")
        if not fits(node.kind.inputs[made.input], node.value(made.input)):
            raise OperationRefused(
                "Only a value can become a parameter.", f"{node.name}, {made.input}", "Choose a number or colour."
            )
        at = len(graph.parameters) if self.at is None else max(0, min(self.at, len(graph.parameters)))
        parameters = (*graph.parameters[:at], made, *graph.parameters[at:])
        overrides = self.overrides or {}
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
    name = _name(parameter.name, "parameter")
    unit = parameter.unit.strip()
    if len(unit) > 12 or not (unit.isprintable() or not unit):
        raise OperationRefused("A unit has at most 12 characters.", name, "Use a short one: m, s, °.")
    if any(p.name == name and p.id != parameter.id for p in graph.parameters):
        raise OperationRefused("Another parameter has this name.", name, "Choose another name.")
    return replace(parameter, name=name, unit=unit)


@dataclass(frozen=True)
class EditParameter:
    """Changes a parameter's name, range, step or unit, not what it opens."""

    parameter: Parameter
    op: Literal["edit_parameter"] = "edit_parameter"

    def apply(self, graph: Graph) -> Applied:
        before = _parameter(graph, self.parameter.id)
        made = replace(_checked_parameter(graph, self.parameter), node=before.node, input=before.input)
        after = replace(graph, parameters=tuple(made if p.id == made.id else p for p in graph.parameters))
        return after, EditParameter(before)

    def words(self, graph: Graph) -> str:
        return f"edited parameter {self.parameter.name}"


def _parameter(graph: Graph, key: str) -> Parameter:
    found = graph.parameter(key)
    if found is None:
        raise OperationRefused("This parameter is gone.", key, "Undo brings it back.")
    return found


@dataclass(frozen=True)
class RemoveParameter:
    """Closes a parameter; the default stays as a plain value, variants lose theirs."""

    parameter: str
    op: Literal["remove_parameter"] = "remove_parameter"

    def apply(self, graph: Graph) -> Applied:
        found = _parameter(graph, self.parameter)
        undo = _restored_parameter(graph, found, graph.parameters.index(found))
        after = replace(
            graph,
            parameters=tuple(p for p in graph.parameters if p.id != found.id),
            variants=tuple(_variant_without(v, {found.id}) for v in graph.variants),
        )
        return after, undo

    def words(self, graph: Graph) -> str:
        found = graph.parameter(self.parameter)
        return f"made {found.name if found else 'a parameter'} a plain value"


def _variant(graph: Graph, key: str) -> Variant:
    found = graph.variant(key)
    if found is None:
        raise OperationRefused("This variant is gone.", key, "Undo brings it back.")
    return found


def _checked_variant(graph: Graph, variant: Variant) -> Variant:
    name = _name(variant.name, "variant")
    if any(v.name == name and v.id != variant.id for v in graph.variants):
        raise OperationRefused("Another variant has this name.", name, "Choose another name.")
    return replace(variant, name=name)


@dataclass(frozen=True)
class AddVariant:
    """Adds a variant, empty or with values."""

    variant: Variant
    at: int | None = None
    op: Literal["add_variant"] = "add_variant"

    def apply(self, graph: Graph) -> Applied:
        made = _checked_variant(graph, self.variant)
        _new_id(made.id, {v.id for v in graph.variants}, "variant")
        for key, value in made.values.items():
            parameter = _parameter(graph, key)
            _checked_value(_node(graph, parameter.node), parameter.input, value)
        at = len(graph.variants) if self.at is None else max(0, min(self.at, len(graph.variants)))
        return replace(graph, variants=(*graph.variants[:at], made, *graph.variants[at:])), RemoveVariant(made.id)

    def words(self, graph: Graph) -> str:
        return f"added variant {self.variant.name}"


@dataclass(frozen=True)
class RenameVariant:
    variant: str
    name: str
    op: Literal["rename_variant"] = "rename_variant"

    def apply(self, graph: Graph) -> Applied:
        before = _variant(graph, self.variant)
        made = _checked_variant(graph, replace(before, name=self.name))
        after = replace(graph, variants=tuple(made if v.id == made.id else v for v in graph.variants))
        return after, RenameVariant(before.id, before.name)

    def words(self, graph: Graph) -> str:
        return f"named a variant {self.name}"


@dataclass(frozen=True)
class RemoveVariant:
    variant: str
    op: Literal["remove_variant"] = "remove_variant"

    def apply(self, graph: Graph) -> Applied:
        found = _variant(graph, self.variant)
        after = replace(graph, variants=tuple(v for v in graph.variants if v.id != found.id))
        return after, AddVariant(found, graph.variants.index(found))

    def words(self, graph: Graph) -> str:
        found = graph.variant(self.variant)
        return f"removed variant {found.name if found else ''}".rstrip()


@dataclass(frozen=True)
class SetOverride:
    """Sets a parameter in one variant; None takes it back to the graph's default."""

    variant: str
    parameter: str
    value: Value | None
    op: Literal["set_override"] = "set_override"

    def apply(self, graph: Graph) -> Applied:
        variant, parameter = _variant(graph, self.variant), _parameter(graph, self.parameter)
        values = _without(variant.values, parameter.id)
        if self.value is not None:
            _checked_value(_node(graph, parameter.node), parameter.input, self.value)
            values[parameter.id] = self.value
        made = replace(variant, values=values)
        after = replace(graph, variants=tuple(made if v.id == made.id else v for v in graph.variants))
        return after, SetOverride(variant.id, parameter.id, variant.values.get(parameter.id))

    def words(self, graph: Graph) -> str:
        variant, parameter = graph.variant(self.variant), graph.parameter(self.parameter)
        if variant is None or parameter is None:
            return "set a parameter"
        if self.value is None:
            return f"reset {parameter.name} of {variant.name}"
        return f"set {parameter.name} of {variant.name} to {_shown(self.value)}"


@dataclass(frozen=True)
class Rename:
    """Renames the graph."""

    title: str
    op: Literal["rename"] = "rename"

    def apply(self, graph: Graph) -> Applied:
        return replace(graph, title=_name(self.title, "graph")), Rename(graph.title)

    def words(self, graph: Graph) -> str:
        return f"renamed the graph {self.title}"


@dataclass(frozen=True)
class Batch:
    """Several operations as one step: all of them or none."""

    operations: tuple["Operation", ...]
    summary: str = ""
    op: Literal["batch"] = "batch"

    def apply(self, graph: Graph) -> Applied:
        undo: list[Operation] = []
        for operation in self.operations:
            graph, inverse = operation.apply(graph)
            undo.insert(0, inverse)
        return graph, Batch(tuple(undo))

    def words(self, graph: Graph) -> str:
        if self.summary:
            return self.summary
        parts = []
        for operation in self.operations:
            parts.append(operation.words(graph))
            graph, _ = operation.apply(graph)
        return parts[0] if len(parts) == 1 else f"{parts[0]} and {len(parts) - 1} more" if parts else "nothing"


SINGLE_OPERATIONS = (
    AddNode,
    RemoveNodes,
    Wire,
    Unwire,
    SetValue,
    SetSetting,
    LabelNode,
    MoveNodes,
    AddParameter,
    EditParameter,
    RemoveParameter,
    AddVariant,
    RenameVariant,
    RemoveVariant,
    SetOverride,
    Rename,
)
Operation = Union[
    AddNode,
    RemoveNodes,
    Wire,
    Unwire,
    SetValue,
    SetSetting,
    LabelNode,
    MoveNodes,
    AddParameter,
    EditParameter,
    RemoveParameter,
    AddVariant,
    RenameVariant,
    RemoveVariant,
    SetOverride,
    Rename,
    Batch,
]
