"""The lock basin: what lies behind water."""

from collections.abc import Mapping

import numpy as np

from velvet_moth.core.forms.mesh import Mesh, grid, joined, square
from velvet_moth.core.forms.solids import bend, turned
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, fract, minimum, mix, smoothstep, splat
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.nodes.noises import fractal_in_space
from velvet_moth.core.scenery.backdrops import declared_backdrop
from velvet_moth.core.scenery.shapes import Line, moved, slab


def _stone() -> Surface:
    """Old dressed stone: paler where it stays dry, green along the waterline, dark and smooth under it."""
    place = surface("position")
    grain = fractal_in_space(place, constant(5.0), constant(0.55), constant(3.0), constant(0.0), 4)
    broad = fractal_in_space(place, constant(1.6), constant(0.5), constant(8.0), constant(0.0), 2)
    course = fract(place.y * 3.4 + 0.02)
    joint = minimum(smoothstep(0.0, 0.05, course), smoothstep(0.0, 0.05, 1.0 - course))
    dry = mix(combine(0.27, 0.25, 0.21), combine(0.48, 0.44, 0.36), grain)
    bed = mix(combine(0.20, 0.17, 0.11), combine(0.42, 0.36, 0.23), grain)
    wet = smoothstep(0.05, -0.03, place.y + (broad - 0.5) * 0.12)
    moss = smoothstep(0.10, 0.0, place.y) * smoothstep(-0.35, 0.0, place.y) * smoothstep(0.35, 0.6, broad)
    stone = mix(mix(dry, bed, splat(wet, 3)), combine(0.10, 0.15, 0.045), splat(moss * 0.85, 3))
    shade = (0.62 + 0.38 * joint) * (0.75 + 0.5 * broad)
    return Surface(
        {
            **default_surface().channels,
            "base_colour": stone * shade,
            "roughness": mix(constant(0.85), constant(0.6), wet),
        }
    )


@declared_backdrop(
    "Lock basin", _stone, Camera(turn=40.0, tilt=31.0, distance=4.7), Camera(118.0, 19.0, 1.9, 50.0, (0.1, -0.12, 0.0))
)
def lock_basin() -> Mapping[str, Mesh]:
    """A stone basin of two metres, its rim a hand above the water: a bed that slopes from steps to a deep end, and
    three mooring posts."""
    u, v = square(65, 65)
    x, z = u * 2.1 - 1.05, 1.05 - v * 2.1
    slope = -0.16 - 0.95 / (1 + np.exp(-(x - 0.05) * 3.4)) - 0.05 * np.sin(z * 5 + x * 3)
    bed = grid(np.stack((x, slope, z), axis=-1), np.stack((u, v), axis=-1) * 2.1)
    walls, posts = [], []
    top, foot, inner, outer = 0.13, -1.35, 1.02, 1.22
    for low, high in (
        ((-outer, foot, inner), (outer, top, outer)),
        ((-outer, foot, -outer), (outer, top, -inner)),
        ((inner, foot, -inner), (outer, top, inner)),
        ((-outer, foot, -inner), (-inner, top, inner)),
    ):
        walls.append(slab(low, high, 13))
    for step in range(3):
        walls.append(slab((-inner, foot, -inner), (-inner + 0.62 - 0.2 * step, -0.17 + 0.11 * step, inner)))
    post: list[Line] = [
        [(0.075, -1.3), (0.075, 0.16)],
        bend(0.055, 0.16, 0.02, 0, 90, 5),
        [(0.055, 0.18), (0.0, 0.18)],
    ]
    for px, pz in ((0.2, -0.55), (0.62, -0.1), (0.35, 0.62)):
        posts.append(moved(turned(post, columns=33, around=1.0), px, 0.0, pz))
    return {"bed": bed, "rim_and_steps": joined(walls), "posts": joined(posts)}
