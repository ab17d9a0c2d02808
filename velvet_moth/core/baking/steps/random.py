"""A random number for each part, island or face, and the middle of each face."""

from typing import Annotated as A

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.step import OnMesh, in_range, step
from velvet_moth.core.base.hashing import cell_randoms
from velvet_moth.core.catalogue.settings import choice, whole
from velvet_moth.core.forms.mesh import Floats

GROUP = "Random"


@step("Random", GROUP)
def random(
    on: OnMesh,
    each: A[str, choice("island", "part", "face", words="what has a number of its own")] = "island",
    seed: A[int, whole(0, 9999, "another number, other values")] = 1,
) -> Floats:
    """A number 0 to 1 for each island, part or face: planks of other tones, leaves that sway apart.

    For one value a face, split the faces first: where faces share a vertex it has their mean. In whatever order the vertices
    come, the values are the same.
    """
    if each == "face":
        return on.at_vertices(_drawn(_of_faces(on), seed)).astype(np.float32)
    if each == "part":
        part_of = on.mesh.part_of
        numbers = part_of if part_of is not None else np.zeros(len(on.mesh.triangles), dtype=np.int32)
        return on.at_vertices(_drawn(numbers.astype(np.int64), seed)).astype(np.float32)
    island = on.skin.island
    # An island is known by its first place in space, and not by when it comes.
    order = np.lexsort(on.skin.positions.T)
    _, first = np.unique(island[order], return_index=True)
    at = on.skin.positions[order[first]].astype(np.float32).view(np.int32).astype(np.int64)
    drawn = _drawn(at.T[0] * 31 + at.T[1] * 17 + at.T[2], seed)
    return np.asarray(drawn[island][on.skin.place_of])


def _of_faces(on: OnMesh) -> NDArray[np.int64]:
    """A whole number for each triangle that depends on its corners only, in whatever order they are."""
    bits = on.mesh.positions.view(np.int32).astype(np.int64)
    mixed = (cell_randoms(bits.T) * np.float32(1 << 24)).astype(np.int64)
    return np.asarray(mixed[0][on.mesh.triangles].sum(axis=1))


def _drawn(numbers: NDArray[np.int64], seed: int) -> Floats:
    return np.asarray(cell_randoms(np.stack(np.broadcast_arrays(numbers, numbers >> 16, seed)))[0])


@step("Middle of each face", GROUP, layers=("x", "y", "z"))
def face_middle(on: OnMesh) -> tuple[Floats, ...]:
    """Where the middle of each face is in the bounds, 0 to 1 along each axis. Split the faces first."""
    middle = on.mesh.positions[on.mesh.triangles].mean(axis=1)
    low, high = on.mesh.box
    return tuple(in_range(on.at_vertices(middle[:, axis]), low[axis], high[axis]) for axis in range(3))
