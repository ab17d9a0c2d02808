"""The elementary functions, each total: where one has no value, a stated one is given."""

import math
from collections.abc import Sequence

import numpy as np

from velvet_moth.core.language.expr import Array, Change, Domain, Expr, Operand, Primitive, apply, declare
from velvet_moth.core.language.interval import SIGNED_UNIT, Interval, monotone, spanning
from velvet_moth.core.language.primitives.rules import (
    ZERO,
    Attributes,
    defined,
    function,
    nothing,
    own_function,
    scaled,
    simple,
    total_change,
    widest_float,
)
from velvet_moth.core.language.types import NUMBER


def _divide(arrays: Sequence[Array], _: Attributes) -> Array:
    a, b = arrays
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        return np.where(b == 0, ZERO, a / np.where(b == 0, np.float32(1), b)).astype(np.float32)


TINY = float(np.finfo(np.float32).tiny)
EXPONENT_LIMIT = 126.0


def _guarded_power(a: Array, b: Array) -> Array:
    with np.errstate(over="ignore", under="ignore"):
        exponent = np.minimum(b * np.log2(np.maximum(a, np.float32(TINY))), np.float32(EXPONENT_LIMIT))
        return np.asarray(np.exp2(exponent.astype(np.float32)), dtype=np.float32)


def _power_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    base, exponent = args[0].meet(TINY, math.inf), args[1]
    ends = [
        2.0 ** max(-1022.0, min(EXPONENT_LIMIT, y * math.log2(min(x, 1e38))))
        for x in (base.low, base.high)
        for y in (exponent.low, exponent.high)
    ]
    if base.low <= 1 <= base.high or exponent.low <= 0 <= exponent.high:
        ends.append(1.0)
    found = spanning(ends)
    # What is too small for a float is 0.
    return Interval(0.0, found.high) if found.low < TINY else found


def _exponential(x: float) -> float:
    """What is too small for a float is 0."""
    return math.exp(min(x, 87.0)) if x > -87.0 else 0.0


def _turned_change(args: Sequence[Expr], changes: Sequence[Change], _: Attributes) -> Change:
    """d atan(y, x) = (x dy - y dx) / (x x + y y); the jump from half a turn to minus half a turn is none."""
    y, x = args
    squared = x * x + y * y
    return total_change(scaled(changes[0], x / squared), scaled(changes[1], -y / squared))


# Where a float of 32 bits is finer than this rounding, and the sine of its ends bounds it.
_NEAR, _ROUNDING = 1e3, 1e-4


def _wave_bound(x: Interval, first_crest: float) -> Interval:
    """The range of a wave between -1 and 1 with the length 2 pi, whose crests are at ``first_crest`` + 2 pi k."""
    if not x.within(-_NEAR, _NEAR, 0.0):
        return SIGNED_UNIT

    def passes(place: float) -> bool:
        steps = math.ceil((x.low - place) / (2 * math.pi))
        return place + steps * 2 * math.pi <= x.high

    ends = [math.cos(end - first_crest) for end in (x.low, x.high)]
    low = -1.0 if passes(first_crest + math.pi) else max(min(ends) - _ROUNDING, -1.0)
    return Interval(low, 1.0 if passes(first_crest) else min(max(ends) + _ROUNDING, 1.0))


