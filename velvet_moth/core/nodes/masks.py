"""Masks from how the surface is seen, how it lies, how it is worn, and what it meets."""

import math
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import (
    COLOUR_OUT,
    FLEXIBLE_OUT,
    NUMBER_OUT,
    Output,
    colour,
    flexible,
    from_surface,
    mask,
    number,
    uv,
    vec2,
    vec3,
)
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.types import P_NUMBER, P_VEC3
from velvet_moth.core.lighting.backdrop import depth_behind
from velvet_moth.core.lighting.decals import out_of_reach
from velvet_moth.core.nodes.noises import Seed, gradient_noise_at, random_of

GROUP = "Masks"
_MASK, _EDGE, _OPACITY, _DISTANCE = (Output(P_NUMBER, n) for n in ("Mask", "Edge", "Opacity", "Distance"))


@node(
    "View falloff",
    GROUP,
    (
        "fresnel",
        "facing",
        "rim",
        "edge mask",
        "outline",
        "silhouette",
        "shield",
        "iridescence",
        "pearlescent",
        "two tone",
        "force field",
    ),
    ("brighten the rim", "change colour by angle"),
    form="sphere",
)
def view_falloff(
    power: A[Expr, number(2.0, 0.0, 8.0, 0.05, words="Higher keeps the effect closer to the rim.")],
    direction: A[str, choice("rim", "centre", words="Where the mask is white.")],
) -> A[Expr, NUMBER_OUT]:
    """How edge-on the surface is seen: 0 face-on, 1 at the rim.

    Formula: rim: (1 - f) ^ power; centre: 1 - (1 - f) ^ power, f = |dot(form normal, view)|
    Use: Tint the rim of a paint, roughen or mirror at grazing angles.
    See: form_normal, power
    """
    facing = p.saturate(p.absolute(p.dot(surface("normal"), surface("view_direction"))))
    rim = p.power(1.0 - facing, power)
    return p.assume(rim if direction == "rim" else 1.0 - rim, 0.0, 1.0, (power, 0.0, math.inf))


@node(
    "Slope",
    GROUP,
    ("facing up", "incline", "moss", "snow", "grass"),
    ("put moss on top", "tell floors from walls"),
    form="mooring",
)
def slope(
    normal: A[Expr, from_surface(P_VEC3, "normal", "In the world; the form's own where nothing is wired.")],
    begins: A[Expr, number(0.3, -1.0, 1.0, words="0 is upright, 1 lies flat.")],
    ends: A[Expr, number(0.7, -1.0, 1.0, words="Fully white from here.")],
    facing: A[str, choice("up", "down", "sideways", words="Which way the white faces.")],
) -> A[Expr, NUMBER_OUT]:
    """White where the surface faces up, down, or sideways.

    Formula: up: smoothstep(begins, ends, y); down: smoothstep(begins, ends, -y); sideways: smoothstep(begins, ends,
    1 - |y|), n = normalise(normal), y = n.y
    Use: Moss and silt on top, soot below, rain streaks at the sides.
    See: form_normal, change_space, triplanar_two
    """
    up = p.normalise(normal).y
    return p.smoothstep(begins, ends, {"up": up, "down": -up, "sideways": 1.0 - p.absolute(up)}[facing])


