"""Forms of one thin sheet: hull panel, pennant, terrain, ribbon, and the corner of a wall and a floor."""

import cv2
import numpy as np

from velvet_moth.core.forms.mesh import Floats, Mesh, declared_form, grid, joined, square, with_data
from velvet_moth.core.forms.view import Camera


@declared_form("Hull panel", Camera(turn=24.0, tilt=12.0, distance=5.0))
def hull_panel() -> Mesh:
    """A panel of a ferry's side, 2.4 by 1.5 metres: curved both ways, with a hard crease along the chine."""

    def strake(low: float, high: float, slope: float, out: float) -> Mesh:
        u, v = square(25, 65)
        x, y = u * 2.4 - 1.2, low + v * (high - low)
        bulge = 0.42 * (1 - (x / 1.5) ** 2) * np.cos((y - 0.2) * 0.9)
        z = bulge + out + slope * (y - (low if slope < 0 else high)) - 0.2
        return grid(np.stack((x, y, z), axis=-1), np.stack((u * 1.6, (y + 0.75) / 1.5), axis=-1))

    return joined([strake(-0.75, -0.2, 0.75, 0.0), strake(-0.2, 0.75, -0.12, 0.0)])


@declared_form("Pennant", Camera(turn=14.0, tilt=6.0, distance=4.6))
def pennant() -> Mesh:
    """A signal pennant of 2.2 metres, its staff at the left, narrowing to a forked end; seen from both sides.

    Vertex colours: red from 0 at the staff to 1 at the end, green from 0 at its middle line to 1 at its edges.
    """
    u, v = square(33, 97)
    half = 0.62 - 0.3 * u
    fork = 0.24 * np.clip((u - 0.7) / 0.3, 0, 1) * (1 - np.abs(v * 2 - 1))
    x = u * 2.2 - 1.1 - fork
    y = (v * 2 - 1) * half + 0.05 * np.sin(u * 5)
    z = 0.16 * u * np.sin(u * 7.5 + v * 1.2) + 0.05 * u * np.sin(u * 15 - v * 3)
    made = grid(np.stack((x, y, z), axis=-1), np.stack((u, v), axis=-1))
    return with_data(made, u, np.abs(v * 2 - 1))


def _hills(side: int, seed: int) -> Floats:
    """Smooth hills of several sizes, about -1..1, (side, side)."""
    source = np.random.default_rng(seed)
    found = np.zeros((side, side), dtype=np.float32)
    for cells, strength in ((4, 1.0), (7, 0.55), (13, 0.28), (25, 0.14)):
        coarse = source.uniform(-1, 1, (cells, cells)).astype(np.float32)
        found += strength * cv2.resize(coarse, (side, side), interpolation=cv2.INTER_CUBIC)
    return found


@declared_form("Terrain", Camera(turn=30.0, tilt=30.0, distance=4.9))
def terrain() -> Mesh:
    """2.6 metres of uneven ground, with a bank and a hollow; u and v over the whole.

    Vertex colours: red the height 0..1, green how steep it is, blue how hollow.
    """
    u, v = square(129, 129)
    x, z = u * 2.6 - 1.3, 1.3 - v * 2.6
    bank = 0.34 * (1 / (1 + np.exp(-(x + 0.35 * z) * 4)) - 0.5)
    height = bank + 0.15 * _hills(129, 4) - 0.2 * np.exp(-((x + 0.5) ** 2 + (z - 0.4) ** 2) * 3)
    made = grid(np.stack((x, height, z), axis=-1), np.stack((u, v), axis=-1))
    hollow = np.clip((cv2.blur(height.astype(np.float32), (15, 15)) - height) * 8 + 0.5, 0, 1)
    rise = (height - height.min()) / np.ptp(height)
    return with_data(made, rise, 1 - made.normals[:, 1].astype(np.float64), hollow)


@declared_form("Ribbon", Camera(turn=20.0, tilt=8.0, distance=4.6))
def ribbon() -> Mesh:
    """A strip of steam that rises 1.9 metres in a turning curve, seen from both sides.

    Vertex colours: red from 0 where it begins to 1 at its end, green from 0 in the middle to 1 at its edges.
    """
    u, v = square(129, 7)
    middle = np.stack((0.35 * np.sin(v * 4.2) * v + 0.25 * v, v * 1.9 - 0.95, 0.3 * np.cos(v * 5.0) * v), axis=-1)
    angle = v * 2.4
    across = np.stack((np.cos(angle), np.zeros_like(v), np.sin(angle)), axis=-1)
    wide = (0.12 + 0.36 * v) * (1 - 0.35 * v * v)
    made = grid(middle + across * ((u * 2 - 1) * wide)[..., None], np.stack((u, v), axis=-1))
    return with_data(made, v, np.abs(u * 2 - 1))


@declared_form("Wall and floor", Camera(turn=28.0, tilt=22.0, distance=6.0))
def corner() -> Mesh:
    """A wall on a floor, 2.4 metres each way: what decals and splashes fall on. UV in steps of 2.4 metres."""
    u, v = square(49, 49)
    flat = np.zeros_like(u)
    floor = grid(np.stack((u * 2.4 - 1.2, flat - 1.1, 1.2 - v * 2.4), axis=-1), np.stack((u, v), axis=-1))
    wall = grid(np.stack((u * 2.4 - 1.2, v * 2.4 - 1.1, flat - 1.2), axis=-1), np.stack((u, v + 1), axis=-1))
    return joined([floor, wall])
