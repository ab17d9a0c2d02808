"""Arithmetic and the elementary functions, each total: where a formula has no value, a stated one is given."""

import math
from collections.abc import Callable, Sequence

import numpy as np

from velvet_moth.core.expr import Array, Domain, Expr, Operand, Primitive, Structural, apply, declare
from velvet_moth.core.interval import (
    SIGNED_UNIT,
    UNIT,
    Interval,
    inverse,
    monotone,
    negated,
    product,
    spanning,
    total,
)
from velvet_moth.core.primitives.rules import (
    ZERO,
    Attributes,
    BoundRule,
    componentwise_helper,
    function,
    infix,
    widest_float,
)
from velvet_moth.core.types import Type

TINY = float(np.finfo(np.float32).tiny)
EXPONENT_LIMIT = 126.0


def _guarded_power(a: Array, b: Array) -> Array:
    base = np.maximum(a, ZERO)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        exponent = np.clip(b * np.log2(np.maximum(base, np.float32(TINY))), -EXPONENT_LIMIT, EXPONENT_LIMIT)
        value = np.exp2(exponent.astype(np.float32))
    at_zero = np.where(b == 0, np.float32(1), ZERO)
    return np.where(base > 0, value, at_zero).astype(np.float32)


def _divide(arrays: Sequence[Array], _: Attributes) -> Array:
    a, b = arrays
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        return np.where(b == 0, ZERO, a / np.where(b == 0, np.float32(1), b)).astype(np.float32)


def _modulo(arrays: Sequence[Array], attributes: Attributes) -> Array:
    a, b = arrays
    return np.asarray(a - b * np.floor(_divide((a, b), attributes)), dtype=np.float32)


def _power_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    base, exponent = args[0].meet(0.0, math.inf), args[1]
    ends = []
    # Just above 0 a negative exponent gives the largest value of all.
    least = TINY if base.low == 0 < base.high else base.low
    for x in (base.low, least, base.high):
        for y in (exponent.low, exponent.high):
            if x == 0:
                ends.append(1.0 if y == 0 else 0.0)
            else:
                ends.append(2.0 ** max(-EXPONENT_LIMIT, min(EXPONENT_LIMIT, y * math.log2(min(x, 1e38)))))
    if base.low <= 1 <= base.high or exponent.low <= 0 <= exponent.high:
        ends.append(1.0)
    return spanning(ends)


def _periodic(args: Sequence[Interval], _: Attributes) -> Interval:
    return SIGNED_UNIT


def _absolute_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    x = args[0]
    far = max(abs(x.low), abs(x.high))
    return Interval(0.0 if x.low <= 0 <= x.high else min(abs(x.low), abs(x.high)), far)


def _fract_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    x = args[0]
    inside = math.isfinite(x.low) and math.isfinite(x.high) and math.floor(x.low) == math.floor(x.high)
    return Interval(x.low - math.floor(x.low), x.high - math.floor(x.low)) if inside else UNIT


def _floor_end(x: float) -> float:
    return math.floor(x) if math.isfinite(x) else x


def _modulo_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    b = args[1]
    return Interval(min(b.low, 0.0), max(b.high, 0.0))


def _mix_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    a, b, t = args
    if t.within(0.0, 1.0):
        return a.hull(b)
    return total(a, product(total(b, negated(a)), t)).hull(a)


def _without(neutral: float) -> Callable[[Sequence[Expr], Type], Expr | None]:
    """Leaves out an argument that changes nothing, such as + 0 or * 1."""

    def simplify(args: Sequence[Expr], type_: Type) -> Expr | None:
        for one, other in ((args[0], args[1]), (args[1], args[0])):
            is_neutral = one.operator is Structural.CONSTANT and set(one.attributes) == {neutral}
            if is_neutral and other.type is type_:
                return other
        return None

    return simplify


def _simple(name: str, glsl: str, compute: Callable[[Array], Array], bound: BoundRule, operations: int = 1) -> None:
    """A total function of one argument, spelled by GLSL's function of that name."""

    def numpy_rule(arrays: Sequence[Array], _: Attributes) -> Array:
        return compute(arrays[0])

    declare(Primitive(name, widest_float, function(glsl), numpy_rule, bound, operations, ()))


