"""Plain values: the cards that most often become parameters."""

from typing import Annotated as A

from velvet_moth.core.catalogue import node
from velvet_moth.core.expr import Expr
from velvet_moth.core.ports import COLOUR_OUT, NUMBER_OUT, VEC2_OUT, VEC3_OUT, Input, colour
from velvet_moth.core.types import P_NUMBER, P_VEC2, P_VEC3

GROUP = "Values"


@node("Number", GROUP, ("scalar", "float", "constant"), ("set a strength by hand",))
def number(value: A[Expr, Input(P_NUMBER, (0.5,), wirable=False)]) -> A[Expr, NUMBER_OUT]:
    """One number you set.

    Formula: value
    Use: A strength or size used in several places; make it a parameter to tune it.
    See: colour, pair
    """
    return value


@node("Colour", GROUP, ("rgb", "tint", "swatch"), ("choose a colour",))
def colour_(value: A[Expr, colour(0.45, 0.12, 0.09, wirable=False)]) -> A[Expr, COLOUR_OUT]:
    """One colour you set.

    Formula: linear red, green, blue
    Use: Base colours and tints; make it a parameter so that variants can differ.
    See: number, mix
    """
    return value


@node("Pair", GROUP, ("vec2", "two numbers"), ("set two numbers by hand",))
def pair(value: A[Expr, Input(P_VEC2, (1.0, 1.0), 0.0, 10.0, 0.1, wirable=False)]) -> A[Expr, VEC2_OUT]:
    """Two numbers you set.

    Formula: (x, y)
    Use: Tilings and speeds that differ along u and v.
    See: tile, scroll, number
    """
    return value


@node("Triple", GROUP, ("vec3", "three numbers"), ("set a direction by hand",))
def triple(value: A[Expr, Input(P_VEC3, (0.0, 1.0, 0.0), -1.0, 1.0, wirable=False)]) -> A[Expr, VEC3_OUT]:
    """Three numbers you set.

    Formula: (x, y, z)
    Use: Directions and places.
    See: pair, colour, normalise
    """
    return value
