"""What each node of the standard is with nodes of the catalogue. Nodes that the standard itself makes of others are taken apart first."""

import math
from collections.abc import Callable, Mapping

import MaterialX

from velvet_moth.core.document.graph import Source
from velvet_moth.core.materialx.blends import BLENDS
from velvet_moth.core.materialx.graph_of import Got, numbers
from velvet_moth.core.materialx.rules import Reading, Rule, each, is_even, minus, mixed, plus, product, times

_TURN = 2 * math.pi


def _binary(type_: str, a: str = "a", b: str = "b", first: str = "in1", second: str = "in2") -> Rule:
    def rule(r: Reading, node: MaterialX.Node) -> Got:
        one, two = r.graph.as_number(r.got(node, first)), r.graph.as_number(r.got(node, second))
        width = max(one.width, two.width)
        return r.graph.made(width, type_, "result", **{a: one, b: two})

    return rule


def _unary(type_: str, settings: Mapping[str, object] | None = None) -> Rule:
    def rule(r: Reading, node: MaterialX.Node) -> Got:
        value = r.graph.as_number(r.got(node, "in"))
        return r.graph.made(value.width, type_, "result", settings, value=value)

    return rule


def _power(r: Reading, node: MaterialX.Node) -> Got:
    base, exponent = r.got(node, "in1"), r.got(node, "in2")
    graph = r.graph
    if is_even(exponent):
        return graph.made(base.width, "power", "result", base=base, exponent=graph.component(exponent, 0))
    return each(
        r,
        base.width,
        lambda at: graph.made(
            1, "power", "result", base=graph.component(base, at), exponent=graph.component(exponent, at)
        ),
    )


def _wave(type_: str) -> Rule:
    """The catalogue's waves take turns; the standard's take radians."""

    def rule(r: Reading, node: MaterialX.Node) -> Got:
        value = r.got(node, "in")
        return r.graph.made(value.width, type_, "result", value=value, frequency=numbers(1 / _TURN))

    return rule


def _angle(type_: str) -> Rule:
    def rule(r: Reading, node: MaterialX.Node) -> Got:
        value = r.got(node, "in")
        return each(
            r,
            value.width,
            lambda at: times(r, r.graph.made(1, type_, "value", value=r.graph.component(value, at)), _TURN),
        )

    return rule


def _tangent(r: Reading, node: MaterialX.Node) -> Got:
    value = r.got(node, "in")
    turns = times(r, value, 1 / _TURN)
    return each(
        r, value.width, lambda at: r.graph.made(1, "tangent_of_angle", "value", turns=r.graph.component(turns, at))
    )


def _arctangent(r: Reading, node: MaterialX.Node) -> Got:
    y, x, graph = r.got(node, "iny"), r.got(node, "inx"), r.graph
    return each(
        r,
        y.width,
        lambda at: times(
            r, graph.made(1, "angle_of", "value", x=graph.component(x, at), y=graph.component(y, at)), _TURN
        ),
    )


def _clamp(r: Reading, node: MaterialX.Node) -> Got:
    value, low, high = (r.got(node, name) for name in ("in", "low", "high"))
    if is_even(low) and is_even(high):
        ends = (r.graph.component(end, 0) for end in (low, high))
        return r.graph.made(
            value.width, "clamp", "result", **dict(zip(("value", "low", "high"), (value, *ends), strict=True))
        )
    above = r.graph.made(value.width, "maximum", "result", a=value, b=low)
    return r.graph.made(value.width, "minimum", "result", a=above, b=high)


def _mix(r: Reading, node: MaterialX.Node) -> Got:
    return mixed(r, r.got(node, "bg"), r.got(node, "fg"), r.got(node, "mix"))


def _chosen(asks: str, is_turned: bool = False) -> Rule:
    """One of two by comparing two numbers; a yes or no where that is what the node gives."""

    def rule(r: Reading, node: MaterialX.Node) -> Got:
        one, two = (r.graph.as_number(r.got(node, name)) for name in ("value1", "value2"))
        if asks == "near":
            condition = r.graph.asked(one, two, "near")
        else:
            condition = r.graph.asked(two, one, asks) if is_turned else r.graph.asked(one, two, asks)
        if is_turned:
            condition = Got(1, wire=Source(r.graph.add("opposite", {"answer": condition}), "answer"), is_bool=True)
        if node.getType() == "boolean" and not node.getInput("in1"):
            return condition
        yes, no = r.got(node, "in1"), r.got(node, "in2")
        width = max(yes.width, no.width)
        return r.graph.made(width, "choose", "result", condition=condition, yes=yes, no=no)

    return rule


