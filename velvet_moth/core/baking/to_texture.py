"""Channels of a mesh as a texture over its UVs."""

from collections.abc import Callable

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray
from scipy.ndimage import distance_transform_edt

from velvet_moth.core.baking.nearest import Nearest
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS, Floats, Mesh
from velvet_moth.core.making.layer import Layer

MOST_PADDING = 64
# UVs may be beyond the square by a rounding.
_BEYOND = 1e-4


# What a channel has at places on the mesh, (k,), where that is known better than at the vertices; None where it is not.
Finer = Callable[[str, Nearest], Floats | None]


def _as_vertices(channel: str, spots: Nearest) -> None:
    return None


def channels_over_uvs(
    mesh: Mesh, channels: tuple[str, ...], size: int, padding: int, finer: Finer = _as_vertices
) -> Layer:
    """Up to four channels, by name, as a picture of ``size`` pixels a side; around islands the nearest values go on for ``padding`` pixels.

    Each pixel has what the surface has at its centre: what ``finer`` gives there, or else mixed as between the corners of a
    triangle; beyond the padding it is 0.
    Raises OperationRefused where a channel is not carried, or UVs are lacking or outside 0..1.
    """
    unknown = [channel for channel in channels if channel not in VERTEX_CHANNELS]
    if unknown or not 1 <= len(channels) <= 4:
        known = ", ".join(VERTEX_CHANNELS)
        raise OperationRefused("A texture holds one to four channels of the mesh.", "channels", f"Choose of {known}.")

    def read(spots: Nearest) -> Floats:
        fine = [finer(channel, spots) for channel in channels]
        own = (spots.mixed(mesh.triangles, mesh.data[:, VERTEX_CHANNELS.index(channel)]) for channel in channels)
        return np.stack([o if f is None else f for f, o in zip(fine, own, strict=True)]).astype(np.float32)

    return Layer(over_uvs(mesh, size, padding, len(channels), read), "data")


def over_uvs(mesh: Mesh, size: int, padding: int, count: int, read: Callable[[Nearest], Floats]) -> Floats:
    """What is ``read`` at places on the mesh, (count, k), at the centre of each pixel of a texture: (count, size, size).

    Around islands the nearest values go on for ``padding`` pixels; beyond that it is 0. OperationRefused where UVs are lacking
    or outside 0..1.
    """
    if not mesh.uvs.any():
        raise OperationRefused("The mesh has no UVs to bake over.", "UVs", "Add a step that unwraps it, and bake it.")
    if mesh.uvs.min() < -_BEYOND or mesh.uvs.max() > 1 + _BEYOND:
        what = "Its UVs reach beyond 0 to 1, where a texture repeats."
        raise OperationRefused(what, "UVs", "Add the step Fit UVs or Unwrap, and bake it.")
    faces, weights = faces_at_pixels(mesh.uvs, mesh, size)
    covered = faces >= 0
    values = np.zeros((count, size, size), dtype=np.float32)
    spots = Nearest(faces[covered].astype(np.int64), weights[covered].astype(np.float64), np.zeros(int(covered.sum())))
    if covered.any():
        values[:, covered] = read(spots)
    if padding and covered.any():
        away, (row, column) = distance_transform_edt(~covered, return_indices=True)
        near = (away > 0) & (away <= padding)
        values[:, near] = values[:, row[near], column[near]]
    return values


def faces_at_pixels(uvs: Floats, mesh: Mesh, size: int) -> tuple[NDArray[np.int64], NDArray[np.float64]]:
    """The triangle at the centre of each pixel, (size, size), or -1 for none; and the weights of its corners there.

    Rays straight down onto the triangles as they lie in the UVs find them; where several lie, the one that comes first.
    """
    flat = np.concatenate((uvs, np.zeros((len(uvs), 1), dtype=np.float32)), axis=1).astype(np.float32)
    scene = EmbreeScene()
    TriangleMesh(scene, flat[mesh.triangles])
    u, v = np.meshgrid((np.arange(size) + 0.5) / size, (np.arange(size) + 0.5) / size)
    start = np.stack((u.ravel(), v.ravel(), np.ones(size * size)), axis=1).astype(np.float32)
    down = np.broadcast_to(np.array((0, 0, -1), dtype=np.float32), start.shape)
    met = scene.run(start, np.ascontiguousarray(down), output=1)
    weights = np.stack((1 - met["u"] - met["v"], met["u"], met["v"]), axis=1)
    return met["primID"].reshape(size, size), weights.reshape(size, size, 3)
