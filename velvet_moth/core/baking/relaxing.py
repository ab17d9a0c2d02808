"""Directions between those that are given: as smooth as they can be, over the surface."""

import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array, csr_array
from scipy.sparse.linalg import splu

from velvet_moth.core.baking.directions import Vectors
from velvet_moth.core.baking.skin import Skin, frames
from velvet_moth.core.forms.mesh import unit_vectors

# A place that nothing holds, as on an island without anything given, stays still by so little of its own weight.
_STILL = 1e-9


def relaxed(skin: Skin, given: Vectors, known: NDArray[np.bool_], keeps_to_rim: bool) -> Vectors:
    """Vectors at the places, (p, 3), where only some are ``known`` (p,): those stay, the others are harmonic between them.

    What is least is the sum over all edges of how much the vectors at both ends differ, once one is carried along the surface
    to the other; on flat ground each of their numbers is a harmonic function by itself. Where it ``keeps_to_rim``, vectors
    at open edges run along them. Islands where nothing is known are still. Source: F. Knöppel et al., "Globally Optimal
    Direction Fields", 2013, without the part that spreads them where nothing is given.
    """
    if not known.any():
        return np.zeros_like(given)
    first, second = frames(skin.normals)
    is_rim = np.zeros(skin.count, dtype=bool)
    if keeps_to_rim:
        along = rim_directions(skin)
        is_rim[skin.rim] = (np.linalg.norm(along[skin.rim], axis=1) > 0) & ~known[skin.rim]
        first = np.where(is_rim[:, None], along, first)
        second = np.cross(skin.normals, first)
    axes = np.stack((first, second), axis=2)
    start = np.einsum("pij,pi->pj", axes, given)
    is_free = np.repeat(~known, 2)
    # Across a rim nothing flows.
    is_free[1::2] &= ~is_rim
    fixed = np.where(is_free, 0.0, start.reshape(-1))
    fixed[1::2][is_rim] = 0.0
    whole = _carried_laplacian(skin, axes)
    free = np.flatnonzero(is_free)
    found = fixed.copy()
    if len(free):
        inner = csr_array(whole[free][:, free])
        solver = splu(inner.tocsc(), permc_spec="MMD_AT_PLUS_A", diag_pivot_thresh=0.0, options={"SymmetricMode": True})
        found[free] = solver.solve(-(whole @ fixed)[free])
    return np.asarray(np.einsum("pij,pj->pi", axes, found.reshape(-1, 2)))


def _carried_laplacian(skin: Skin, axes: Vectors) -> csr_array:
    """Minus the Laplacian of vectors by their two numbers in the frames ``axes`` (p, 3, 2): (2p, 2p).

    A vector is carried from one place to another by the least turn that takes one normal to the other.
    """
    joined = coo_array(-skin.laplacian)
    off = (joined.row != joined.col) & (joined.data > 0)
    here, there, weight = joined.row[off], joined.col[off], joined.data[off]
    carried = _least_turn(skin.normals[there], skin.normals[here], axes[there])
    blocks = -weight[:, None, None] * np.einsum("eki,ekj->eij", axes[here], carried)
    row = np.repeat(2 * here[:, None, None] + np.arange(2)[None, :, None], 2, axis=2)
    column = np.repeat(2 * there[:, None, None] + np.arange(2)[None, None, :], 2, axis=1)
    sums = np.repeat(np.bincount(here, weight, skin.count), 2)
    diagonal = np.arange(2 * skin.count)
    made = coo_array(
        (
            np.concatenate((blocks.ravel(), sums + _STILL * max(float(sums.mean()), 1.0))),
            (np.concatenate((row.ravel(), diagonal)), np.concatenate((column.ravel(), diagonal))),
        ),
        (2 * skin.count,) * 2,
    )
    return csr_array(made)


def _least_turn(old: Vectors, new: Vectors, vectors: Vectors) -> Vectors:
    """Columns of vectors (e, 3, k) turned as little as takes the unit normals ``old`` (e, 3) to ``new``."""
    axis = np.cross(old, new)
    share = 1.0 / np.maximum(1.0 + np.sum(old * new, axis=1), 1e-9)
    once = np.cross(axis[:, :, None], vectors, axis=1)
    twice = np.cross(axis[:, :, None], once, axis=1)
    return np.asarray(vectors + once + twice * share[:, None, None])


def rim_directions(skin: Skin) -> Vectors:
    """Unit vectors along the open edges at the places of a rim, (p, 3), the surface to their left; 0 everywhere else."""
    start = skin.triangles.reshape(-1)
    end = np.roll(skin.triangles, -1, axis=1).reshape(-1)
    key, back = start * skin.count + end, end * skin.count + start
    is_open = ~np.isin(key, back)
    along = unit_vectors(skin.positions[end[is_open]] - skin.positions[start[is_open]])
    found = np.zeros_like(skin.positions)
    for ends in (start[is_open], end[is_open]):
        np.add.at(found, ends, along)
    found -= skin.normals * np.sum(found * skin.normals, axis=1, keepdims=True)
    length = np.linalg.norm(found, axis=1, keepdims=True)
    return np.where(length > 1e-6, found / np.maximum(length, 1e-6), 0.0)


def spread_to_places(skin: Skin, vectors: NDArray[np.float32]) -> Vectors:
    """Directions at the vertices, (n, 3), at the places, (p, 3)."""
    return np.stack([skin.at_places(vectors[:, i]) for i in range(3)], axis=1)