@node("Height mix", GROUP, ("height blend", "depth blend", "sand", "mud", "grass"), ("let sand lie in the joints",))
def height_mix(
    a: A[Expr, flexible(0.0)],
    b: A[Expr, flexible(1.0)],
    a_height: A[Expr, number(0.5, words="How high A lies here, 0 to 1.")],
    b_height: A[Expr, number(0.5, words="How high B lies here, 0 to 1.")],
    amount: A[Expr, mask(0.5, words="0 gives A, 1 gives B.", beyond="the mix goes past A or B there")],
    sharpness: A[Expr, number(0.8, 0.0, 0.99, words="0 fades softly, towards 1 the higher one simply wins.")],
) -> tuple[A[Expr, FLEXIBLE_OUT], A[Expr, _MASK]]:
    """Mixes two things by their heights, so that the lower fills the hollows of the higher first.

    Formula: Result = A + (B - A) mask; Mask = mix(s, amount, clamp(8 |2 amount - 1| - 7, 0, 1)), s = clamp(d /
    max(2 (1 - sharpness), 0.01) + 1/2, 0, 1), d = b height + amount - (a height + 1 - amount)
    Use: Silt in the joints of slate, moss over gravel.
    See: mix, puddle, mix_surfaces
    """
    lead = b_height + amount - (a_height + 1.0 - amount)
    soft = p.saturate(lead / p.maximum((1.0 - sharpness) * 2.0, 0.01) + 0.5)
    # At the ends of the amount only one of the two is left, whatever the heights.
    mask = p.mix(soft, amount, p.saturate(p.absolute(amount * 2.0 - 1.0) * 8.0 - 7.0))
    return p.mix(a, b, mask), mask


@node("Edge wear", GROUP, ("curvature mask", "edge damage", "chipped paint", "scratches", "chips"), ("wear the edges",))
def edge_wear(
    curvature: A[Expr, number(0.5, words="Baked: 0.5 flat, 1 sharp ridges, 0 sharp hollows.")],
    height: A[Expr, number(0.5, words="A height or noise that breaks the edge up.")],
    amount: A[Expr, number(0.5, words="0 nothing is worn, 1 every ridge.")],
    fall_off: A[Expr, number(0.15, 0.01, 1.0, words="How soft the worn edge fades.")],
    influence: A[Expr, number(0.5, words="How much the height decides.")],
) -> A[Expr, NUMBER_OUT]:
    """White where edges are worn away.

    Formula: smoothstep(b, b + max(fall off, 0.001), 2 curvature - 1 + (height - 1/2) influence), b = 1 - amount
    Use: Bare bronze at the edges of paint; a surface mixed by it.
    See: cavity, mix_surfaces, vertex_colour
    """
    ridge = curvature * 2.0 - 1.0 + (height - 0.5) * influence
    begins = 1.0 - amount
    return p.smoothstep(begins, begins + p.maximum(fall_off, 0.001), ridge)


@node(
    "Cavity",
    GROUP,
    ("ambient occlusion mask", "crevice", "ao", "occlusion"),
    ("darken crevices", "put dirt in the corners"),
)
def cavity(
    occlusion: A[Expr, number(1.0, words="Baked: 1 open, 0 hidden.")],
    intensity: A[Expr, number(2.0, 0.0, 8.0, 0.05, words="As a power: above 1 reaches further out.")],
) -> tuple[A[Expr, Output(P_NUMBER, "Light")], A[Expr, Output(P_NUMBER, "Dirt")]]:
    """How open a place is, sharpened: Light to multiply with, Dirt to mix by.

    Formula: clamp(occlusion, 0, 1) ^ intensity; 1 - that
    Use: Darken crevices; lay dirt and verdigris into corners.
    See: edge_wear, lay_over
    """
    light = p.assume(p.power(p.saturate(occlusion), intensity), 0.0, 1.0, (intensity, 0.0, math.inf))
    return light, 1.0 - light


@node("Puddle", GROUP, ("water level", "wetness", "rain", "mud"), ("fill hollows with water",))
def puddle(
    height: A[Expr, number(0.5, words="The ground's height, 0 to 1.")],
    level: A[Expr, number(0.4, words="Ground below this is under water.")],
    fall_off: A[Expr, number(0.1, 0.001, 1.0, words="How far the wet rim reaches above the level.")],
) -> tuple[A[Expr, Output(P_NUMBER, "Water")], A[Expr, Output(P_NUMBER, "Wet")]]:
    """Where a height lies under water, and the wet ground around it.

    Formula: Water = 1 - smoothstep(level - f / 4, level, height); Wet = 1 - smoothstep(level, level + f, height), f
    = max(fall off, 0.001)
    Use: Water flattens normals and mirrors; Wet darkens and smooths.
    See: height_mix, shallow_foam
    """
    f = p.maximum(fall_off, 0.001)
    water = 1.0 - p.smoothstep(level - f * 0.25, level, height)
    return water, 1.0 - p.smoothstep(level, level + f, height)


