"""What every operation is, and the checks that several of them share."""

from collections.abc import Mapping
from typing import Any, Protocol

from velvet_moth.core.errors import OperationRefused
from velvet_moth.core.graph import ID_PATTERN, LARGEST_NUMBER, LONGEST_NAME, Graph, Node, Value, fits


class Reversible(Protocol):
    """A change of a graph that knows its inverse and puts itself into words."""

    @property
    def op(self) -> str: ...

    def apply(self, graph: Graph) -> "Applied":
        """The changed graph and what takes the change back; OperationRefused where it does not fit."""

    def words(self, graph: Graph) -> str:
        """What it does to the graph as it is before, as a line of the history."""


Applied = tuple[Graph, Reversible]


def node_of(graph: Graph, key: str) -> Node:
    if key not in graph.nodes:
        raise OperationRefused(
            "This node is no longer in the graph.",
            f"node {key}",
            "It may have been deleted elsewhere; undo brings it back.",
        )
    return graph.nodes[key]


def checked_name(text: str, of: str) -> str:
    clean = " ".join(text.split())
    if not clean or len(clean) > LONGEST_NAME or not clean.isprintable():
        raise OperationRefused(f"A name of 1 to {LONGEST_NAME} characters is needed.", of, "Type a shorter name.")
    return clean


def check_new_id(key: str, taken: Any, of: str) -> None:
    if not ID_PATTERN.fullmatch(key):
        raise OperationRefused(
            "An id is a small letter followed by letters, digits or _.", f"{of} {key!r}", "Use another."
        )
    if key in taken:
        raise OperationRefused("This id is taken.", f"{of} {key}", "Use another.")


def check_input(node: Node, key: str) -> None:
    if key not in node.kind.inputs:
        raise OperationRefused(f"{node.name} has no input {key!r}.", f"node {node.id}", "Choose one of its inputs.")


def check_value(node: Node, key: str, value: Value) -> None:
    check_input(node, key)
    declared = node.kind.inputs[key]
    if not fits(declared, value):
        raise OperationRefused(
            f"{declared.name} takes {declared.type.words} between -{LARGEST_NUMBER:g} and {LARGEST_NUMBER:g}.",
            f"{node.name}, {declared.name}",
            "Type another value.",
        )


def without(mapping: Mapping[str, Any], key: str) -> dict[str, Any]:
    return {k: v for k, v in mapping.items() if k != key}


def shown_value(value: Value) -> str:
    if isinstance(value, str):
        return value or "none"
    return (" × " if len(value) == 2 else " ").join(f"{c:.4g}" for c in value)
