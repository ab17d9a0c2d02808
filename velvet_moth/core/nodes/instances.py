"""Instances: what each was given by its emitter, and the strips that ribbons are made of."""

import math
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import Output, number, uv
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.types import P_NUMBER
from velvet_moth.core.nodes.offsets import OFFSET

GROUP = "Instances"
_ONE, _TWO, _THREE, _FOUR = (Output(P_NUMBER, n) for n in ("First", "Second", "Third", "Fourth"))
_LIFE, _RANDOM, _MASK = (Output(P_NUMBER, n) for n in ("Life", "Random", "Mask"))


@node(
    "Instance data",
    GROUP,
    ("per-instance data", "custom data", "particle data", "per copy", "instance age", "particle age"),
    ("vary each copy", "let each piece of an emitter age"),
)
def instance_data(
    set: A[str, choice("first", "second", words="Which four of an instance's eight numbers.")],
) -> tuple[
    A[Expr, _ONE],
    A[Expr, _TWO],
    A[Expr, _THREE],
    A[Expr, _FOUR],
    A[Expr, _LIFE],
    A[Expr, _RANDOM],
    A[Expr, Output(P_NUMBER, "Age", unit="s")],
]:
    """What this copy of the form was given by an emitter: four numbers, its share of life, a random number of its own, its age.

    Formula: (a, b, c, d) for the whole instance; age / life; a hash of its number, 0 to 1; seconds since its birth
    Use: Speed, trimming or wetness of one ribbon or drop among many; Life to fade it out.
    See: trim_strip, shape_strip, vertex_colour, dissolve
    """
    data, life = surface("instance_data" if set == "first" else "second_instance_data"), surface("instance_life")
    return data.x, data.y, data.z, data.w, life.x, life.y, surface("instance_age")


@node(
    "Trim strip",
    GROUP,
    ("ribbon trim", "cut a ribbon", "trail fade", "reveal along"),
    ("trim a ribbon at both ends", "let a ribbon grow"),
    form="strip",
)
def trim_strip(
    uv: A[Expr, uv()],
    start: A[Expr, number(0.0, words="From which share of its length on it is there.")],
    end: A[Expr, number(1.0, words="Until which share of its length.")],
    soft_start: A[Expr, number(0.1, 0.001, 1.0, words="Over which share its beginning comes in.")],
    soft_end: A[Expr, number(0.2, 0.001, 1.0, words="Over which share its end goes out.")],
) -> A[Expr, _MASK]:
    """1 along a strip between its ends, 0 beyond them, soft at both. V runs along it.

    Formula: smoothstep(start, start + max(soft_start, 0.001), v) (1 - smoothstep(end - max(soft_end, 0.001), end, v)), v = uv.y
    Use: Opacity of a ribbon; key Start and End, or take them from Instance data, so that it grows and is drawn off.
    See: instance_data, shape_strip
    """
    along = uv.y
    begins = p.smoothstep(start, start + p.maximum(soft_start, 0.001), along)
    return p.assume(begins * (1.0 - p.smoothstep(end - p.maximum(soft_end, 0.001), end, along)), 0.0, 1.0)


@node(
    "Shape strip",
    GROUP,
    ("ribbon width", "taper", "swirl", "twist a ribbon", "spin a ribbon"),
    ("taper a ribbon", "twist a ribbon about itself"),
    form="strip",
)
def shape_strip(
    uv: A[Expr, uv()],
    width: A[Expr, number(1.0, 0.0, 4.0, 0.01, words="How many times as wide as it is made, here along it.")],
    swirl: A[
        Expr, number(0.0, -4.0, 4.0, 0.01, "turns", "By how much it is turned about its middle line, here along it.")
    ],
    made: A[Expr, number(0.16, 0.001, 2.0, 0.001, "m", "How wide the strip is made.")],
) -> A[Expr, OFFSET]:
    """Makes a strip wider or narrower along its length, and turns it about its middle line.

    Formula: made (u - 1/2) ((width cos(2 pi swirl) - 1) tangent + width sin(2 pi swirl) normal), u = uv.x
    Use: To the dock's Offset. Wire V through a Curve to taper it; V times some turns, and the time, to let it spin.
    See: trim_strip, instance_data, along_normal
    """
    aside, angle = (uv.x - 0.5) * made, swirl * (2.0 * math.pi)
    along = surface("tangent").xyz * (width * p.cosine(angle) - 1.0)
    return (along + surface("normal") * (width * p.sine(angle))) * aside
