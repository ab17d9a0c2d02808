"""Decals: boxes that project a surface onto what lies behind, in their order."""

import math
from collections.abc import Hashable
from dataclasses import dataclass
from functools import lru_cache
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.records import OMITTED, Four, Number, Text, Three, Two
from velvet_moth.core.forms.view import direction
from velvet_moth.core.language.expr import Array, Expr, constant, sampler
from velvet_moth.core.language.inputs import Given, surface
from velvet_moth.core.language.primitives import (
    absolute,
    along_x,
    along_y,
    arctangent,
    combine,
    cross,
    dot,
    length,
    maximum,
    mix,
    normalise,
    sample,
    saturate,
    smoothstep,
    step,
)
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.lighting.backdrop import seen_behind
from velvet_moth.core.lighting.spread import AT_ONCE, spread_and_dryness
from velvet_moth.core.lighting.stage_textures import stage_texture

DECAL_REACH = stage_texture(
    "decal_reach", "how far a decal reaches, metres in red: along U by the angle about its middle from its right"
)
# In so many directions a decal knows how far it reaches, evenly about its middle and first to its right.
REACH_DIRECTIONS = 64
# Where nothing limits it; and how far within its reach a decal begins to end, as a share of that.
_NO_LIMIT, _REACH_EDGE = 1000.0, 0.94


@dataclass(frozen=True)
class Decal:
    """A box about ``place`` (metres), projecting against the direction it faces (``turn``, ``tilt``, degrees).

    ``roll`` turns its picture (degrees); ``size`` is its width, height and depth (metres). ``index`` (from 1) and
    ``tint`` tell it from others of the same graph; later ones lie over earlier ones. ``id`` is what its keys know it by.
    It begins at ``born`` (seconds) and lives as the graph's spread says; ``seed`` (0 to 65535), ``strength`` (0 to 1) and four
    free ``numbers`` are for its graph. Faces turned away by the first angle of ``fade`` begin to lose it, by the second have
    none of it (degrees). ``reach`` limits it in its own plane, in metres for each of ``REACH_DIRECTIONS``; empty for no limit.
    ``thrown`` is the unit direction in which it came, where it is the first of what was thrown.
    """

    place: Three
    turn: Number = 0.0
    tilt: Number = 0.0
    roll: Number = 0.0
    size: Three = (1.0, 1.0, 0.4)
    index: Number = 1.0
    tint: Three = (1.0, 1.0, 1.0)
    id: Annotated[Text, OMITTED] = ""
    born: Annotated[Number, OMITTED] = 0.0
    seed: Annotated[Number, OMITTED] = 0.0
    strength: Number = 1.0
    numbers: Four = (0.0, 0.0, 0.0, 0.0)
    fade: Two = (60.0, 75.0)
    reach: Annotated[tuple[Number, ...], OMITTED] = ()
    thrown: Annotated[Three | None, OMITTED] = None

    @property
    def axes(self) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
        """Right, up, and out towards whoever looks at it straight on: unit vectors of the world."""
        out = np.array(direction(self.turn, self.tilt))
        flat = np.array(direction(self.turn + 90.0, 0.0))
        up = np.cross(out, flat)
        a = math.radians(self.roll)
        return flat * math.cos(a) + up * math.sin(a), up * math.cos(a) - flat * math.sin(a), out

    @property
    def inputs(self) -> dict[str, Array]:
        """What a draw knows of it."""
        right, up, _ = self.axes
        half = np.array(self.size) / 2
        vectors = {
            "decal_place": self.place,
            "decal_right": right,
            "decal_up": up,
            "decal_half": half,
            "decal_tint": self.tint,
            "decal_numbers": self.numbers,
            "decal_fade": np.cos(np.radians(self.fade)),
        }
        numbers = {
            "decal_index": self.index,
            "decal_born": self.born,
            "decal_seed": self.seed,
            "decal_strength": self.strength,
        }
        found = {name: np.array(v, dtype=np.float32).reshape(-1, 1, 1) for name, v in vectors.items()}
        return {**found, **{name: np.array(v, dtype=np.float32) for name, v in numbers.items()}}

    @property
    def textures(self) -> dict[Hashable, Texture]:
        """The stage's texture that a draw of it reads."""
        return {DECAL_REACH: reach_texture(self.reach)}


