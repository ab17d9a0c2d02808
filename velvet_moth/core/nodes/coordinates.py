"""UV moves: tile, scroll, turn, mirror, slant, push."""

import math
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import UV_OUT, from_surface, number, uv, vec2
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.types import P_NUMBER

GROUP = "Coordinates"


@node("Tile", GROUP, ("repeat", "tiling", "scale UV", "stretching"), ("make a texture finer", "repeat a texture"))
def tile(
    uv: A[Expr, uv()], tiling: A[Expr, vec2(4.0, 4.0, 0.0, 64.0, 0.1, words="Repeats along u and v.")]
) -> A[Expr, UV_OUT]:
    """Repeats what is read at these coordinates.

    Formula: uv * tiling
    Use: Make a texture or a noise finer.
    See: scroll, turn
    """
    return uv * tiling


@node(
    "Scroll",
    GROUP,
    ("pan", "move UV", "flow", "scrolling", "move texture", "conveyor", "animate UV", "marquee"),
    ("make a texture move",),
)
def scroll(
    uv: A[Expr, uv()],
    speed: A[Expr, vec2(0.1, 0.0, -2.0, 2.0, words="Widths of the texture each second.")],
    time: A[Expr, from_surface(P_NUMBER, "time", "Seconds; the timeline's where nothing is wired.")],
) -> A[Expr, UV_OUT]:
    """Moves coordinates with time.

    Formula: uv + speed * time
    Use: Running water, drifting noise.
    See: tile, turn, time
    """
    return uv + speed * time


@node("Turn", GROUP, ("rotate UV", "spin"), ("turn a texture",))
def turn(
    uv: A[Expr, uv()],
    angle: A[Expr, number(0.125, 0.0, 1.0, 0.005, words="In whole turns; 0.25 is a quarter.")],
    centre: A[Expr, vec2(0.5, 0.5)],
) -> A[Expr, UV_OUT]:
    """Turns coordinates about a centre.

    Formula: rotate(uv - centre, 2 pi angle) + centre
    Use: Lay a grain across, or vary two uses of one texture.
    See: tile, scroll
    """
    radians = angle * (2.0 * math.pi)
    c, s = p.cosine(radians), p.sine(radians)
    d = uv - centre
    return p.combine(d.x * c - d.y * s, d.x * s + d.y * c) + centre


@node("Mirror UV", GROUP, ("ping-pong", "reflect UV"), ("hide the seam of a texture",))
def mirror_uv(uv: A[Expr, uv()]) -> A[Expr, UV_OUT]:
    """Turns every second repeat round, so that edges meet themselves.

    Formula: 1 - abs(2 fract(uv / 2) - 1)
    Use: After Tile, for textures whose edges do not meet.
    See: tile
    """
    return 1.0 - p.absolute(p.fract(uv * 0.5) * 2.0 - 1.0)


@node("Polar UV", GROUP, ("radial", "circular coordinates", "twirl", "spiral"), ("run a texture around a centre",))
def polar_uv(uv: A[Expr, uv()], centre: A[Expr, vec2(0.5, 0.5)]) -> A[Expr, UV_OUT]:
    """Angle and distance about a centre instead of across and up.

    Formula: (atan(d.y, d.x) / 2 pi + 1/2, 2 |d|), d = uv - centre
    Use: Rings, rays, whirls.
    See: turn, disc
    """
    d = uv - centre
    return p.combine(p.arctangent(d.y, d.x) * (0.5 / math.pi) + 0.5, p.length(d) * 2.0)


@node(
    "Mirror back",
    GROUP,
    ("two-sided uv", "flip back face", "backface", "leaf"),
    ("make text readable from behind", "make it two-sided"),
)
def mirror_back(uv: A[Expr, uv()]) -> A[Expr, UV_OUT]:
    """Mirrors U where the back of the surface is seen.

    Formula: front ? uv : (1 - uv.x, uv.y)
    Use: Signs on pennants; leaves whose back is not the front seen through.
    See: face_side, mirror_uv
    """
    front = surface("is_front")
    return p.combine(p.mix(1.0 - uv.x, uv.x, front), uv.y)


@node("Shear", GROUP, ("skew", "slant UV"), ("slant a pattern",))
def shear(
    uv: A[Expr, uv()], slant: A[Expr, vec2(0.25, 0.0, -2.0, 2.0, words="How far U moves with V, and V with U.")]
) -> A[Expr, UV_OUT]:
    """Slants coordinates.

    Formula: (uv.x + slant.x uv.y, uv.y + slant.y uv.x)
    Use: Twill, slanted tiles, wind-blown rain.
    See: turn, tile
    """
    return p.combine(uv.x + uv.y * slant.x, uv.y + uv.x * slant.y)


@node("Push UV", GROUP, ("distort UV", "warp", "offset UV", "heat haze"), ("make edges ragged", "wobble a texture"))
def push_uv(
    uv: A[Expr, uv()],
    by: A[Expr, vec2(0.5, 0.5, words="Two numbers around one half, such as two noises.")],
    strength: A[Expr, number(0.05, 0.0, 0.5, words="Widths of the texture.")],
) -> A[Expr, UV_OUT]:
    """Moves coordinates here and there by another pattern.

    Formula: uv + (by - 1/2) 2 strength
    Use: Ragged edges, heat haze, melted tiles.
    See: flow, scroll
    """
    return uv + (by - 0.5) * (strength * 2.0)
