"""Forms turned or cut from one piece: rounded box, cylinder, torus, pipe, block of cubes."""

import math
from dataclasses import replace
from itertools import product

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Cells, Mesh, declared_form, grid, joined, with_normals
from velvet_moth.core.forms.view import Camera

Line = list[tuple[float, float]]


def turned(pieces: list[Line], columns: int = 129, around: float = 2.0) -> Mesh:
    """Outlines of (radius, height) turned about the upright axis; pieces meet in hard edges.

    Outlines run so that the outside lies on their left when seen with the axis on the left. u goes ``around`` times
    about the axis, v along the outline.
    """
    u = np.linspace(0, 1, columns)
    turn = (u * 2 + 1) * math.pi  # the seam lies at the back
    parts, travelled = [], 0.0
    for piece in pieces:
        outline = np.array(piece, dtype=np.float64)
        steps = np.linalg.norm(np.diff(outline, axis=0), axis=1)
        lengths = travelled + np.concatenate(([0.0], np.cumsum(steps)))
        travelled = float(lengths[-1])
        radius, height = outline[:, :1], np.broadcast_to(outline[:, 1:], (len(outline), columns))
        positions = np.stack((radius * np.sin(turn), height, radius * np.cos(turn)), axis=-1)
        uvs = np.stack(np.broadcast_arrays(u[None] * around, lengths[:, None] / 2.4), axis=-1)
        parts.append(grid(positions, uvs, closed=True))
    return joined(parts)


def bend(x: float, y: float, radius: float, start: float, end: float, count: int = 9) -> Line:
    """An arc about (x, y) from one angle to another, in degrees from outwards, upwards positive."""
    angles = np.radians(np.linspace(start, end, count))
    return [(x + radius * float(np.cos(a)), y + radius * float(np.sin(a))) for a in angles]


@declared_form("Rounded box", cells=Cells(2, 128, 40))
def rounded_box(cells: int) -> Mesh:
    """Edges of 1.4 metres rounded by 0.2, every face with the whole UV square; exact normals."""
    half, radius = 0.7, 0.2
    v, u = np.meshgrid(np.linspace(-1, 1, cells + 1), np.linspace(-1, 1, cells + 1), indexing="ij")
    one = np.ones_like(u)
    faces = ((u, v, one), (one, v, -u), (-u, v, -one), (-one, v, u), (u, one, -v), (u, -one, v))
    uvs = np.stack(((u + 1) / 2, (v + 1) / 2), axis=-1)
    parts = []
    for face in faces:
        corner = np.stack(face, axis=-1) * half
        core = np.clip(corner, -(half - radius), half - radius)
        outward = corner - core
        outward /= np.linalg.norm(outward, axis=-1, keepdims=True)
        made = grid(core + outward * radius, uvs)
        parts.append(with_normals(made, outward))
    return joined(parts)


@declared_form("Cylinder")
def cylinder() -> Mesh:
    """0.7 metres in radius, 1.7 high, with bevelled rims; u twice around."""
    rim = 0.05
    return turned(
        [
            [(0.0, -0.85), (0.35, -0.85), (0.7 - rim, -0.85)],
            bend(0.7 - rim, -0.85 + rim, rim, -90, 0),
            [(0.7, y) for y in np.linspace(-0.85 + rim, 0.85 - rim, 17)],
            bend(0.7 - rim, 0.85 - rim, rim, 0, 90),
            [(0.7 - rim, 0.85), (0.35, 0.85), (0.0, 0.85)],
        ]
    )


@declared_form("Torus", Camera(turn=28.0, tilt=34.0, distance=4.4))
def torus() -> Mesh:
    """0.72 metres from the middle to the tube, which is 0.32 thick; u four times around, v once; exact normals."""
    v, u = np.meshgrid(np.linspace(0, 1, 65), np.linspace(0, 1, 193), indexing="ij")
    turn, tilt = (u * 2 + 1) * math.pi, v * 2 * math.pi
    outward = np.stack((np.cos(tilt) * np.sin(turn), np.sin(tilt), np.cos(tilt) * np.cos(turn)), axis=-1)
    ring = np.stack((np.sin(turn), np.zeros_like(turn), np.cos(turn)), axis=-1) * 0.72
    made = grid(ring + outward * 0.32, np.stack((u * 4, v), axis=-1), closed=True)
    return with_normals(made, outward)


