"""Masks from how the surface is seen."""

from typing import Annotated as A

from velvet_moth.core import primitives as p
from velvet_moth.core.catalogue import node
from velvet_moth.core.expr import Expr
from velvet_moth.core.ports import NUMBER_OUT, choice, number
from velvet_moth.core.surroundings import surface

GROUP = "Masks"


@node("View falloff", GROUP, ("fresnel", "facing", "rim", "edge mask"), ("brighten the rim", "change colour by angle"))
def view_falloff(
    power: A[Expr, number(2.0, 0.0, 8.0, 0.05, words="Higher keeps the effect closer to the rim.")],
    direction: A[str, choice("rim", "centre", words="Where the mask is white.")],
) -> A[Expr, NUMBER_OUT]:
    """How edge-on the surface is seen: 0 face-on, 1 at the rim.

    Formula: (1 - |dot(form normal, view)|) ^ power; 1 minus that for centre
    Use: Tint the rim of a paint, roughen or mirror at grazing angles.
    See: form_normal, power
    """
    facing = p.saturate(p.absolute(p.dot(surface("normal"), surface("view_direction"))))
    rim = p.power(1.0 - facing, power)
    return p.assume(rim if direction == "rim" else 1.0 - rim, 0.0, 1.0)
