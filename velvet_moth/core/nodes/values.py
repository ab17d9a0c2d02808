"""Plain values: the cards that most often become parameters."""

from itertools import pairwise
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import (
    BOOL_OUT,
    COLOUR_OUT,
    NUMBER_OUT,
    TEXTURE_OUT,
    VEC2_OUT,
    VEC3_OUT,
    VEC4_OUT,
    Input,
    colour,
    number,
    stops,
)
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.types import P_BOOL, P_CURVE, P_GRADIENT, P_NUMBER, P_TEXTURE, P_VEC2, P_VEC3, P_VEC4

GROUP = "Values"
Stops = tuple[Expr, ...]


@node("Number", GROUP, ("scalar", "float", "constant"), ("set a strength by hand",))
def number_(value: A[Expr, Input(P_NUMBER, (0.5,), wirable=False)]) -> A[Expr, NUMBER_OUT]:
    """One number you set.

    Formula: value
    Use: A strength or size used in several places; make it a parameter to tune it.
    See: colour, pair
    """
    return value


@node("Colour", GROUP, ("rgb", "tint", "swatch"), ("choose a colour",))
def colour_(value: A[Expr, colour(0.45, 0.12, 0.09, wirable=False)]) -> A[Expr, COLOUR_OUT]:
    """One colour you set.

    Formula: value
    Use: Base colours and tints; make it a parameter so that variants can differ.
    See: number, mix
    """
    return value


@node("Pair", GROUP, ("vec2", "two numbers"), ("set two numbers by hand",))
def pair(value: A[Expr, Input(P_VEC2, (1.0, 1.0), 0.0, 10.0, 0.1, wirable=False)]) -> A[Expr, VEC2_OUT]:
    """Two numbers you set.

    Formula: value
    Use: Tilings and speeds that differ along u and v.
    See: tile, scroll, number
    """
    return value


@node("Triple", GROUP, ("vec3", "three numbers"), ("set a direction by hand",))
def triple(value: A[Expr, Input(P_VEC3, (0.0, 1.0, 0.0), -1.0, 1.0, wirable=False)]) -> A[Expr, VEC3_OUT]:
    """Three numbers you set.

    Formula: value
    Use: Directions and places.
    See: pair, colour, normalise
    """
    return value


@node("Quad", GROUP, ("vec4", "four numbers"), ("set four numbers by hand",))
def quad(value: A[Expr, Input(P_VEC4, (0.0, 0.0, 0.0, 1.0), -1.0, 1.0, wirable=False)]) -> A[Expr, VEC4_OUT]:
    """Four numbers you set.

    Formula: value
    Use: Four masks or weights at once.
    See: triple, split_four
    """
    return value


@node("Toggle", GROUP, ("switch", "boolean", "checkbox"), ("switch a part on or off for a variant",))
def toggle(value: A[Expr, Input(P_BOOL, (1.0,), wirable=False)]) -> A[Expr, BOOL_OUT]:
    """Yes or no, settled when the shader is built: the branch not taken costs nothing.

    Formula: value
    Use: To the condition of Choose; as a parameter, variants can differ in it.
    See: choose, both, opposite
    """
    return value


@node(
    "Texture choice",
    GROUP,
    ("texture parameter", "picture choice", "image", "sampler"),
    ("use one texture in several places",),
)
def texture_choice(value: A[Expr, Input(P_TEXTURE, wirable=False)]) -> A[Expr, TEXTURE_OUT]:
    """One texture you choose, for as many readings as you like.

    Formula: the texture itself, not yet read
    Use: Set it once; as a parameter, variants can differ in it.
    See: texture, normal_map, triplanar
    """
    return value


def _passed(at: Expr, start: Expr, end: Expr) -> Expr:
    """How far ``at`` is from the place ``start`` to ``end``, 0 to 1; a step where they are the same."""
    return p.saturate((at - start) / p.maximum(end - start, 1e-5))


@node(
    "Gradient",
    GROUP,
    ("colour run", "stops", "gradient map", "lookup", "ramp", "heat map", "fire", "lava"),
    ("colour a mask", "colour by height"),
)
def gradient(
    at: A[Expr, number(0.5, words="Where on the gradient, 0 to 1.")],
    stops: A[
        Stops,
        stops(P_GRADIENT, 0.0, 0.02, 0.05, 0.06, 0.5, 0.18, 0.24, 0.2, 1.0, 0.75, 0.6, 0.35, words="Colours by place."),
    ],
) -> A[Expr, COLOUR_OUT]:
    """The colour at a place on a row of stops.

    Formula: between stops a and b: a + (b - a) * clamp((at - a)/(b - a), 0, 1)
    Use: Colour a noise or a height; as a parameter, variants can differ in all stops.
    See: curve, mix
    """
    result = stops[0].yzw
    for before, after in pairwise(stops):
        result = p.mix(result, after.yzw, _passed(at, before.x, after.x))
    return result


@node("Curve", GROUP, ("ramp", "response", "spline", "lookup"), ("bend a mask by hand",))
def curve(
    value: A[Expr, number(0.5, words="0 to 1; beyond, the ends hold.")],
    points: A[Stops, stops(P_CURVE, 0.0, 0.0, 0.5, 0.5, 1.0, 1.0, words="Heights by place.")],
) -> A[Expr, NUMBER_OUT]:
    """A value bent by a curve through the points you set, level at each of them.

    Formula: between points a and b: a + (b - a) * t^2 (3 - 2t), t = clamp((value - a)/(b - a), 0, 1)
    Use: Shape a falloff or a mask; as a parameter, variants can differ in it.
    See: gradient, bias, levels
    """
    result = points[0].y
    for before, after in pairwise(points):
        t = _passed(value, before.x, after.x)
        result = p.mix(result, after.y, t * t * (3.0 - 2.0 * t))
    return result
