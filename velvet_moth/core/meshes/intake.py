"""From what a file holds to a mesh of the stage: in metres with y up, with everything that a surface point needs."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS, Mesh, white
from velvet_moth.core.meshes.normals import SMOOTH_BELOW, with_normals
from velvet_moth.core.meshes.orient import METRES, UPS, Unit, Up, turned
from velvet_moth.core.meshes.source import Floats, Indices, SourceMesh
from velvet_moth.core.meshes.tangents import with_tangents


@dataclass(frozen=True)
class MeshReading:
    """How a file is read: which of its axes is up, its unit, and below which angle between faces (degrees) normals that it lacks are smooth."""

    up: Up = "y"
    unit: Unit = "m"
    smooth_below: float = SMOOTH_BELOW


def checked_reading(reading: MeshReading) -> MeshReading:
    """The reading; OperationRefused where a part of it is out of range."""
    if reading.up not in UPS or reading.unit not in METRES:
        what = f"The axis {reading.up!r} with the unit {reading.unit!r} is not known."
        raise OperationRefused(what, "mesh", f"Use one of {', '.join(UPS)} and one of {', '.join(METRES)}.")
    if not 0.0 <= reading.smooth_below <= 180.0:
        raise OperationRefused("An angle between faces is 0 to 180 degrees.", "smooth below", "Type another one.")
    return reading


@dataclass(frozen=True, eq=False)
class TakenIn:
    """The mesh, and sentences about what was made for it because the file has none."""

    mesh: Mesh
    made: tuple[str, ...]


def taken_in(source: SourceMesh, reading: MeshReading) -> TakenIn:
    """A file's mesh as the stage has it. Vertices are split where normals or tangents that are made differ."""
    made = []
    positions = turned(source.positions, reading.up) * np.float32(METRES[reading.unit])
    triangles = source.triangles
    at = np.arange(len(positions))
    if source.normals is not None and _are_usable(source.normals):
        normals = _unit(turned(source.normals, reading.up))
    else:
        at, triangles, normals = with_normals(positions, triangles, reading.smooth_below)
        made.append(f"Normals were made, smooth below {reading.smooth_below:g} degrees.")
    uvs = _snapped(source.uvs[at] if source.uvs is not None else np.zeros((len(at), 2), dtype=np.float32))
    if source.tangents is not None and source.normals is not None and _are_usable(source.tangents[:, :3]):
        tangents = np.concatenate(
            (_unit(turned(source.tangents[:, :3], reading.up)), np.where(source.tangents[:, 3:] < 0, -1.0, 1.0)), axis=1
        ).astype(np.float32)
    else:
        parts, triangles, tangents = with_tangents(positions[at], normals, uvs, triangles)
        at, normals, uvs = at[parts], normals[parts], uvs[parts]
        if source.uvs is not None:
            made.append("Tangents were made from normals and UVs.")
    mesh = Mesh(
        positions[at],
        normals,
        tangents,
        uvs,
        source.colours[at] if source.colours is not None else white(len(at)),
        triangles,
        second=None if source.second_uvs is None else _snapped(source.second_uvs[at]),
        part_of=source.part_of,
        part_names=source.part_names,
        second_colours=None if source.second_colours is None else source.second_colours[at],
        carried=dict.fromkeys(_carried(source), ""),
    )
    return TakenIn(_in_use_order(mesh), tuple(made))


def _carried(source: SourceMesh) -> tuple[str, ...]:
    """The channels that a file has numbers for; nobody has said what they mean."""
    first = VERTEX_CHANNELS[:4] if source.colours is not None else ()
    return (*first, *(VERTEX_CHANNELS[4:] if source.second_colours is not None else ()))


def _are_usable(directions: Floats) -> bool:
    """Whether every direction has a length."""
    return bool((np.linalg.norm(directions, axis=1) > 1e-6).all())


def _unit(v: Floats) -> Floats:
    length = np.linalg.norm(v, axis=1, keepdims=True)
    # What is one already stays as it is, to the bit.
    return np.where(np.abs(length - 1.0) < 1e-6, v, v / length).astype(np.float32)


def _snapped(uvs: Floats) -> Floats:
    """UVs of which V can be turned over and back without loss, as glTF measures it from the other side."""
    one = np.float32(1.0)
    return np.stack((uvs[:, 0], one - (one - uvs[:, 1])), axis=1)


def _in_use_order(mesh: Mesh) -> Mesh:
    """The mesh without vertices that no triangle uses."""
    used: NDArray[np.bool_] = np.zeros(len(mesh.positions), dtype=bool)
    used[mesh.triangles] = True
    return mesh if used.all() else mesh.only(used)


def _has_first_set(mesh: Mesh) -> bool:
    return mesh.carried is None or any(place in mesh.carried for place in VERTEX_CHANNELS[:4])


def as_source(mesh: Mesh) -> SourceMesh:
    """A mesh of the stage as a file would hold it."""
    triangles: Indices = mesh.triangles
    return SourceMesh(
        mesh.positions,
        triangles,
        normals=mesh.normals,
        tangents=mesh.tangents,
        uvs=mesh.uvs,
        second_uvs=mesh.second,
        colours=mesh.colours if _has_first_set(mesh) else None,
        second_colours=mesh.second_colours,
        part_of=mesh.part_of,
        part_names=mesh.part_names,
    )
