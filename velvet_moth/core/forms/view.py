"""Where the eye and the light are: shared by the stage and the reference picture."""

import math
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.records import Number, Text, Three


def direction(turn: float, tilt: float) -> tuple[float, float, float]:
    """The unit vector at an angle around and an angle up, in degrees; z forward, y up."""
    a, b = math.radians(turn), math.radians(tilt)
    return math.cos(b) * math.sin(a), math.sin(b), math.cos(b) * math.cos(a)


@dataclass(frozen=True)
class Camera:
    """An eye on an orbit about ``target`` (metres); angles in degrees, ``field`` the vertical field of view."""

    turn: Number = 32.0
    tilt: Number = 24.0
    distance: Number = 4.6
    field: Number = 30.0
    target: Three = (0.0, 0.0, 0.0)

    @property
    def position(self) -> NDArray[np.float64]:
        """Where the eye is, in metres."""
        return np.array(self.target) + np.array(direction(self.turn, self.tilt)) * self.distance

    @property
    def axes(self) -> tuple[NDArray[np.float64], NDArray[np.float64], NDArray[np.float64]]:
        """Right, up and forward, unit vectors of the world."""
        forward = -np.array(direction(self.turn, self.tilt))
        right = np.cross(forward, (0.0, 1.0, 0.0))
        right /= np.linalg.norm(right)
        return right, np.cross(right, forward), forward

    def lens(self, width: int, height: int) -> tuple[float, float]:
        """Half the width and height of the picture at one metre from the eye."""
        reach = math.tan(math.radians(self.field) / 2)
        return reach * width / height, reach

    def through(self, columns: NDArray[Any], rows: NDArray[Any], width: int, height: int) -> NDArray[np.float64]:
        """Unit directions through the centres of some pixels of a picture, row 0 at the bottom; (..., 3)."""
        right, up, forward = self.axes
        across, reach = self.lens(width, height)
        x = (2 * (columns + 0.5) / width - 1) * across
        y = (2 * (rows + 0.5) / height - 1) * reach
        found = forward + x[..., None] * right + y[..., None] * up
        return np.asarray(found / np.linalg.norm(found, axis=-1, keepdims=True))


# A box that is not this share of its width high lies flat, and is seen from so many degrees above.
_LIES_FLAT, _FROM_ABOVE = 0.3, 50.0


def view_of_box(low: NDArray[np.float32], high: NDArray[np.float32]) -> Camera:
    """The eye that sees a box (its corners, metres) whole, from where forms are first seen; what lies flat, from higher up."""
    first = Camera()
    wide, high_, deep = (float(part) for part in np.asarray(high, dtype=np.float64) - low)
    flat = 1.0 - min(high_ / max(_LIES_FLAT * min(wide, deep), 1e-9), 1.0)
    middle = (np.asarray(low, dtype=np.float64) + high) / 2
    radius = max(float(np.linalg.norm(np.asarray(high, dtype=np.float64) - middle)), 1e-3)
    distance = radius / math.sin(math.radians(first.field) / 2)
    x, y, z = (round(float(part), 4) for part in middle)
    tilt = round(first.tilt + max(_FROM_ABOVE - first.tilt, 0.0) * flat, 2)
    return replace(first, tilt=tilt, distance=round(distance, 4), target=(x, y, z))


@dataclass(frozen=True)
class SavedView:
    """An eye and where the light stands (degrees), under a name."""

    name: Text
    camera: Camera
    light_turn: Number
    light_tilt: Number


@dataclass(frozen=True)
class Lamp:
    """A small light near by: where it hangs (metres) and how bright it is a metre away, without a shadow."""

    place: tuple[float, float, float]
    colour: tuple[float, float, float]


@dataclass(frozen=True)
class Rig:
    """The main light's direction (degrees), strength and tint, and the exposure (light times it is shown).

    Up to MOST_LAMPS ``lamps`` stand about, as they are at ``rest``, and turn with it. ``key`` tells which surroundings turn with it; they rest where the light stands at ``rest``.
    """

    turn: float = 58.0
    tilt: float = 42.0
    strength: float = 3.0
    exposure: float = 0.68
    tint: tuple[float, float, float] = (1.0, 0.93, 0.82)
    key: str = "open_dock"
    rest: float = 58.0
    lamps: tuple[Lamp, ...] = ()

    def named(self, key: str) -> "Rig":
        """A rig of that name, its surroundings at rest as the light stands."""
        return replace(self, key=key, rest=self.turn)

    @property
    def sun_direction(self) -> tuple[float, float, float]:
        """The unit vector towards the main light."""
        return direction(self.turn, self.tilt)

    @property
    def sun_colour(self) -> tuple[float, float, float]:
        """The main light, linear, its strength included."""
        red, green, blue = self.tint
        return self.strength * red, self.strength * green, self.strength * blue

    @property
    def lamp_places(self) -> list[tuple[float, float, float]]:
        """Where the lamps hang now."""
        a = math.radians(self.turn - self.rest)
        cosine, sine = math.cos(a), math.sin(a)
        return [(x * cosine + z * sine, y, z * cosine - x * sine) for x, y, z in (lamp.place for lamp in self.lamps)]

    @property
    def rig_turn(self) -> float:
        """The surroundings turn with the light; 0 where it stands at its first place."""
        return (self.rest - self.turn) / 360.0 % 1.0


BACKGROUND = (0x73, 0x70, 0x6D)
