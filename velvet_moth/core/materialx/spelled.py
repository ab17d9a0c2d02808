"""How each primitive of the language, and each thing known at a surface point, is written with the standard's nodes."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.primitives.elementary import TINY
from velvet_moth.core.materialx.nodes import Nodes, Value, plain

# From the nodes so far, the expression, and its arguments as values.
Rule = Callable[[Nodes, Expr, Sequence[Value]], Value]


def _wide(nodes: Nodes, values: Sequence[Value]) -> list[Value]:
    width = max(value.width for value in values)
    return [nodes.widened(value, width) for value in values]


def _binary(category: str, first: str = "in1", second: str = "in2") -> Rule:
    def rule(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
        a, b = _wide(nodes, args)
        return nodes.add(category, a.width, {first: a, second: b})

    return rule


def _unary(category: str) -> Rule:
    return lambda nodes, expr, args: nodes.add(category, args[0].width, {"in": args[0]})


def _least(nodes: Nodes, value: Value, low: float) -> Value:
    return nodes.add("max", value.width, {"in1": value, "in2": plain(*[low] * value.width)})


def _guarded(category: str, low: float) -> Rule:
    return lambda nodes, expr, args: nodes.add(category, args[0].width, {"in": _least(nodes, args[0], low)})


def _power(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    base, exponent = _wide(nodes, args)
    return nodes.add("power", base.width, {"in1": _least(nodes, base, TINY), "in2": exponent})


def _clamped(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    low, high = (plain(*[float(end)] * args[0].width) for end in expr.attributes)
    return nodes.add("clamp", args[0].width, {"in": args[0], "low": low, "high": high})


def _arccosine(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    low, high = (plain(*[end] * args[0].width) for end in (-1.0, 1.0))
    return nodes.add(
        "acos", args[0].width, {"in": nodes.add("clamp", args[0].width, {"in": args[0], "low": low, "high": high})}
    )


def _negated(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    return nodes.add("subtract", args[0].width, {"in1": plain(*[0.0] * args[0].width), "in2": args[0]})


def _mix(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    a, b, amount = _wide(nodes, args)
    return nodes.add("mix", a.width, {"bg": a, "fg": b, "mix": amount})


def where_greater(nodes: Nodes, a: Value, b: Value, yes: Value, no: Value) -> Value:
    """``yes`` where one number is greater than another, else ``no``."""
    yes, no = _wide(nodes, (yes, no))
    return nodes.add("ifgreater", yes.width, {"value1": a, "value2": b, "in1": yes, "in2": no})


def _where_less(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    a, b, yes, no = _wide(nodes, args)
    parts = [where_greater(nodes, *(nodes.component(value, at) for value in (b, a, yes, no))) for at in range(a.width)]
    return nodes.together(parts)


def _select(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    return where_greater(nodes, args[0], plain(0.5), args[1], args[2])


def _less(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    return where_greater(nodes, args[1], args[0], plain(1.0), plain(0.0))


def _swizzle(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    wanted: Sequence[Any] = expr.attributes
    return nodes.together([nodes.component(args[0], int(at)) for at in wanted])


_OTHER_RANDOMS = "Random numbers are the standard's own: patterns have the same look, in other places."
_NO_DIFFERENCES = (
    "What is found by comparing neighbouring pixels is left out; pictures are read at the reader's own level of detail."
)
# Cells so far apart that their random numbers have nothing in common.
_APART = ((0.0, 0.0, 0.0), (157.0, 113.0, 71.0), (307.0, 263.0, 229.0))


def _cell_random(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    nodes.words[_OTHER_RANDOMS] = None
    places = [nodes.add("add", 3, {"in1": args[0], "in2": plain(*by)}) if any(by) else args[0] for by in _APART]
    return nodes.together([nodes.add("cellnoise3d", 1, {"position": place}) for place in places])


def _no_difference(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    nodes.words[_NO_DIFFERENCES] = None
    return plain(*[0.0] * expr.type.width)


def _first(nodes: Nodes, expr: Expr, args: Sequence[Value]) -> Value:
    return args[0]


# By the name of the primitive; reading textures is in ``writing``, which knows them.
PRIMITIVES: Mapping[str, Rule] = {
    "add": _binary("add"),
    "subtract": _binary("subtract"),
    "multiply": _binary("multiply"),
    "divide": _binary("divide"),
    "modulo": _binary("modulo"),
    "minimum": _binary("min"),
    "maximum": _binary("max"),
    "arctangent": _binary("atan2", "iny", "inx"),
    "power": _power,
    "absolute": _unary("absval"),
    "sign": _unary("sign"),
    "floor": _unary("floor"),
    "ceiling": _unary("ceil"),
    "fract": _unary("fract"),
    "sine": _unary("sin"),
    "cosine": _unary("cos"),
    "exponential": _unary("exp"),
    "normalise": _unary("normalize"),
    "square_root": _guarded("sqrt", 0.0),
    "logarithm": _guarded("ln", TINY),
    "arccosine": _arccosine,
    "negate": _negated,
    "mix": _mix,
    "clamped": _clamped,
    "less": _less,
    "select": _select,
    "where_less": _where_less,
    "logical_and": _binary("multiply"),
    "logical_or": _binary("max"),
    "logical_not": lambda nodes, expr, args: nodes.add("subtract", 1, {"in1": plain(1.0), "in2": args[0]}),
    "combine": lambda nodes, expr, args: nodes.together(args),
    "swizzle": _swizzle,
    "dot": lambda nodes, expr, args: nodes.add("dotproduct", 1, {"in1": args[0], "in2": args[1]}),
    "cross": _binary("crossproduct"),
    "cell_random": _cell_random,
    "assume": _first,
    "continuous": _first,
    "along_x": _no_difference,
    "along_y": _no_difference,
    "between_rows": _no_difference,
}

# From the nodes so far to a thing known at the surface point.
Known = Callable[[Nodes], Value]


def _placed(category: str, width: int, space: str) -> Known:
    return lambda nodes: nodes.add(category, width, {}, space=space)


def _tangent(nodes: Nodes) -> Value:
    t, b, n = (nodes.add(category, 3, {}, space="world") for category in ("tangent", "bitangent", "normal"))
    side = nodes.add("crossproduct", 3, {"in1": n, "in2": t})
    turned = nodes.add("dotproduct", 1, {"in1": side, "in2": b})
    return nodes.together([t, nodes.add("sign", 1, {"in": turned})])


def _to_the_eye(nodes: Nodes) -> Value:
    """The standard's direction runs from the eye."""
    return nodes.add(
        "subtract", 3, {"in1": plain(0.0, 0.0, 0.0), "in2": nodes.add("viewdirection", 3, {}, space="world")}
    )


def _numbered(category: str, width: int, number: int, kind: str = "") -> Known:
    def known(nodes: Nodes) -> Value:
        found = nodes.indexed(category, width, number, kind)
        return nodes.as_kind(found, "vector4") if kind else found

    return known


INPUTS: Mapping[str, Known] = {
    "uv": _numbered("texcoord", 2, 0),
    "second_uv": _numbered("texcoord", 2, 1),
    "position": _placed("position", 3, "world"),
    "moved_position": _placed("position", 3, "world"),
    "object_position": _placed("position", 3, "object"),
    "normal": _placed("normal", 3, "world"),
    "moved_normal": _placed("normal", 3, "world"),
    "object_normal": _placed("normal", 3, "object"),
    "tangent": _tangent,
    "vertex_colour": _numbered("geomcolor", 4, 0, "color4"),
    "second_vertex_colour": _numbered("geomcolor", 4, 1, "color4"),
    "view_direction": _to_the_eye,
    "time": lambda nodes: nodes.add("time", 1, {}),
}
