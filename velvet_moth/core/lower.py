"""Lowering: from the graph document to typed expressions, keeping for each node what came in and what goes out."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any, Union

from velvet_moth.core.expr import Expr, constant, sampler, truth, uniform
from velvet_moth.core.graph import Graph, Node, Source, Value
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.ports import Input
from velvet_moth.core.primitives import combine, splat
from velvet_moth.core.surroundings import surface
from velvet_moth.core.types import (
    P_BOOL,
    P_FLEXIBLE,
    P_SURFACE,
    P_TEXTURE,
    PortType,
    can_carry,
    float_of_width,
    widest,
)

Lowered = Union[Expr, Surface]


@dataclass(frozen=True)
class Mismatch:
    """A wire whose value its input cannot take; the input stands as if unwired."""

    node: str
    input: str
    source: Source
    given: PortType
    taken: PortType


@dataclass
class LoweredGraph:
    """All outputs of a graph as expressions, with the types that flexible ports resolved to."""

    graph: Graph
    outputs: dict[Source, Lowered] = field(default_factory=dict)
    types: dict[Source, PortType] = field(default_factory=dict)
    inputs: dict[tuple[str, str], Lowered] = field(default_factory=dict)
    input_types: dict[tuple[str, str], PortType] = field(default_factory=dict)
    mismatches: list[Mismatch] = field(default_factory=list)

    @property
    def surface(self) -> Surface:
        docked = self.outputs[Source(DOCK, "surface")]
        assert isinstance(docked, Surface)
        return docked

    def inputs_of(self, node: Node) -> dict[str, Expr]:
        """The expressions on a node's inputs, whole surfaces left out."""
        found = ((key, self.inputs.get((node.id, key))) for key in node.kind.inputs)
        return {key: expr for key, expr in found if isinstance(expr, Expr)}

    @property
    def names(self) -> dict[Expr, str]:
        """The catalogue's name behind each expression that is an output of a node."""
        found: dict[Expr, str] = {}
        for source, lowered in self.outputs.items():
            if isinstance(lowered, Expr):
                found.setdefault(lowered, self.graph.nodes[source.node].kind.name)
        return found


def upstream_first(graph: Graph) -> Iterator[Node]:
    """The nodes, each after those it reads; the dock last."""
    done: set[str] = set()
    for start in [*(k for k in graph.nodes if k != DOCK), DOCK]:
        stack = [(start, False)]
        while stack:
            key, expanded = stack.pop()
            if expanded:
                yield graph.nodes[key]
            elif key not in done:
                done.add(key)
                stack.append((key, True))
                stack.extend((s.node, False) for s in graph.nodes[key].wires.values() if s.node not in done)


def lower(graph: Graph) -> LoweredGraph:
    """Every node's outputs as expressions. Values stay outside as uniforms, so editing one changes no shader."""
    found = LoweredGraph(graph)
    for node in upstream_first(graph):
        _lower_node(found, node)
    return found


def _lower_node(found: LoweredGraph, node: Node) -> None:
    kind = node.kind
    wired = {k: found.types[s] for k, s in node.wires.items()}
    flexible = [t for k, t in wired.items() if kind.inputs[k].type is P_FLEXIBLE and can_carry(t, P_FLEXIBLE)]
    resolved = widest(flexible)
    # Two and three numbers cannot meet: the first wired one settles it, the others are mismatches.
    agreed = resolved if resolved is not None else flexible[0]
    values: dict[str, Any] = {}
    for key, declared in kind.inputs.items():
        taken = agreed if declared.type is P_FLEXIBLE else declared.type
        found.input_types[node.id, key] = taken
        source = node.wires.get(key)
        if source is not None and not can_carry(wired[key], taken):
            found.mismatches.append(Mismatch(node.id, key, source, wired[key], taken))
            source = None
        if source is not None:
            values[key] = _widened(found.outputs[source], declared)
        elif node.id == DOCK and declared.type is not P_SURFACE and "surface" in node.wires:
            continue  # the whole surface wired to the dock brings this channel
        else:
            values[key] = unwired(node, declared, taken)
        found.inputs[node.id, key] = values[key]
    settings = tuple((k, node.settings.get(k, s.default)) for k, s in kind.settings.items())
    for key, built in kind.build(values, settings).items():
        source = Source(node.id, key)
        declared_type = kind.outputs[key].type
        found.outputs[source] = built
        found.types[source] = agreed if declared_type is P_FLEXIBLE else declared_type


def _widened(value: Lowered, declared: Input) -> Lowered:
    if isinstance(value, Surface) or declared.type.value is None or declared.type in (P_BOOL, P_TEXTURE):
        return value
    return splat(value, declared.type.value.width)


def unwired(node: Node, declared: Input, taken: PortType) -> Lowered:
    """What an input carries by itself: a surface input, a uniform, a sampler, or a settled yes/no."""
    if declared.source:
        return surface(declared.source)
    if declared.type is P_SURFACE:
        return default_surface()
    key = (node.id, declared.key)
    if declared.type is P_TEXTURE:
        return sampler(key)
    value = node.value(declared.key)
    if declared.type is P_BOOL:
        return truth(value == (1.0,))
    return _uniform(key, value, taken)


def _uniform(key: tuple[str, str], value: Value, taken: PortType) -> Expr:
    width = len(value)
    wanted = taken.value.width if taken.value else width
    if width == 1:
        return uniform(key, float_of_width(1))
    whole = uniform(key, float_of_width(width))
    if wanted == width:
        return whole
    # A value kept from when the input carried more or fewer components.
    letters = "xyzw"[: min(width, max(wanted, 1))]
    kept: Expr = getattr(whole, letters)
    return kept if wanted <= width else combine(kept, *[constant(0.0)] * (wanted - width))
