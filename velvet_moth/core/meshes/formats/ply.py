"""PLY, text and binary, with any property; decoded by plyfile."""

import contextlib
import io
import re
import tempfile
from typing import Any

import numpy as np
from numpy.typing import NDArray
from plyfile import PlyData, PlyElement, PlyParseError

from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.meshes.formats.base import Damaged, Files, MeshFormat
from velvet_moth.core.meshes.formats.polygons import triangulated
from velvet_moth.core.meshes.source import Floats, SourceMesh, stored

# What properties are called; the first set of names that is there whole is taken.
_UVS = (("s", "t"), ("u", "v"), ("texture_u", "texture_v"), ("s0", "t0"))
_SECOND_UVS = (("s1", "t1"), ("u1", "v1"), ("texture_u1", "texture_v1"))
_COLOURS = (("red", "green", "blue", "alpha"), ("red", "green", "blue"), ("r", "g", "b", "a"), ("r", "g", "b"))
_FACES = ("vertex_indices", "vertex_index")
_COUNT = re.compile(rb"^element\s+\S+\s+(\d+)\s*$", re.MULTILINE)
_LONGEST_HEADER = 1 << 16
_WRITTEN = {"u1": "uchar", "u2": "ushort", "f4": "float"}
_NOT_SO = (PlyParseError, ValueError, KeyError, IndexError, OSError)
_DEPTHS = {"uint8": "8 bit", "uint16": "16 bit", "float32": "float", "float64": "float"}


def _parsed(data: bytes) -> PlyData:
    end = data.find(b"end_header", 0, _LONGEST_HEADER)
    if end < 0:
        raise Damaged("The header of the file does not end.")
    for count in _COUNT.findall(data[:end]):
        # Each thing takes a byte at least, so a header that says more lies.
        if int(count) > len(data):
            raise Damaged(
                f"The header says that there are {int(count):,} of something, in a file of {len(data):,} bytes."
            )
    corners = {name: 3 for name in _FACES if re.search(rf"\s{name}\s".encode(), data[:end])}
    if corners and b"ascii" not in data[:end]:
        # Faces of three corners each are read all at once, from a file only.
        with tempfile.NamedTemporaryFile(suffix=".ply") as file, contextlib.suppress(*_NOT_SO):
            file.write(data)
            file.flush()
            return PlyData.read(file.name, known_list_len={"face": corners})
    try:
        return PlyData.read(io.BytesIO(data), mmap=False)
    except (PlyParseError, ValueError, KeyError, IndexError, EOFError, UnicodeDecodeError) as error:
        raise Damaged(f"The file is not a whole PLY: {error}.") from error


def _faces(element: PlyElement) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    """All corners one after the other, and how many each face has."""
    names = {p.name for p in element.properties}
    key = next((name for name in _FACES if name in names), None)
    if key is None:
        raise Damaged("The faces of the file name no vertices.")
    lists: Any = element.data[key]
    if lists.dtype != object:
        return lists.reshape(-1).astype(np.int64), np.full(len(lists), lists.shape[1], dtype=np.int64)
    sizes = np.array([len(one) for one in lists], dtype=np.int64)
    kept = sizes >= 3
    if not kept.any():
        raise Damaged("No face of the file has three corners.")
    return np.concatenate([one for one in lists[kept]]).astype(np.int64), sizes[kept]


def _together(data: Any, names: tuple[str, ...], ways: tuple[tuple[str, ...], ...]) -> tuple[str, ...]:
    return next((way for way in ways if set(way) <= set(names)), ())


def _columns(data: Any, names: tuple[str, ...]) -> Floats | None:
    return np.stack([data[name].astype(np.float32) for name in names], axis=1) if names else None


def _decode(files: Files, name: str) -> SourceMesh:
    elements = {element.name: element for element in _parsed(files[name]).elements}
    if "vertex" not in elements:
        raise Damaged("The file holds no vertices.")
    if "face" not in elements:
        raise Damaged("The file holds points, and no faces.")
    data = elements["vertex"].data
    plain = tuple(p.name for p in elements["vertex"].properties if data.dtype[p.name].kind in "iuf")
    if not {"x", "y", "z"} <= set(plain):
        raise Damaged("The vertices of the file have no x, y and z.")
    positions = _columns(data, ("x", "y", "z"))
    assert positions is not None
    corners, sizes = _faces(elements["face"])
    if len(corners) and not 0 <= corners.min() <= corners.max() < len(positions):
        raise Damaged(f"A face uses vertex {int(corners.max())}, but there are {len(positions)}.")
    triangles, _ = triangulated(corners, sizes, positions, corners)
    uvs, second, colours = (_together(data, plain, ways) for ways in (_UVS, _SECOND_UVS, _COLOURS))
    normals = _together(data, plain, (("nx", "ny", "nz"),))
    used = {"x", "y", "z", *uvs, *second, *colours, *normals}
    others = sorted(key for key in elements if key not in ("vertex", "face"))
    return SourceMesh(
        positions,
        corners[triangles].astype(np.uint32),
        normals=_columns(data, normals),
        uvs=_columns(data, uvs),
        second_uvs=_columns(data, second),
        colours=_colour(data, colours),
        depth=_DEPTHS.get(data.dtype[colours[0]].name, "") if colours else "",
        more={key: data[key].astype(np.float32) for key in plain if key not in used},
        left_out=tuple(f"What it calls {key!r} is left out." for key in others),
    )


def _colour(data: Any, names: tuple[str, ...]) -> Floats | None:
    """Colours in 0..1 with alpha, of whole numbers over their whole range."""
    found = _columns(data, names)
    if found is None:
        return None
    kind = data.dtype[names[0]]
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
    keeps="positions, normals, two sets of UVs, colours with alpha, further numbers",
    mimetype="model/ply",
)
