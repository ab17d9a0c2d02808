"""How a form is put on the stage: larger or smaller along its own axes, and turned about the vertical."""

import math
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.records import Number, Three
from velvet_moth.core.forms.mesh import Mesh, unit_vectors


@dataclass(frozen=True)
class Pose:
    """``size`` is a factor along each of the form's own axes (1 for the form as it is made), ``turn`` in degrees."""

    size: Three = (1.0, 1.0, 1.0)
    turn: Number = 0.0

    @property
    def largest(self) -> float:
        """The largest factor, and at least 1: so much farther away a form is seen whole."""
        return max(1.0, *self.size)

    @property
    def matrix(self) -> NDArray[np.float64]:
        """From the form to the world, (3, 3): first the size, then the turn."""
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        return np.array([[c, 0.0, s], [0.0, 1.0, 0.0], [-s, 0.0, c]]) @ np.diag(self.size)


AS_MADE = Pose()


def posed(mesh: Mesh, pose: Pose) -> Mesh:
    """The mesh in the world, which knows the form itself. Normals turn by the inverse transpose, so they stay square."""
    if pose == AS_MADE:
        return mesh
    matrix = pose.matrix
    tangents = np.concatenate((unit_vectors(mesh.tangents[:, :3] @ matrix.T), mesh.tangents[:, 3:]), axis=1)
    return replace(
        mesh,
        positions=(mesh.positions @ matrix.T).astype(np.float32),
        normals=unit_vectors(mesh.normals @ np.linalg.inv(matrix)).astype(np.float32),
        tangents=tangents.astype(np.float32),
        scale=pose.size,
        unposed=mesh,
    )
