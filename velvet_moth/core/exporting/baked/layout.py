"""Where the points of a form lie in its baked textures: at its own UVs, or unwrapped where those cannot hold them."""

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt

from velvet_moth.core.baking.to_texture import faces_at_pixels
from velvet_moth.core.baking.unwrapping import unwrapped
from velvet_moth.core.forms.mesh import Floats, Mesh

_BEYOND = 1e-4
# So many pixels a side are looked at to find faces that lie over each other, and such a share of the square may do so.
_LOOKED, _OVER = 512, 0.03
# A square with less of it covered holds no picture.
_LEAST = 1e-3
# Beyond an island its values go on as on its plane for so many pixels, and then as they are at its rim.
_RIM = 1.5


@dataclass(frozen=True, eq=False)
class Layout:
    """A form with a vertex for each place in a texture, those places, 0..1 (n, 2); ``is_own``: they are its own UVs."""

    mesh: Mesh
    uvs: Floats
    is_own: bool


def layout_of(mesh: Mesh, padding: int, size: int, may_overlap: bool) -> Layout:
    """Where the faces of a form lie in a texture of ``size`` pixels a side; ``padding`` pixels between islands.

    Each has a place of its own, unless they ``may_overlap``: then what they show goes by the UVs alone.
    """
    if _holds_all(mesh, may_overlap):
        return Layout(mesh, mesh.uvs, True)
    found = unwrapped(mesh, padding, size)
    own = None if mesh.unposed is None else mesh.unposed.taken(found.source)
    return Layout(replace(mesh.taken(found.source), triangles=found.triangles, unposed=own), found.uvs, False)


def _holds_all(mesh: Mesh, may_overlap: bool) -> bool:
    if mesh.uvs.min() < -_BEYOND or mesh.uvs.max() > 1 + _BEYOND:
        return False
    corners = mesh.uvs[mesh.triangles].astype(np.float64)
    (ax, ay), (bx, by) = (corners[:, 1] - corners[:, 0]).T, (corners[:, 2] - corners[:, 0]).T
    area = float(np.abs(ax * by - ay * bx).sum() / 2)
    covered = float((faces_at_pixels(mesh.uvs, mesh, _LOOKED)[0] >= 0).mean())
    return area > _LEAST and (may_overlap or area < covered + _OVER)


@dataclass(frozen=True, eq=False)
class Spots:
    """The face at each pixel, (size, size), and the weights of its corners, (size, size, 3); row 0 at the bottom.

    Pixels beside an island have those of its plane, so that differences between neighbours are right there. ``source`` is for
    each pixel the flat number of the one whose values it has in the end.
    """

    faces: NDArray[np.int64]
    weights: NDArray[np.float64]
    source: NDArray[np.int64]


def spots_of(layout: Layout, size: int) -> Spots:
    """What a texture of ``size`` pixels a side shows."""
    flat = replace(layout.mesh, uvs=layout.uvs)
    faces, _ = faces_at_pixels(layout.uvs, flat, size)
    away, (row, column) = distance_transform_edt(faces < 0, return_indices=True)
    faces = faces[row, column]
    places = (np.stack(np.meshgrid(np.arange(size), np.arange(size)), axis=-1) + 0.5) / size
    corners = layout.uvs[flat.triangles[faces]].astype(np.float64)
    first, second, to = (at - corners[..., 0, :] for at in (corners[..., 1, :], corners[..., 2, :], places))
    whole = first[..., 0] * second[..., 1] - first[..., 1] * second[..., 0]
    whole = np.where(np.abs(whole) < 1e-14, 1e-14, whole)
    u = (to[..., 0] * second[..., 1] - to[..., 1] * second[..., 0]) / whole
    v = (first[..., 0] * to[..., 1] - first[..., 1] * to[..., 0]) / whole
    weights = np.clip(np.stack((1 - u - v, u, v), axis=-1), -50, 50)
    number = np.arange(size * size).reshape(size, size)
    return Spots(faces, weights, np.where(away > _RIM, number[row, column], number))
