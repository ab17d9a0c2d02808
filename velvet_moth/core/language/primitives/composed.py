"""Formulas of everyday shader work, composed of primitives so that every interpreter agrees on them."""

from velvet_moth.core.language.expr import Expr, Operand, Structural, as_expr
from velvet_moth.core.language.primitives.arithmetic import maximum, minimum, mix
from velvet_moth.core.language.primitives.clamped import clamped
from velvet_moth.core.language.primitives.comparison import assume, less, select, where_less
from velvet_moth.core.language.primitives.elementary import power, square_root
from velvet_moth.core.language.primitives.vector import combine, dot
from velvet_moth.core.language.texture import LUMINANCE
from velvet_moth.core.language.types import NUMBER


def clamp(x: Operand, low: Operand, high: Operand) -> Expr:
    """min(max(x, low), high)."""
    ends = [e.attributes[0] for e in map(as_expr, (low, high)) if e.operator is Structural.CONSTANT and not e.args]
    if len(ends) == 2 and ends[0] <= ends[1]:
        return clamped(x, *ends)
    return minimum(maximum(x, low), high)


def saturate(x: Operand) -> Expr:
    """x clamped to 0..1."""
    return clamp(x, 0.0, 1.0)


def step(edge: Expr, x: Expr) -> Expr:
    """0 below the edge, 1 from it on (numbers)."""
    return select(less(x, edge), 0.0, 1.0)


def remap(x: Operand, from_low: Operand, from_high: Operand, to_low: Operand, to_high: Operand) -> Expr:
    """x moved linearly from one range to another; an empty source range gives ``to_low``."""
    t = (as_expr(x) - from_low) / (as_expr(from_high) - from_low)
    return mix(to_low, to_high, t)


def smoothstep(low: Operand, high: Operand, x: Operand) -> Expr:
    """t*t*(3 - 2*t) with t = (x - low)/(high - low) in 0..1, as in GLSL."""
    t = saturate((as_expr(x) - low) / (as_expr(high) - low))
    return assume(t * t * (3.0 - 2.0 * t), 0.0, 1.0)


def length(v: Expr) -> Expr:
    """Euclidean length of a vector."""
    return square_root(assume(dot(v, v), 0.0, 3.4e38))


def splat(x: Operand, width: int) -> Expr:
    """One number in every component of a vector of 1 to 4."""
    expr = as_expr(x)
    return combine(*[expr] * width) if expr.type is NUMBER and width > 1 else expr


def luminance(colour: Expr) -> Expr:
    """Relative luminance of a linear colour, weights of ITU-R BT.709."""
    return dot(colour, combine(*LUMINANCE))


def srgb_encoded(light: Expr) -> Expr:
    """The transfer function of IEC 61966-2-1 on linear light, clamped to 0..1."""
    v = saturate(light)
    return where_less(0.0031308, v, 1.055 * power(v, 1.0 / 2.4) - 0.055, v * 12.92)


def srgb_decoded(encoded: Expr, most: float = 1.0) -> Expr:
    """The inverse of ``srgb_encoded``, on values clamped to 0..``most``."""
    v = clamp(encoded, 0.0, most)
    return where_less(0.04045, v, power((v + 0.055) * (1.0 / 1.055), 2.4), v * (1.0 / 12.92))
