"""Arithmetic, each total: where a formula has no value, a stated one is given."""

import math
from collections.abc import Callable, Sequence

import numpy as np

from velvet_moth.core.language.dialects.base import Dialect
from velvet_moth.core.language.expr import (
    Array,
    Change,
    Domain,
    Expr,
    Operand,
    Primitive,
    apply,
    constant,
    declare,
)
from velvet_moth.core.language.interval import UNIT, Interval, inverse, monotone, negated, product, total
from velvet_moth.core.language.primitives.rules import (
    ZERO,
    Attributes,
    defined,
    function,
    infix,
    is_all,
    no_change,
    nothing,
    or_zero,
    own_function,
    scaled,
    simple,
    total_change,
    widened,
    widest_float,
)
from velvet_moth.core.language.types import Type


def _divide(arrays: Sequence[Array], _: Attributes) -> Array:
    a, b = arrays
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        return np.where(b == 0, ZERO, a / np.where(b == 0, np.float32(1), b)).astype(np.float32)


def _modulo(arrays: Sequence[Array], attributes: Attributes) -> Array:
    a, b = arrays
    left = a - b * np.floor(_divide((a, b), attributes))
    return np.asarray(np.clip(left, np.minimum(b, ZERO), np.maximum(b, ZERO)), dtype=np.float32)


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


def _ceiling_end(x: float) -> float:
    return math.ceil(x) if math.isfinite(x) else x


def _modulo_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    b = args[1]
    return Interval(min(b.low, 0.0), max(b.high, 0.0))


def _mix_bound(args: Sequence[Interval], _: Attributes) -> Interval:
    a, b, t = args
    if t.within(0.0, 1.0):
        return a.hull(b)
    return total(a, product(total(b, negated(a)), t)).hull(a)


def _mixed(dialect: Dialect, types: Sequence[Type], texts: Sequence[str], _: Attributes) -> str:
    """The amount may stay one number; the ends are widened to each other."""
    wide = widest_float(types)
    ends = (dialect.widened(text, found, wide) for found, text in zip(types[:2], texts[:2], strict=True))
    return f"{dialect.helper('mixed', wide, types[2])}({', '.join([*ends, texts[2]])})"


def _mixing(dialect: Dialect, types: Sequence[Type]) -> str:
    wide = widest_float(types)
    name = dialect.helper("mixed", wide, types[2])
    return dialect.defined(wide, name, {"a": wide, "b": wide, "t": types[2]}, "a + (b - a) * t")


def _wrapping(dialect: Dialect, types: Sequence[Type]) -> str:
    """Rounding may leave more than the size, or less than nothing, of what is many times as large."""

    def whole(dialect: Dialect, wide: Type) -> str:
        wrapped = f"{dialect.helper('wrapped', wide)}(a, b)"
        return dialect.where(wide.width, "==", "b", nothing(dialect, wide), nothing(dialect, wide), wrapped)

    def inside(dialect: Dialect, wide: Type) -> str:
        zero = nothing(dialect, wide)
        return f"clamp(a - b * floor(a / b), min(b, {zero}), max(b, {zero}))"

    return "\n".join((defined("wrapped", "ab", inside)(dialect, types), defined("modulo", "ab", whole)(dialect, types)))


def _of_the_less(args: Sequence[Expr], changes: Sequence[Change]) -> Change:
    if changes[0] is changes[1]:
        return changes[0]
    return apply("where_less", *args, *(or_zero(c, a) for c, a in zip(changes, args, strict=True)))


def _without(neutral: float) -> Callable[[Sequence[Expr], Type, Attributes], Expr | None]:
    """Leaves out an argument that changes nothing, such as + 0 or * 1."""

    def simplify(args: Sequence[Expr], type_: Type, _: Attributes) -> Expr | None:
        for one, other in ((args[0], args[1]), (args[1], args[0])):
            if is_all(one, neutral) and other.type is type_:
                return other
        return None

    return simplify


def _product_of_constants(args: Sequence[Expr], type_: Type, attributes: Attributes) -> Expr | None:
    """Nothing times anything is nothing: every value is finite."""
    if any(is_all(a, 0.0) for a in args):
        return constant(*[0.0] * type_.width)
    return _WITHOUT_ONE(args, type_, attributes)


_WITHOUT_ONE = _without(1.0)


def _minus_nothing(args: Sequence[Expr], type_: Type, _: Attributes) -> Expr | None:
    return args[0] if is_all(args[1], 0.0) and args[0].type is type_ else None


def _quotient_of_constants(args: Sequence[Expr], type_: Type, _: Attributes) -> Expr | None:
    """Of nothing, and by one."""
    if is_all(args[0], 0.0):
        return constant(*[0.0] * type_.width)
    return args[0] if is_all(args[1], 1.0) and args[0].type is type_ else None


def _settled_mix(args: Sequence[Expr], type_: Type, _: Attributes) -> Expr | None:
    """An amount of 0 or 1 leaves one end."""
    first, second, amount = args
    if first is second or is_all(amount, 0.0):
        return widened(first, type_)
    return widened(second, type_) if is_all(amount, 1.0) else None


