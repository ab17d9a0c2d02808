"""Directions along a surface: held to it, along its UVs, as numbers, and as how something rises over it.

In tangent space the first number runs along U, the second along V; a surface whose UVs are mirrored keeps to its own.
"""

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.painting.media import flattened
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.forms.mesh import Floats, Mesh, unit_vectors

Vectors = NDArray[np.float64]


def along_surface(mesh: Mesh, vectors: NDArray[np.floating]) -> Floats:
    """What of vectors at the vertices, (n, 3), runs along the surface; no faster than 1."""
    flat = flattened(vectors.astype(np.float64), mesh.normals.astype(np.float64))
    speed = np.linalg.norm(flat, axis=1, keepdims=True)
    return np.asarray(flat / np.maximum(speed, 1.0), dtype=np.float32)


def headed(mesh: Mesh, vectors: NDArray[np.floating], speed: NDArray[np.floating] | float) -> Floats:
    """The directions of vectors along the surface, (n, 3), at a speed for all or for each, (n,); still where there is none."""
    flat = flattened(vectors.astype(np.float64), mesh.normals.astype(np.float64))
    length = np.linalg.norm(flat, axis=1)
    rate = np.where(length > 1e-9, speed, 0.0) / np.maximum(length, 1e-9)
    return np.asarray(flat * rate[:, None], dtype=np.float32)


def tangent_frames(normals: Vectors, tangents: Vectors) -> tuple[Vectors, Vectors]:
    """Unit vectors along U and along V, (n, 3) each, of unit normals (n, 3) and tangents (n, 4) as shaders have them."""
    along_u = unit_vectors(flattened(tangents[:, :3], normals))
    return along_u, np.cross(normals, along_u) * np.where(tangents[:, 3:] < 0, -1.0, 1.0)


def turned(mesh: Mesh, vectors: NDArray[np.floating], degrees: float) -> Floats:
    """Directions (n, 3) turned about the normal, to the left as seen from outside."""
    angle = np.radians(degrees)
    left = np.cross(mesh.normals.astype(np.float64), vectors)
    return np.asarray(vectors * np.cos(angle) + left * np.sin(angle), dtype=np.float32)


def in_tangent_space(vectors: Vectors, normals: Vectors, tangents: Vectors) -> Vectors:
    """Directions (n, 3) along U and V, (n, 2): -1..1."""
    along_u, along_v = tangent_frames(normals, tangents)
    return np.stack([np.sum(vectors * one, axis=1) for one in (along_u, along_v)], axis=1)


def flow_of(mesh: Mesh, directions: NDArray[np.floating], vertex: NDArray[np.int64] | None = None) -> Floats:
    """Directions at the vertices, or at some of them, as flow maps keep them, (k, 3).

    Along U and along V, 0..1 with a half for still; and the speed.
    """
    at = slice(None) if vertex is None else vertex
    normals, tangents = mesh.normals[at].astype(np.float64), mesh.tangents[at].astype(np.float64)
    vectors = directions.astype(np.float64)
    flow = in_tangent_space(vectors, unit_vectors(normals), tangents) * 0.5 + 0.5
    return np.column_stack((flow, np.linalg.norm(vectors, axis=1))).astype(np.float32)


def rising(skin: Skin, values: Floats) -> Vectors:
    """The gradient of numbers (n,) over the surface, (n, 3) per metre: exact for numbers that are linear on flat ground.

    Of each triangle by its edges turned a quarter, weighed by area at the vertices. Source: M. Meyer et al., "Discrete
    Differential-Geometry Operators for Triangulated 2-Manifolds", 2003.
    """
    at = skin.at_places(values)
    corners = skin.positions[skin.triangles]
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    double = np.linalg.norm(across, axis=1, keepdims=True)
    normal = across / np.maximum(double, 1e-18)
    # Twice the area times the gradient: each triangle counts by its area.
    sums = np.zeros_like(corners[:, 0])
    for corner in range(3):
        edge = corners[:, (corner + 2) % 3] - corners[:, (corner + 1) % 3]
        sums += at[skin.triangles[:, corner], None] * np.cross(normal, edge)
    flat = skin.triangles.reshape(-1)
    total = [np.bincount(flat, np.repeat(sums[:, i], 3), skin.count) for i in range(3)]
    area = np.bincount(flat, np.repeat(double[:, 0], 3), skin.count)
    return np.asarray((np.stack(total, axis=1) / np.maximum(area, 1e-18)[:, None])[skin.place_of])