@node(
    "Box mask",
    GROUP,
    ("cube mask", "volume mask", "bounds mask", "stamp"),
    ("mark a part of a form", "light only a window"),
)
def box_mask(
    place: A[Expr, from_surface(P_VEC3, "object_position", "A place in metres; on the form where nothing is wired.")],
    centre: A[Expr, vec3(0.0, 0.0, 0.0, -4.0, 4.0, words="Middle of the box, in metres.")],
    size: A[Expr, vec3(0.5, 0.5, 0.5, 0.0, 4.0, words="Its width, height and depth, in metres.")],
    softness: A[Expr, number(0.1, 0.001, 1.0, 0.005, "m", "How far outside the box it fades.")],
) -> tuple[A[Expr, _MASK], A[Expr, Output(P_NUMBER, "Distance")]]:
    """White inside a box, fading outside of it; and how far away the box is.

    Formula: Mask = 1 - smoothstep(0, max(softness, 0.001), distance); Distance = |d|, d = max(abs(place - centre) - size / 2, 0)
    Use: Paint, dirt or light in one part of a form; wire Position for a box that stays in the world.
    See: disc, bounds_position, position
    """
    away = p.length(p.maximum(p.absolute(place - centre) - size * 0.5, 0.0))
    return p.assume(1.0 - p.smoothstep(0.0, p.maximum(softness, 0.001), away), 0.0, 1.0), away


@node(
    "Splash",
    GROUP,
    ("splat", "stain", "impact", "rain", "drop", "mud", "stamp", "spot", "blot"),
    ("place a blot", "make a ragged spot"),
)
def splash(
    uv: A[Expr, uv()],
    place: A[Expr, from_surface(P_VEC3, "position", "Where the noise is taken; the world where nothing is wired.")],
    centre: A[Expr, vec2(0.5, 0.5)],
    size: A[Expr, number(0.4, 0.0, 1.0, words="Radius, in UV.")],
    raggedness: A[Expr, number(0.5, words="How much the noise eats the edge.")],
    grain: A[Expr, number(6.0, 0.0, 40.0, 0.1, "per m", "Cells of the noise each metre.")],
    softness: A[Expr, number(0.1, 0.0, 1.0, words="Width of the edge where it is soft.")],
    inner_colour: A[Expr, colour(0.10, 0.07, 0.035)],
    outer_colour: A[Expr, colour(0.22, 0.17, 0.10)],
    seed: Seed,
    edge: A[str, choice("soft", "hard", words="How it ends.")],
) -> tuple[A[Expr, _MASK], A[Expr, COLOUR_OUT], A[Expr, _DISTANCE]]:
    """A ragged blot, thick in the middle and thin at its rim. On a decal it ends where that reaches no further.

    Formula: d = r + raggedness noise(place), r the larger of |uv - centre| / size and the share of the decal's reach; mask 1 -
    smoothstep(1 - softness, 1, d), or d < 1; the noise has the seed and that of the decal
    Use: Silt splashes, chalk marks, oil; the noise of the world makes each one different. Distance to Rings.
    See: rings, decal, disc, dissolve
    """
    noise = gradient_noise_at(place * grain, seed + surface("decal_seed"), constant(0.0))
    d = p.maximum(p.length(uv - centre) / p.maximum(size, 1e-4), out_of_reach()) + noise * raggedness
    soft = p.maximum(softness, 0.001)
    mask = 1.0 - (p.smoothstep(1.0 - soft, 1.0, d) if edge == "soft" else p.step(constant(1.0), d))
    return mask, p.mix(inner_colour, outer_colour, p.saturate(d)), d