declare(
    Primitive(
        "add",
        widest_float,
        infix("+"),
        lambda a, _: a[0] + a[1],
        lambda r, _: total(r[0], r[1]),
        1,
        (),
        simplify=_without(0.0),
    )
)
declare(
    Primitive(
        "subtract", widest_float, infix("-"), lambda a, _: a[0] - a[1], lambda r, _: total(r[0], negated(r[1])), 1, ()
    )
)
declare(
    Primitive(
        "multiply",
        widest_float,
        infix("*"),
        lambda a, _: a[0] * a[1],
        lambda r, _: product(r[0], r[1]),
        1,
        (),
        simplify=_without(1.0),
    )
)
declare(
    Primitive(
        "divide",
        widest_float,
        function("divided"),
        _divide,
        lambda r, _: product(r[0], inverse(r[1])),
        2,
        (Domain(1, "a division by zero has no value; it counts as 0 there", excluded=0.0),),
        componentwise_helper(
            "divided", "float divided(float a, float b) { return b == 0.0 ? 0.0 : a / b; }", arguments=2
        ),
    )
)
declare(
    Primitive(
        "modulo",
        widest_float,
        function("modulo"),
        _modulo,
        _modulo_bound,
        4,
        (Domain(1, "a remainder of a division by zero has no value; it counts as 0 there", excluded=0.0),),
        componentwise_helper(
            "modulo",
            "float modulo(float a, float b) { return b == 0.0 ? a : a - b * floor(a / b); }",
            arguments=2,
        ),
    )
)
declare(
    Primitive(
        "power",
        widest_float,
        function("powered"),
        lambda a, _: _guarded_power(a[0], a[1]),
        _power_bound,
        4,
        (Domain(0, "the power of a negative number has no value; it counts as 0 there", low=0.0),),
        componentwise_helper(
            "powered",
            "float powered(float a, float b) {\n"
            "  float e = clamp(b * log2(max(a, 1.1754944e-38)), -126.0, 126.0);\n"
            "  return a > 0.0 ? exp2(e) : (b == 0.0 ? 1.0 : 0.0);\n"
            "}",
            arguments=2,
        ),
    )
)
declare(
    Primitive(
        "square_root",
        widest_float,
        lambda types, texts, _: f"sqrt(max({texts[0]}, 0.0))",
        lambda a, _: np.sqrt(np.maximum(a[0], ZERO)),
        lambda r, _: monotone(math.sqrt, r[0].meet(0.0, math.inf)),
        2,
        (Domain(0, "the root of a negative number has no value; it counts as 0 there", low=0.0),),
    )
)
declare(
    Primitive(
        "logarithm",
        widest_float,
        lambda types, texts, _: f"log(max({texts[0]}, 1.1754944e-38))",
        lambda a, _: np.log(np.maximum(a[0], np.float32(TINY))),
        lambda r, _: monotone(lambda x: math.log(x) if x < math.inf else x, r[0].meet(TINY, math.inf)),
        3,
        (Domain(0, "the logarithm of zero or less has no value; it counts as -87.3 there", low=TINY),),
    )
)
declare(
    Primitive(
        "exponential",
        widest_float,
        lambda types, texts, _: f"exp(clamp({texts[0]}, -87.0, 87.0))",
        lambda a, _: np.exp(np.clip(a[0], np.float32(-87), np.float32(87))),
        lambda r, _: monotone(math.exp, r[0].meet(-87.0, 87.0)),
        3,
        (),
    )
)
declare(
    Primitive(
        "arccosine",
        widest_float,
        lambda types, texts, _: f"acos(clamp({texts[0]}, -1.0, 1.0))",
        lambda a, _: np.arccos(np.clip(a[0], np.float32(-1), np.float32(1))),
        lambda r, _: monotone(math.acos, r[0].meet(-1.0, 1.0)),
        4,
        (Domain(0, "an arc cosine exists between -1 and 1 only; the nearest end counts", low=-1.0, high=1.0),),
    )
)
declare(
    Primitive(
        "arctangent",
        widest_float,
        function("turned"),
        lambda a, _: np.where((a[0] == 0) & (a[1] == 0), ZERO, np.arctan2(a[0], a[1])).astype(np.float32),
        lambda r, _: Interval(-math.pi, math.pi),
        8,
        (),
        componentwise_helper(
            "turned",
            "float turned(float a, float b) { return a == 0.0 && b == 0.0 ? 0.0 : atan(a, b); }",
            arguments=2,
        ),
    )
)
declare(
    Primitive(
        "minimum",
        widest_float,
        function("min"),
        lambda a, _: np.minimum(a[0], a[1]),
        lambda r, _: Interval(min(r[0].low, r[1].low), min(r[0].high, r[1].high)),
        1,
        (),
    )
)
declare(
    Primitive(
        "maximum",
        widest_float,
        function("max"),
        lambda a, _: np.maximum(a[0], a[1]),
        lambda r, _: Interval(max(r[0].low, r[1].low), max(r[0].high, r[1].high)),
        1,
        (),
    )
)
declare(
    Primitive(
        "negate",
        widest_float,
        lambda types, texts, _: f"(-{texts[0]})",
        lambda a, _: -a[0],
        lambda r, _: negated(r[0]),
        1,
        (),
    )
)
declare(
    Primitive(
        "mix",
        widest_float,
        function("mixed"),
        lambda a, _: np.asarray(a[0] + (a[1] - a[0]) * a[2], dtype=np.float32),
        _mix_bound,
        3,
        (),
        "\n".join(
            f"{t} mixed({t} a, {t} b, {t} t) {{ return a + (b - a) * t; }}" for t in ("float", "vec2", "vec3", "vec4")
        ),
    )
)
_simple("absolute", "abs", np.abs, _absolute_bound)
_simple("sign", "sign", np.sign, lambda r, _: monotone(lambda x: (x > 0) - (x < 0), r[0]))
_simple("floor", "floor", np.floor, lambda r, _: monotone(_floor_end, r[0]))
_simple("ceiling", "ceil", np.ceil, lambda r, _: monotone(lambda x: math.ceil(x) if math.isfinite(x) else x, r[0]))
_simple("fract", "fract", lambda x: x - np.floor(x), _fract_bound)
_simple("sine", "sin", np.sin, _periodic, 4)
_simple("cosine", "cos", np.cos, _periodic, 4)


