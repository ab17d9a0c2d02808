"""glTF 2.0 and GLB: everything that its scene shows, as one mesh of parts.

The text is checked by a schema and every stretch of bytes against what is there, which libraries at hand leave to their callers.
"""

from collections.abc import Hashable, Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import unit_vectors
from velvet_moth.core.meshes.formats.base import Damaged, Files, MeshFormat
from velvet_moth.core.meshes.formats.gltf_data import MAGIC, Data, chunks, document
from velvet_moth.core.meshes.formats.gltf_schema import SECOND_COLOUR, Document, Node, Primitive
from velvet_moth.core.meshes.formats.gltf_writer import write_glb
from velvet_moth.core.meshes.source import Floats, SourceMesh, check_counts

# Extensions that change nothing of what is read here, or that are read.
_KNOWN = {"KHR_mesh_quantization", "KHR_texture_transform"}
_TRIANGLES, _STRIP, _FAN = 4, 5, 6
_DEPTHS = {"uint8": "8 bit", "uint16": "16 bit", "float32": "float"}
_READ = {"POSITION", "NORMAL", "TANGENT", "TEXCOORD_0", "TEXCOORD_1", "COLOR_0", SECOND_COLOUR}
_CHANNELS = "RGBA"


@dataclass(frozen=True, eq=False)
class _Vertices:
    """Vertices at one place, which several primitives may share: values by attribute, and how colours are kept."""

    values: dict[str, Floats]
    depth: str

    @property
    def count(self) -> int:
        return len(self.values["POSITION"])


@dataclass(frozen=True, eq=False)
class _Piece:
    """Triangles (m, 3) of one primitive, of the part of a name, on vertices that are counted by ``of``."""

    part: str
    of: int
    triangles: NDArray[np.int64]


def _is_gltf(data: bytes) -> bool:
    return data[:4] == MAGIC or (data[:1024].lstrip()[:1] == b"{" and b'"asset"' in data)


def _matrix(node: Node) -> NDArray[np.float64]:
    if node.matrix is not None:
        return np.array(node.matrix).reshape(4, 4).T
    x, y, z, w = np.array(node.rotation) / max(float(np.linalg.norm(node.rotation)), 1e-12)
    turn = np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
            [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
            [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
        ]
    )
    made = np.eye(4)
    made[:3, :3] = turn * np.array(node.scale)
    made[:3, 3] = node.translation
    return made


def _placed(told: Document) -> Iterator[tuple[int, str, NDArray[np.float64]]]:
    """Every mesh that the scene shows: its number, its name, and from its own axes to the scene's."""
    if not told.nodes:
        for index, mesh in enumerate(told.meshes):
            yield index, mesh.name, np.eye(4)
        return
    children = {child for node in told.nodes for child in node.children}
    roots = [index for index in range(len(told.nodes)) if index not in children]
    if told.scenes:
        if (told.scene or 0) >= len(told.scenes):
            raise Damaged("The scene to be shown is not in the file.")
        roots = told.scenes[told.scene or 0].nodes
    todo = [(root, np.eye(4)) for root in reversed(roots)]
    seen: set[int] = set()
    while todo:
        index, above = todo.pop()
        if index >= len(told.nodes) or index in seen:
            raise Damaged(f"Node {index} is not in the file, or is inside itself.")
        seen.add(index)
        node = told.nodes[index]
        here = above @ _matrix(node)
        if node.mesh is not None:
            if node.mesh >= len(told.meshes):
                raise Damaged(f"Mesh {node.mesh} is shown, but the file has none of that number.")
            yield node.mesh, node.name or told.meshes[node.mesh].name, here
        todo.extend((child, here) for child in reversed(node.children))


