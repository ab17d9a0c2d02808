"""PLY, text and binary, with any property."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.meshes.formats.base import Damaged, Files, MeshFormat
from velvet_moth.core.meshes.formats.ply_data import Columns, Lists, tables
from velvet_moth.core.meshes.formats.polygons import triangulated
from velvet_moth.core.meshes.source import Floats, SourceMesh, stored

# What properties are called; the first set of names that is there whole is taken.
_UVS = (("s", "t"), ("u", "v"), ("texture_u", "texture_v"), ("s0", "t0"))
_SECOND_UVS = (("s1", "t1"), ("u1", "v1"), ("texture_u1", "texture_v1"))
_COLOURS = (("red", "green", "blue", "alpha"), ("red", "green", "blue"), ("r", "g", "b", "a"), ("r", "g", "b"))
_SECOND_COLOURS = (("red1", "green1", "blue1", "alpha1"),)
_FACES = ("vertex_indices", "vertex_index")
_WRITTEN = {"u1": "uchar", "u2": "ushort", "f4": "float"}
_DEPTHS = {"uint8": "8 bit", "uint16": "16 bit", "float32": "float", "float64": "float"}


def _faces(columns: Columns) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """All corners one after the other, and how many each face has."""
    lists = next((columns[name] for name in _FACES if name in columns), None)
    if not isinstance(lists, Lists):
        raise Damaged("The faces of the file name no vertices.")
    kept = lists.sizes >= 3
    if not kept.any():
        raise Damaged("No face of the file has three corners.")
    corners = lists.values.astype(np.int64)
    return (corners, lists.sizes) if kept.all() else (corners[np.repeat(kept, lists.sizes)], lists.sizes[kept])


def _together(names: set[str], ways: tuple[tuple[str, ...], ...]) -> tuple[str, ...]:
    return next((way for way in ways if set(way) <= names), ())


def _beside(data: dict[str, NDArray[Any]], names: tuple[str, ...]) -> Floats | None:
    # What is beyond all floats is refused later, with its vertex.
    with np.errstate(over="ignore"):
        return np.stack([data[name].astype(np.float32) for name in names], axis=1) if names else None


def _decode(files: Files, name: str) -> SourceMesh:
    found = tables(files[name])
    if "vertex" not in found:
        raise Damaged("The file holds no vertices.")
    if "face" not in found:
        raise Damaged("The file holds points, and no faces.")
    data = {key: column for key, column in found["vertex"].items() if not isinstance(column, Lists)}
    if not {"x", "y", "z"} <= data.keys():
        raise Damaged("The vertices of the file have no x, y and z.")
    positions = _beside(data, ("x", "y", "z"))
    assert positions is not None
    corners, sizes = _faces(found["face"])
    if not 0 <= corners.min() <= corners.max() < len(positions):
        raise Damaged(f"A face uses vertex {int(corners.max())}, but there are {len(positions)}.")
    triangles, _ = triangulated(corners, sizes, positions, corners)
    uvs, second, colours, more = (_together(set(data), ways) for ways in (_UVS, _SECOND_UVS, _COLOURS, _SECOND_COLOURS))
    normals = _together(set(data), (("nx", "ny", "nz"),))
    used = {"x", "y", "z", *uvs, *second, *colours, *more, *normals}
    others = sorted(key for key in found if key not in ("vertex", "face"))
    return SourceMesh(
        positions,
        corners[triangles].astype(np.uint32),
        normals=_beside(data, normals),
        uvs=_beside(data, uvs),
        second_uvs=_beside(data, second),
        colours=_colour(data, colours),
        second_colours=_colour(data, more),
        depth=_DEPTHS.get(data[colours[0]].dtype.name, "") if colours else "",
        more={key: column.astype(np.float32) for key, column in data.items() if key not in used},
        left_out=tuple(f"What it calls {key!r} is left out." for key in others),
    )


def _colour(data: dict[str, NDArray[Any]], names: tuple[str, ...]) -> Floats | None:
    """Colours in 0..1 with alpha, of whole numbers over their whole range."""
    found = _beside(data, names)
    if found is None:
        return None
    kind = data[names[0]].dtype
    scaled = found / np.float32(np.iinfo(kind).max) if kind.kind in "iu" else found
    whole = np.ones((len(found), 4), dtype=np.float32)
    whole[:, : len(names)] = scaled
    return whole


def _encode(mesh: SourceMesh) -> bytes:
    columns: dict[str, NDArray[Any]] = dict(zip("xyz", mesh.positions.T, strict=True))
    for names, values in (
        (("nx", "ny", "nz"), mesh.normals),
        (_UVS[0], mesh.uvs),
        (_SECOND_UVS[0], mesh.second_uvs),
        (_COLOURS[0], None if mesh.colours is None else stored(mesh.colours, mesh.depth)),
        (_SECOND_COLOURS[0], mesh.second_colours),
    ):
        columns.update(zip(names, values.T, strict=True) if values is not None else ())
    columns.update({identifier(name): values for name, values in mesh.more.items()})
    vertices = np.empty(len(mesh.positions), dtype=[(name, values.dtype) for name, values in columns.items()])
    for name, values in columns.items():
        vertices[name] = values
    # Lists of one length are written all at once here; the library would write them one by one.
    faces = np.empty(len(mesh.triangles), dtype=[("count", "u1"), ("corners", "<i4", 3)])
    faces["count"], faces["corners"] = 3, mesh.triangles
    head = ["ply", "format binary_little_endian 1.0", f"element vertex {len(vertices)}"]
    head += [f"property {_WRITTEN[values.dtype.str[1:]]} {name}" for name, values in columns.items()]
    head += [f"element face {len(faces)}", f"property list uchar int {_FACES[0]}", "end_header", ""]
    return "\n".join(head).encode("ascii") + vertices.tobytes() + faces.tobytes()


PLY = MeshFormat(
    "ply",
    "PLY",
    (".ply",),
    lambda data: data[:3] == b"ply" and data[3:4] in b"\r\n",
    _decode,
    _encode,
    keeps="positions, normals, two sets of UVs, two sets of colours with alpha, further numbers",
    mimetype="model/ply",
)