def mix(a: Operand, b: Operand, t: Operand) -> Expr:
    """a + (b - a) * t, for any t."""
    return apply("mix", a, b, t)


def power(a: Operand, b: Operand) -> Expr:
    """a to the power b; 0 for a negative a."""
    return apply("power", a, b)


def modulo(a: Operand, b: Operand) -> Expr:
    """a - b * floor(a / b)."""
    return apply("modulo", a, b)


def square_root(a: Operand) -> Expr:
    """The root; 0 for a negative a."""
    return apply("square_root", a)


def logarithm(a: Operand) -> Expr:
    """The natural logarithm, of at least the smallest normal float."""
    return apply("logarithm", a)


def exponential(a: Operand) -> Expr:
    """e to the power a, for a limited to -87..87."""
    return apply("exponential", a)


def arccosine(a: Operand) -> Expr:
    """Radians 0..pi, for a limited to -1..1."""
    return apply("arccosine", a)


def arctangent(y: Operand, x: Operand) -> Expr:
    """The angle of (x, y), radians -pi..pi; 0 for (0, 0)."""
    return apply("arctangent", y, x)


def minimum(a: Operand, b: Operand) -> Expr:
    return apply("minimum", a, b)


def maximum(a: Operand, b: Operand) -> Expr:
    return apply("maximum", a, b)


def absolute(a: Operand) -> Expr:
    return apply("absolute", a)


def sign(a: Operand) -> Expr:
    """-1, 0 or 1."""
    return apply("sign", a)


def floor(a: Operand) -> Expr:
    return apply("floor", a)


def ceiling(a: Operand) -> Expr:
    return apply("ceiling", a)


def fract(a: Operand) -> Expr:
    """a - floor(a), in 0..1."""
    return apply("fract", a)


def sine(a: Operand) -> Expr:
    """Of radians."""
    return apply("sine", a)


def cosine(a: Operand) -> Expr:
    """Of radians."""
    return apply("cosine", a)
