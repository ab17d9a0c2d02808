"""A wall and a floor: what decals fall on, flat, round and across."""

from collections.abc import Mapping

from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.forms.solids import bend, turned
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, floor, fract, minimum, mix, smoothstep, splat
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.nodes.noises import fractal_in_space, random_of
from velvet_moth.core.scenery.backdrops import declared_backdrop
from velvet_moth.core.scenery.shapes import Line, moved, slab


def _sooty_plaster() -> Surface:
    """A wall of sooty plaster, green at its foot; the floor of worn planks before it."""
    place = surface("position")
    grain = fractal_in_space(place, constant(7.0), constant(0.55), constant(11.0), constant(0.0), 4)
    broad = fractal_in_space(place, constant(1.3), constant(0.5), constant(4.0), constant(0.0), 2)
    plaster = mix(combine(0.055, 0.065, 0.075), combine(0.15, 0.155, 0.15), smoothstep(0.25, 0.75, broad))
    moss = mix(combine(0.03, 0.04, 0.02), combine(0.085, 0.10, 0.035), grain)
    foot = smoothstep(0.42, 0.05, place.y + 1.1 + (broad - 0.5) * 0.9)
    wall = mix(plaster, moss, splat(foot, 3)) * (0.7 + 0.6 * grain)
    board = place.x * 3.6 + 0.07
    joint = minimum(smoothstep(0.0, 0.05, fract(board)), smoothstep(0.0, 0.05, 1.0 - fract(board)))
    each = 0.7 + 0.45 * random_of(combine(floor(board), 0.0), constant(5.0)).x
    fibre = fractal_in_space(
        place * combine(9.0, 1.0, 0.7), constant(3.0), constant(0.6), constant(2.0), constant(0.0), 4
    )
    planks = mix(combine(0.075, 0.048, 0.028), combine(0.21, 0.145, 0.09), fibre) * (each * (0.35 + 0.65 * joint))
    is_floor = smoothstep(0.4, 0.6, surface("normal").y)
    return Surface(
        {
            **default_surface().channels,
            "base_colour": mix(wall, planks, splat(is_floor, 3)),
            "roughness": mix(constant(0.9), 0.5 + 0.25 * fibre, is_floor),
        }
    )


_CHALK_MARKS = (
    Decal((-0.5, 0.42, -1.2), 0.0, tilt=0.0, roll=-6.0, size=(1.0, 1.0, 0.3), index=1.0, tint=(1.0, 0.96, 0.88)),
    Decal((0.55, 0.40, -1.2), 0.0, tilt=0.0, roll=9.0, size=(1.0, 1.0, 0.3), index=8.0, tint=(0.80, 0.90, 1.0)),
    Decal((0.95, -0.1, -1.2), 0.0, tilt=0.0, roll=-14.0, size=(0.7, 0.7, 0.3), index=3.0, tint=(1.0, 0.72, 0.55)),
    Decal((-0.4, -1.1, -0.4), 0.0, tilt=90.0, roll=24.0, size=(0.95, 0.95, 0.3), index=7.0, tint=(1.0, 1.0, 1.0)),
    Decal((-1.15, -0.1, -0.85), 18.0, tilt=0.0, roll=0.0, size=(0.5, 0.5, 0.3), index=5.0, tint=(0.75, 0.9, 0.85)),
    Decal((0.62, -1.08, -0.98), 0.0, tilt=42.0, roll=0.0, size=(0.9, 0.9, 0.9), index=2.0, tint=(0.95, 0.9, 0.6)),
)


@declared_backdrop(
    "Wall and floor",
    _sooty_plaster,
    Camera(turn=20.0, tilt=11.0, distance=5.3),
    Camera(8.0, 3.0, 2.2, 50.0, (0.0, 0.1, -0.9)),
    _CHALK_MARKS,
)
def wall_and_floor() -> Mapping[str, Mesh]:
    """A plastered wall on planks, with a post and a step before it: what decals fall on, flat, round and across."""
    wall = slab((-1.5, -1.1, -1.45), (1.5, 1.15, -1.2), 25)
    floor_ = slab((-1.5, -1.25, -1.2), (1.5, -1.1, 0.55), 25)
    post: list[Line] = [
        [(0.13, -1.1), (0.13, 0.55)],
        bend(0.09, 0.55, 0.04, 0, 90, 5),
        [(0.09, 0.59), (0.0, 0.59)],
    ]
    return {
        "wall": wall,
        "floor": floor_,
        "step": slab((0.35, -1.1, -1.2), (1.5, -0.86, -0.75), 13),
        "post": moved(turned(post, columns=49, around=1.0), -1.15, 0.0, -0.85),
    }
