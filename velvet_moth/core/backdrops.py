"""Backdrop scenes: what lies behind a see-through surface, as a mesh and the surface it wears."""

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from velvet_moth.core.backdrop import seen_behind
from velvet_moth.core.errors import FileRefused
from velvet_moth.core.expr import Expr, constant
from velvet_moth.core.forms.mesh import Floats, Mesh, grid, joined, square
from velvet_moth.core.forms.solids import bend, turned
from velvet_moth.core.lighting.channels import Surface, default_surface
from velvet_moth.core.lighting.model import encoded, facing_normal, radiance, tone_curve
from velvet_moth.core.nodes.noises import fractal_in_space
from velvet_moth.core.primitives import combine, fract, minimum, mix, smoothstep, splat
from velvet_moth.core.surroundings import surface
from velvet_moth.core.view import Camera

Line = list[tuple[float, float]]


@dataclass(frozen=True)
class Backdrop:
    """A scene behind: its mesh (metres, the form stands at the origin), the surface it wears, and its first view."""

    key: str
    name: str
    words: str
    mesh: Callable[[], Mesh]
    wears: Callable[[], Surface]
    view: Camera

    @property
    def light(self) -> Expr:
        """Linear light towards the eye and, last, the distance from it: what surfaces in front read."""
        light = radiance(self.wears(), facing_normal())
        return combine(light, surface("camera_distance"))


BACKDROPS: dict[str, Backdrop] = {}


def declared_backdrop(
    name: str, wears: Callable[[], Surface], view: Camera
) -> Callable[[Callable[[], Mesh]], Callable[[], Mesh]]:
    """Decorator that enters a mesh in the table of backdrops; it is made once."""

    def decorate(make: Callable[[], Mesh]) -> Callable[[], Mesh]:
        made = lru_cache(maxsize=1)(make)
        key = make.__name__
        BACKDROPS[key] = Backdrop(key, name, " ".join((make.__doc__ or "").split()), made, wears, view)
        return made

    return decorate


def backdrop(key: str) -> Backdrop:
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
    shift: Floats = np.array((x, y, z), dtype=np.float32)
    return replace(mesh, positions=mesh.positions + shift)


def _stone() -> Surface:
    """Old dressed stone: paler where it stays dry, green along the waterline, dark and smooth under it."""
    place = surface("position")
    grain = fractal_in_space(place, constant(5.0), constant(0.55), constant(3.0), constant(0.0), 5)
    broad = fractal_in_space(place, constant(1.6), constant(0.5), constant(8.0), constant(0.0), 3)
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


@declared_backdrop("Lock basin", _stone, Camera(turn=40.0, tilt=31.0, distance=4.7))
def lock_basin() -> Mesh:
    """A stone basin of two metres, its rim a hand above the water: a bed that slopes from steps to a deep end, and
    three mooring posts."""
    u, v = square(65, 65)
    x, z = u * 2.1 - 1.05, 1.05 - v * 2.1
    slope = -0.16 - 0.95 / (1 + np.exp(-(x - 0.05) * 3.4)) - 0.05 * np.sin(z * 5 + x * 3)
    parts = [grid(np.stack((x, slope, z), axis=-1), np.stack((u, v), axis=-1))]
    top, foot, inner, outer = 0.13, -1.35, 1.02, 1.22
    for low, high in (
        ((-outer, foot, inner), (outer, top, outer)),
        ((-outer, foot, -outer), (outer, top, -inner)),
        ((inner, foot, -inner), (outer, top, inner)),
        ((-outer, foot, -inner), (-inner, top, inner)),
    ):
        parts.append(_slab(low, high, 13))
    for step in range(3):
        parts.append(_slab((-inner, foot, -inner), (-inner + 0.62 - 0.2 * step, -0.17 + 0.11 * step, inner)))
    post: list[Line] = [
        [(0.075, -1.3), (0.075, 0.16)],
        bend(0.055, 0.16, 0.02, 0, 90, 5),
        [(0.055, 0.18), (0.0, 0.18)],
    ]
    for px, pz in ((0.2, -0.55), (0.62, -0.1), (0.35, 0.62)):
        parts.append(moved(turned(post, columns=33, around=1.0), px, 0.0, pz))
    return joined(parts)
