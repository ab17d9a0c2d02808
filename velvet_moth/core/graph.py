"""The graph document: immutable records, changed only by the operations in ``operations/``."""

import re
from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any, Union

from velvet_moth.core.catalogue import CATALOGUE, NodeType
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.ports import Input
from velvet_moth.core.types import P_BOOL, P_FLEXIBLE, P_SURFACE, P_TEXTURE

# Components of a number, vector, colour or toggle; or a texture's id.
Value = Union[tuple[float, ...], str]

ID_PATTERN = re.compile(r"[a-z][a-z0-9_]{0,31}")
LONGEST_NAME = 80
MOST_NODES = 4000
LARGEST_NUMBER = 1e6


@dataclass(frozen=True)
class Source:
    """The far end of a wire: an output of a node."""

    node: str
    output: str


@dataclass(frozen=True)
class Node:
    """One node: its values on unwired inputs, its settings, its incoming wires, and where its card lies.

    ``place`` is None while the card is laid out by itself; a hand-placed card keeps its place.
    """

    id: str
    type: str
    values: Mapping[str, Value] = field(default_factory=dict)
    settings: Mapping[str, Any] = field(default_factory=dict)
    wires: Mapping[str, Source] = field(default_factory=dict)
    label: str = ""
    place: tuple[float, float] | None = None

    @property
    def kind(self) -> NodeType:
        return CATALOGUE[self.type]

    @property
    def name(self) -> str:
        return self.label or self.kind.name

    def value(self, key: str) -> Value:
        """The value an unwired input carries."""
        declared = self.kind.inputs[key]
        return self.values.get(key, "" if declared.type is P_TEXTURE else declared.default)


@dataclass(frozen=True)
class Parameter:
    """A value opened for tuning: which input of which node, under what name and range."""

    id: str
    name: str
    node: str
    input: str
    low: float = 0.0
    high: float = 1.0
    step: float = 0.01
    unit: str = ""


@dataclass(frozen=True)
class Variant:
    """A named set of parameter values over the graph's defaults."""

    id: str
    name: str
    values: Mapping[str, Value] = field(default_factory=dict)


@dataclass(frozen=True)
class Graph:
    """A whole graph. The dock is a node like any other, always there under the id ``dock``."""

    title: str
    nodes: Mapping[str, Node]
    parameters: tuple[Parameter, ...] = ()
    variants: tuple[Variant, ...] = ()

    def with_node(self, node: Node) -> "Graph":
        return replace(self, nodes={**self.nodes, node.id: node})

    def parameter(self, key: str) -> Parameter | None:
        return next((p for p in self.parameters if p.id == key), None)

    def parameter_at(self, node: str, key: str) -> Parameter | None:
        return next((p for p in self.parameters if (p.node, p.input) == (node, key)), None)

    def variant(self, key: str) -> Variant | None:
        return next((v for v in self.variants if v.id == key), None)

    def uniform_values(self, variant: str = "") -> dict[tuple[str, str], Value]:
        """Every unwired value by (node, input), with the variant's values in place of the defaults."""
        values = {
            (n.id, key): n.value(key)
            for n in self.nodes.values()
            for key, declared in n.kind.inputs.items()
            if declared.type is not P_SURFACE and not declared.source
        }
        chosen = self.variant(variant)
        for parameter in self.parameters if chosen else ():
            if chosen and parameter.id in chosen.values:
                values[parameter.node, parameter.input] = chosen.values[parameter.id]
        return values

    def readers(self, node: str) -> list[tuple[str, str, Source]]:
        """Every (node, input, source) whose wire comes from ``node``."""
        return [
            (other.id, key, source)
            for other in self.nodes.values()
            for key, source in other.wires.items()
            if source.node == node
        ]

    def reaches(self, start: str, goal: str) -> bool:
        """Whether ``goal`` is upstream of ``start``, or the same node."""
        seen, todo = set(), [start]
        while todo:
            current = todo.pop()
            if current == goal:
                return True
            if current not in seen:
                seen.add(current)
                todo.extend(s.node for s in self.nodes[current].wires.values())
        return False


def empty_graph(title: str) -> Graph:
    return Graph(title, {DOCK: Node(DOCK, DOCK)})


def fits(declared: Input, value: Any) -> bool:
    """Whether a value can stand on an unwired input: its number of components, their size, or a texture's id."""
    if declared.type is P_TEXTURE:
        return isinstance(value, str) and len(value) <= 64 and value.isprintable()
    if declared.type is P_SURFACE or declared.source or not isinstance(value, tuple):
        return False
    if declared.type is P_BOOL:
        return value in ((0.0,), (1.0,))
    if not all(isinstance(c, float) and abs(c) <= LARGEST_NUMBER for c in value):
        return False
    if declared.type is P_FLEXIBLE:
        return 1 <= len(value) <= 4
    return len(value) == len(declared.default)
