"""Faces of any number of corners as triangles."""

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.meshes.source import Floats


def triangulated(
    corners: NDArray[np.int64], sizes: NDArray[np.int64], positions: Floats, place_of: NDArray[np.int64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """Triangles (m, 3) as places in ``corners``, and for each the face it is of.

    ``corners`` are all corners of all faces one after the other, ``sizes`` how many each face has, ``place_of`` the position
    of each corner. A face of four is cut along the diagonal that lies inside it, a larger one ear by ear.
    """
    starts = np.concatenate(([0], np.cumsum(sizes)[:-1]))
    made: list[NDArray[np.int64]] = []
    owners: list[NDArray[np.int64]] = []
    for size in (3, 4):
        (faces,) = np.nonzero(sizes == size)
        at = starts[faces, None] + np.arange(size)
        if size == 4:
            turned = _first_diagonal_is_outside(positions[place_of[at]])
            at = np.where(turned[:, None], np.roll(at, -1, axis=1), at)
            made.append(at[:, (0, 1, 2, 0, 2, 3)].reshape(-1, 3))
            owners.append(np.repeat(faces, 2))
        else:
            made.append(at)
            owners.append(faces)
    for face in np.flatnonzero(sizes > 4):
        at = starts[face] + np.arange(sizes[face])
        ears = _ears(positions[place_of[at]].astype(np.float64))
        made.append(at[ears])
        owners.append(np.full(len(ears), face))
    triangles, owner = np.concatenate(made), np.concatenate(owners)
    order = np.argsort(owner, kind="stable")
    return triangles[order], owner[order]


def _first_diagonal_is_outside(quads: Floats) -> NDArray[np.bool_]:
    """Of faces of four, (n, 4, 3): whether the two triangles beside the diagonal from the first corner face apart."""
    a, b, c, d = (quads[:, i] for i in range(4))
    first, second = np.cross(b - a, c - a), np.cross(c - a, d - a)
    return np.asarray(np.sum(first * second, axis=1) < 0)


def _ears(face: NDArray[np.float64]) -> NDArray[np.int64]:
    """A face (n, 3) without crossings cut into n - 2 triangles.

    Source: G. Meisters, "Polygons Have Ears", 1975.
    """
    # Newell's normal; seen along it the face lies in a plane.
    following = np.roll(face, -1, axis=0)
    normal = np.cross(face, following).sum(axis=0)
    axis = int(np.argmax(np.abs(normal)))
    flat = np.delete(face, axis, axis=1)
    if (normal[axis] < 0) != (axis == 1):
        flat = flat[:, ::-1]
    left = list(range(len(face)))
    made: list[tuple[int, ...]] = []
    while len(left) > 3:
        made.append(_ear(flat, left))
    made.append(tuple(left))
    return np.array(made, dtype=np.int64)


def _ear(flat: NDArray[np.float64], left: list[int]) -> tuple[int, int, int]:
    """Cuts off a corner whose triangle turns left and holds no other corner; any corner of a face that has none."""

    def turn(a: int, b: int, c: int) -> float:
        (ax, ay), (bx, by), (cx, cy) = flat[a], flat[b], flat[c]
        return float((bx - ax) * (cy - ay) - (by - ay) * (cx - ax))

    for at in range(len(left)):
        before, here, after = left[at - 1], left[at], left[(at + 1) % len(left)]
        if turn(before, here, after) <= 0:
            continue
        corners = (before, here, after)
        others = (other for other in left if other not in corners)
        if any(
            turn(before, here, o) >= 0 and turn(here, after, o) >= 0 and turn(after, before, o) >= 0 for o in others
        ):
            continue
        del left[at]
        return corners
    corners = (left[-1], left[0], left[1])
    del left[0]
    return corners
