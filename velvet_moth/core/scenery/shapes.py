"""Shapes that scenes are built of."""

from dataclasses import replace

import numpy as np

from velvet_moth.core.forms.mesh import Floats, Mesh, grid, joined, square

Line = list[tuple[float, float]]


def slab(low: tuple[float, float, float], high: tuple[float, float, float], steps: int = 9) -> Mesh:
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
