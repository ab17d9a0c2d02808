"""Block models as the page takes them: the state as JSON, and after it the chunks of the surface as packed arrays."""

import struct
from collections.abc import Collection, Iterator
from itertools import pairwise

import numpy as np
import orjson

from velvet_moth.core.blocks.cells import SIDE, Blocks, Box, ChunkKey
from velvet_moth.core.blocks.model import ORIGIN, BlockModel
from velvet_moth.core.blocks.surface import faces_by_chunk, mesh_of, surface_of
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.web.api.block_answers import BlockFaces, BlockModelState, BlockSurface, ChunkState
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


def one_block() -> BlockFaces:
    """The faces of a block of 1 m in the cell at the origin, of entry 1, for a page to show what it has just asked for."""
    mesh = surface_of(Blocks().with_cells(np.array([ORIGIN]), 1), 1.0)
    assert mesh is not None
    return {
        "position": mesh.positions.ravel().tolist(),
        "uv": (mesh.uvs - mesh.uvs.min(axis=0)).ravel().tolist(),
        "normal": np.pad(mesh.normals, ((0, 0), (0, 1))).ravel().tolist(),
        "tangent": mesh.tangents.ravel().tolist(),
    }


def packed_surface(
    state: BlockModelState, model: BlockModel, touched: Collection[ChunkKey] | None, view: BlockView
) -> bytes:
    """The length of a text (uint32), the text (JSON of ``BlockSurface``, filled up to four bytes with spaces), and the faces.

    All that there is, or what is ``touched``. Of each chunk, four corners a face: float32 positions (3) and second coordinates (2), int16 coordinates (2), int8 normals (4) and
    tangents (4) of length 127.
    """
    found = faces_by_chunk(model.blocks, touched, model.see_through, seen_box(view))
    chunks: list[ChunkState] = [{"at": key, "faces": n} for key, n in zip(found.keys, found.counts, strict=True)]
    empty: list[ChunkState] = [{"at": key, "faces": 0} for key in {*(touched or ())}.difference(found.keys)]
    head: BlockSurface = {"state": state, "is_whole": touched is None, "chunks": chunks + empty}
    parts = _packed(mesh_of(found.faces, model.settings.size), found.counts)
    text = orjson.dumps(head)
    text += b" " * (-len(text) % 4)
    return b"".join((struct.pack("<I", len(text)), text, *parts))


def _packed(mesh: Mesh, counts: list[int]) -> Iterator[bytes]:
    """The arrays of each chunk, one after another."""
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
    ends = 4 * np.cumsum([0, *counts])
    for begin, end in pairwise(ends.tolist()):
        yield from (array[begin:end].tobytes() for array in arrays)
