"""The surroundings of a rig, filtered for roughness, and how the surface model reads them.

The map holds eight strips, one above the other. Seven are latitude-longitude pictures of all directions, seen at
roughness 0, 1/6 .. 1. The last is the table of how the lobes respond (see ``response.py``), so that all of it is one
texture. The diffuse light is no part of it (see ``harmonics.py``).
"""

import math
from functools import lru_cache

import numpy as np

from velvet_moth.core.language.expr import Array, Expr, constant, sampler, uniform
from velvet_moth.core.language.inputs import Bindings, surface
from velvet_moth.core.language.interpreters.evaluate import evaluate
from velvet_moth.core.language.primitives import (
    arccosine,
    arctangent,
    clamp,
    combine,
    dot,
    floor,
    minimum,
    mix,
    normalise,
    sample,
    saturate,
)
from velvet_moth.core.language.texture import Floats, Texture
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.language.types import VEC3
from velvet_moth.core.lighting.harmonics import directions_of, harmonics_of
from velvet_moth.core.lighting.response import response_table, spread
from velvet_moth.core.lighting.rigs import rig_kind
from velvet_moth.core.lighting.stage_textures import stage_texture

WIDTH, HEIGHT = 256, 128
ROUGH_STRIPS = 7
RESPONSE_STRIP = 7
STRIPS = 8
ENVIRONMENT = stage_texture(
    "environment",
    "seven latitude-longitude pictures of the surroundings, the rougher the higher, in linear light; above them how rough surfaces respond",
)


def _look_up(picture: Floats, directions: Floats) -> Floats:
    """The nearest pixel of a latitude-longitude picture in each direction (3, ...)."""
    _, rows, columns = picture.shape
    column = ((np.arctan2(directions[0], directions[2]) / (2 * math.pi) + 0.5) * columns).astype(np.int32) % columns
    row = ((1 - np.arccos(np.clip(directions[1], -1, 1)) / math.pi) * rows).astype(np.int32)
    return np.asarray(picture[:, np.minimum(row, rows - 1), column])


def _filtered(picture: Floats, local: Array, weights: Array, width: int, height: int) -> Floats:
    """Weighted mean of the picture over ``local`` directions turned to each output direction."""
    axis = directions_of(width, height).reshape(3, -1)
    helper = np.where(np.abs(axis[1]) < 0.9, 1.0, 0.0)
    up = np.stack((1.0 - helper, helper, np.zeros_like(helper)))
    side = np.cross(up, axis, axis=0)
    side /= np.linalg.norm(side, axis=0)
    other = np.cross(axis, side, axis=0)
    gathered = np.zeros_like(axis)
    for (x, y, z), weight in zip(local.T, weights, strict=True):
        gathered += weight * _look_up(picture, (side * x + other * y + axis * z).astype(np.float32))
    return np.asarray(gathered / weights.sum(), dtype=np.float32).reshape(3, height, width)


def _half_vectors(roughness: float, count: int) -> tuple[Array, Array]:
    """Reflected directions for microfacet normals drawn from GGX, seen head-on, with their cosine weights.

    Source: B. Karis, split-sum approximation, SIGGRAPH 2013 course on physically based shading.
    """
    a, b = spread(count)
    alpha = roughness * roughness
    cosine = np.sqrt((1 - a) / (1 + (alpha * alpha - 1) * a))
    sine = np.sqrt(1 - cosine * cosine)
    half = np.stack((sine * np.cos(2 * math.pi * b), sine * np.sin(2 * math.pi * b), cosine))
    light = 2 * cosine * half - np.array([[0.0], [0.0], [1.0]])
    kept = light[2] > 0
    return light[:, kept], light[2, kept]


def _resized(picture: Floats) -> Floats:
    """A latitude-longitude picture at the map's size, linear between pixels."""
    levels = Texture((np.concatenate((picture, np.ones_like(picture[:1]))),), wrap=("repeat", "clamp"))
    u, v = np.meshgrid((np.arange(WIDTH) + 0.5) / WIDTH, (np.arange(HEIGHT) + 0.5) / HEIGHT)
    flat = np.zeros((), dtype=np.float32)
    return levels.sample(np.stack((u, v)).astype(np.float32), flat)[:3]