def _triangles(primitive: Primitive, data: Data, count: int) -> NDArray[np.int64]:
    if primitive.indices is None:
        order = np.arange(count, dtype=np.int64)
    else:
        found, _ = data.raw(primitive.indices)
        if found.shape[1] != 1 or found.dtype.kind != "u":
            raise Damaged("The indices of a part are no whole numbers.")
        order = found[:, 0].astype(np.int64)
        if len(order) and order.max() >= count:
            raise Damaged(f"A triangle uses vertex {int(order.max())}, but its part has {count}.")
    if primitive.mode == _TRIANGLES:
        return order[: len(order) // 3 * 3].reshape(-1, 3)
    if primitive.mode == _STRIP:
        at = np.arange(max(len(order) - 2, 0))
        odd = at % 2
        return order[np.stack((at, at + 1 + odd, at + 2 - odd), axis=1)]
    at = np.arange(1, max(len(order) - 1, 1))
    return order[np.stack((np.zeros_like(at), at, at + 1), axis=1)]


def _vertices(primitive: Primitive, data: Data, name: str, matrix: NDArray[np.float64]) -> _Vertices:
    values: dict[str, Floats] = {}
    depth = ""
    for key, accessor in primitive.attributes.items():
        if key in _READ or key.startswith(("_", "COLOR_")):
            values[key], kind = data.numbers(accessor)
            if key == "COLOR_0":
                depth = _DEPTHS.get(kind, "")
    if "POSITION" not in values or values["POSITION"].shape[1] != 3:
        raise Damaged(f"A part of {name[:40]!r} has no positions.")
    count = len(values["POSITION"])
    short = next((key for key, found in values.items() if len(found) != count), None)
    if short:
        raise Damaged(f"There are {len(values[short])} values of {short[:30]} for {count} vertices.")
    if not np.array_equal(matrix, np.eye(4)):
        _place(values, matrix)
    return _Vertices(values, depth)


def _place(values: dict[str, Floats], matrix: NDArray[np.float64]) -> None:
    """Turns what has a direction or a place."""
    turn = matrix[:3, :3]
    values["POSITION"] = (values["POSITION"] @ turn.T + matrix[:3, 3]).astype(np.float32)
    if "NORMAL" in values:
        values["NORMAL"] = unit_vectors(values["NORMAL"] @ np.linalg.pinv(turn)).astype(np.float32)
    if "TANGENT" in values and values["TANGENT"].shape[1] == 4:
        side = values["TANGENT"][:, 3:] * np.sign(np.linalg.det(turn))
        along = unit_vectors(values["TANGENT"][:, :3] @ turn.T)
        values["TANGENT"] = np.concatenate((along, side), axis=1).astype(np.float32)


def _whole(blocks: list[_Vertices], key: str, width: int) -> Floats | None:
    """An attribute of all vertices; None where some have none."""
    found = [block.values.get(key) for block in blocks]
    if any(one is None or one.shape[1] < width for one in found):
        return None
    return np.concatenate([one[:, :width] for one in found if one is not None])


def _colours(blocks: list[_Vertices]) -> Floats | None:
    """Colours of all vertices with alpha, white for those that have none; None where none has any."""
    if not any("COLOR_0" in block.values for block in blocks):
        return None
    made = []
    for block in blocks:
        whole = np.ones((block.count, 4), dtype=np.float32)
        if "COLOR_0" in block.values:
            own = block.values["COLOR_0"][:, :4]
            whole[:, : own.shape[1]] = own
        made.append(whole)
    return np.concatenate(made)


def _more(blocks: list[_Vertices]) -> dict[str, Floats]:
    """Second colours and what applications add, each component by a name of its own."""
    keys = dict.fromkeys(key for block in blocks for key in block.values if key not in _READ)
    found: dict[str, Floats] = {}
    for key in keys:
        width = max(block.values[key].shape[1] for block in blocks if key in block.values)
        whole = _whole(blocks, key, width)
        if whole is not None:
            name = key.lstrip("_").lower()
            named = [name] if width == 1 else [f"{name}.{_CHANNELS[i].lower()}" for i in range(width)]
            found.update(zip(named, whole.T, strict=True))
    return found


def _left_out(told: Document, skipped: int, blocks: list[_Vertices]) -> tuple[str, ...]:
    morphs = any(primitive.targets for mesh in told.meshes for primitive in mesh.primitives)
    there = {
        "materials and their textures": bool(told.materials),
        "bones": bool(told.skins),
        "morph targets": morphs,
        "animation": bool(told.animations),
        "cameras": bool(told.cameras),
        "points and lines": skipped > 0,
    }
    found = [
        f"Its {what} are left out." if what[-1] == "s" else f"Its {what} is left out."
        for what, is_there in there.items()
        if is_there
    ]
    if len(blocks) > 1:
        for key, what in (("TEXCOORD_0", "texture coordinates"), ("NORMAL", "normals"), ("TANGENT", "tangents")):
            have = sum(key in block.values for block in blocks)
            if 0 < have < len(blocks):
                found.append(f"Only {have} of its {len(blocks)} parts have {what}: these are left out.")
    return tuple(found)


def _decode(files: Files, name: str) -> SourceMesh:
    text, binary = chunks(files[name])
    told = document(text)
    if not told.asset.version.startswith("2."):
        raise Damaged(f"This is glTF {told.asset.version[:10]}; version 2 is read.")
    unknown = sorted(set(told.extensions_required) - _KNOWN)
    if unknown:
        raise Damaged(f"The file cannot be read without {unknown[0][:60]}. Save it without compression and extensions.")
    data = Data(told, binary, files)
    blocks: list[_Vertices] = []
    pieces: list[_Piece] = []
    known: dict[Hashable, int] = {}
    skipped = vertices = triangles = 0
    for index, called, matrix in _placed(told):
        for primitive in told.meshes[index].primitives:
            if primitive.mode not in (_TRIANGLES, _STRIP, _FAN):
                skipped += 1
                continue
            key = (tuple(sorted(primitive.attributes.items())), matrix.tobytes())
            if key not in known:
                known[key] = len(blocks)
                blocks.append(_vertices(primitive, data, called, matrix))
                vertices += blocks[-1].count
            order = _triangles(primitive, data, blocks[known[key]].count)
            is_mirrored = np.linalg.det(matrix[:3, :3]) < 0
            pieces.append(_Piece(called, known[key], order[:, ::-1] if is_mirrored else order))
            triangles += len(order)
            check_counts(vertices, triangles, f"file {name!r}")
    if not pieces:
        raise Damaged("The file holds no triangles.")
    names = list(dict.fromkeys(piece.part for piece in pieces))
    starts = np.cumsum([0, *(block.count for block in blocks)])
    positions = _whole(blocks, "POSITION", 3)
    assert positions is not None
    uvs, second = (_whole(blocks, f"TEXCOORD_{number}", 2) for number in (0, 1))
    return SourceMesh(
        positions,
        np.concatenate([p.triangles + starts[p.of] for p in pieces]).astype(np.uint32),
        normals=_whole(blocks, "NORMAL", 3),
        tangents=_whole(blocks, "TANGENT", 4),
        uvs=_up(uvs),
        second_uvs=_up(second),
        colours=_colours(blocks),
        second_colours=_whole(blocks, SECOND_COLOUR, 4),
        depth=next((block.depth for block in blocks if block.depth), ""),
        more=_more(blocks),
        part_of=np.concatenate([np.full(len(p.triangles), names.index(p.part), dtype=np.int32) for p in pieces]),
        part_names=tuple(names),
        left_out=_left_out(told, skipped, blocks),
    )


def _up(uvs: Floats | None) -> Floats | None:
    """Texture coordinates with V up: in glTF it runs down."""
    return None if uvs is None else np.stack((uvs[:, 0], 1.0 - uvs[:, 1]), axis=1).astype(np.float32)


GLTF = MeshFormat(
    "gltf",
    "glTF",
    (".glb", ".gltf"),
    _is_gltf,
    _decode,
    write_glb,
    keeps="everything: two sets of UVs, colours in their depth, further numbers, tangents, parts, levels of detail",
    mimetype="model/gltf-binary",
    up="y",
    unit="m",
    holds_levels=True,
)
