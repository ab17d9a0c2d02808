"""The plain forms: sphere, plane, box."""

import math
from dataclasses import replace

import numpy as np

from velvet_moth.core.forms.mesh import Cells, Mesh, declared_form, grid, joined
from velvet_moth.core.forms.view import Camera


@declared_form("Sphere")
def sphere() -> Mesh:
    """Radius 1; u around, v from the south pole up; exact normals."""
    rows, columns = 97, 193
    v, u = np.meshgrid(np.linspace(0, 1, rows), np.linspace(0, 1, columns), indexing="ij")
    turn, tilt = (u * 2 + 1) * math.pi, (v - 0.5) * math.pi  # the seam lies at the back
    positions = np.stack((np.cos(tilt) * np.sin(turn), np.sin(tilt), np.cos(tilt) * np.cos(turn)), axis=-1)
    made = grid(positions, np.stack((u, v), axis=-1), closed=True)
    tangents = np.stack((np.cos(turn), np.zeros_like(turn), -np.sin(turn), np.ones_like(turn)), axis=-1)
    exact = tangents.reshape(-1, 4).astype(np.float32)
    return replace(made, normals=made.positions, tangents=exact)


@declared_form("Plane", Camera(turn=32.0, tilt=38.0, distance=4.2), Cells(1, 256, 96))
def plane(cells: int) -> Mesh:
    """2 x 2 metres lying flat, facing up, of so many cells along a side."""
    v, u = np.meshgrid(np.linspace(0, 1, cells + 1), np.linspace(0, 1, cells + 1), indexing="ij")
    positions = np.stack((u * 2 - 1, np.zeros_like(u), 1 - v * 2), axis=-1)
    return grid(positions, np.stack((u, v), axis=-1))


@declared_form("Box")
def box() -> Mesh:
    """Edges of 1.4 metres, every face with the whole UV square."""
    half = 0.7
    v, u = np.meshgrid(np.linspace(-1, 1, 9), np.linspace(-1, 1, 9), indexing="ij")
    one = np.ones_like(u)
    faces = ((u, v, one), (one, v, -u), (-u, v, -one), (-one, v, u), (u, one, -v), (u, -one, v))
    uvs = np.stack(((u + 1) / 2, (v + 1) / 2), axis=-1)
    return joined([grid(np.stack(face, axis=-1) * half, uvs) for face in faces])