def _logic(type_: str) -> Rule:
    def rule(r: Reading, node: MaterialX.Node) -> Got:
        a, b = (r.graph.as_answer(r.got(node, name)) for name in ("in1", "in2"))
        return Got(1, wire=Source(r.graph.add(type_, {"a": a, "b": b}), "answer"), is_bool=True)

    return rule


def _not(r: Reading, node: MaterialX.Node) -> Got:
    answer = r.graph.as_answer(r.got(node, "in"))
    return Got(1, wire=Source(r.graph.add("opposite", {"answer": answer}), "answer"), is_bool=True)


def _combine(count: int) -> Rule:
    return lambda r, node: r.graph.together([r.got(node, f"in{at}") for at in range(1, count + 1)])


def _extract(r: Reading, node: MaterialX.Node) -> Got:
    index = r.got(node, "index")
    return r.graph.component(r.got(node, "in"), int(index.numbers[0]) if index.wire is None else 0)


def _stretched(r: Reading, node: MaterialX.Node) -> Got:
    """Roughness along and across. Source: the standard's own mx_roughness_anisotropy."""
    rough, graph = r.got(node, "roughness"), r.graph
    amount = graph.made(1, "clamp", "result", value=r.got(node, "anisotropy"), low=numbers(0.0), high=numbers(0.98))
    aspect = graph.made(1, "square_root", "result", value=minus(r, numbers(1.0), amount))
    square = product(r, rough, rough)
    along = graph.made(1, "divide", "result", a=square, b=aspect)
    return graph.together([graph.made(1, "minimum", "result", a=along, b=numbers(1.0)), product(r, square, aspect)])


_WIDTHS = {"float": 1, "integer": 1, "boolean": 1, "vector2": 2, "vector3": 3, "color3": 3, "vector4": 4, "color4": 4}


def _convert(r: Reading, node: MaterialX.Node) -> Got:
    return r.graph.widened(r.graph.as_number(r.got(node, "in")), _WIDTHS[node.getType()])


def _dot(r: Reading, node: MaterialX.Node) -> Got:
    a, b = r.got(node, "in1"), r.got(node, "in2")
    if a.width == 3:
        return r.graph.made(1, "dot", "value", a=a, b=b)
    product = r.graph.made(a.width, "multiply", "result", a=a, b=b)
    total = r.graph.component(product, 0)
    for at in range(1, a.width):
        total = plus(r, total, r.graph.component(product, at))
    return total


def _length_of(r: Reading, value: Got) -> Got:
    if value.width == 3:
        return r.graph.made(1, "length", "value", vector=value)
    square = r.graph.made(value.width, "multiply", "result", a=value, b=value)
    total = r.graph.component(square, 0)
    for at in range(1, value.width):
        total = plus(r, total, r.graph.component(square, at))
    return r.graph.made(1, "square_root", "result", value=total)


def _normalise(r: Reading, node: MaterialX.Node) -> Got:
    value = r.got(node, "in")
    if value.width == 3:
        return r.graph.made(3, "normalise", "vector", vector=value)
    return r.graph.made(value.width, "divide", "result", a=value, b=_length_of(r, value))


def _cross(r: Reading, node: MaterialX.Node) -> Got:
    return r.graph.made(3, "cross", "vector", a=r.got(node, "in1"), b=r.got(node, "in2"))


def _turn(r: Reading, node: MaterialX.Node) -> Got:
    turns = times(r, r.got(node, "amount"), -1 / 360)
    return r.graph.made(2, "turn", "uv", uv=r.got(node, "in"), angle=turns, centre=numbers(0.0, 0.0))


def _turn_about(r: Reading, node: MaterialX.Node) -> Got:
    # As the standard has it, against the hand that the catalogue turns by.
    turns = times(r, r.got(node, "amount"), -1 / 360)
    return r.graph.made(3, "turn_about_axis", "vector", vector=r.got(node, "in"), axis=r.got(node, "axis"), angle=turns)


