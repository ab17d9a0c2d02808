"""Mends: operations that solve a problem with one press."""

import math
from dataclasses import dataclass, replace

from velvet_moth.core.document.graph import Graph, Node, Source
from velvet_moth.core.document.values import Value, fresh_id
from velvet_moth.core.operations import AddNode, Batch, EditParameter, Operation, SetOverride, SetValue, Wire
from velvet_moth.core.pictures.reading import Reading


@dataclass(frozen=True)
class Mend:
    """One click that solves a problem: an operation on the graph, or another ``reading`` of a ``texture``."""

    words: str
    operation: Operation | None
    texture: str = ""
    reading: Reading | None = None


@dataclass(frozen=True)
class Converter:
    """A node that turns one port type into another, put between on request."""

    given: tuple[str, ...]
    taken: tuple[str, ...]
    words: str
    node: str
    input: str
    output: str
    settings: tuple[tuple[str, str], ...] = ()


CONVERTERS = (
    Converter(("colour",), ("number",), "Use luminance", "luminance", "colour", "value"),
    Converter(
        ("colour",),
        ("number",),
        words="Pick a channel",
        node="pick_channel",
        input="colour",
        output="value",
        settings=(("channel", "red"),),
    ),
    Converter(("vec2",), ("number",), "Take X", "split_two", "vector", "x"),
    Converter(("vec2",), ("number",), "Take Y", "split_two", "vector", "y"),
    Converter(("vec3",), ("number",), "Take X", "split_three", "vector", "x"),
    Converter(("vec3",), ("number",), "Take its length", "length", "vector", "value"),
    Converter(("vec2",), ("vec3", "colour"), "Add a third number", "extend_pair", "vector", "vector"),
    Converter(("vec3", "colour"), ("vec2",), "Take X and Y", "shorten_triple", "vector", "vector"),
    Converter(("number",), ("bool",), "Compare it", "compare", "a", "answer"),
    Converter(("colour",), ("direction",), "Decode it as a normal", "decode_normal", "stored", "normal"),
    Converter(("vec2",), ("direction",), "Decode it as a flow", "decode_flow", "stored", "direction"),
    Converter(("bool",), ("number", "vec2", "vec3", "colour"), "Choose by it", "choose", "condition", "result"),
)


def between(graph: Graph, source: Source, node: str, key: str, converter: Converter) -> Operation:
    """Puts the node of a converter into the wire from ``source`` to an input."""
    made = Node(
        fresh_id(converter.node, graph.nodes),
        converter.node,
        settings=dict(converter.settings),
        wires={converter.input: source},
    )
    return Batch(
        (AddNode(made), Wire(node, key, made.id, converter.output)),
        f"put {made.kind.name} before {graph.nodes[node].kind.inputs[key].name}",
    )


def conversions(graph: Graph, source: Source, given: str, node: str, key: str, taken: str) -> tuple[Mend, ...]:
    """Every node that could stand between a wire's two ends of different types."""
    return tuple(
        Mend(c.words, between(graph, source, node, key, c)) for c in CONVERTERS if given in c.given and taken in c.taken
    )


def keep_above(graph: Graph, node: Node, key: str, low: float) -> Mend:
    """A Maximum before a wire, so that what comes never goes below ``low``."""
    made = Node(fresh_id("maximum", graph.nodes), "maximum", values={"b": (low,)}, wires={"a": node.wires[key]})
    put = Batch((AddNode(made), Wire(node.id, key, made.id, "result")), f"kept {node.kind.inputs[key].name} above zero")
    return Mend(f"Keep it at {low:g} and up", put)


def keep_long(graph: Graph, node: Node, key: str) -> Mend:
    """A value or a small addition that gives a vector a length where it has none."""
    width = len(node.kind.inputs[key].default)
    upright = (*[0.0] * (width - 1), 1.0)
    source = node.wires.get(key)
    if source is None:
        return Mend(f"Set it to ({', '.join(f'{c:g}' for c in upright)})", SetValue(node.id, key, upright))
    values = {"b": tuple(c * 0.001 for c in upright)}
    made = Node(fresh_id("add", graph.nodes), "add", values=values, wires={"a": source})
    name = node.kind.inputs[key].name
    put = Batch((AddNode(made), Wire(node.id, key, made.id, "result")), f"gave {name} a length")
    return Mend("Add a little, so that it always has a length", put)


def keep_within(graph: Graph, variant_id: str, node: Node, key: str, low: float, high: float) -> Mend:
    """What keeps an input within low..high: a Clamp before a wire, else another value or a narrower parameter."""
    within = f"{low:g}–{high:g}" if math.isfinite(high) else f"{low:g} and up"
    source = node.wires.get(key)
    if source is not None:
        made = Node(
            fresh_id("clamp", graph.nodes),
            "clamp",
            values={"low": (low,), "high": (min(high, 1e6),)},
            wires={"value": source},
        )
        put = Batch((AddNode(made), Wire(node.id, key, made.id, "result")), f"clamped {node.kind.inputs[key].name}")
        return Mend(f"Clamp to {within} first", put)

    def kept(value: Value) -> Value:
        assert not isinstance(value, str)
        return tuple(min(max(c, low), high) for c in value)

    parameter, variant = graph.parameter_at(node.id, key), graph.variant(variant_id)
    value = node.value(key)
    held = graph.set_by(variant_id)
    if parameter and variant and parameter.id in held:
        value = held[parameter.id]
        if kept(value) != value:
            return Mend(f"Set it within {within}", SetOverride(variant.id, parameter.id, kept(value)))
    if parameter and kept(value) == value:
        narrower = replace(parameter, low=max(parameter.low, low), high=min(parameter.high, high))
        return Mend(f"Narrow its slider to {within}", EditParameter(narrower))
    return Mend(f"Set it within {within}", SetValue(node.id, key, kept(value)))
