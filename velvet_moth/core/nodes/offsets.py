"""Vertex offsets: moving the form by wind, waves and relief. The lighting follows the moved surface by itself."""

import math
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import NUMBER_OUT, Output, from_surface, number
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import whole
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.types import P_NUMBER, P_VEC3
from velvet_moth.core.nodes.noises import Layers, Place, Roughness, Seed, fractal_at, gradient_noise_at
from velvet_moth.core.nodes.textures import Picture, Time

GROUP = "Vertex offset"
OFFSET = Output(P_VEC3, "Offset", unit="m")
WorldPlace = A[Expr, from_surface(P_VEC3, "position", "A place in metres; in the world where nothing is wired.")]
Heading = A[Expr, number(0.1, 0.0, 1.0, 0.005, "turns", "Where it goes, in turns about the upright from +x to -z.")]
_GRAVITY = 9.81


def _heading(turns: Expr) -> Expr:
    """A level unit vector."""
    angle = turns * (2.0 * math.pi)
    return p.combine(p.cosine(angle), 0.0, -p.sine(angle))


@node(
    "Sway",
    GROUP,
    ("wind", "foliage wind", "bend", "tree", "grass", "leaves", "cloth"),
    ("move plants in the wind", "make reeds sway"),
    form="reeds",
)
def sway(
    place: WorldPlace,
    mask: A[Expr, number(1.0, words="0 holds fast, 1 swings fully: from the foot to the tip, often vertex red.")],
    phase: A[Expr, number(0.0, words="Another number for each plant, often vertex green.")],
    heading: Heading,
    strength: A[Expr, number(0.15, 0.0, 1.0, 0.005, "m", "How far a tip leans.")],
    speed: A[Expr, number(0.35, 0.0, 4.0, 0.01, "per s", "Swings each second.")],
    gusts: A[Expr, number(0.6, words="How much the strength comes and goes.")],
    gust_size: A[Expr, number(3.0, 0.2, 20.0, 0.1, "m", "From one gust to the next.")],
    flutter: A[Expr, number(0.015, 0.0, 0.2, 0.001, "m", "Quick trembling across the surface.")],
    seed: Seed,
    time: Time,
) -> A[Expr, OFFSET]:
    """Wind: a slow lean with the wind, gusts that run through the field, and a quick flutter.

    Formula: m^2 (dir lean - up lean^2 / 2) + n flutter m sin(2 pi (7 speed t + 3 phase)),
    lean = strength (1 - g + g noise(place - dir t)) (0.6 + 0.4 sin(2 pi (speed t + phase)))
    Use: To the dock's Offset: reeds, leaves, pennants. The mask keeps the foot still.
    See: vertex_colour, waves, along_normal
    """
    direction = _heading(heading)
    travelled = place - direction * (time * speed * gust_size)
    gust = p.saturate(gradient_noise_at(travelled / p.maximum(gust_size, 0.01), seed, constant(0.0)) + 0.5)
    swing = 0.6 + 0.4 * p.sine((time * speed + phase) * (2.0 * math.pi))
    lean = strength * p.mix(constant(1.0), gust, gusts) * swing
    # A lean of l lowers a tip of length 1 by about l^2 / 2.
    bent = direction * lean - p.combine(0.0, 0.5, 0.0) * (lean * lean)
    tremble = p.sine((time * speed * 7.0 + phase * 3.0) * (2.0 * math.pi)) * flutter * mask
    return bent * (mask * mask) + surface("normal") * tremble


@node(
    "Waves",
    GROUP,
    ("gerstner", "ocean waves", "swell", "ripple", "ocean"),
    ("make a water surface roll",),
    form="plane",
)
def waves(
    place: WorldPlace,
    heading: Heading,
    spread: A[Expr, number(0.2, 0.0, 1.0, 0.005, "turns", "How far the waves' directions differ.")],
    length: A[Expr, number(1.2, 0.05, 40.0, 0.05, "m", "From crest to crest of the longest.")],
    height: A[Expr, number(0.06, 0.0, 4.0, 0.005, "m", "Half the way from trough to crest, of all together.")],
    steepness: A[Expr, number(0.6, words="0 rolls, 1 comes to a point.")],
    speed: A[Expr, number(1.0, 0.0, 4.0, words="1 is that of deep water.")],
    time: Time,
    count: A[int, whole(1, 6, "How many waves, each shorter than the last.", default=4)],
) -> tuple[A[Expr, OFFSET], A[Expr, Output(P_NUMBER, "Crest")]]:
    """Waves that roll in several directions, their crests drawn together; Crest is white on top.

    Formula: sum over k of (dir q a cos f, a sin f), f = 2 pi dir.p / L - w t, w = sqrt(2 pi g / L) speed,
    L = length 0.71^k, a = height share; q a = min(steepness a, L / (2 pi n)) (F. Gerstner, 1802)
    Use: To the dock's Offset on a finely divided plane; foam by Crest.
    See: waves_by_texture, drifting_waves, offset_normal
    """
    offset, crest = p.combine(0.0, 0.0, 0.0), constant(0.0)
    shares = [0.62**k for k in range(count)]
    for k in range(count):
        lean = 0.0 if count == 1 else k / (count - 1) - 0.5
        # Neighbours in size do not go the same way.
        direction = _heading(heading + spread * (lean if k % 2 == 0 else -lean))
        long = p.maximum(length * 0.71**k, 0.01)
        number_of = (2.0 * math.pi) / long
        amplitude = height * (shares[k] / sum(shares))
        f = p.dot(direction, place) * number_of - p.square_root(number_of * _GRAVITY) * speed * time + 1.7 * k
        # Drawn further than 1 / (k n) the crests would fold over.
        drawn = p.minimum(p.saturate(steepness) * amplitude, 1.0 / (number_of * float(count)))
        offset = offset + direction * (p.cosine(f) * drawn)
        offset = offset + p.combine(0.0, p.sine(f) * amplitude, 0.0)
        crest = crest + p.sine(f) * (shares[k] / sum(shares))
    return offset, p.assume(p.saturate(crest * 0.5 + 0.5), 0.0, 1.0)