@declared_form("Pipe", Camera(turn=36.0, tilt=30.0, distance=4.9))
def pipe() -> Mesh:
    """A flanged length of pipe with bevels, grooves and an open bore: edges to wear and cavities to fill."""
    small = 0.035
    return turned(
        [
            [(0.40, -0.62), (0.40, -0.95)],
            [(0.40, -0.95), (0.78 - small, -0.95)],
            bend(0.78 - small, -0.95 + small, small, -90, 0),
            [(0.78, -0.95 + small), (0.78, -0.74 - small)],
            bend(0.78 - small, -0.74 - small, small, 0, 90),
            [(0.78 - small, -0.74), (0.60, -0.74)],
            bend(0.60, -0.66, 0.08, -90, -180),
            [(0.52, y) for y in np.linspace(-0.66, -0.2, 9)],
            bend(0.52, -0.12, 0.08, -90, 90, 17),
            [(0.52, -0.04), (0.46, -0.02), (0.46, 0.10), (0.52, 0.12)],
            [(0.52, y) for y in np.linspace(0.12, 0.56, 9)],
            bend(0.60, 0.56, 0.08, 180, 90),
            [(0.60, 0.64), (0.72 - small, 0.64)],
            bend(0.72 - small, 0.64 + small, small, -90, 0),
            [(0.72, 0.64 + small), (0.72, 0.84 - small)],
            bend(0.72 - small, 0.84 - small, small, 0, 90),
            [(0.72 - small, 0.84), (0.40, 0.84)],
            [(0.40, y) for y in np.linspace(0.84, -0.62, 15)],
        ]
    )


def _cubes() -> list[tuple[int, int, int]]:
    """A lantern of cubes: a foot, four posts, a core, and a stepped roof."""
    found: set[tuple[int, int, int]] = set(product((-2, -1, 0, 1, 2), (0,), (-2, -1, 0, 1, 2)))
    found |= {(x, y, z) for x, z in product((-2, 2), (-2, 2)) for y in (1, 2, 3)}
    found |= {(0, y, 0) for y in (1, 2)}
    for step, height in ((2, 4), (1, 5), (0, 6)):
        found |= set(product(range(-step, step + 1), (height,), range(-step, step + 1)))
    return sorted(found)


@declared_form("Block of cubes", Camera(turn=33.0, tilt=22.0, distance=4.7))
def voxel_block() -> Mesh:
    """A lantern built of cubes of 0.3 metres, each face with the whole UV square.

    Vertex colours: red one random number a cube, green its kind as a number of 256 (foot 1, post 2, core 3, roof 4),
    blue its height 0..1.
    """
    cubes, side = _cubes(), 0.3
    taken = set(cubes)
    source = np.random.default_rng(5)
    parts: list[Mesh] = []
    corners = np.array([[-1, -1], [1, -1], [-1, 1], [1, 1]], dtype=np.float64).reshape(2, 2, 2)
    u, v = corners[..., 0], corners[..., 1]
    one = np.ones_like(u)
    sides: dict[tuple[int, int, int], tuple[NDArray[np.float64], ...]] = {
        (0, 0, 1): (u, v, one),
        (1, 0, 0): (one, v, -u),
        (0, 0, -1): (-u, v, -one),
        (-1, 0, 0): (-one, v, u),
        (0, 1, 0): (u, one, -v),
        (0, -1, 0): (u, -one, v),
    }
    uvs = np.stack(((u + 1) / 2, (v + 1) / 2), axis=-1)
    for x, y, z in cubes:
        kind = 1 if y == 0 else 4 if y > 3 else 2 if abs(x) == 2 else 3
        data = np.array((source.uniform(), kind / 256, y / 6, 1.0), dtype=np.float32)
        for (dx, dy, dz), face in sides.items():
            if (x + dx, y + dy, z + dz) in taken:
                continue
            middle = np.array((x, y - 3.0, z)) * side
            made = grid(middle + np.stack(face, axis=-1) * (side / 2), uvs)
            parts.append(replace(made, colours=np.broadcast_to(data, (4, 4)).copy()))
    return joined(parts)
