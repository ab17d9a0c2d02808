"""Forms that are drawn many times, of few triangles: drops, cards, and the strip that ribbons are made of."""

import numpy as np

from velvet_moth.core.forms.mesh import Cells, Mesh, declared_form, grid, square
from velvet_moth.core.forms.view import Camera


@declared_form("Drop", Camera(turn=20.0, tilt=12.0, distance=3.4, target=(0.0, 0.15, 0.0)), Cells(3, 64, 8))
def drop(cells: int) -> Mesh:
    """A drop of nearly a metre, round below and drawn out upwards, about the middle of its ball."""
    u, v = square(cells, cells + 1)
    tilt = (v - 0.5) * np.pi
    out = np.cos(tilt) * np.where(tilt > 0, np.cos(tilt) ** 0.6, 1.0)
    up = np.where(tilt > 0, np.sin(tilt) * 2.1, np.sin(tilt))
    radius, turn = 0.3, u * 2 * np.pi
    positions = np.stack((np.sin(turn) * out, up, np.cos(turn) * out), axis=-1) * radius
    return grid(positions, np.stack((u, v), axis=-1), closed=True)


@declared_form("Card", Camera(turn=20.0, tilt=8.0, distance=3.2))
def card() -> Mesh:
    """A square of a metre, its face forward: for pictures that turn to the eye."""
    u, v = square(2, 2)
    return grid(np.stack((u - 0.5, v - 0.5, 0 * u), axis=-1), np.stack((u, v), axis=-1))


@declared_form("Strip", Camera(turn=20.0, tilt=8.0, distance=4.6), Cells(4, 512, 64))
def strip(cells: int) -> Mesh:
    """A strip of two metres, half a metre wide, standing upright: V runs along it, U across. An emitter lays it along its path."""
    v, u = np.meshgrid(np.linspace(0, 1, cells + 1), np.linspace(0, 1, 3), indexing="ij")
    return grid(np.stack(((u - 0.5) * 0.5, v * 2 - 1, 0 * u), axis=-1), np.stack((u, v), axis=-1))
