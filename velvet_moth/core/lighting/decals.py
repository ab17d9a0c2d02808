"""Decals: boxes that project a surface onto what lies behind, in their order."""

import math
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.records import OMITTED, Number, Text, Three
from velvet_moth.core.forms.view import direction
from velvet_moth.core.language.expr import Array, Expr, constant
from velvet_moth.core.language.inputs import Given, surface
from velvet_moth.core.language.primitives import (
    absolute,
    along_x,
    along_y,
    combine,
    cross,
    dot,
    mix,
    normalise,
    saturate,
    smoothstep,
    step,
)
from velvet_moth.core.lighting.backdrop import seen_behind

# How a face of what lies behind is turned to the box (cosine) where the decal begins to fade, and where it is gone.
_FADE = (0.5, 0.25)


@dataclass(frozen=True)
class Decal:
    """A box about ``place`` (metres), projecting against the direction it faces (``turn``, ``tilt``, degrees).

    ``roll`` turns its picture (degrees); ``size`` is its width, height and depth (metres). ``index`` (from 1) and
    ``tint`` tell it from others of the same graph; later ones lie over earlier ones. ``id`` is what its keys know it by.
    """

    place: Three
    turn: Number = 0.0
    tilt: Number = 0.0
    roll: Number = 0.0
    size: Three = (1.0, 1.0, 0.4)
    index: Number = 1.0
    tint: Three = (1.0, 1.0, 1.0)
    id: Annotated[Text, OMITTED] = ""

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
        }
        found = {name: np.array(v, dtype=np.float32).reshape(-1, 1, 1) for name, v in vectors.items()}
        return {**found, "decal_index": np.array(self.index, dtype=np.float32)}


# What a draw is told where there is no decal.
NO_DECAL = Decal((0.0, 0.0, 0.0))


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
    half = surface("decal_half")
    uv = combine(own.x / half.x, own.y / half.y) * 0.5 + 0.5
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


def decal_share(opacity: Expr) -> Expr:
    """How much a decal covers here, 0..1: its opacity inside its box, fading where a face turns away from it."""
    within = absolute(surface("object_position")) / surface("decal_half")
    inside = step(within.x, constant(1.0)) * step(within.y, constant(1.0)) * step(within.z, constant(1.0))
    out = cross(surface("decal_right"), surface("decal_up"))
    facing = smoothstep(_FADE[1], _FADE[0], dot(surface("normal"), out))
    return saturate(opacity) * inside * facing


def on_decal(light: Expr) -> Expr:
    """What lies behind with light in place of a decal: linear light, and the distance as it was."""
    behind = seen_behind(surface("screen_position"))
    return combine(mix(behind.rgb, light, decal_share(constant(1.0))), behind.w)
