"""Steps that give a mesh UVs: projected, unwrapped, or the ones it has made to fit."""

from dataclasses import replace
from typing import Annotated as A
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.step import OnMesh, step
from velvet_moth.core.baking.steps.form import retangented
from velvet_moth.core.baking.steps.shape import AXES
from velvet_moth.core.baking.unwrapping import unwrapped
from velvet_moth.core.catalogue.settings import choice, number, whole
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.meshes.normals import face_normals
from velvet_moth.core.meshes.rows import numbered_pairs

GROUP = "UVs"
Metres = A[float, number(0.01, 100, "so many metres are one unit of the UVs", "m")]
Axis = A[str, choice(*AXES)]


def _with_uvs(mesh: Mesh, uvs: NDArray[Any]) -> Mesh:
    return retangented(replace(mesh, uvs=uvs.astype(np.float32)))


@step("Box UVs", GROUP, ("mesh",), reshapes=True)
def box_uvs(on: OnMesh, metres: Metres = 1.0) -> Mesh:
    """Each face gets the UVs of the side of a box that it looks towards. Textures lie at true size, with seams between sides."""
    mesh = on.mesh
    faces, _ = face_normals(mesh.positions, mesh.triangles)
    axis = np.abs(faces).argmax(axis=1)
    is_far = np.take_along_axis(faces, axis[:, None], axis=1)[:, 0] < 0
    side = (axis * 2 + is_far).astype(np.int64)
    # Faces that look to other sides have vertices of their own.
    first, vertex = numbered_pairs(mesh.triangles.reshape(-1).astype(np.int64), np.repeat(side, 3))
    at = mesh.triangles.reshape(-1)[first].astype(np.int64)
    split = replace(mesh.taken(at), triangles=vertex.reshape(-1, 3).astype(np.uint32))
    of_side = np.repeat(side, 3)[first]
    x, y, z = split.positions.T
    sign = np.where(of_side % 2, -1, 1)
    # Seen from outside u runs to the right and v up; from above and below, v runs away from the eye.
    u = np.choose(of_side // 2, (-z * sign, x, x * sign))
    v = np.choose(of_side // 2, (y, -z * sign, y))
    return _with_uvs(split, np.stack((u, v), axis=1) / np.float32(metres))


@step("Plane UVs", GROUP, ("mesh",), reshapes=True)
def plane_uvs(on: OnMesh, along: Axis = "y", metres: Metres = 1.0) -> Mesh:
    """UVs as seen along one axis: for sheets, ground and cards."""
    x, y, z = on.mesh.positions.T
    u, v = {"x": (-z, y), "y": (x, -z), "z": (x, y)}[along]
    return _with_uvs(on.mesh, np.stack((u, v), axis=1) / np.float32(metres))


@step("Cylinder UVs", GROUP, ("mesh",), reshapes=True)
def cylinder_uvs(
    on: OnMesh, axis: Axis = "y", repeats: A[int, whole(1, 32, "times around")] = 1, metres: Metres = 1.0
) -> Mesh:
    """UVs around an axis through the middle: u once around or more often, v along it. For posts, trunks, ropes."""
    mesh = on.mesh
    low, high = mesh.box
    at = mesh.positions - (low + high) / 2
    a, b, along = {"x": (1, 2, 0), "y": (2, 0, 1), "z": (0, 1, 2)}[axis]
    turn = (np.arctan2(at[:, b], at[:, a]) / (2 * np.pi) + 0.5).astype(np.float32)
    # Where a triangle runs over the seam, its corners past it are taken a turn further, as vertices of their own.
    corners = turn[mesh.triangles]
    over = (np.ptp(corners, axis=1) > 0.5)[:, None] & (corners < 0.5)
    first, vertex = numbered_pairs(mesh.triangles.reshape(-1).astype(np.int64), over.reshape(-1).astype(np.int64))
    source = mesh.triangles.reshape(-1)[first].astype(np.int64)
    u = turn[source] + over.reshape(-1)[first]
    v = mesh.positions[source][:, along] / np.float32(metres)
    split = replace(mesh.taken(source), triangles=vertex.reshape(-1, 3).astype(np.uint32))
    return _with_uvs(split, np.stack((u * np.float32(repeats), v), axis=1))


@step("Unwrap", GROUP, ("mesh",), reshapes=True)
def unwrap(on: OnMesh, padding: A[int, whole(0, 32, "pixels between islands, of a texture of 1024")] = 4) -> Mesh:
    """Cuts the surface into islands that lie flat beside each other in 0..1: a place of its own in a texture for every face."""
    mesh = on.mesh
    found = unwrapped(mesh, padding)
    # The triangles keep their order, so parts stay with them.
    return _with_uvs(replace(mesh.taken(found.source), triangles=found.triangles), found.uvs)


@step("Fit UVs", GROUP, ("mesh",), reshapes=True)
def fit_uvs(on: OnMesh) -> Mesh:
    """Moves and scales all UVs together so that they just fill 0..1. Their shapes stay."""
    uvs = on.mesh.uvs
    low, high = uvs.min(axis=0), uvs.max(axis=0)
    return _with_uvs(on.mesh, (uvs - low) / max(float((high - low).max()), 1e-9))
