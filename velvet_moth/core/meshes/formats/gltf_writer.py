"""GLB files of a mesh in metres with y up: one node for each part, all of them on the same vertices."""

import struct
from collections.abc import Sequence
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray

from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.meshes.formats.gltf_schema import SECOND_COLOUR
from velvet_moth.core.meshes.source import DEPTHS, Materials, SourceMesh, stored

_JSON, _BINARY = 0x4E4F534A, 0x004E4942
_COMPONENTS = {"u1": 5121, "u2": 5123, "u4": 5125, "f4": 5126}
_TYPES = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4"}
_ARRAY, _ELEMENTS = 34962, 34963


class _Buffer:
    """Values one after the other, each described by an accessor of its own."""

    def __init__(self) -> None:
        self.parts: list[bytes] = []
        self.length = 0
        self.views: list[dict[str, Any]] = []
        self.accessors: list[dict[str, Any]] = []

    def add_file(self, data: bytes) -> int:
        """The number of the view of a file."""
        self.views.append({"buffer": 0, "byteOffset": self.length, "byteLength": len(data)})
        padding = -len(data) % 4
        self.parts += [data, bytes(padding)]
        self.length += len(data) + padding
        return len(self.views) - 1

    def add(self, values: NDArray[Any], target: int, is_share: bool = False, has_bounds: bool = False) -> int:
        """The number of the accessor of values (n, width); ``is_share``: whole numbers stand for 0..1."""
        data = np.ascontiguousarray(values).tobytes()
        self.views.append({"buffer": 0, "byteOffset": self.length, "byteLength": len(data), "target": target})
        told: dict[str, Any] = {
            "bufferView": len(self.views) - 1,
            "componentType": _COMPONENTS[f"{values.dtype.kind}{values.dtype.itemsize}"],
            "count": len(values),
            "type": _TYPES[values.shape[1]],
        }
        if is_share:
            told["normalized"] = True
        if has_bounds:
            told["min"], told["max"] = values.min(axis=0).tolist(), values.max(axis=0).tolist()
        self.accessors.append(told)
        padding = -len(data) % 4
        self.parts += [data, bytes(padding)]
        self.length += len(data) + padding
        return len(self.accessors) - 1


def _attributes(mesh: SourceMesh, buffer: _Buffer) -> dict[str, int]:
    found = {"POSITION": buffer.add(mesh.positions, _ARRAY, has_bounds=True)}
    if mesh.normals is not None:
        found["NORMAL"] = buffer.add(mesh.normals, _ARRAY)
    if mesh.tangents is not None and mesh.normals is not None:
        found["TANGENT"] = buffer.add(mesh.tangents, _ARRAY)
    for number, uvs in enumerate(uvs for uvs in (mesh.uvs, mesh.second_uvs) if uvs is not None):
        # In glTF V runs down.
        found[f"TEXCOORD_{number}"] = buffer.add(np.stack((uvs[:, 0], 1 - uvs[:, 1]), axis=1), _ARRAY)
    if mesh.colours is not None:
        kept = stored(mesh.colours, mesh.depth)
        found["COLOR_0"] = buffer.add(kept, _ARRAY, is_share=kept.dtype != DEPTHS["float"])
    if mesh.second_colours is not None:
        found[SECOND_COLOUR] = buffer.add(mesh.second_colours, _ARRAY)
    for name, values in mesh.more.items():
        found[f"_{identifier(name).upper()}"] = buffer.add(values[:, None].astype(np.float32), _ARRAY)
    return found


def write_glb(mesh: SourceMesh, levels: Sequence[SourceMesh] = ()) -> bytes:
    """The bytes of a GLB; every number comes back as it is, colours as their depth keeps them.

    Levels of detail are nodes by the names of their parts, each level in a scene of its own: whoever reads the file's first
    scene, as the standard says, gets the full mesh alone.
    """
    buffer = _Buffer()
    meshes: list[dict[str, Any]] = []
    nodes: list[dict[str, Any]] = []
    scenes: list[dict[str, Any]] = []
    for number, one in enumerate((mesh, *levels)):
        first = len(nodes)
        _add_parts(one, buffer, meshes, nodes, f"LOD {number}" if number else "")
        named = {"name": f"LOD {number}"} if number else {}
        scenes.append({**named, "nodes": list(range(first, len(nodes)))})
    looks = {} if mesh.looks is None else _looks(mesh.looks, buffer, meshes)
    described = {
        "asset": {"version": "2.0", "generator": "Velvet Moth"},
        "scene": 0,
        "scenes": scenes,
        "nodes": nodes,
        "meshes": meshes,
        "accessors": buffer.accessors,
        "bufferViews": buffer.views,
        **looks,
        "buffers": [{"byteLength": buffer.length}],
    }
    text = orjson.dumps(described)
    text += b" " * (-len(text) % 4)
    binary = b"".join(buffer.parts)
    length = 12 + 8 + len(text) + 8 + len(binary)
    head = struct.pack("<4sII", b"glTF", 2, length)
    return b"".join(
        (head, struct.pack("<II", len(text), _JSON), text, struct.pack("<II", len(binary), _BINARY), binary)
    )


_LINEAR, _LINEAR_LEVELS, _CLAMP = 9729, 9987, 33071
_VARIANTS = "KHR_materials_variants"


def _looks(looks: Materials, buffer: _Buffer, meshes: Sequence[dict[str, Any]]) -> dict[str, Any]:
    """The parts of a file that the materials of the whole mesh take; every primitive refers to them."""
    mapped = [{"material": number, "variants": [at]} for at, (_, number) in enumerate(looks.variants)]
    for primitive in (one for mesh in meshes for one in mesh["primitives"]):
        primitive["material"] = 0
        if mapped:
            primitive["extensions"] = {_VARIANTS: {"mappings": mapped}}
    used = sorted(
        {name for one in looks.materials for name in one.get("extensions", {})} | ({_VARIANTS} if mapped else set())
    )
    found: dict[str, Any] = {"materials": list(looks.materials)}
    if looks.pictures:
        wrap = {"wrapS": _CLAMP, "wrapT": _CLAMP}
        found |= {
            "textures": [{"source": number, "sampler": 0} for number in range(len(looks.pictures))],
            "images": [{"bufferView": buffer.add_file(data), "mimeType": "image/png"} for data in looks.pictures],
            "samplers": [{"magFilter": _LINEAR, "minFilter": _LINEAR_LEVELS if looks.has_levels else _LINEAR, **wrap}],
        }
    if used:
        found["extensionsUsed"] = used
    if mapped:
        found["extensions"] = {_VARIANTS: {"variants": [{"name": name} for name, _ in looks.variants]}}
    return found


def _add_parts(
    mesh: SourceMesh, buffer: _Buffer, meshes: list[dict[str, Any]], nodes: list[dict[str, Any]], level: str
) -> None:
    """Adds a node for each part, all of them on the same vertices."""
    attributes = _attributes(mesh, buffer)
    # The largest index of a type is kept free by the standard.
    kind = np.dtype("<u2") if len(mesh.positions) < 65535 else np.dtype("<u4")
    parts = np.zeros(len(mesh.triangles), dtype=np.int32) if mesh.part_of is None else mesh.part_of
    for number, part in enumerate(mesh.part_names or ("",)):
        order = mesh.triangles[parts == number].astype(kind).reshape(-1, 1)
        if not len(order):
            continue
        indices = buffer.add(order, _ELEMENTS)
        name = f"{part} {level}".strip()
        named = {"name": name} if name else {}
        nodes.append({**named, "mesh": len(meshes)})
        meshes.append({**named, "primitives": [{"attributes": attributes, "indices": indices}]})
