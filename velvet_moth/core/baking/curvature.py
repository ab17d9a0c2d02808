"""How a surface bends: positive on ridges, negative in hollows."""

import numpy as np

from velvet_moth.core.baking.skin import Skin, Values, frames

# Keeps the fit of a place with too few edges from having no answer.
_LEAST = 1e-9


def curvature(skin: Skin, radius: float = 0.0) -> Values:
    """The mean curvature at each place, (p,) in 1/metres, as seen over a ``radius`` (metres; 0 for the place itself).

    Along each edge the normal turns by so much a metre: that is the curvature in its direction (H. Moreton, C. Séquin,
    "Functional Optimization for Fair Surface Design", 1992). By Euler's theorem it is a quadratic form of the direction,
    which is fitted to all edges of a place by least squares; the mean curvature is half its trace.
    """
    at, normals = skin.positions, skin.normals
    here, there = skin.edges.T
    here, there = np.concatenate((here, there)), np.concatenate((there, here))
    along = at[there] - at[here]
    squared = np.maximum(np.sum(along * along, axis=1), 1e-30)
    turning = np.sum((normals[there] - normals[here]) * along, axis=1) / squared
    first, second = frames(normals)
    x, y = np.sum(along * first[here], axis=1), np.sum(along * second[here], axis=1)
    length = np.maximum(np.hypot(x, y), 1e-30)
    x, y = x / length, y / length
    terms = np.stack((x * x, 2 * x * y, y * y))
    sums = np.empty((skin.count, 3, 3))
    for i in range(3):
        for j in range(3):
            sums[:, i, j] = np.bincount(here, terms[i] * terms[j], skin.count)
    given = np.stack([np.bincount(here, term * turning, skin.count) for term in terms], axis=1)
    form = np.linalg.solve(sums + _LEAST * np.eye(3), given[..., None])[..., 0]
    return skin.blurred((form[:, 0] + form[:, 2]) / 2, radius)