@lru_cache(maxsize=16)
def environment_map(rig: str = "open_dock") -> Texture:
    """The filtered map of a rig, rounded to half floats as the stage holds it: one level, (4, 8*128, 256)."""
    towards = uniform("towards", VEC3)
    around = rig_kind(rig).around(towards)
    return _map_of(evaluate([around], Bindings({}, {"towards": directions_of(WIDTH, HEIGHT)}))[0])


@lru_cache(maxsize=16)
def diffuse_harmonics(around: Texture) -> Floats:
    """The harmonics (9, 3) of the diffuse light of a filtered map."""
    return harmonics_of(around.levels[0][:3, :HEIGHT])


# The largest number that a half float holds; a sun inside a picture may be brighter.
_BRIGHTEST = 65504.0


@lru_cache(maxsize=4)
def imported_map(picture: Texture) -> Texture:
    """As ``environment_map``, of a latitude-longitude picture of all directions: linear light, its top looking up."""
    level = next((one for one in picture.levels if one.shape[-1] < 2 * WIDTH), picture.levels[-1])
    # What is no number is dark.
    return _map_of(_resized(np.clip(np.nan_to_num(level[:3], posinf=_BRIGHTEST), 0.0, _BRIGHTEST)))


def _map_of(sharp: Floats) -> Texture:
    strips = [sharp]
    for index in range(1, ROUGH_STRIPS):
        local, weights = _half_vectors(index / (ROUGH_STRIPS - 1), 192)
        small = _filtered(sharp, local, weights, *((128, 64) if index < 3 else (64, 32)))
        strips.append(_resized(small))
    strips.append(response_table(WIDTH, HEIGHT))
    stacked = np.concatenate(strips, axis=1)
    whole = np.concatenate((stacked, np.ones_like(stacked[:1])))
    return Texture((np.ascontiguousarray(whole.astype(np.float16).astype(np.float32)),))


def _strip(direction: Expr, index: Expr) -> Expr:
    u = arctangent(direction.x, direction.z) * (0.5 / math.pi) + 0.5 + surface("rig_turn")
    v = 1.0 - arccosine(clamp(direction.y, -1.0, 1.0)) * (1.0 / math.pi)
    inside = clamp(v, 0.5 / HEIGHT, 1.0 - 0.5 / HEIGHT)
    where = combine(u, (index + inside) * (1.0 / STRIPS))
    return sample(sampler(ENVIRONMENT, ("repeat", "clamp"), 0.0, 100.0), where, constant(0.0)).rgb


@emitted_function("Environment seen in a direction at a roughness")
def environment_reflection(direction: Expr, roughness: Expr) -> Expr:
    """Radiance arriving around a unit direction, blurred for roughness 0..1."""
    at = saturate(roughness) * float(ROUGH_STRIPS - 1)
    lower = minimum(floor(at), float(ROUGH_STRIPS - 2))
    return mix(_strip(direction, lower), _strip(direction, lower + 1.0), at - lower)


@emitted_function("Surroundings in a rough mirror")
def mirrored_surroundings(normal: Expr, view: Expr, roughness: Expr) -> Expr:
    """Radiance that a GGX lobe of roughness 0..1 gathers about the mirrored view, before its own response.

    The map is filtered about the middle of a lobe seen head-on; one that is seen aslant leans towards the normal. By how much
    is fitted to the integral over gradients in all directions: within 8 % in the mean, where no lean is 33 % off.
    """
    cosine = dot(normal, view)
    away, rough = 1.0 - saturate(cosine), saturate(roughness)
    lean = rough * rough * (1.0 + (1.0 - rough) * away * away * 1.3)
    return environment_reflection(normalise(mix(normal * (2.0 * cosine) - view, normal, lean)), rough)


@emitted_function("Response of rough and woolly surfaces")
def response(cosine: Expr, roughness: Expr) -> Expr:
    """Scale and bias of the reflectance, and the sheen's share, under white surroundings (see ``response.py``)."""
    # From the middle of the first pixel to that of the last one.
    u = saturate(cosine) * (1.0 - 1.0 / WIDTH) + 0.5 / WIDTH
    v = saturate(roughness) * (1.0 - 1.0 / HEIGHT) + 0.5 / HEIGHT
    where = combine(u, (v + float(RESPONSE_STRIP)) * (1.0 / STRIPS))
    return sample(sampler(ENVIRONMENT, ("repeat", "clamp"), 0.0, 100.0), where, constant(0.0)).rgb
