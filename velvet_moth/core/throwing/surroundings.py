"""What throws meet: the triangles of a scene for rays."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.scenery.backdrops import backdrop

Vectors = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Met:
    """What some rays meet, a row each: whether anything, how far away (m), the place, and the normal towards the ray's beginning."""

    hit: NDArray[np.bool_]
    reach: Vectors
    places: Vectors
    normals: Vectors


class Surroundings:
    """The surfaces of a scene, all as one."""

    def __init__(self, mesh: Mesh) -> None:
        corners = mesh.positions[mesh.triangles]
        self._scene = EmbreeScene()
        TriangleMesh(self._scene, np.ascontiguousarray(corners))
        a, b, c = (corners[:, i].astype(np.float64) for i in range(3))
        normals = np.cross(b - a, c - a)
        self._normals = normals / np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-20)
        self.box = mesh.box
        # The first ray makes the scene ready, which threads must not do together.
        self.meet(np.zeros((1, 3)), np.ones((1, 3)))

    def meet(self, origins: Vectors, ways: Vectors, farthest: float = 1e4) -> Met:
        """What rays of unit ``ways`` meet within so many metres."""
        result = self._scene.run(origins.astype(np.float32), ways.astype(np.float32), output=1)
        hit = (result["primID"] >= 0) & (result["tfar"] <= farthest)
        reach = np.where(hit, result["tfar"], farthest).astype(np.float64)
        normals = self._normals[np.where(hit, result["primID"], 0)]
        facing = np.sum(normals * ways, axis=1, keepdims=True) > 0
        return Met(hit, reach, origins + ways * reach[:, None], np.where(facing, -normals, normals))

    def sees(self, start: Vectors, ends: Vectors) -> NDArray[np.bool_]:
        """Whether nothing is between a place, (3,), and each of some ends, (n, 3)."""
        ways = ends - start
        far = np.linalg.norm(ways, axis=1)
        met = self.meet(np.broadcast_to(start, ends.shape), ways / np.maximum(far, 1e-9)[:, None])
        return np.asarray(~met.hit | (met.reach >= far * (1.0 - 1e-4)))


@lru_cache(maxsize=8)
def surroundings_of(key: str, form: Mesh | None = None) -> Surroundings | None:
    """The surfaces of a backdrop, which may be the ``form`` itself; None where there is nothing ("")."""
    if not key:
        return None
    kept = backdrop(key)
    if not kept.is_own:
        return Surroundings(kept.mesh())
    return None if form is None else Surroundings(form)