@node(
    "Waves by texture",
    GROUP,
    ("displacement map", "height waves", "ripple"),
    ("move water by a height map",),
    form="plane",
)
def waves_by_texture(
    texture: Picture,
    place: WorldPlace,
    tiling: A[Expr, number(0.5, 0.01, 8.0, 0.01, "per m", "Repeats each metre, seen from above.")],
    height: A[Expr, number(0.1, 0.0, 2.0, 0.005, "m", "From black to white.")],
    speed: A[Expr, number(0.06, 0.0, 1.0, 0.005, "per s", "Widths of the texture each second.")],
    level: A[Expr, number(1.0, 0.0, 8.0, 0.1, words="Level of detail; higher is smoother.")],
    time: Time,
    layers: A[int, whole(1, 4, "How many readings of the one texture.", default=2)],
) -> tuple[A[Expr, OFFSET], A[Expr, Output(P_NUMBER, "Crest")]]:
    """Waves whose heights come from one texture, read several times as it scrolls.

    Formula: up * height * (mean of h(turn_i(p.xz) tiling 1.31^i + dir_i speed t) - 1/2), h red, level fixed
    Use: To the dock's Offset: choppy water of your own drawing.
    See: waves, texture_at_level, drifting_waves
    """
    total = constant(0.0)
    for layer in range(layers):
        turn = layer * math.pi * (3.0 - math.sqrt(5.0))
        c, s = math.cos(turn), math.sin(turn)
        seen = p.combine(place.x * c - place.z * s, place.x * s + place.z * c) * (tiling * 1.31**layer)
        total = total + p.sample(texture, seen + p.combine(time * speed, 0.37 * layer), p.maximum(level, 0.0)).r
    mean = total * (1.0 / layers)
    return p.combine(0.0, (mean - 0.5) * height, 0.0), mean


@node("Noise relief", GROUP, ("displacement", "rocky", "lumpy"), ("make a form lumpy",), form="sphere")
def noise_relief(
    place: Place,
    scale: A[Expr, number(2.0, 0.0, 32.0, 0.05, "per m", "Cells each metre.")],
    gain: Roughness,
    height: A[Expr, number(0.1, 0.0, 1.0, 0.005, "m", "From the lowest to the highest.")],
    seed: Seed,
    layers: Layers,
) -> tuple[A[Expr, OFFSET], A[Expr, NUMBER_OUT]]:
    """Pushes the form in and out along its normals by a fractal noise; Value is the noise, 0 to 1.

    Formula: n * height * (noise(place scale) - 1/2)
    Use: Stone, clods, bark; colour by Value.
    See: along_normal, fractal_in_space
    """
    noise = fractal_at(gradient_noise_at, place * scale, gain, constant(0.0), seed, layers)
    value = p.assume(p.saturate(noise * 0.5 + 0.5), 0.0, 1.0)
    return surface("normal") * ((value - 0.5) * height), value


@node(
    "Along normal",
    GROUP,
    ("inflate", "displace", "extrude"),
    ("push the form outwards", "make it thicker"),
    form="sphere",
)
def along_normal(
    height: A[Expr, number(0.5, words="Any value; a mask or height, 0 to 1.")],
    depth: A[Expr, number(0.1, -1.0, 1.0, 0.005, "m", "Metres for a height of 1.")],
) -> A[Expr, OFFSET]:
    """Pushes the form out along its normals.

    Formula: form normal height depth
    Use: To the dock's Offset: heights, swelling, shells around a form.
    See: noise_relief, sum_of_heights, bump
    """
    return surface("normal") * (height * depth)
