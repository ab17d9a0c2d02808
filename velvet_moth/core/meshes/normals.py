"""Normals of a mesh that has none: smooth where faces meet at a small angle, sharp elsewhere."""

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from velvet_moth.core.meshes.rows import numbered, numbered_pairs
from velvet_moth.core.meshes.source import Floats, Indices

# Where faces meet at less than this, in degrees, they are one smooth surface.
SMOOTH_BELOW = 45.0


def places_of(positions: Floats) -> NDArray[np.int64]:
    """For each vertex the number of its place: vertices at the same place have the same."""
    return numbered(positions)


def face_normals(positions: Floats, triangles: Indices) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Unit normals (m, 3) of triangles, zero for those without area; and their areas (m,)."""
    corners = positions[triangles].astype(np.float64)
    across = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(across, axis=1)
    return across / np.maximum(length, 1e-300)[:, None] * (length > 0)[:, None], length / 2


def corner_angles(positions: Floats, triangles: Indices) -> NDArray[np.float64]:
    """The angle of each triangle at each of its corners, (m, 3), radians."""
    corners = positions[triangles].astype(np.float64)
    angles = np.zeros(triangles.shape)
    for i in range(3):
        a, b = (corners[:, (i + step) % 3] - corners[:, i] for step in (1, 2))
        lengths = np.linalg.norm(a, axis=1) * np.linalg.norm(b, axis=1)
        angles[:, i] = np.arccos(np.clip(np.sum(a * b, axis=1) / np.maximum(lengths, 1e-300), -1, 1))
    return angles


def around_edges(places: NDArray[np.int64], triangles: Indices) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Sides of triangles that meet: two of them each, (k, 2) as side 3 * triangle + corner where it begins; and the edge's number.

    Sides on an open edge are left out; where more than two sides meet, each is paired with the next.
    """
    start, end = places[triangles].reshape(-1), places[np.roll(triangles, -1, axis=1)].reshape(-1)
    edge = np.minimum(start, end) * (places.max() + 1) + np.maximum(start, end)
    order = np.argsort(edge, kind="stable")
    same = edge[order][1:] == edge[order][:-1]
    return np.stack((order[:-1][same], order[1:][same]), axis=1), edge


def with_normals(
    positions: Floats, triangles: Indices, smooth_below: float = SMOOTH_BELOW
) -> tuple[NDArray[np.int64], Indices, Floats]:
    """Which old vertex each new one is (n,), triangles (m, 3) of the new ones, and their unit normals (n, 3).

    Corners at one place are one smooth group where faces beside each other meet at less than ``smooth_below`` degrees. The
    normal of a group is the mean of its faces, weighed by area and by their angle there. Vertices are split where groups part.
    """
    faces, area = face_normals(positions, triangles)
    pairs, _ = around_edges(places_of(positions), triangles)
    first, second = pairs[:, 0] // 3, pairs[:, 1] // 3
    is_smooth = np.sum(faces[first] * faces[second], axis=1) > np.cos(np.radians(smooth_below))
    sides = pairs[is_smooth]
    # A side joins the corners at both its ends; the other one runs the other way.
    one, other = sides[:, 0], sides[:, 1]
    places = places_of(positions)[triangles].reshape(-1)
    following_one, following_other = _following(one), _following(other)
    is_against = places[one] == places[following_other]
    a = np.concatenate((one, following_one))
    b = np.concatenate((np.where(is_against, following_other, other), np.where(is_against, other, following_other)))
    count = triangles.size
    joined = coo_array((np.ones(len(a), dtype=np.int8), (a, b)), shape=(count, count))
    _, group = connected_components(joined, directed=False)
    weights = (corner_angles(positions, triangles) * area[:, None]).reshape(-1)
    sums = np.stack(
        [np.bincount(group, weights * np.repeat(faces[:, i], 3), minlength=group.max() + 1) for i in range(3)], axis=1
    )
    lengths = np.linalg.norm(sums, axis=1, keepdims=True)
    unit = np.where(lengths > 0, sums / np.maximum(lengths, 1e-300), (0.0, 1.0, 0.0)).astype(np.float32)
    corners = triangles.reshape(-1).astype(np.int64)
    at, vertex_of = numbered_pairs(corners, group.astype(np.int64))
    return corners[at], vertex_of.reshape(-1, 3).astype(np.uint32), unit[group[at]]


def _following(side: NDArray[np.int64]) -> NDArray[np.int64]:
    """The corner after that of each side, in its triangle."""
    return side // 3 * 3 + (side + 1) % 3
