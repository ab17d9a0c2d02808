"""How operations and numbers are spelled, without their guards where a range shows that those can never act."""

import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from velvet_moth.core.language.dialects import Dialect
from velvet_moth.core.language.expr import Expr, Primitive, Structural
from velvet_moth.core.language.inputs import SURFACE_INPUTS
from velvet_moth.core.language.interval import EVERYTHING, Interval, spanning
from velvet_moth.core.language.types import BOOL, Type, float_of_width


def number_text(value: float) -> str:
    """A float32 literal that reads back as the same float32."""
    text = np.format_float_positional(np.float32(value), unique=True, trim="0")
    if len(text) > 14:
        text = np.format_float_scientific(np.float32(value), unique=True, trim="0").replace("e+", "e")
    return text


@lru_cache(maxsize=4096)
def constant_text(dialect: Dialect, components: tuple[float, ...]) -> str:
    """A constant of 1 to 4 components."""
    parts = [number_text(c) for c in components]
    return parts[0] if len(parts) == 1 else f"{dialect.types[float_of_width(len(parts))]}({', '.join(parts)})"


def unwrapped(text: str) -> str:
    """Without the outer pair of parentheses, where it is one pair."""
    if not (text.startswith("(") and text.endswith(")")):
        return text
    depth = 0
    for index, letter in enumerate(text):
        depth += (letter == "(") - (letter == ")")
        if depth == 0 and index < len(text) - 1:
            return text
    return text[1:-1]


@dataclass(frozen=True)
class Spelling:
    """How an operation is written: ``inner`` as an argument of another, ``outer`` as a whole statement.

    Both are patterns with a place for each argument in ``order``. ``helper`` is the function that it relies on.
    """

    inner: str
    outer: str
    order: tuple[int, ...]
    helper: str


_PLACE = re.compile("\x01(\\d)")


@lru_cache(maxsize=8192)
def _kept(
    dialect: Dialect, primitive: Primitive, is_safe: bool, types: tuple[Type, ...], attributes: tuple[Any, ...]
) -> Spelling:
    spell = primitive.plain if is_safe and primitive.plain else primitive.spell
    text = spell(dialect, types, [f"\x01{i}" for i in range(len(types))], attributes).replace("%", "%%")
    order = tuple(int(place) for place in _PLACE.findall(text))
    inner = _PLACE.sub("%s", text)
    helper = primitive.helper(dialect, types) if primitive.helper else ""
    return Spelling(inner, unwrapped(inner), order, helper)


def spelling_of(expr: Expr, primitive: Primitive, dialect: Dialect) -> Spelling:
    """How a primitive is written for arguments of these types; the plain form where its guard can never act."""
    is_safe = primitive.plain is not None and _is_inside(expr, primitive)
    return _kept(dialect, primitive, is_safe, tuple(argument.type for argument in expr.args), expr.attributes)


# How far back a proof looks: guards stand close to what they guard.
_DEPTH = 6


def _quick_bound(expr: Expr, depth: int) -> Interval:
    """A range that holds whatever the values set from outside; looks only so far back."""
    if isinstance(expr.operator, Primitive):
        if depth == 0:
            return EVERYTHING
        return expr.operator.bound([_quick_bound(a, depth - 1) for a in expr.args], expr.attributes)
    if expr.operator is Structural.CONSTANT and expr.type is not BOOL:
        return spanning(expr.attributes)
    return SURFACE_INPUTS[expr.attributes[0]].bound if expr.operator is Structural.INPUT else EVERYTHING


def _is_inside(expr: Expr, primitive: Primitive) -> bool:
    """Whether every argument is proved to stay where the primitive's formula has a value."""
    for domain in primitive.domains:
        found = _quick_bound(expr.args[domain.argument], _DEPTH)
        is_out = found.low < domain.low or found.high > domain.high
        if is_out or (domain.excluded is not None and found.low <= domain.excluded <= found.high):
            return False
    return True


def clear_cache() -> None:
    """Drops what was spelled before, for measuring."""
    _kept.cache_clear()
