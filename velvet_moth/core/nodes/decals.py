"""Decals: what each knows of itself, and rings from its middle outwards."""

from typing import Annotated as A

from velvet_moth.core.catalogue.ports import COLOUR_OUT, Output, colour, number
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.types import P_COLOUR, P_NUMBER
from velvet_moth.core.lighting.spread import decal_age, spread_and_dryness

GROUP = "Decals"
_AGE = Output(P_NUMBER, "Age", unit="s")
_SPREAD, _DRYNESS, _SEED, _STRENGTH, _STEP = (
    Output(P_NUMBER, name) for name in ("Spread", "Dryness", "Seed", "Strength", "Step")
)
_ONE, _TWO, _THREE, _FOUR = (Output(P_NUMBER, n) for n in ("First", "Second", "Third", "Fourth"))


@node(
    "Each decal",
    GROUP,
    ("decal", "projector", "decal index", "projected mark", "decal age", "splash"),
    ("give each decal a picture of its own", "let decals spread and dry"),
)
def decal() -> tuple[
    A[Expr, Output(P_NUMBER, "Index")],
    A[Expr, Output(P_COLOUR, "Tint")],
    A[Expr, Output(P_NUMBER, "Depth", unit="m")],
    A[Expr, _AGE],
    A[Expr, _SPREAD],
    A[Expr, _DRYNESS],
    A[Expr, _SEED],
    A[Expr, _STRENGTH],
    A[Expr, _ONE],
    A[Expr, _TWO],
    A[Expr, _THREE],
    A[Expr, _FOUR],
]:
    """What tells this decal from the others of its graph, how far it has lived, and how far its middle plane is from what it lies on.

    Formula: the index and the tint it was placed with; its own z; time - its beginning; the share of its size that it has;
    how far it has dried; its seed; its strength; its four numbers. Without decals 1, white, the form's z, the time, 1, 0, 0, 1, 0
    Use: An atlas cell for each decal; Dryness to Age by mask; the four numbers for roughness or metal where no tint is needed.
    See: splash, rings, atlas_cell, instance_data
    """
    spread, dryness = spread_and_dryness()
    numbers = surface("decal_numbers")
    return (
        surface("decal_index"),
        surface("decal_tint"),
        surface("object_position").z,
        decal_age(),
        spread,
        dryness,
        surface("decal_seed"),
        surface("decal_strength"),
        numbers.x,
        numbers.y,
        numbers.z,
        numbers.w,
    )


@node("Rings", GROUP, ("bands", "steps", "posterise", "concentric", "growth rings"), ("colour a splash in steps",))
def rings(
    distance: A[Expr, number(0.5, words="0 in the middle to 1 at the edge.")],
    count: A[Expr, number(4.0, 2.0, 16.0, 1.0, words="How many rings, in whole numbers.")],
    softness: A[
        Expr, number(0.3, 0.001, 1.0, words="Which share of a ring goes over into the next; 0 for hard steps.")
    ],
    inner: A[Expr, colour(0.06, 0.12, 0.16, "In the middle.")],
    outer: A[Expr, colour(0.35, 0.5, 0.5, "At the edge.")],
) -> tuple[A[Expr, COLOUR_OUT], A[Expr, _STEP]]:
    """Rings between an inner and an outer colour, in hard or soft steps.

    Formula: mix(inner, outer, step); step = clamp((floor(x) + smoothstep(1 - s, 1, fract(x))) / (n - 1), 0, 1), x = n
    clamp(distance, 0, 1), n = max(floor(count + 1/2), 2), s = clamp(softness, 0.001, 1)
    Use: Distance of a Splash, so that paint is thick in the middle; Step for roughness.
    See: splash, gradient
    """
    whole = p.maximum(p.floor(count + 0.5), 2.0)
    along = p.saturate(distance) * whole
    soft = p.smoothstep(1.0 - p.clamp(softness, 0.001, 1.0), 1.0, p.fract(along))
    # Where one ring ends the next begins with the same value.
    step = p.saturate(p.continuous(p.floor(along) + soft) / (whole - 1.0))
    return p.mix(inner, outer, step), step
