"""The diffuse light of all directions as nine spherical harmonics a colour: what arrives at a normal is their sum."""

import math
from functools import lru_cache

import numpy as np

from velvet_moth.core.language.expr import Array, Expr, constant, uniform
from velvet_moth.core.language.inputs import HARMONICS, Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.primitives import combine, cosine, maximum, sine
from velvet_moth.core.language.texture import Floats
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.language.types import VEC3

# What the cosine of the angle to the normal leaves of the harmonics of order 0, 1 and 2, over pi.
_LEFT = (1.0, *[2.0 / 3.0] * 3, *[0.25] * 5)


def _basis(towards: Expr) -> list[Expr]:
    """The real harmonics of order 0 to 2 at a unit direction.

    Source: R. Ramamoorthi, P. Hanrahan, "An Efficient Representation for Irradiance Environment Maps", 2001.
    """
    x, y, z = towards.x, towards.y, towards.z
    return [
        constant(0.282095),
        y * 0.488603,
        z * 0.488603,
        x * 0.488603,
        x * y * 1.092548,
        y * z * 1.092548,
        z * z * 0.946176 - 0.315392,
        x * z * 1.092548,
        (x * x - y * y) * 0.546274,
    ]


def directions_of(width: int, height: int) -> Floats:
    """Unit vectors at the centres of a latitude-longitude picture, (3, height, width), row 0 looking down."""
    turn = ((np.arange(width) + 0.5) / width - 0.5) * 2 * math.pi
    tilt = (1 - (np.arange(height) + 0.5) / height) * math.pi
    ring = np.sin(tilt)[:, None]
    up = np.broadcast_to(np.cos(tilt)[:, None], (height, width))
    return np.stack((ring * np.sin(turn), up, ring * np.cos(turn))).astype(np.float32)


@lru_cache(maxsize=4)
def _weighted(width: int, height: int) -> Array:
    """What each pixel of a latitude-longitude picture adds to each harmonic, (9, height, width)."""
    towards = directions_of(width, height)
    found = evaluate(_basis(uniform("towards", VEC3)), Bindings({}, {"towards": towards}))
    ring = np.sqrt(np.maximum(1.0 - towards[1].astype(np.float64) ** 2, 0.0))[:, :1]
    solid = ring / (ring.sum() * width) * (4 * math.pi)
    return np.stack([np.broadcast_to(one, (height, width)) * solid for one in found])


def harmonics_of(picture: Floats) -> Floats:
    """Of a latitude-longitude picture of all directions (3, rows, columns), row 0 looking down: (9, 3)."""
    weights = _weighted(picture.shape[2], picture.shape[1])
    whole = np.tensordot(weights, picture.astype(np.float64), axes=([1, 2], [1, 2]))
    return np.asarray(whole * np.array(_LEFT)[:, None], dtype=np.float32)


def harmonics_inputs(found: Floats) -> dict[str, Array]:
    """The per-draw inputs of harmonics (9, 3)."""
    return {name: found[at].reshape(3, 1, 1) for at, name in enumerate(HARMONICS)}


@emitted_function("Diffuse light of the surroundings at a normal")
def diffuse_around(normal: Expr) -> Expr:
    """Irradiance over pi at a unit normal, the surroundings turned with the rig."""
    angle = surface("rig_turn") * (2.0 * math.pi)
    c, s = cosine(angle), sine(angle)
    turned = combine(normal.x * c + normal.z * s, normal.y, normal.z * c - normal.x * s)
    parts = [surface(name) * part for name, part in zip(HARMONICS, _basis(turned), strict=True)]
    total = parts[0]
    for part in parts[1:]:
        total = total + part
    return maximum(total, 0.0)
