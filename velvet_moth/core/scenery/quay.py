"""The corner of a quay: what is thrown at it lands on paving, two walls, a bollard and a drain, or ends at the edge."""

from collections.abc import Mapping

import numpy as np

from velvet_moth.core.forms.mesh import Mesh, grid, joined, square
from velvet_moth.core.forms.solids import bend, turned
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import (
    absolute,
    combine,
    floor,
    fract,
    minimum,
    mix,
    smoothstep,
    splat,
    square_root,
)
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.nodes.noises import fractal_in_space, random_of
from velvet_moth.core.scenery.backdrops import declared_backdrop
from velvet_moth.core.scenery.shapes import Line, moved, slab

# The paving's top, the walls' inner faces, and the edge above the water, in metres.
TOP, BACK, SIDE, EDGE = -0.8, -1.5, -1.7, 1.0
# Where the bollard stands, and the middle and half the side of the drain.
BOLLARD, DRAIN, DRAIN_HALF = (0.55, -0.15), (-0.85, 0.3), 0.2


def _quay_stone() -> Surface:
    """Dressed granite: paving in courses, rougher walls, iron where it is the bollard or the drain, dark water below."""
    place, normal = surface("position"), surface("normal")
    grain = fractal_in_space(place, constant(9.0), constant(0.55), constant(21.0), constant(0.0), 4)
    broad = fractal_in_space(place, constant(1.5), constant(0.5), constant(6.0), constant(0.0), 2)
    is_floor = smoothstep(0.4, 0.6, normal.y)
    course = place.z * 1.9 + 0.2
    row = floor(course)
    along = place.x * 1.35 + fract(row * 0.5) * 0.62
    stone = random_of(combine(floor(along), row), constant(9.0)).x
    joint = minimum(
        minimum(smoothstep(0.0, 0.035, fract(along)), smoothstep(0.0, 0.035, 1.0 - fract(along))),
        minimum(smoothstep(0.0, 0.05, fract(course)), smoothstep(0.0, 0.05, 1.0 - fract(course))),
    )
    paving = mix(combine(0.17, 0.165, 0.16), combine(0.33, 0.31, 0.28), grain) * (
        (0.72 + 0.4 * stone) * (0.3 + 0.7 * joint)
    )
    height = (place.y - TOP) * 2.6
    bed = minimum(smoothstep(0.0, 0.06, fract(height)), smoothstep(0.0, 0.06, 1.0 - fract(height)))
    masonry = mix(combine(0.12, 0.125, 0.125), combine(0.27, 0.26, 0.235), broad) * (
        (0.65 + 0.6 * grain) * (0.45 + 0.55 * bed)
    )
    moss = mix(combine(0.035, 0.05, 0.02), combine(0.09, 0.11, 0.04), grain)
    foot = smoothstep(0.35, 0.0, place.y - TOP + (broad - 0.5) * 0.7) * 0.8
    wall = mix(masonry, moss, splat(foot, 3))
    away = place - combine(BOLLARD[0], 0.0, BOLLARD[1])
    near_bollard = smoothstep(0.2, 0.19, square_root(away.x * away.x + away.z * away.z)) * smoothstep(
        TOP, TOP + 0.004, place.y
    )
    bars = place - combine(DRAIN[0], 0.0, DRAIN[1])
    on_drain = smoothstep(DRAIN_HALF + 0.002, DRAIN_HALF, absolute(bars.x)) * smoothstep(
        DRAIN_HALF + 0.002, DRAIN_HALF, absolute(bars.z)
    )
    iron = minimum(near_bollard + on_drain * is_floor, 1.0)
    below = smoothstep(TOP - 0.45, TOP - 0.55, place.y)
    stonework = mix(wall, paving, splat(is_floor, 3))
    metal = mix(combine(0.05, 0.045, 0.045), combine(0.16, 0.09, 0.055), smoothstep(0.45, 0.7, grain))
    base = mix(mix(stonework, metal, splat(iron, 3)), combine(0.012, 0.02, 0.022), splat(below, 3))
    return Surface(
        {
            **default_surface().channels,
            "base_colour": base,
            "metallic": iron * 0.6,
            "roughness": mix(
                mix(mix(constant(0.9), constant(0.72), is_floor), constant(0.5), iron), constant(0.12), below
            ),
        }
    )


def _paving() -> list[Mesh]:
    """The floor, with a hole for the drain."""
    (x, z), half, right, low = DRAIN, DRAIN_HALF, 1.7, TOP - 0.4
    return [
        slab((SIDE, low, BACK), (right, TOP, z - half), 17),
        slab((SIDE, low, z + half), (right, TOP, EDGE), 17),
        slab((SIDE, low, z - half), (x - half, TOP, z + half), 9),
        slab((x + half, low, z - half), (right, TOP, z + half), 17),
    ]


def _grate() -> list[Mesh]:
    """The bars of the drain, a finger below the paving, and its bottom."""
    (x, z), half, top = DRAIN, DRAIN_HALF, TOP - 0.012
    bars = [
        slab((x - half + at * 0.08 + 0.01, top - 0.03, z - half), (x - half + at * 0.08 + 0.05, top, z + half), 3)
        for at in range(5)
    ]
    return [slab((x - half, TOP - 0.4, z - half), (x + half, TOP - 0.25, z + half), 3), *bars]


@declared_backdrop(
    "Quay corner",
    _quay_stone,
    Camera(turn=24.0, tilt=27.0, distance=5.2, target=(-0.1, -0.45, -0.2)),
    Camera(20.0, 12.0, 2.6, 50.0, (-0.2, -0.5, -0.4)),
)
def quay_corner() -> Mapping[str, Mesh]:
    """Paving between two walls that meet, with a bollard and a drain, and an edge above dark water."""
    u, v = square(3, 3)
    water = grid(np.stack((u * 4.4 - 2.2, 0 * u + TOP - 0.62, 2.4 - v * 1.5), axis=-1), np.stack((u, v), axis=-1) * 3)
    profile: list[Line] = [
        [(0.16, TOP), (0.16, TOP + 0.03)],
        [(0.16, TOP + 0.03), (0.115, TOP + 0.05)],
        [(0.115, TOP + 0.05), (0.1, TOP + 0.36)],
        bend(0.1, TOP + 0.42, 0.06, -90, 90, 9),
        [(0.1, TOP + 0.48), (0.0, TOP + 0.5)],
    ]
    return {
        "paving": joined(_paving()),
        "walls": joined(
            [
                slab((SIDE - 0.2, TOP - 0.4, BACK - 0.2), (1.7, 0.55, BACK), 25),
                slab((SIDE - 0.2, TOP - 0.4, BACK), (SIDE, 0.55, EDGE), 25),
            ]
        ),
        "bollard": moved(turned(profile, columns=49, around=1.0), BOLLARD[0], 0.0, BOLLARD[1]),
        "drain": joined(_grate()),
        "water": water,
    }