@lru_cache(maxsize=512)
def reach_texture(reach: tuple[float, ...]) -> Texture:
    """How far a decal reaches as a texture of one row; without a limit far beyond any decal."""
    row = np.zeros((4, 1, REACH_DIRECTIONS), dtype=np.float32)
    row[0] = reach or _NO_LIMIT
    return Texture((row,), wrap=("repeat", "clamp"))


# What a draw has where there is no decal.
NO_DECAL = Decal((0.0, 0.0, 0.0))
NO_DECAL_INPUTS = {**NO_DECAL.inputs, **AT_ONCE.inputs}


def _point() -> dict[str, Expr]:
    """The place that lies behind at this pixel, as the box has it."""
    at = surface("screen_position")
    right, up, lens = surface("camera_right"), surface("camera_up"), surface("lens")
    across, above = (at.x * 2.0 - 1.0) * lens.x, (at.y * 2.0 - 1.0) * lens.y
    away = normalise(cross(up, right) + right * across + up * above)
    distance = seen_behind(at).w
    place = surface("camera_position") + away * distance
    # The face behind, as its places change from pixel to pixel.
    normal = normalise(cross(along_x(place), along_y(place)))
    side = surface("decal_right")
    axes = (side, surface("decal_up"), cross(side, surface("decal_up")))
    within = place - surface("decal_place")
    own = combine(*(dot(within, axis) for axis in axes))
    half, share = surface("decal_half"), maximum(spread_and_dryness()[0], 1e-3)
    uv = combine(own.x / (half.x * share), own.y / (half.y * share)) * 0.5 + 0.5
    return {
        "uv": uv,
        "second_uv": uv,
        "position": place,
        "object_position": own,
        "moved_position": place,
        "normal": normal,
        "moved_normal": normal,
        "object_normal": combine(*(dot(normal, axis) for axis in axes)),
        "tangent": combine(normalise(side - normal * dot(side, normal)), 1.0),
        "vertex_colour": constant(1.0, 1.0, 1.0, 1.0),
        "second_vertex_colour": constant(1.0, 1.0, 1.0, 1.0),
        "face_middle": place,
        "face_number": constant(0.0),
        "view_direction": -away,
        "camera_distance": distance,
        "is_front": constant(1.0),
    }


ON_DECAL = Given(_point())


def out_of_reach() -> Expr:
    """How far it is from the decal's middle to here, 1 being as far as the decal reaches in this direction."""
    own = surface("object_position")
    turns = arctangent(own.y, own.x) * (0.5 / math.pi) + 0.5 / REACH_DIRECTIONS
    found = sample(sampler(DECAL_REACH, ("repeat", "clamp"), 0.0, _NO_LIMIT), combine(turns, 0.5), constant(0.0))
    return length(combine(own.x, own.y)) / maximum(found.x, 1e-4)


def decal_share(opacity: Expr) -> Expr:
    """How much a decal covers here, 0..1: its opacity inside its box and reach, fading where a face turns away from it."""
    share = spread_and_dryness()[0]
    own, half = absolute(surface("object_position")), surface("decal_half")
    within = combine(half.x * share, half.y * share, half.z) - own
    zero = constant(0.0)
    inside = step(zero, within.x) * step(zero, within.y) * step(zero, within.z) * step(constant(1e-6), share)
    out, fade = cross(surface("decal_right"), surface("decal_up")), surface("decal_fade")
    facing = smoothstep(fade.y, fade.x, dot(surface("normal"), out))
    return saturate(opacity) * inside * facing * smoothstep(1.0, _REACH_EDGE, out_of_reach())


def on_decal(light: Expr) -> Expr:
    """What lies behind with light in place of a decal: linear light, and the distance as it was."""
    behind = seen_behind(surface("screen_position"))
    return combine(mix(behind.rgb, light, decal_share(constant(1.0))), behind.w)
