"""Angles and their functions; angles are in whole turns unless a name says radians."""

import math
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import FLEXIBLE_OUT, NUMBER_OUT, flexible, number
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr

GROUP = "Arithmetic"
Result = A[Expr, FLEXIBLE_OUT]
Turns = A[Expr, flexible(0.0, 0.0, 10.0)]
Frequency = A[Expr, number(1.0, 0.0, 10.0, 0.05, words="Waves for each unit of the value.")]
_TURN = 2.0 * math.pi


@node("Sine", GROUP, ("sin", "wave", "oscillate"), ("make it come and go", "pulse"))
def sine(value: Turns, frequency: Frequency) -> Result:
    """A wave between -1 and 1.

    Formula: sin(2 pi value frequency)
    Use: With Time for a pulse, with UV for stripes.
    See: cosine, wave, remap
    """
    return p.sine(value * frequency * _TURN)


@node("Cosine", GROUP, ("cos", "wave"), ("make a circle with sine",))
def cosine(value: Turns, frequency: Frequency) -> Result:
    """A wave between -1 and 1 that begins at its top.

    Formula: cos(2 pi value frequency)
    Use: With Sine for round movements.
    See: sine, wave
    """
    return p.cosine(value * frequency * _TURN)


@node("Tangent of angle", GROUP, ("tan", "slope of an angle"), ("turn an angle into a slope",))
def tangent_of_angle(turns: A[Expr, number(0.1, -0.24, 0.24, 0.005, "turns")]) -> A[Expr, NUMBER_OUT]:
    """The slope of an angle; 0 where the angle is a quarter turn.

    Formula: sin(2 pi turns) / cos(2 pi turns)
    Use: Shears, slopes from angles.
    See: sine, angle_of
    """
    angle = turns * _TURN
    level = p.cosine(angle)
    # A rounded cosine is never 0; what is divided by 0 is 0.
    return p.sine(angle) / p.select(p.less(p.absolute(level), 1e-5), 0.0, level)


@node("Arc cosine", GROUP, ("acos", "inverse cosine"), ("get an angle out of a dot",))
def arc_cosine(value: A[Expr, number(0.5, -1.0, 1.0)]) -> A[Expr, NUMBER_OUT]:
    """The angle whose cosine this is, in turns from 0 to 1/2.

    Formula: acos(clamp(value, -1, 1)) / 2 pi
    Use: The angle between two directions from their Dot.
    See: arc_sine, dot
    """
    return p.arccosine(p.clamp(value, -1.0, 1.0)) * (1.0 / _TURN)


@node("Arc sine", GROUP, ("asin", "inverse sine"), ("get an angle out of a height",))
def arc_sine(value: A[Expr, number(0.5, -1.0, 1.0)]) -> A[Expr, NUMBER_OUT]:
    """The angle whose sine this is, in turns from -1/4 to 1/4.

    Formula: 1/4 - acos(clamp(value, -1, 1)) / 2 pi
    Use: The tilt of a direction from its Y.
    See: arc_cosine
    """
    return 0.25 - p.arccosine(p.clamp(value, -1.0, 1.0)) * (1.0 / _TURN)


@node("Angle of", GROUP, ("atan2", "arc tangent", "heading", "arctangent"), ("get the angle of a direction",))
def angle_of(x: A[Expr, number(1.0, -1.0, 1.0)], y: A[Expr, number(0.0, -1.0, 1.0)]) -> A[Expr, NUMBER_OUT]:
    """The angle of (x, y) in turns from -1/2 to 1/2, against the clock from X; 0 for (0, 0).

    Formula: atan(y, x) / 2 pi
    Use: Rays and fans around a centre.
    See: polar_uv, tangent_of_angle
    """
    return p.arctangent(y, x) * (1.0 / _TURN)
