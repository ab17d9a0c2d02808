"""The elementary functions, each total: where one has no value, a stated one is given."""

import math
from collections.abc import Sequence

import numpy as np

from velvet_moth.core.expr import Array, Domain, Expr, Operand, Primitive, apply, declare
from velvet_moth.core.interval import (
    SIGNED_UNIT,
    Interval,
    monotone,
    spanning,
)
from velvet_moth.core.primitives.rules import (
    ZERO,
    Attributes,
    componentwise_helper,
    function,
    simple,
    widest_float,
)


def _divide(arrays: Sequence[Array], _: Attributes) -> Array:
    a, b = arrays
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        return np.where(b == 0, ZERO, a / np.where(b == 0, np.float32(1), b)).astype(np.float32)


TINY = float(np.finfo(np.float32).tiny)
EXPONENT_LIMIT = 126.0


def _guarded_power(a: Array, b: Array) -> Array:
    base = np.maximum(a, ZERO)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        exponent = np.clip(b * np.log2(np.maximum(base, np.float32(TINY))), -EXPONENT_LIMIT, EXPONENT_LIMIT)
        value = np.exp2(exponent.astype(np.float32))
    at_zero = np.where(b == 0, np.float32(1), ZERO)
    return np.where(base > 0, value, at_zero).astype(np.float32)


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
        sort="function",
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
        sort="function",
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
        sort="function",
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
        sort="function",
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
        sort="function",
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
        sort="function",
    )
)
simple("sine", "sin", np.sin, _periodic, 4)
simple("cosine", "cos", np.cos, _periodic, 4)


def power(a: Operand, b: Operand) -> Expr:
    """a to the power b; 0 for a negative a."""
    return apply("power", a, b)


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


def sine(a: Operand) -> Expr:
    """Of radians."""
    return apply("sine", a)


def cosine(a: Operand) -> Expr:
    """Of radians."""
    return apply("cosine", a)
