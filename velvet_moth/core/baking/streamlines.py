"""Lines that directions run along over a surface, to be looked at."""

import igl
import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.directions import Vectors
from velvet_moth.core.baking.nearest import spread_over, weights_on
from velvet_moth.core.forms.mesh import Floats, Mesh

# Of the length of a step: what moves less stands still.
_STILL = 0.02


class _Held:
    """Places brought back to a surface, many times."""

    def __init__(self, mesh: Mesh, directions: Floats) -> None:
        self.mesh, self.directions = mesh, directions
        self.positions = mesh.positions.astype(np.float64)
        self.triangles = mesh.triangles.astype(np.int64)
        self.tree = igl.AABB()
        self.tree.init(self.positions, self.triangles)

    def at(self, places: Vectors) -> tuple[Vectors, Vectors]:
        """The nearest places on the surface and the directions there, (n, 3) both."""
        _, faces, found = self.tree.squared_distance(self.positions, self.triangles, places)
        weights = weights_on(found, self.positions[self.triangles[faces]])
        corners = self.directions[self.mesh.triangles[faces]].astype(np.float64)
        return found, np.einsum("pk,pkc->pc", weights, corners)


def streamlines(mesh: Mesh, directions: Floats, count: int, length: float, steps: int) -> NDArray[np.float32]:
    """Lines from ``count`` places spread evenly over the mesh, (count, steps + 1, 3) metres.

    Each is as long as ``length`` metres times the speed along it, and half of it lies before its place. It is traced in steps
    by the midpoint rule, each brought back to the surface; a line that comes to a still place stays there.
    """
    held = _Held(mesh, directions)
    seeds = spread_over(mesh, count)
    starts = seeds.mixed(mesh.triangles, mesh.positions)
    halves = []
    for way, times in ((-1.0, steps // 2), (1.0, steps - steps // 2)):
        place, heading = held.at(starts)
        line = [place]
        for _ in range(times):
            _, between = held.at(place + heading * (way * length / steps / 2))
            moves = np.linalg.norm(between, axis=1, keepdims=True) > _STILL
            place, heading = held.at(place + np.where(moves, between, 0.0) * (way * length / steps))
            line.append(place)
        halves.append(line)
    back, forth = halves
    return np.stack([*back[:0:-1], *forth], axis=1).astype(np.float32)
