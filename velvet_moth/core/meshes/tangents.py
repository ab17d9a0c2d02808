"""Tangents by the standard that textures are baked with: M. Mikkelsen, "Simulation of Wrinkled Surfaces Revisited", 2008."""

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from velvet_moth.core.meshes.rows import numbered, numbered_pairs
from velvet_moth.core.meshes.source import Floats, Indices

_LEAST = 1.1754944e-38


def with_tangents(
    positions: Floats, normals: Floats, uvs: Floats, triangles: Indices
) -> tuple[NDArray[np.int64], Indices, Floats]:
    """Which old vertex each new one is (n,), triangles (m, 3) of the new ones, and their tangents (n, 4).

    Corners with the same position, normal and UV form a group where their triangles meet at an edge and are turned the
    same way in the UVs. Its tangent is the mean of the triangles' directions of U, square to the normal and weighed by
    their angles there; w is -1 where the UVs are mirrored. Triangles without area, on the form or in the UVs, take what
    their neighbours have.
    """
    first, is_upright, is_degenerate = _directions(positions, uvs, triangles)
    welded = numbered(positions, normals, uvs)
    corners = welded[triangles]
    group = _groups(corners, np.where(is_degenerate, 2, is_upright), triangles.size)
    normal = normals[triangles].astype(np.float64).reshape(-1, 3)
    along = np.repeat(first, 3, axis=0)
    flat = along - normal * np.sum(along * normal, axis=1, keepdims=True)
    weights = np.where(np.repeat(is_degenerate, 3), 0.0, _angles_across(positions, triangles, normal))
    flat = _unit(flat) * weights[:, None]
    count = int(group.max()) + 1
    sums = _unit(np.stack([np.bincount(group, flat[:, i], minlength=count) for i in range(3)], axis=1))
    upright = np.bincount(group, np.repeat(is_upright & ~is_degenerate, 3), minlength=count) > 0
    made = np.concatenate((sums, np.where(upright, 1.0, -1.0)[:, None]), axis=1)
    lost = np.linalg.norm(sums, axis=1) == 0
    own = _borrowed(made, lost, group, welded[triangles].reshape(-1), normal)
    whole = triangles.reshape(-1).astype(np.int64)
    at, vertex_of = numbered_pairs(whole, group)
    return whole[at], vertex_of.reshape(-1, 3).astype(np.uint32), own[at].astype(np.float32)


def _unit(v: NDArray[np.float64]) -> NDArray[np.float64]:
    length = np.linalg.norm(v, axis=1, keepdims=True)
    return np.where(length > _LEAST, v / np.maximum(length, _LEAST), 0.0)


def _directions(
    positions: Floats, uvs: Floats, triangles: Indices
) -> tuple[NDArray[np.float64], NDArray[np.bool_], NDArray[np.bool_]]:
    """Of each triangle the direction of U, whether its UVs are not mirrored, and whether it tells no direction."""
    p, t = positions[triangles].astype(np.float64), uvs[triangles].astype(np.float64)
    d1, d2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    t1, t2 = t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
    area = t1[:, 0] * t2[:, 1] - t1[:, 1] * t2[:, 0]
    along = d1 * t2[:, 1:] - d2 * t1[:, 1:]
    is_upright = area > 0
    along = _unit(along) * np.where(is_upright, 1.0, -1.0)[:, None]
    same = [(p[:, i] == p[:, j]).all(axis=1) for i, j in ((0, 1), (1, 2), (2, 0))]
    is_degenerate = np.logical_or.reduce(same) | (np.abs(area) <= _LEAST) | ~np.any(along, axis=1)
    return along, is_upright, is_degenerate


def _angles_across(positions: Floats, triangles: Indices, normal: NDArray[np.float64]) -> NDArray[np.float64]:
    """The angle of each triangle at each corner, seen along the corner's normal, (3 m,) radians."""
    p = positions[triangles].astype(np.float64)
    sides = []
    for step in (1, 2):
        side = (np.roll(p, -step, axis=1) - p).reshape(-1, 3)
        sides.append(_unit(side - normal * np.sum(side * normal, axis=1, keepdims=True)))
    return np.asarray(np.arccos(np.clip(np.sum(sides[0] * sides[1], axis=1), -1, 1)))


def _groups(corners: NDArray[np.int64], way: NDArray[np.int64], count: int) -> NDArray[np.int64]:
    """The group of each corner: those at both ends of an edge that runs both ways are joined across it."""
    start, end = corners.reshape(-1), np.roll(corners, -1, axis=1).reshape(-1)
    side = np.arange(count)
    following = side // 3 * 3 + (side + 1) % 3
    base = int(corners.max()) + 1
    there, back = start * base + end, end * base + start
    order = np.argsort(there, kind="stable")
    at = np.searchsorted(there[order], back)
    met = np.where(at < count, order[np.minimum(at, count - 1)], -1)
    meets = (met >= 0) & (there[met] == back) & (way[side // 3] == way[met // 3])
    a, b = side[meets], met[meets]
    ones = np.ones(2 * len(a), dtype=np.int8)
    joined = coo_array((ones, (np.concatenate((a, following[a])), np.concatenate((following[b], b)))), (count, count))
    return np.asarray(connected_components(joined, directed=False)[1], dtype=np.int64)


def _borrowed(
    made: NDArray[np.float64],
    lost: NDArray[np.bool_],
    group: NDArray[np.int64],
    welded: NDArray[np.int64],
    normal: NDArray[np.float64],
) -> NDArray[np.float64]:
    """The tangent of each corner; one that has none takes that of another corner at its vertex, or any that is square."""
    own = made[group]
    is_lost = lost[group]
    if not is_lost.any():
        return own
    given = np.full(int(welded.max()) + 1, -1)
    given[welded[~is_lost]] = np.flatnonzero(~is_lost)
    source = given[welded]
    own[is_lost & (source >= 0)] = own[source[is_lost & (source >= 0)]]
    bare = is_lost & (source < 0)
    axis = np.where(np.abs(normal[:, :1]) < 0.9, (1.0, 0.0, 0.0), (0.0, 0.0, 1.0))
    square = _unit(axis - normal * np.sum(axis * normal, axis=1, keepdims=True))
    own[bare] = np.concatenate((square, np.ones((len(square), 1))), axis=1)[bare]
    return own
