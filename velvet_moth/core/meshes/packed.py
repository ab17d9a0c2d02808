"""A mesh of the stage as bytes, and back: plain arrays, so that it is at hand without its file being read again.

The same mesh is the same bytes.
"""

import struct
from typing import Any

import numpy as np
import orjson

from velvet_moth.core.forms.mesh import Mesh

_ARRAYS = ("positions", "normals", "tangents", "uvs", "colours", "triangles", "second", "part_of", "second_colours")
_HEAD = struct.Struct("<I")
# Arrays begin where any number may.
_STEP = 8


def to_bytes(mesh: Mesh) -> bytes:
    """All arrays with the names of the parts, without compression."""
    held = {key: np.ascontiguousarray(getattr(mesh, key)) for key in _ARRAYS if getattr(mesh, key) is not None}
    told: dict[str, Any] = {
        "arrays": [[key, array.dtype.str, list(array.shape)] for key, array in held.items()],
        "part_names": mesh.part_names,
        "carried": mesh.carried,
    }
    text = orjson.dumps(told)
    text += b" " * (-(_HEAD.size + len(text)) % _STEP)
    parts = [_HEAD.pack(len(text)), text]
    for array in held.values():
        parts += [array.tobytes(), bytes(-array.nbytes % _STEP)]
    return b"".join(parts)


def from_bytes(data: bytes) -> Mesh:
    """The mesh that ``to_bytes`` was given."""
    (length,) = _HEAD.unpack_from(data)
    told = orjson.loads(data[_HEAD.size : _HEAD.size + length])
    at = _HEAD.size + length
    arrays: dict[str, Any] = {}
    for key, kind, shape in told["arrays"]:
        count = int(np.prod(shape))
        arrays[key] = np.frombuffer(data, dtype=kind, count=count, offset=at).reshape(shape)
        at += arrays[key].nbytes + -arrays[key].nbytes % _STEP
    # Meshes that were kept before do not say what they carry.
    return Mesh(**arrays, part_names=tuple(told["part_names"]), carried=told.get("carried"))
