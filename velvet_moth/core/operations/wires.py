"""Operations on what flows into a node: wires, values, settings."""

from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Graph, Node, Source, Value
from velvet_moth.core.document.parts import PARTS
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.operations.checks import (
    Applied,
    check_input,
    check_value,
    check_wire,
    checked_setting,
    loop_refused,
    node_of,
    shown_value,
    without,
)


@dataclass(frozen=True)
class Wire:
    """Joins an output to an input, in place of what was wired there. A mismatch of types is kept and shown."""

    node: str
    input: str
    from_node: str
    from_output: str
    part: str = ""
    op: Literal["wire"] = "wire"

    @classmethod
    def of(cls, node: str, key: str, source: Source) -> "Wire":
        """The wire that reads ``source``."""
        return cls(node, key, source.node, source.output, source.part)

    @property
    def source(self) -> Source:
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
class Unwire:
    """Takes the wire off an input."""

    node: str
    input: str
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
class SetValue:
    """Sets the value that an unwired input carries; None takes it back to the node's own default."""

    node: str
    input: str
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


@dataclass(frozen=True)
class SetSetting:
    """Settles a choice of a node; the shader is rebuilt."""

    node: str
    setting: str
    value: str | int
    op: Literal["set_setting"] = "set_setting"

    def apply(self, graph: Graph) -> Applied:
        node = node_of(graph, self.node)
        before = node.settings.get(self.setting, checked_setting(node, self.setting, self.value).default)
        after = replace(node, settings={**node.settings, self.setting: self.value})
        return graph.with_node(after), SetSetting(node.id, self.setting, before)

    def words(self, graph: Graph) -> str:
        node = graph.nodes.get(self.node)
        return f"set {self.setting} of {node.name if node else self.node} to {self.value}"
