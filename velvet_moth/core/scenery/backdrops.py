"""Backdrop scenes: what lies behind a see-through surface, as a mesh and the surface it has."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.forms.mesh import Floats, Mesh, grid, joined, square
from velvet_moth.core.forms.solids import bend, turned
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.primitives import combine, floor, fract, minimum, mix, smoothstep, splat
from velvet_moth.core.lighting.backdrop import seen_behind
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lighting.decal_buffers import under_decals
from velvet_moth.core.lighting.decals import Decal
from velvet_moth.core.lighting.layers import facing_normal
from velvet_moth.core.lighting.model import radiance
from velvet_moth.core.lighting.shown import encoded, tone_curve
from velvet_moth.core.nodes.noises import fractal_in_space, random_of

Line = list[tuple[float, float]]


@dataclass(frozen=True)
class Backdrop:
    """A scene behind: its parts (metres, the form stands at the origin), the surface they have, its first view.

    A graph may give each of the ``parts`` the surface of another graph. ``standing`` is what somebody sees who stands in it.
    ``decals`` are where decals lie until others are placed.
    """

    key: str
    name: str
    words: str
    parts: Callable[[], Mapping[str, Mesh]]
    surface: Callable[[], Surface]
    view: Camera
    standing: Camera
    decals: tuple[Decal, ...] = ()

    def mesh(self) -> Mesh:
        """All parts as one."""
        return _whole(self.parts)

    def light(self, lamps: int = 0, has_decals: bool = False) -> Expr:
        """``light_behind`` of the surface that is its own."""
        return light_behind(self.surface(), lamps, has_decals)


@lru_cache(maxsize=8)
def _whole(parts: Callable[[], Mapping[str, Mesh]]) -> Mesh:
    return joined(list(parts().values()))


def light_behind(of: Surface, lamps: int = 0, has_decals: bool = False) -> Expr:
    """Linear light towards the eye and, last, the distance from it: what surfaces in front read of one behind.

    What ``has_decals`` is lit as decals leave it.
    """
    return combine(radiance(under_decals(of) if has_decals else of, facing_normal(), lamps), surface("camera_distance"))


def place_of(key: str, part: str) -> str:
    """How a graph names a part of a backdrop."""
    return f"{key}.{part}"


BACKDROPS: dict[str, Backdrop] = {}


def declared_backdrop(
    name: str, surface: Callable[[], Surface], view: Camera, standing: Camera, decals: tuple[Decal, ...] = ()
) -> Callable[[Callable[[], Mapping[str, Mesh]]], Callable[[], Mapping[str, Mesh]]]:
    """Decorator that enters the parts of a scene in the table of backdrops; they are made once."""

    def decorate(make: Callable[[], Mapping[str, Mesh]]) -> Callable[[], Mapping[str, Mesh]]:
        made = lru_cache(maxsize=1)(make)
        key = make.__name__
        BACKDROPS[key] = Backdrop(
            key,
            name,
            words=" ".join((make.__doc__ or "").split()),
            parts=made,
            surface=surface,
            view=view,
            standing=standing,
            decals=decals,
        )
        return made

    return decorate


def backdrop(key: str) -> Backdrop:
    """The backdrop of that key; FileRefused where there is none."""
    if key not in BACKDROPS:
        raise FileRefused(f"There is no backdrop {key!r}.", "backdrop", f"Choose one of {', '.join(BACKDROPS)}.")
    return BACKDROPS[key]


def seen_picture() -> Expr:
    """The display colour of what lies behind, at the pixel itself."""
    return encoded(tone_curve(seen_behind(surface("screen_position")).rgb * surface("exposure")))


def _slab(low: tuple[float, float, float], high: tuple[float, float, float], steps: int = 9) -> Mesh:
    """A box from one corner to the other; UV in metres."""
    a, b = np.array(low), np.array(high)
    half, middle = (b - a) / 2, (a + b) / 2
    u, v = (part * 2 - 1 for part in square(steps, steps))
    one = np.ones_like(u)
    parts = []
    for face in ((u, v, one), (one, v, -u), (-u, v, -one), (-one, v, u), (u, one, -v), (u, -one, v)):
        across = float(np.abs(half) @ [abs(f[0, -1] - f[0, 0]) / 2 for f in face])
        up = float(np.abs(half) @ [abs(f[-1, 0] - f[0, 0]) / 2 for f in face])
        uvs = np.stack(((u + 1) * across, (v + 1) * up), axis=-1)
        parts.append(grid(middle + np.stack(face, axis=-1) * half, uvs))
    return joined(parts)


def moved(mesh: Mesh, x: float, y: float, z: float) -> Mesh:
    """A mesh shifted by so many metres."""
    shift: Floats = np.array((x, y, z), dtype=np.float32)
    return replace(mesh, positions=mesh.positions + shift)


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
        walls.append(_slab(low, high, 13))
    for step in range(3):
        walls.append(_slab((-inner, foot, -inner), (-inner + 0.62 - 0.2 * step, -0.17 + 0.11 * step, inner)))
    post: list[Line] = [
        [(0.075, -1.3), (0.075, 0.16)],
        bend(0.055, 0.16, 0.02, 0, 90, 5),
        [(0.055, 0.18), (0.0, 0.18)],
    ]
    for px, pz in ((0.2, -0.55), (0.62, -0.1), (0.35, 0.62)):
        posts.append(moved(turned(post, columns=33, around=1.0), px, 0.0, pz))
    return {"bed": bed, "rim_and_steps": joined(walls), "posts": joined(posts)}


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
    wall = _slab((-1.5, -1.1, -1.45), (1.5, 1.15, -1.2), 25)
    floor_ = _slab((-1.5, -1.25, -1.2), (1.5, -1.1, 0.55), 25)
    post: list[Line] = [
        [(0.13, -1.1), (0.13, 0.55)],
        bend(0.09, 0.55, 0.04, 0, 90, 5),
        [(0.09, 0.59), (0.0, 0.59)],
    ]
    return {
        "wall": wall,
        "floor": floor_,
        "step": _slab((0.35, -1.1, -1.2), (1.5, -0.86, -0.75), 13),
        "post": moved(turned(post, columns=49, around=1.0), -1.15, 0.0, -0.85),
    }