declare(
    Primitive(
        "power",
        widest_float,
        spell=own_function("powered"),
        numpy=lambda a, _: _guarded_power(a[0], a[1]),
        bound=_power_bound,
        operations=3,
        domains=(Domain(0, "the power of a negative number has no value; it counts as that of zero there", low=0.0),),
        helper=defined(
            "powered",
            "ab",
            lambda dialect, wide: (
                f"min(pow(max(a, {dialect.widened('1.1754944e-38', NUMBER, wide)}), b), {dialect.widened('8.507059e37', NUMBER, wide)})"
            ),
        ),
        operation_class="function",
    )
)
declare(
    Primitive(
        "square_root",
        widest_float,
        spell=lambda dialect, types, texts, _: f"sqrt(max({texts[0]}, {dialect.number('0.0', types[0])}))",
        numpy=lambda a, _: np.sqrt(np.maximum(a[0], ZERO)),
        bound=lambda r, _: monotone(math.sqrt, r[0].meet(0.0, math.inf)),
        operations=2,
        domains=(Domain(0, "the root of a negative number has no value; it counts as 0 there", low=0.0),),
        plain=function("sqrt"),
        change=lambda a, d, _: scaled(d[0], 0.5 / square_root(a[0])),
        operation_class="function",
    )
)
declare(
    Primitive(
        "logarithm",
        widest_float,
        spell=lambda dialect, types, texts, _: f"log(max({texts[0]}, {dialect.number('1.1754944e-38', types[0])}))",
        numpy=lambda a, _: np.log(np.maximum(a[0], np.float32(TINY))),
        bound=lambda r, _: monotone(lambda x: math.log(x) if x < math.inf else x, r[0].meet(TINY, math.inf)),
        operations=3,
        domains=(Domain(0, "the logarithm of zero or less has no value; it counts as -87.3 there", low=TINY),),
        plain=function("log"),
        change=lambda a, d, _: scaled(d[0], apply("where_less", a[0], TINY, 0.0, 1.0 / a[0])),
        operation_class="function",
    )
)
declare(
    Primitive(
        "exponential",
        widest_float,
        spell=lambda dialect, types, texts, _: f"exp(min({texts[0]}, {dialect.number('87.0', types[0])}))",
        numpy=lambda a, _: np.exp(np.minimum(a[0], np.float32(87))),
        bound=lambda r, _: monotone(_exponential, r[0]),
        change=lambda a, d, _: scaled(d[0], exponential(a[0])),
        operations=3,
        domains=(),
        operation_class="function",
    )
)
declare(
    Primitive(
        "arccosine",
        widest_float,
        spell=lambda dialect, types, texts, _: (
            f"acos(clamp({texts[0]}, {dialect.number('-1.0', types[0])}, {dialect.number('1.0', types[0])}))"
        ),
        numpy=lambda a, _: np.arccos(np.clip(a[0], np.float32(-1), np.float32(1))),
        bound=lambda r, _: monotone(math.acos, r[0].meet(-1.0, 1.0)),
        operations=4,
        domains=(Domain(0, "an arc cosine exists between -1 and 1 only; the nearest end counts", low=-1.0, high=1.0),),
        plain=function("acos"),
        operation_class="function",
    )
)
declare(
    Primitive(
        "arctangent",
        widest_float,
        spell=own_function("turned"),
        numpy=lambda a, _: np.where((a[0] == 0) & (a[1] == 0), ZERO, np.arctan2(a[0], a[1])).astype(np.float32),
        bound=lambda r, _: Interval(-math.pi, math.pi),
        change=_turned_change,
        jumps=True,
        operations=8,
        domains=(),
        helper=defined(
            "turned",
            "ab",
            lambda dialect, wide: dialect.where(
                wide.width,
                "==",
                "abs(a) + abs(b)",
                nothing(dialect, wide),
                nothing(dialect, wide),
                f"{dialect.called('atan')}(a, b)",
            ),
        ),
        operation_class="function",
    )
)
simple(
    "sine",
    "sin",
    np.sin,
    lambda r, _: _wave_bound(r[0], math.pi / 2),
    4,
    change=lambda a, d, _: scaled(d[0], cosine(a[0])),
)
simple(
    "cosine", "cos", np.cos, lambda r, _: _wave_bound(r[0], 0.0), 4, change=lambda a, d, _: scaled(d[0], -sine(a[0]))
)


def power(a: Operand, b: Operand) -> Expr:
    """a to the power b; a negative a counts as zero, and zero as the smallest normal float."""
    return apply("power", a, b)


def square_root(a: Operand) -> Expr:
    """The root; 0 for a negative a."""
    return apply("square_root", a)


def logarithm(a: Operand) -> Expr:
    """The natural logarithm, of at least the smallest normal float."""
    return apply("logarithm", a)


def exponential(a: Operand) -> Expr:
    """e to the power a, for a of at most 87."""
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
