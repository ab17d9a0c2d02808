"""Keeping values between two constants."""

from collections.abc import Sequence

import numpy as np

from velvet_moth.core.language.dialects.base import Dialect
from velvet_moth.core.language.expr import Array, Change, Expr, Operand, Primitive, apply, as_expr, declare
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.primitives.rules import Attributes, widest_float
from velvet_moth.core.language.types import Type


def _ends(attributes: Attributes) -> tuple[float, float]:
    low, high = attributes
    assert isinstance(low, float) and isinstance(high, float)
    return low, high


def _clamped_text(dialect: Dialect, types: Sequence[Type], texts: Sequence[str], attributes: Attributes) -> str:
    low, high = (f"{end:.9g}" for end in _ends(attributes))
    low, high = (end if "." in end or "e" in end else f"{end}.0" for end in (low, high))
    return f"clamp({texts[0]}, {dialect.number(low, types[0])}, {dialect.number(high, types[0])})"


def _clamped_numpy(arrays: Sequence[Array], attributes: Attributes) -> Array:
    low, high = _ends(attributes)
    return np.asarray(np.clip(arrays[0], np.float32(low), np.float32(high)))


def _clamped_bound(args: Sequence[Interval], attributes: Attributes) -> Interval:
    return args[0].meet(*_ends(attributes))


def _clamped_change(args: Sequence[Expr], changes: Sequence[Change], attributes: Attributes) -> Change:
    if changes[0] is None:
        return None
    low, high = _ends(attributes)
    inside = apply("where_less", high, args[0], 0.0, changes[0])
    return apply("where_less", args[0], low, 0.0, inside)


declare(
    Primitive(
        "clamped",
        lambda types, _: widest_float(types),
        spell=_clamped_text,
        numpy=_clamped_numpy,
        bound=_clamped_bound,
        operations=1,
        domains=(),
        change=_clamped_change,
    )
)


def clamped(x: Operand, low: float, high: float) -> Expr:
    """x between two constants, low at most high."""
    return apply("clamped", as_expr(x), attributes=(float(np.float32(low)), float(np.float32(high))))
