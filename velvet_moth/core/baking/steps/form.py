"""Steps that change the form itself: its triangles, its normals, its size."""

from dataclasses import replace
from typing import Annotated as A

import igl
import numpy as np
from numpy.typing import NDArray
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from velvet_moth.core.baking.simplifying import simplified
from velvet_moth.core.baking.step import OnMesh, step
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.catalogue.settings import choice, number, whole
from velvet_moth.core.forms.mesh import Mesh, unit_vectors
from velvet_moth.core.meshes.intake import MeshReading, as_source, taken_in
from velvet_moth.core.meshes.normals import SMOOTH_BELOW, face_normals
from velvet_moth.core.meshes.rows import numbered, numbered_pairs
from velvet_moth.core.meshes.source import MOST_TRIANGLES

GROUP = "Form"
Smooth = A[float, number(0, 180, "where faces meet at less than this they are one smooth surface", "°")]
Degrees = A[float, number(-180, 180, unit="°")]


def shaded(mesh: Mesh, smooth_below: float) -> Mesh:
    """The mesh with normals and tangents made for it."""
    source = replace(as_source(mesh), normals=None, tangents=None)
    return replace(taken_in(source, MeshReading(smooth_below=smooth_below)).mesh, carried=mesh.carried)


def retangented(mesh: Mesh) -> Mesh:
    """The mesh with tangents made for its normals and UVs."""
    made = taken_in(replace(as_source(mesh), tangents=None), MeshReading()).mesh
    return replace(made, carried=mesh.carried)


@step("Subdivide", GROUP, ("mesh",), reshapes=True)
def subdivide(on: OnMesh, times: A[int, whole(1, 4, "each time every triangle becomes four")] = 1) -> Mesh:
    """More vertices at the same form: every edge gets one in its middle. For data that is finer than the mesh."""
    mesh = on.mesh
    if len(mesh.triangles) * 4**times > MOST_TRIANGLES:
        what = f"{len(mesh.triangles):,} triangles would become {len(mesh.triangles) * 4**times:,}."
        raise OperationRefused(what, "Subdivide", f"At most {MOST_TRIANGLES:,} are kept: subdivide fewer times.")
    for _ in range(times):
        mesh = _halved(mesh)
    return mesh