def _colour_space(way: str) -> Rule:
    return lambda r, node: r.graph.made(3, "colour_space", "colour", {"way": way}, colour=r.got(node, "in"))


def _luminance(r: Reading, node: MaterialX.Node) -> Got:
    colour = r.got(node, "in")
    found = r.graph.made(1, "luminance", "value", colour=r.graph.widened(colour, 3))
    return r.graph.widened(found, colour.width)


def _placed(world: tuple[str, str], own: tuple[str, str]) -> Rule:
    def rule(r: Reading, node: MaterialX.Node) -> Got:
        type_, output = own if r.text(node, "space") in ("object", "model") else world
        return r.graph.made(3, type_, output)

    return rule


def _normal(r: Reading, node: MaterialX.Node) -> Got:
    if r.text(node, "space") in ("object", "model"):
        r.say("Normals of the form itself are read as those in the world.")
    return r.graph.made(3, "form_normal", "normal")


def _bitangent(r: Reading, node: MaterialX.Node) -> Got:
    return r.graph.made(3, "change_space", "vector", {"way": "tangent to world"}, direction=numbers(0.0, 1.0, 0.0))


def _set_of(r: Reading, node: MaterialX.Node) -> str:
    index = r.got(node, "index")
    return "second" if index.wire is None and index.numbers and index.numbers[0] == 1 else "first"


def _coordinates(r: Reading, node: MaterialX.Node) -> Got:
    uv = r.graph.made(2, "uv", "uv", {"set": _set_of(r, node)})
    return r.graph.widened(uv, _WIDTHS[node.getType()])


def _vertex_colour(r: Reading, node: MaterialX.Node) -> Got:
    key = r.graph.add("vertex_colour", {}, {"set": _set_of(r, node)})
    parts = [Got(1, wire=Source(key, name)) for name in ("red", "green", "blue", "alpha")]
    return r.graph.together(parts[: _WIDTHS[node.getType()]])


def _to_the_eye(r: Reading, node: MaterialX.Node) -> Got:
    return r.graph.made(3, "negate", "result", value=r.graph.made(3, "view_direction", "direction"))


def _normal_map(r: Reading, node: MaterialX.Node) -> Got:
    return r.graph.made(3, "change_space", "vector", {"way": "tangent to world"}, direction=normal_of_map(r, node))


def normal_of_map(r: Reading, node: MaterialX.Node) -> Got:
    """The normal that a normal map holds, in tangent space."""
    strength = r.got(node, "scale")
    if strength.wire is None and set(strength.numbers) == {1.0}:
        double = times(r, r.graph.widened(r.got(node, "in"), 3), 2.0)
        return r.graph.made(3, "subtract", "result", a=double, b=numbers(1.0))
    key = {"stored": r.got(node, "in"), "strength": r.graph.component(strength, 0)}
    return r.graph.made(3, "decode_normal", "normal", **key)


def _height_normal(r: Reading, node: MaterialX.Node) -> Got:
    found = r.graph.made(
        3, "bump", "normal", height=r.got(node, "in"), depth=r.graph.component(r.got(node, "scale"), 0)
    )
    return plus(r, times(r, found, 0.5), numbers(0.5))


_OTHER_NOISE = "Noises are this program's own: patterns have the same look, in other places."


def _noise(make: Callable[[Reading, MaterialX.Node], Got], is_signed: bool) -> Rule:
    """The standard's noises lie around 0, and are so strong and so far up as their inputs say."""

    def rule(r: Reading, node: MaterialX.Node) -> Got:
        r.say(_OTHER_NOISE)
        found = make(r, node)
        if is_signed:
            found = plus(r, times(r, found, 2.0), numbers(-1.0))
        if r.declared(node, "amplitude") is None:
            return r.graph.widened(found, _WIDTHS[node.getType()])
        strong = r.graph.made(_WIDTHS[node.getType()], "multiply", "result", a=found, b=r.got(node, "amplitude"))
        return plus(r, strong, r.got(node, "pivot")) if r.declared(node, "pivot") is not None else strong

    return rule


