"""How far places are from a surface, by the nearest place on it."""

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import cKDTree

from velvet_moth.core.forms.mesh import Floats

# Triangles that are looked at for each place: those whose samples are nearest.
_CANDIDATES = 12
# A triangle has at most so many samples along a side, so that a few huge ones do not cost too much.
_FINEST = 24
_AT_ONCE = 1 << 16


def distance_to(places: Floats, positions: Floats, triangles: NDArray[np.uint32]) -> Floats:
    """Metres from each place (n, 3) to the nearest of the triangles (k, 3), (n,).

    The triangles are sampled evenly; those of the nearest samples are measured exactly.
    """
    corners = positions[triangles].astype(np.float64)
    samples, owner = _samples(corners)
    tree = cKDTree(samples)
    found = np.empty(len(places), dtype=np.float32)
    for first in range(0, len(places), _AT_ONCE):
        part = places[first : first + _AT_ONCE].astype(np.float64)
        _, near = tree.query(part, k=min(_CANDIDATES, len(samples)))
        measured = _to_triangles(part[:, None], corners[owner[near.reshape(len(part), -1)]])
        found[first : first + _AT_ONCE] = measured.min(axis=1)
    return found


def _samples(corners: NDArray[np.float64]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Places on triangles, as near to each other as most sides are long; and the triangle of each."""
    longest = np.linalg.norm(corners - np.roll(corners, -1, axis=1), axis=2).max(axis=1)
    usual = max(float(np.median(longest)), 1e-9)
    parts = np.clip(np.ceil(longest / usual), 1, _FINEST).astype(int)
    samples, owner = [], []
    for count in np.unique(parts):
        which = np.flatnonzero(parts == count)
        a, b = np.meshgrid((np.arange(count) + 1 / 3) / count, (np.arange(count) + 1 / 3) / count)
        inside = a + b < 1
        weights = np.stack((1 - a[inside] - b[inside], a[inside], b[inside]), axis=1)
        samples.append(np.einsum("wk,tkx->twx", weights, corners[which]).reshape(-1, 3))
        owner.append(np.repeat(which, len(weights)))
    return np.concatenate(samples), np.concatenate(owner)


def _to_triangles(p: NDArray[np.float64], corners: NDArray[np.float64]) -> NDArray[np.float64]:
    """Distances from places (n, 1, 3) to triangles (n, k, 3, 3), (n, k).

    The least of the distances to the three sides, and to the plane where the place is above the triangle.
    """
    a, b, c = corners[..., 0, :], corners[..., 1, :], corners[..., 2, :]
    sides = [_to_side(p, start, end) for start, end in ((a, b), (b, c), (c, a))]
    across = np.cross(b - a, c - a)
    length = np.linalg.norm(across, axis=-1)
    unit = across / np.maximum(length, 1e-300)[..., None]
    inside = length > 0
    for start, end in ((a, b), (b, c), (c, a)):
        inside &= np.sum(np.cross(end - start, p - start) * unit, axis=-1) >= 0
    plane = np.where(inside, np.abs(np.sum((p - a) * unit, axis=-1)), np.inf)
    return np.asarray(np.minimum.reduce([*sides, plane]))


def _to_side(p: NDArray[np.float64], start: NDArray[np.float64], end: NDArray[np.float64]) -> NDArray[np.float64]:
    along = end - start
    share = np.sum((p - start) * along, axis=-1) / np.maximum(np.sum(along * along, axis=-1), 1e-300)
    return np.asarray(np.linalg.norm(p - start - np.clip(share, 0, 1)[..., None] * along, axis=-1))