def _halved(mesh: Mesh) -> Mesh:
    tri = mesh.triangles.astype(np.int64)
    start, end = tri.reshape(-1), np.roll(tri, -1, axis=1).reshape(-1)
    first, edge = numbered_pairs(np.minimum(start, end), np.maximum(start, end))
    a, b = np.minimum(start, end)[first], np.maximum(start, end)[first]
    middle = (edge + len(mesh.positions)).reshape(-1, 3)
    (i, j, k), (ij, jk, ki) = tri.T, middle.T
    parts = [(i, ij, ki), (ij, j, jk), (ki, jk, k), (ij, jk, ki)]
    triangles = np.stack([np.stack(part, axis=1) for part in parts], axis=1).reshape(-1, 3).astype(np.uint32)

    def between(values: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.concatenate((values, (values[a] + values[b]) / 2)).astype(np.float32)

    tangents = between(mesh.tangents)
    tangents[:, :3] = unit_vectors(tangents[:, :3].astype(np.float64))
    tangents[:, 3] = np.where(tangents[:, 3] < 0, -1.0, 1.0)
    return replace(
        mesh,
        positions=between(mesh.positions),
        normals=unit_vectors(between(mesh.normals).astype(np.float64)).astype(np.float32),
        tangents=tangents,
        uvs=between(mesh.uvs),
        colours=between(mesh.colours),
        second=None if mesh.second is None else between(mesh.second),
        triangles=triangles,
        part_of=None if mesh.part_of is None else np.repeat(mesh.part_of, 4),
    )


@step("Split faces", GROUP, ("mesh",), reshapes=True)
def split_faces(on: OnMesh) -> Mesh:
    """Each triangle gets vertices of its own and is shaded flat: cut stone, folded paper, one value a face."""
    mesh = on.mesh.taken(on.mesh.triangles.reshape(-1).astype(np.int64))
    triangles = np.arange(len(mesh.positions), dtype=np.uint32).reshape(-1, 3)
    flat = np.repeat(face_normals(mesh.positions, triangles)[0], 3, axis=0).astype(np.float32)
    is_flat = np.linalg.norm(flat, axis=1) > 0
    normals = np.where(is_flat[:, None], flat, mesh.normals)
    return retangented(replace(mesh, triangles=triangles, normals=normals))


@step("Weld", GROUP, ("mesh",), reshapes=True)
def weld(
    on: OnMesh,
    within: A[float, number(0, 0.1, "vertices that are no farther apart become one", "m")] = 1e-4,
    smooth_below: Smooth = SMOOTH_BELOW,
) -> Mesh:
    """Closes cracks: vertices that nearly touch become one place, and normals run smoothly over it again."""
    mesh = on.mesh
    near = cKDTree(mesh.positions).query_pairs(within, output_type="ndarray")
    count = len(mesh.positions)
    joined = coo_array((np.ones(len(near), dtype=np.int8), (near[:, 0], near[:, 1])), (count, count))
    group = connected_components(joined, directed=False)[1]
    sizes = np.bincount(group)
    middle = np.stack([np.bincount(group, mesh.positions[:, i]) / sizes for i in range(3)], axis=1)
    moved = replace(mesh, positions=middle[group].astype(np.float32))
    columns = [moved.positions, moved.uvs, moved.colours, *([] if moved.second is None else [moved.second])]
    same = numbered(*columns)
    _, first = np.unique(same, return_index=True)
    one = replace(moved.taken(first), triangles=same[moved.triangles].astype(np.uint32))
    return shaded(_without_thin(one), smooth_below)


@step("Clean", GROUP, ("mesh",), reshapes=True)
def clean(on: OnMesh) -> Mesh:
    """Takes triangles without area away, and those that are there twice, with the vertices that nothing uses then."""
    mesh = _without_thin(on.mesh)
    corners = np.sort(numbered(mesh.positions)[mesh.triangles], axis=1)
    _, first = np.unique(corners, axis=0, return_index=True)
    return _of_triangles(mesh, np.isin(np.arange(len(corners)), first))


def _without_thin(mesh: Mesh) -> Mesh:
    _, area = face_normals(mesh.positions, mesh.triangles)
    low, high = mesh.box
    return _of_triangles(mesh, area > float(np.sum((high - low) ** 2)) * 1e-14)


def _of_triangles(mesh: Mesh, kept: NDArray[np.bool_]) -> Mesh:
    if not kept.any():
        raise OperationRefused("No triangle would be left.", "mesh", "Remove this step.")
    part_of = None if mesh.part_of is None else mesh.part_of[kept]
    fewer = replace(mesh, triangles=mesh.triangles[kept], part_of=part_of)
    used = np.zeros(len(mesh.positions), dtype=bool)
    used[fewer.triangles] = True
    return fewer.only(used)


def _all_faces(on: OnMesh) -> NDArray[np.bool_]:
    return np.ones(len(on.mesh.triangles), dtype=bool)


def _inward(on: OnMesh) -> NDArray[np.bool_]:
    """The triangles of islands that hold less than no volume, (m,)."""
    corners = on.mesh.positions[on.mesh.triangles].astype(np.float64)
    island = on.skin.island[on.skin.place_of[on.mesh.triangles[:, 0]]]
    sums = np.stack([np.bincount(island, corners[:, 0, i]) for i in range(3)], axis=1)
    middle = sums / np.bincount(island)[:, None]
    a, b, c = (corners[:, i] - middle[island] for i in range(3))
    return np.asarray((np.bincount(island, np.sum(a * np.cross(b, c), axis=1)) < 0)[island])


def _against_neighbours(on: OnMesh) -> NDArray[np.bool_]:
    """The triangles that look to another side than most of those they are joined to, (m,)."""
    places = on.skin.triangles
    oriented, patch = igl.bfs_orient(places)
    # A turned triangle has two corners exchanged; one that is only rolled looks to the same side.
    turned = ~np.any([np.all(np.roll(oriented, i, axis=1) == places, axis=1) for i in range(3)], axis=0)
    is_most = np.bincount(patch, turned) > np.bincount(patch) / 2
    return np.asarray(turned ^ is_most[patch])


_INSIDE_OUT = {
    "islands inside out": _inward,
    "faces against their neighbours": _against_neighbours,
    "everything": _all_faces,
}


@step("Turn inside out", GROUP, ("mesh",), reshapes=True)
def turn_inside_out(
    on: OnMesh,
    what: A[
        str,
        choice(
            *_INSIDE_OUT,
            words="closed islands whose fronts look inward, faces that look to another side than most beside them, or all",
        ),
    ] = "islands inside out",
) -> Mesh:
    """Turns fronts to backs: the order of corners, and the normals with them. Mends a mesh that is lit from within."""
    mesh = on.mesh
    turned = _INSIDE_OUT[what](on)
    at = mesh.triangles[turned]
    is_turned = np.zeros(len(mesh.positions), dtype=bool)
    is_turned[at] = True
    triangles = mesh.triangles.copy()
    triangles[turned] = at[:, ::-1]
    normals = np.where(is_turned[:, None], -mesh.normals, mesh.normals)
    return retangented(replace(mesh, triangles=triangles, normals=normals))


@step("Normals", GROUP, ("mesh",), reshapes=True)
def normals(on: OnMesh, smooth_below: Smooth = SMOOTH_BELOW) -> Mesh:
    """Makes the normals again: smooth where faces meet at a small angle, sharp elsewhere."""
    return shaded(on.mesh, smooth_below)


@step("Scale and turn", GROUP, ("mesh",), reshapes=True)
def scale_and_turn(
    on: OnMesh,
    scale: A[float, number(0.0001, 1000, "how many times as large")] = 1.0,
    turn_x: Degrees = 0.0,
    turn_y: Degrees = 0.0,
    turn_z: Degrees = 0.0,
    stands: A[
        str, choice("where it is", "on the ground", "about its middle", words="where its origin is then")
    ] = "where it is",
) -> Mesh:
    """Makes the mesh larger or smaller and turns it about x, then y, then z."""
    mesh = on.mesh
    turn = np.eye(3)
    for axis, degrees in enumerate((turn_x, turn_y, turn_z)):
        turn = _about(axis, np.radians(degrees)) @ turn
    turned = turn.T.astype(np.float32)
    positions = (mesh.positions @ turned) * np.float32(scale)
    low, high = positions.min(axis=0), positions.max(axis=0)
    middle = (low + high) / 2
    if stands == "on the ground":
        positions = positions - np.array((middle[0], low[1], middle[2]), dtype=np.float32)
    elif stands == "about its middle":
        positions = positions - middle
    tangents = np.concatenate((mesh.tangents[:, :3] @ turned, mesh.tangents[:, 3:]), axis=1)
    return replace(mesh, positions=positions, normals=mesh.normals @ turned, tangents=tangents)


def _about(axis: int, angle: float) -> NDArray[np.float64]:
    """The turn about an axis, counter-clockwise seen from its end."""
    found = np.eye(3)
    i, j = (axis + 1) % 3, (axis + 2) % 3
    found[i, i] = found[j, j] = np.cos(angle)
    found[i, j], found[j, i] = -np.sin(angle), np.sin(angle)
    return found


@step("Simplify", GROUP, ("mesh",), reshapes=True)
def simplify(
    on: OnMesh,
    share: A[float, number(0.001, 1, "how many of the triangles are left")] = 0.5,
    error: A[
        float, number(0, 1, "at most so much off, as a share of the mesh's size; then more triangles are left")
    ] = 0.05,
) -> Mesh:
    """Fewer triangles at nearly the same form. Edges of parts and seams, UVs, normals and colours count in what is given up."""
    return simplified(on.mesh, share, error)[0]