def _flat(type_: str, output: str = "value") -> Callable[[Reading, MaterialX.Node], Got]:
    return lambda r, node: r.graph.made(1, type_, output, uv=r.got(node, "texcoord"), scale=numbers(1.0))


def _solid(type_: str, settings: Mapping[str, object] | None = None) -> Callable[[Reading, MaterialX.Node], Got]:
    return lambda r, node: r.graph.made(1, type_, "value", settings, place=r.got(node, "position"), scale=numbers(1.0))


def _cell(width: int) -> Rule:
    def rule(r: Reading, node: MaterialX.Node) -> Got:
        r.say(_OTHER_NOISE)
        place = r.got(node, "texcoord" if width == 2 else "position")
        cell = r.graph.together([r.graph.component(place, at) for at in range(2)])
        # A seed is a whole number, as the third coordinate of a cell is.
        seed = numbers(0.0) if width == 2 else r.graph.made(1, "floor", "result", value=r.graph.component(place, 2))
        return r.graph.made(1, "random_per_cell", "value", cell=cell, seed=seed)

    return rule


KNOWN: Mapping[str, Rule] = {
    **BLENDS,
    "add": _binary("add"),
    "subtract": _binary("subtract"),
    "multiply": _binary("multiply"),
    "divide": _binary("divide"),
    "modulo": _binary("modulo", "value", "size"),
    "min": _binary("minimum"),
    "max": _binary("maximum"),
    "power": _power,
    "absval": _unary("absolute"),
    "sign": _unary("sign_of"),
    "floor": _unary("floor"),
    "ceil": _unary("ceiling"),
    "fract": _unary("fract"),
    "round": _unary("round_off"),
    "sqrt": _unary("square_root"),
    "ln": _unary("logarithm"),
    "exp": _unary("exponential"),
    "invert": lambda r, node: r.graph.made(
        r.got(node, "in").width, "subtract", "result", a=r.got(node, "amount"), b=r.got(node, "in")
    ),
    "sin": _wave("sine"),
    "cos": _wave("cosine"),
    "tan": _tangent,
    "asin": _angle("arc_sine"),
    "acos": _angle("arc_cosine"),
    "atan2": _arctangent,
    "clamp": _clamp,
    "mix": _mix,
    "ifgreater": _chosen("above"),
    "ifgreatereq": _chosen("above", is_turned=True),
    "ifequal": _chosen("near"),
    "and": _logic("both"),
    "or": _logic("either"),
    "not": _not,
    "combine2": _combine(2),
    "combine3": _combine(3),
    "combine4": _combine(4),
    "extract": _extract,
    "roughness_anisotropy": _stretched,
    "convert": _convert,
    "dot": lambda r, node: r.got(node, "in"),
    "constant": lambda r, node: r.got(node, "value"),
    "dotproduct": _dot,
    "crossproduct": _cross,
    "magnitude": lambda r, node: _length_of(r, r.got(node, "in")),
    "normalize": _normalise,
    "rotate2d": _turn,
    "rotate3d": _turn_about,
    "luminance": _luminance,
    "hsvtorgb": _colour_space("HSV to RGB"),
    "rgbtohsv": _colour_space("RGB to HSV"),
    "position": _placed(("position", "position"), ("object_position", "position")),
    "normal": _normal,
    "tangent": _placed(("tangent", "direction"), ("tangent", "direction")),
    "bitangent": _bitangent,
    "texcoord": _coordinates,
    "geomcolor": _vertex_colour,
    "viewdirection": _to_the_eye,
    "time": lambda r, node: r.graph.made(1, "time", "seconds"),
    "image": lambda r, node: r.picture(node),
    "normalmap": _normal_map,
    "heighttonormal": _height_normal,
    "noise2d": _noise(_flat("gradient_noise"), is_signed=True),
    "noise3d": _noise(_solid("noise_in_space", {"kind": "gradient"}), is_signed=True),
    "fractal2d": _noise(_flat("fractal_noise"), is_signed=True),
    "fractal3d": _noise(_solid("fractal_in_space"), is_signed=True),
    "worleynoise2d": _noise(_flat("cell_noise", "distance"), is_signed=False),
    "worleynoise3d": _noise(_solid("noise_in_space", {"kind": "cell"}), is_signed=False),
    "cellnoise2d": _cell(2),
    "cellnoise3d": _cell(3),
}
