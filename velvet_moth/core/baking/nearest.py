"""The nearest places on a surface, and how far they are."""

from dataclasses import dataclass

import igl
import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Floats, Mesh

Places = NDArray[np.float64]

# Steps of a sequence that fills a square evenly. Source: M. Roberts, "The Unreasonable Effectiveness of Quasirandom
# Sequences", 2018.
_EVEN = (0.7548776662466927, 0.5698402909980532)


@dataclass(frozen=True, eq=False)
class Nearest:
    """For each of some places the nearest on a surface: its triangle (n,), its weights there (n, 3), how far in metres (n,)."""

    faces: NDArray[np.int64]
    weights: Places
    distance: Places

    def mixed(self, triangles: NDArray[np.uint32], values: Floats) -> Places:
        """Values of vertices, (n,) or (n, k), at the nearest places."""
        corners = values[triangles[self.faces]].astype(np.float64)
        return np.asarray(np.einsum("pk,pk...->p...", self.weights, corners))


def distance_to(places: Floats, positions: Floats, triangles: NDArray[np.uint32]) -> Floats:
    """Metres from each place (n, 3) to the nearest of the triangles (k, 3), (n,)."""
    return nearest_on(places, positions, triangles).distance.astype(np.float32)


def nearest_on(places: Floats, positions: Floats, triangles: NDArray[np.uint32]) -> Nearest:
    """The nearest place on the triangles (k, 3) for each of the places (n, 3)."""
    corners = positions.astype(np.float64)
    squared, faces, at = igl.point_mesh_squared_distance(places.astype(np.float64), corners, triangles.astype(np.int64))
    return Nearest(faces, weights_on(at, corners[triangles[faces]]), np.sqrt(squared))


def weights_on(at: Places, corners: Places) -> Places:
    """The weights (n, 3) of places on triangles (n, 3, 3). Source: C. Ericson, "Real-Time Collision Detection", 2004, 3.4."""
    a, b, c = (corners[:, i] for i in range(3))
    ab, ac, ap = b - a, c - a, at - a
    d00, d01, d11 = (np.sum(x * y, axis=1) for x, y in ((ab, ab), (ab, ac), (ac, ac)))
    d20, d21 = np.sum(ap * ab, axis=1), np.sum(ap * ac, axis=1)
    whole = d00 * d11 - d01 * d01
    is_thin = whole <= 1e-12 * np.maximum(d00, d11) ** 2
    whole = np.where(is_thin, 1.0, whole)
    v, w = (d11 * d20 - d01 * d21) / whole, (d00 * d21 - d01 * d20) / whole
    # What has no area is as its first side is.
    along = np.clip(d20 / np.maximum(d00, 1e-300), 0, 1)
    v, w = np.where(is_thin, along, v), np.where(is_thin, 0.0, w)
    found = np.clip(np.stack((1 - v - w, v, w), axis=1), 0, 1)
    return np.asarray(found / found.sum(axis=1, keepdims=True))


def spread_over(mesh: Mesh, count: int) -> Nearest:
    """``count`` places spread evenly over the surface of a mesh, always the same ones; their distance is 0."""
    corners = mesh.positions[mesh.triangles].astype(np.float64)
    area = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1)
    ends = np.cumsum(area)
    at = (np.arange(count) + 0.5) / count * ends[-1]
    faces = np.minimum(np.searchsorted(ends, at), len(area) - 1)
    u, v = (np.arange(1, count + 1)[:, None] * _EVEN % 1.0).T
    over = u + v > 1
    u, v = np.where(over, 1 - u, u), np.where(over, 1 - v, v)
    return Nearest(faces, np.stack((1 - u - v, u, v), axis=1), np.zeros(count))
