"""What the stage tells of the surroundings: the distance and picture of what lies behind, and the sun's reach."""

from typing import Annotated as A

from velvet_moth.core.catalogue.ports import COLOUR_OUT, Output, number, vec2
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.types import P_NUMBER
from velvet_moth.core.lighting.backdrop import depth_behind as depth_at
from velvet_moth.core.lighting.backdrop import seen_behind
from velvet_moth.core.lighting.layers import facing_normal
from velvet_moth.core.lighting.shadow import sun_arrives

GROUP = "Surface point"
Shift = A[Expr, vec2(0.0, 0.0, -0.2, 0.2, words="Moves where it is read, in widths of the screen.")]


@node(
    "Depth behind",
    GROUP,
    ("distance behind", "water depth", "thickness", "murky", "shoreline"),
    ("make deep water murky", "find the shore"),
)
def depth_behind(shift: Shift) -> A[Expr, Output(P_NUMBER, "Depth", unit="m")]:
    """Metres from the surface to what lies behind it, along the view ray.

    Formula: distance of the backdrop from the eye - distance of the surface, at least 0
    Use: Murk of deep water, foam at the shore, soft edges.
    See: colour_behind, shallow_foam
    """
    return depth_at(surface("screen_position") + shift)


@node(
    "Colour behind",
    GROUP,
    ("picture behind", "refraction", "background", "glass"),
    ("see through water", "bend what is behind"),
)
def colour_behind(shift: Shift) -> A[Expr, COLOUR_OUT]:
    """The light of what lies behind the surface, read a little aside where it is bent.

    Formula: the backdrop's picture at screen position + shift
    Use: Water and glass: shift by a normal's X and Y, then fade by depth.
    See: depth_behind, screen_position
    """
    return seen_behind(surface("screen_position") + shift).rgb


@node("Depth fade", GROUP, ("soft particles", "soft intersection"), ("soften where it meets the scene",))
def depth_fade(
    over: A[Expr, number(0.5, 0.01, 10.0, 0.01, "m", "Metres until it is fully there.")],
) -> A[Expr, Output(P_NUMBER, "Value")]:
    """0 where the surface touches what is behind it, 1 from some metres on.

    Formula: clamp(depth behind / over, 0, 1)
    Use: Opacity of steam ribbons; the wet line along a wall.
    See: depth_behind, shallow_foam
    """
    depth = depth_at(surface("screen_position"))
    return p.saturate(depth / p.maximum(over, 0.001))


@node(
    "Sun reach",
    GROUP,
    ("shadow", "shadow mask", "received shadow"),
    ("treat shaded places apart", "know what is in shadow"),
)
def sun_reach() -> A[Expr, Output(P_NUMBER, "Value")]:
    """How much of the sun arrives here past what casts shadows: 1 in the open, 0 in full shadow.

    Formula: 1 - the mean of clamp((nearest to the sun - own place) / fade, 0, 1) at four places of the sun's picture
    Use: Cool the colour of shaded water, keep frost where the sun does not come.
    See: sun_direction, depth_behind
    """
    return sun_arrives(surface("moved_position"), facing_normal())
