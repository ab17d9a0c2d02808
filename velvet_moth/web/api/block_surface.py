"""Block models as the page takes them: the state as JSON, and after it the chunks of the surface as packed arrays."""

import struct
from collections.abc import Collection, Iterable

import numpy as np
import orjson

from velvet_moth.core.blocks.cells import SIDE, Box, ChunkKey
from velvet_moth.core.blocks.model import BlockModel
from velvet_moth.core.blocks.surface import chunk_box, faces_in, merged, mesh_of
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.web.api.block_answers import BlockModelState, BlockSurface, ChunkState
from velvet_moth.web.api.block_requests import BlockView

_AXES = {"x": 0, "y": 1, "z": 2}


def seen_box(view: BlockView) -> Box | None:
    """The cells that a view shows; None for all."""
    if not view.axis:
        return None
    low, high = [0, 0, 0], [SIDE, SIDE, SIDE]
    axis = _AXES[view.axis]
    low[axis], high[axis] = min(view.first, view.last), max(view.first, view.last) + 1
    return (low[0], low[1], low[2]), (high[0], high[1], high[2])


def packed_surface(
    state: BlockModelState, model: BlockModel, keys: Iterable[ChunkKey], view: BlockView, is_whole: bool
) -> bytes:
    """The length of a text (uint32), the text (JSON of ``BlockSurface``, filled up to four bytes with spaces), and the faces.

    Of each chunk, four corners a face: float32 positions (3) and second coordinates (2), int16 coordinates (2), int8 normals (4) and
    tangents (4) of length 127.
    """
    within = seen_box(view)
    see_through = model.see_through
    chunks: list[ChunkState] = []
    parts: list[bytes] = []
    for key in keys:
        mesh = _surface(model, key, see_through, within)
        faces = len(mesh.positions) // 4
        if faces or not is_whole:
            chunks.append({"at": key, "faces": faces})
            parts.append(_packed(mesh))
    told: BlockSurface = {"state": state, "is_whole": is_whole, "chunks": chunks}
    text = orjson.dumps(told)
    text += b" " * (-len(text) % 4)
    return b"".join((struct.pack("<I", len(text)), text, *parts))


def _surface(model: BlockModel, key: ChunkKey, see_through: Collection[int], within: Box | None) -> Mesh:
    return mesh_of(merged(faces_in(model.blocks, chunk_box(key), see_through, within)), model.settings.size)


def _packed(mesh: Mesh) -> bytes:
    assert mesh.second is not None
    normals = np.zeros((len(mesh.normals), 4), dtype=np.int8)
    normals[:, :3] = mesh.normals * 127
    arrays = (
        mesh.positions.astype("<f4"),
        mesh.second.astype("<f4"),
        mesh.uvs.astype("<i2"),
        normals,
        (mesh.tangents * 127).astype(np.int8),
    )
    return b"".join(np.ascontiguousarray(a).tobytes() for a in arrays)
