"""Arithmetic on numbers, vectors and colours, component by component."""

from typing import Annotated as A

from velvet_moth.core.catalogue.ports import FLEXIBLE_OUT, flexible, number
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr

GROUP = "Arithmetic"
Any = A[Expr, flexible(0.0, -1.0, 1.0)]
One = A[Expr, flexible(1.0, -1.0, 1.0)]
Result = A[Expr, FLEXIBLE_OUT]


@node("Add", GROUP, ("plus", "sum"), ("put two together",))
def add(a: Any, b: Any) -> Result:
    """A plus B.

    Formula: A + B
    Use: Stack masks or lights; shift UV.
    See: subtract, mix
    """
    return a + b


@node("Subtract", GROUP, ("minus", "difference"), ("take one away from another",))
def subtract(a: Any, b: Any) -> Result:
    """A minus B.

    Formula: A - B
    Use: Move a threshold, compare two heights.
    See: add, invert
    """
    return a - b


@node(
    "Multiply", GROUP, ("times", "product", "scale", "tint"), ("scale by a number", "keep only where a mask is white")
)
def multiply(a: One, b: One) -> Result:
    """A times B.

    Formula: A * B
    Use: Scale a value, tint a colour, or cut one mask by another.
    See: divide, mix
    """
    return a * b


@node("Divide", GROUP, ("quotient", "over"), ("share out",))
def divide(a: One, b: One) -> Result:
    """A divided by B; 0 where B is 0.

    Formula: A / B. Where B is 0 it is 0
    Use: Ratios and normalising by a known size.
    See: multiply, remap
    """
    return a / b


@node("Power", GROUP, ("exponent", "pow", "curve"), ("sharpen a falloff", "make a gradient steeper"))
def power(
    base: A[Expr, flexible(1.0)], exponent: A[Expr, number(2.0, 0.0, 8.0, 0.05, words="Above 1 darkens the middle.")]
) -> Result:
    """The base raised to an exponent; 0 where the base is negative.

    Formula: max(base, 1.1755e-38) ^ exponent. At most 8.5e37
    Use: Bend a 0..1 mask: above 1 it narrows, below 1 it widens.
    See: square_root, smooth_step
    """
    return p.power(base, exponent)


@node("Square root", GROUP, ("sqrt",), ("widen a mask",))
def square_root(value: A[Expr, flexible(1.0)]) -> Result:
    """The root of a value; 0 where it is negative.

    Formula: sqrt(max(value, 0))
    Use: Brighten the dark end of a mask.
    See: power
    """
    return p.square_root(value)


@node("Minimum", GROUP, ("min", "darker"), ("keep the smaller",))
def minimum(a: Any, b: One) -> Result:
    """The smaller of A and B.

    Formula: min(A, B)
    Use: Join masks so that both must be white.
    See: maximum, clamp
    """
    return p.minimum(a, b)


@node("Maximum", GROUP, ("max", "lighter"), ("keep the larger",))
def maximum(a: Any, b: Any) -> Result:
    """The larger of A and B.

    Formula: max(A, B)
    Use: Join masks so that either may be white.
    See: minimum, clamp
    """
    return p.maximum(a, b)


@node("Absolute", GROUP, ("abs", "unsigned"), ("mirror around zero",))
def absolute(value: Any) -> Result:
    """The value without its sign.

    Formula: |value|
    Use: Distances from a line, ridges out of noise.
    See: sign_of, fract
    """
    return p.absolute(value)


@node("Sign", GROUP, ("signum",), ("know which side of zero",))
def sign_of(value: Any) -> Result:
    """-1, 0 or 1 by the value's sign.

    Formula: sign(value)
    Use: Split a form by a plane.
    See: step, absolute
    """
    return p.sign(value)


@node(
    "Invert",
    GROUP,
    ("complement", "reverse", "negative"),
    ("swap black and white", "turn a mask round"),
)
def invert(value: A[Expr, flexible(0.0)]) -> Result:
    """The value taken from 1.

    Formula: 1 - value
    Use: Turn a mask round.
    See: subtract, remap
    """
    return 1.0 - value


@node("Fract", GROUP, ("fraction", "frac", "repeat"), ("repeat a ramp",))
def fract(value: Any) -> Result:
    """What is left after the whole part.

    Formula: value - floor(value)
    Use: Repeat a ramp from 0 to 1.
    See: floor, modulo
    """
    return p.fract(value)


@node("Floor", GROUP, ("round down", "posterise"), ("make steps",))
def floor(value: Any) -> Result:
    """The whole number at or below the value.

    Formula: floor(value)
    Use: Steps, and the number of a cell.
    See: fract
    """
    return p.floor(value)


@node("Modulo", GROUP, ("remainder", "mod", "wrap"), ("repeat every so much",))
def modulo(value: Any, size: One) -> Result:
    """The remainder of a division, never negative for a positive size.

    Formula: value - size * floor(value / size). Where the size is 0 it is 0
    Use: Repeat every so much.
    See: fract
    """
    return p.modulo(value, size)


@node("Ceiling", GROUP, ("round up", "ceil"), ("round up to whole numbers",))
def ceiling(value: Any) -> Result:
    """The whole number at or above the value.

    Formula: ceil(value)
    Use: Count how many steps are needed.
    See: floor, round_off
    """
    return p.ceiling(value)


@node("Round off", GROUP, ("round", "snap", "posterise", "banding", "stepped colours"), ("snap to steps", "quantise"))
def round_off(
    value: Any, step: A[Expr, number(1.0, 0.01, 4.0, words="The distance from one step to the next.")]
) -> Result:
    """The nearest multiple of a step.

    Formula: floor(value / s + 1/2) s, s = max(step, 0.0001)
    Use: Bands of colour, movement in jerks, snapping to cells.
    See: floor, fract
    """
    size = p.maximum(step, 1e-4)
    return p.floor(value / size + 0.5) * size


@node("Negate", GROUP, ("minus", "opposite sign"), ("turn a direction round",))
def negate(value: Any) -> Result:
    """The value with its sign turned.

    Formula: -value
    Use: Turn a direction or a slope round; Invert is for masks.
    See: invert, absolute
    """
    return -value


@node("Exponential", GROUP, ("exp", "growth"), ("fade with depth",))
def exponential(value: A[Expr, flexible(0.0, -4.0, 4.0)]) -> Result:
    """The natural exponential.

    Formula: e ^ min(value, 87)
    Use: Light lost in murk: the exponential of minus depth times density.
    See: logarithm, power
    """
    return p.exponential(value)


@node("Logarithm", GROUP, ("log", "ln"), ("compress a large range",))
def logarithm(value: A[Expr, flexible(1.0, 0.0, 10.0)]) -> Result:
    """The natural logarithm; very low where the value is not above zero.

    Formula: ln(max(value, 1.1755e-38))
    Use: Compress a large range, measure in doublings.
    See: exponential
    """
    return p.logarithm(value)