@node("Shallow foam", GROUP, ("shore foam", "intersection foam", "shoreline"), ("put foam where water is shallow",))
def shallow_foam(
    depth: A[Expr, number(0.3, 0.0, 4.0, 0.01, "m", "Foam reaches this deep.")],
    pattern: A[Expr, number(0.5, words="A noise or texture that breaks the foam up, 0 to 1.")],
    softness: A[Expr, number(0.2, 0.01, 1.0, words="How soft its bubbles end.")],
) -> A[Expr, NUMBER_OUT]:
    """White where the water behind the surface is shallow, broken up by a pattern.

    Formula: s = 1 - clamp(depth behind / depth, 0, 1); smoothstep(1 - s, 1 - s + softness, pattern)
    Use: Foam along steps and posts.
    See: depth_behind, puddle
    """
    shallow = 1.0 - p.saturate(depth_behind(surface("screen_position")) / p.maximum(depth, 0.001))
    begins = 1.0 - shallow
    return p.smoothstep(begins, begins + p.maximum(softness, 0.001), pattern)


@node(
    "Dissolve",
    GROUP,
    ("burn away", "disintegrate", "cutout", "transparency", "burn", "fire", "lava"),
    ("make it vanish bit by bit",),
)
def dissolve(
    pattern: A[Expr, number(0.5, words="A noise, 0 to 1: dark parts go first.")],
    gone: A[Expr, number(0.4, words="How much is gone.")],
    edge_width: A[Expr, number(0.08, 0.001, 0.5, words="Width of the glowing edge.")],
) -> tuple[A[Expr, _OPACITY], A[Expr, _EDGE]]:
    """Eats a surface away along a pattern, with an edge to colour.

    Formula: Opacity = p < 0 ? 0 : 1; Edge = (1 - clamp(p / w, 0, 1)) opacity, p = pattern - gone (1 + w), w =
    max(edge width, 0.001)
    Use: Opacity cuts the surface, Edge times a colour makes it smoulder.
    See: dither, splash, fractal_noise
    """
    width = p.maximum(edge_width, 0.001)
    left = pattern - gone * (1.0 + width)
    opacity = p.select(p.less(left, 0.0), 0.0, 1.0)
    return opacity, p.assume((1.0 - p.saturate(left / width)) * opacity, 0.0, 1.0)


def _ordered(pixel: Expr) -> Expr:
    """Thresholds of a 4x4 ordered dither, 1/32 to 31/32. Source: B. Bayer, 1973, built from its 2x2 square."""

    def square(x: Expr, y: Expr) -> Expr:
        return p.modulo(x + y, 2.0) * 2.0 + y

    fine, coarse = p.modulo(pixel, p.combine(2.0, 2.0)), p.modulo(p.floor(pixel * 0.5), p.combine(2.0, 2.0))
    return (square(fine.x, fine.y) * 4.0 + square(coarse.x, coarse.y) + 0.5) * (1.0 / 16.0)


@node(
    "Dither",
    GROUP,
    ("screen-door", "stipple", "alpha hash", "transparency", "cutout", "see-through"),
    ("fade without blending",),
)
def dither(
    amount: A[Expr, number(0.5, words="How much is left, 0 to 1.")],
    pattern: A[str, choice("ordered", "random", words="How the holes are spread.")],
) -> A[Expr, _OPACITY]:
    """Lets through a share of the screen's pixels, so that a surface fades without being see-through.

    Formula: amount > threshold(pixel) ? 1 : 0; 4x4 ordered (B. Bayer, 1973) or a random number for each pixel
    Use: To Opacity: fade at the edge of sight, or thin cloth.
    See: dissolve, camera_distance
    """
    pixel = surface("screen_pixel")
    threshold = _ordered(pixel) if pattern == "ordered" else random_of(pixel, constant(7.0)).x
    return p.select(p.less(threshold, amount), 1.0, 0.0)