declare(
    Primitive(
        "add",
        widest_float,
        spell=infix("+"),
        numpy=lambda a, _: a[0] + a[1],
        bound=lambda r, _: total(r[0], r[1]),
        operations=1,
        domains=(),
        simplify=_without(0.0),
        change=lambda a, d, _: total_change(*d),
    )
)
declare(
    Primitive(
        "subtract",
        widest_float,
        spell=infix("-"),
        numpy=lambda a, _: a[0] - a[1],
        bound=lambda r, _: total(r[0], negated(r[1])),
        operations=1,
        domains=(),
        simplify=_minus_nothing,
        change=lambda a, d, _: total_change(d[0], None if d[1] is None else -d[1]),
    )
)
declare(
    Primitive(
        "multiply",
        widest_float,
        spell=infix("*"),
        numpy=lambda a, _: a[0] * a[1],
        bound=lambda r, _: product(r[0], r[1]),
        operations=1,
        domains=(),
        simplify=_product_of_constants,
        change=lambda a, d, _: total_change(scaled(d[0], a[1]), scaled(d[1], a[0])),
    )
)
declare(
    Primitive(
        "divide",
        widest_float,
        spell=own_function("divided"),
        numpy=_divide,
        bound=lambda r, _: product(r[0], inverse(r[1])),
        operations=3,
        domains=(Domain(1, "a division by zero has no value; it counts as 0 there", excluded=0.0),),
        helper=defined(
            "divided",
            "ab",
            lambda dialect, wide: dialect.where(
                wide.width, "==", "b", nothing(dialect, wide), nothing(dialect, wide), "a / b"
            ),
        ),
        plain=infix("/"),
        simplify=_quotient_of_constants,
        change=lambda a, d, _: total_change(scaled(d[0], 1.0 / a[1]), scaled(d[1], -a[0] / (a[1] * a[1]))),
    )
)
declare(
    Primitive(
        "modulo",
        widest_float,
        spell=own_function("modulo"),
        numpy=_modulo,
        bound=_modulo_bound,
        operations=8,
        domains=(Domain(1, "a remainder of a division by zero has no value; it counts as 0 there", excluded=0.0),),
        helper=_wrapping,
        plain=own_function("wrapped"),
        change=lambda a, d, _: total_change(d[0], scaled(d[1], -floor(a[0] / a[1]))),
        jumps=True,
    )
)
declare(
    Primitive(
        "minimum",
        widest_float,
        spell=function("min"),
        numpy=lambda a, _: np.minimum(a[0], a[1]),
        bound=lambda r, _: Interval(min(r[0].low, r[1].low), min(r[0].high, r[1].high)),
        operations=1,
        domains=(),
        change=lambda a, d, _: _of_the_less(a, d),
    )
)
declare(
    Primitive(
        "maximum",
        widest_float,
        spell=function("max"),
        numpy=lambda a, _: np.maximum(a[0], a[1]),
        bound=lambda r, _: Interval(max(r[0].low, r[1].low), max(r[0].high, r[1].high)),
        operations=1,
        domains=(),
        change=lambda a, d, _: _of_the_less(a, d[::-1]),
    )
)
declare(
    Primitive(
        "negate",
        widest_float,
        spell=lambda dialect, types, texts, _: f"(-{texts[0]})",
        numpy=lambda a, _: -a[0],
        bound=lambda r, _: negated(r[0]),
        operations=1,
        domains=(),
        change=lambda a, d, _: None if d[0] is None else -d[0],
    )
)
declare(
    Primitive(
        "mix",
        widest_float,
        spell=_mixed,
        numpy=lambda a, _: np.asarray(a[0] + (a[1] - a[0]) * a[2], dtype=np.float32),
        bound=_mix_bound,
        operations=3,
        domains=(),
        simplify=_settled_mix,
        change=lambda a, d, _: total_change(scaled(d[0], 1.0 - a[2]), scaled(d[1], a[2]), scaled(d[2], a[1] - a[0])),
        helper=_mixing,
    )
)
simple("absolute", "abs", np.abs, _absolute_bound, change=lambda a, d, _: scaled(d[0], sign(a[0])))
simple("sign", "sign", np.sign, lambda r, _: monotone(lambda x: (x > 0) - (x < 0), r[0]), change=no_change, jumps=True)
simple("floor", "floor", np.floor, lambda r, _: monotone(_floor_end, r[0]), change=no_change, jumps=True)
simple("ceiling", "ceil", np.ceil, lambda r, _: monotone(_ceiling_end, r[0]), change=no_change, jumps=True)
simple("fract", "fract", lambda x: x - np.floor(x), _fract_bound, change=lambda a, d, _: d[0], jumps=True)


def mix(a: Operand, b: Operand, t: Operand) -> Expr:
    """a + (b - a) * t, for any t."""
    return apply("mix", a, b, t)


def modulo(a: Operand, b: Operand) -> Expr:
    """a - b * floor(a / b), between 0 and b; 0 where b is 0."""
    return apply("modulo", a, b)


def minimum(a: Operand, b: Operand) -> Expr:
    """The smaller of two, by components."""
    return apply("minimum", a, b)


def maximum(a: Operand, b: Operand) -> Expr:
    """The larger of two, by components."""
    return apply("maximum", a, b)


def absolute(a: Operand) -> Expr:
    """The value without its sign, by components."""
    return apply("absolute", a)


def sign(a: Operand) -> Expr:
    """-1, 0 or 1."""
    return apply("sign", a)


def floor(a: Operand) -> Expr:
    """The next whole number below, by components."""
    return apply("floor", a)


def ceiling(a: Operand) -> Expr:
    """The next whole number above, by components."""
    return apply("ceiling", a)


def fract(a: Operand) -> Expr:
    """a - floor(a), in 0..1."""
    return apply("fract", a)
