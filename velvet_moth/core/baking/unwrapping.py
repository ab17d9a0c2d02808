"""A surface cut into islands that lie flat beside each other: a place of its own in a texture for every face."""

from dataclasses import dataclass

import numpy as np
import xatlas
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Floats, Mesh


@dataclass(frozen=True, eq=False)
class Unwrapped:
    """Which vertex of the mesh each new one is (n,), the triangles in their order (m, 3), and where they lie, 0..1 (n, 2)."""

    source: NDArray[np.int64]
    triangles: NDArray[np.uint32]
    uvs: Floats


def unwrapped(mesh: Mesh, padding: int, resolution: int = 1024) -> Unwrapped:
    """Islands with ``padding`` pixels between them in a texture of ``resolution`` pixels a side."""
    atlas = xatlas.Atlas()
    atlas.add_mesh(mesh.positions, mesh.triangles, mesh.normals)
    packing = xatlas.PackOptions()
    packing.padding, packing.resolution = padding, resolution
    atlas.generate(pack_options=packing)
    source, triangles, uvs = atlas[0]
    return Unwrapped(source.astype(np.int64), triangles.astype(np.uint32), uvs.astype(np.float32))
