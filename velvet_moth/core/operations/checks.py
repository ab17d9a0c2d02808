"""What every operation is, and the checks that several of them share."""

from collections.abc import Mapping
from typing import Any

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.catalogue.settings import Setting
from velvet_moth.core.document.checks import check_fits
from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.parts import PARTS
from velvet_moth.core.document.values import Value
from velvet_moth.core.nodes.surfaces import DOCK


def node_of(graph: Graph, key: str) -> Node:
    """The node of that id; OperationRefused where it is gone."""
    if key not in graph.nodes:
        raise OperationRefused(
            "This node is no longer in the graph.",
            f"node {key}",
            "It may have been deleted elsewhere; undo brings it back.",
        )
    return graph.nodes[key]


def check_input(node: Node, key: str) -> None:
    """OperationRefused where a node has no such input."""
    if key not in node.kind.inputs:
        raise OperationRefused(f"{node.name} has no input {key!r}.", f"node {node.id}", "Choose one of its inputs.")


def check_value(node: Node, key: str, value: Value) -> None:
    """OperationRefused where an input does not take a value."""
    check_input(node, key)
    declared = node.kind.inputs[key]
    check_fits(declared, value, f"{node.name}, {declared.name}")


def checked_setting(node: Node, key: str, value: Any) -> Setting:
    """What is declared of a setting, where it takes the value."""
    declared = node.kind.settings.get(key)
    if declared is None:
        raise OperationRefused(f"{node.name} has no setting {key[:40]!r}.", f"node {node.id}", "Choose one of its own.")
    if wrong := declared.check(value):
        raise OperationRefused(wrong, f"{node.name}, {declared.name}", "Choose another value.")
    return declared


def check_wire(nodes: Mapping[str, Node], node: Node, key: str, source: Source) -> None:
    """Whether an input takes a wire and its far end is there; loops are looked for apart, since they take longer."""
    check_input(node, key)
    declared = node.kind.inputs[key]
    if not declared.wirable:
        raise OperationRefused(f"{declared.name} is set by hand.", f"{node.name}, {declared.name}", "Type its value.")
    giver = nodes.get(source.node)
    if giver is None:
        raise OperationRefused(
            f"The node {source.node[:40]!r} that is to be wired is not there.",
            f"{node.name}, {declared.name}",
            "Undo brings it back.",
        )
    if source.output not in giver.kind.outputs or giver.id == DOCK:
        raise OperationRefused(
            f"{giver.name} has no output {source.output[:40]!r}.", f"node {giver.id}", "Choose another."
        )
    if source.part and source.part not in PARTS:
        raise OperationRefused(
            f"A wire has no part {source.part[:40]!r}.", f"{giver.name} to {node.name}", f"Take {', '.join(PARTS)}."
        )


def loop_refused(giver: Node, node: Node, key: str) -> OperationRefused:
    """The refusal of a wire that would close a loop."""
    name = node.kind.inputs[key].name
    return OperationRefused(
        f"This wire would close a loop: {giver.name} already depends on {node.name}.",
        f"{giver.name} to {node.name}, {name}",
        "Wire from a node further left.",
    )


def without(mapping: Mapping[str, Any], key: str) -> dict[str, Any]:
    """The same table without one key."""
    return {k: v for k, v in mapping.items() if k != key}
