"""Operations on what flows into a node: wires, values, settings."""

from dataclasses import dataclass, replace
from typing import Annotated, Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import Text, Whole
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.parts import PARTS
from velvet_moth.core.document.values import InputKey, NodeId, OutputKey, RefersTo, SettingKey, Value, shown_value
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations.checks import (
    check_input,
    check_value,
    check_wire,
    checked_setting,
    loop_refused,
    node_of,
    without,
)
from velvet_moth.core.operations.operation import Applied, Operation


@dataclass(frozen=True)
class Wire(Operation):
    """Joins an output to an input, in place of what was wired there. A mismatch of types is kept and shown."""

    node: NodeId
    input: InputKey
    from_node: NodeId
    from_output: OutputKey
    part: Text = ""
    op: Literal["wire"] = "wire"

    @classmethod
    def of(cls, node: str, key: str, source: Source) -> "Wire":
        """The wire that reads ``source``."""
        return cls(node, key, source.node, source.output, source.part)

    @property
    def source(self) -> Source:
        """The far end of the wire."""
        return Source(self.from_node, self.from_output, self.part)

    def apply(self, graph: Graph) -> Applied:
        node, giver = node_of(graph, self.node), node_of(graph, self.from_node)
        check_wire(graph.nodes, node, self.input, self.source)
        if graph.reaches(self.from_node, self.node):
            raise loop_refused(giver, node, self.input)
        after = graph.with_node(replace(node, wires={**node.wires, self.input: self.source}))
        return after, _rewire(node, self.input)

    def words(self, graph: Graph) -> str:
        source, node = graph.nodes.get(self.from_node), graph.nodes.get(self.node)
        if source is None or node is None:
            return "wired"
        target = node.kind.inputs[self.input].name if self.input in node.kind.inputs else self.input
        taken = f"{PARTS[self.part].words} of " if self.part in PARTS else ""
        return f"wired {taken}{source.name} to {target}" + ("" if node.id == DOCK else f" of {node.name}")


def _rewire(node: Node, key: str) -> "Wire | Unwire":
    """What brings back the wire that an input has now, or its absence."""
    before = node.wires.get(key)
    return Wire.of(node.id, key, before) if before else Unwire(node.id, key)


@dataclass(frozen=True)
class Unwire(Operation):
    """Takes the wire off an input."""

    node: NodeId
    input: InputKey
    op: Literal["unwire"] = "unwire"

    def apply(self, graph: Graph) -> Applied:
        node = node_of(graph, self.node)
        check_input(node, self.input)
        if self.input not in node.wires:
            raise OperationRefused(
                "There is no wire here.", f"{node.name}, {self.input}", "Reload to see the graph as it is."
            )
        return graph.with_node(replace(node, wires=without(node.wires, self.input))), _rewire(node, self.input)

    def words(self, graph: Graph) -> str:
        node = graph.nodes.get(self.node)
        return f"unwired {node.kind.inputs[self.input].name} of {node.name}" if node else "unwired"


@dataclass(frozen=True)
class SetValue(Operation):
    """Sets the value that an unwired input carries; None takes it back to the node's own default."""

    node: NodeId
    input: InputKey
    value: Value | None
    op: Literal["set_value"] = "set_value"

    def apply(self, graph: Graph) -> Applied:
        node = node_of(graph, self.node)
        check_input(node, self.input)
        values = without(node.values, self.input)
        if self.value is not None:
            check_value(node, self.input, self.value)
            values[self.input] = self.value
        undo = SetValue(node.id, self.input, node.values.get(self.input))
        return graph.with_node(replace(node, values=values)), undo

    def words(self, graph: Graph) -> str:
        node = graph.nodes.get(self.node)
        if node is None or self.input not in node.kind.inputs:
            return "set a value"
        parameter = graph.parameter_at(self.node, self.input)
        name = parameter.name if parameter else f"{node.kind.inputs[self.input].name} of {node.name}"
        return f"reset {name}" if self.value is None else f"set {name} to {shown_value(self.value)}"


SettingValue = Annotated[Text | Whole, RefersTo("setting_value")]


@dataclass(frozen=True)
class SetSetting(Operation):
    """Makes a choice of a node, which rebuilds the shader; None takes it back to the node's own default."""

    node: NodeId
    setting: SettingKey
    value: SettingValue | None
    op: Literal["set_setting"] = "set_setting"

    def apply(self, graph: Graph) -> Applied:
        node = node_of(graph, self.node)
        settings = without(node.settings, self.setting)
        declared = node.kind.settings.get(self.setting)
        checked_setting(node, self.setting, declared.default if declared and self.value is None else self.value)
        if self.value is not None:
            settings[self.setting] = self.value
        undo = SetSetting(node.id, self.setting, node.settings.get(self.setting))
        return graph.with_node(replace(node, settings=settings)), undo

    def words(self, graph: Graph) -> str:
        node = graph.nodes.get(self.node)
        name = f"{self.setting} of {node.name if node else self.node}"
        return f"reset {name}" if self.value is None else f"set {name} to {self.value}"
