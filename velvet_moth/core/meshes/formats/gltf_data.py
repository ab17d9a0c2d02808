"""The numbers of a glTF file: its buffers, and accessors read from them, each checked against the bytes that are there."""

import base64
import binascii
import struct
from typing import Any
from urllib.parse import unquote

import numpy as np
import orjson
from numpy.typing import NDArray
from pydantic import ValidationError

from velvet_moth.core.meshes.formats.base import Damaged, Files
from velvet_moth.core.meshes.formats.gltf_schema import Accessor, Document
from velvet_moth.core.meshes.source import MOST_TRIANGLES

MAGIC = b"glTF"
_JSON, _BINARY = 0x4E4F534A, 0x004E4942
_TYPES = {5120: "i1", 5121: "u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}
_MOST_VALUES = 3 * MOST_TRIANGLES


def chunks(data: bytes) -> tuple[bytes, bytes]:
    """The JSON of a file, and what it holds besides in binary."""
    if data[:4] != MAGIC:
        return data, b""
    if len(data) < 20:
        raise Damaged("The file ends in its header.")
    version, length = struct.unpack_from("<II", data, 4)
    if version != 2:
        raise Damaged(f"This is glTF {version}; version 2 is read.")
    if length > len(data):
        raise Damaged(f"The file says it has {length:,} bytes, but there are {len(data):,}: it was cut off.")
    found: dict[int, bytes] = {}
    at = 12
    while at + 8 <= length:
        size, kind = struct.unpack_from("<II", data, at)
        if at + 8 + size > length:
            raise Damaged("A part of the file reaches beyond its end.")
        found.setdefault(kind, data[at + 8 : at + 8 + size])
        at += 8 + size
    if _JSON not in found:
        raise Damaged("The file holds no description of what is in it.")
    return found[_JSON], found.get(_BINARY, b"")


def document(text: bytes) -> Document:
    """The description of what is in a file."""
    try:
        return Document.model_validate(orjson.loads(text))
    except orjson.JSONDecodeError as error:
        raise Damaged(f"The description of what is in the file cannot be read: {error}.") from error
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(part) for part in first["loc"])[:80]
        raise Damaged(f"The description of what is in the file is wrong at {place}: {first['msg']}.") from error


class Data:
    """The buffers of a file with those beside it, and what accessors hold."""

    def __init__(self, described: Document, binary: bytes, files: Files) -> None:
        self._described, self._binary, self._files = described, binary, files
        self._buffers: dict[int, bytes] = {}

    def _buffer(self, index: int) -> bytes:
        if index not in self._buffers:
            self._buffers[index] = self._fetched(index)
        return self._buffers[index]

    def _fetched(self, index: int) -> bytes:
        if index >= len(self._described.buffers):
            raise Damaged(f"Buffer {index} is read, but the file has none of that number.")
        told = self._described.buffers[index]
        if told.uri is None:
            found = self._binary
        elif told.uri.startswith("data:"):
            try:
                found = base64.b64decode(told.uri.partition(",")[2], validate=True)
            except (binascii.Error, ValueError) as error:
                raise Damaged(f"Buffer {index} in the file's text is damaged.") from error
        else:
            found = self._beside(unquote(told.uri))
        if len(found) < told.byte_length:
            raise Damaged(f"Buffer {index} has {len(found):,} bytes instead of {told.byte_length:,}: it was cut off.")
        return found

    def _beside(self, address: str) -> bytes:
        name = address.replace("\\", "/").rpartition("/")[2]
        if name not in self._files:
            raise Damaged(f"The file needs {name[:80]!r} beside it. Choose both together, or save it as one GLB.")
        return self._files[name]

    def _stretch(self, view: int, offset: int, kind: np.dtype[Any], width: int, count: int) -> NDArray[Any]:
        """``count`` times ``width`` numbers in a stretch of a buffer, beginning at an offset."""
        if view >= len(self._described.buffer_views):
            raise Damaged(f"Stretch {view} of the buffers is read, but the file has none of that number.")
        told = self._described.buffer_views[view]
        data = self._buffer(told.buffer)
        size = kind.itemsize * width
        stride = told.byte_stride or size
        begin, end = told.byte_offset + offset, told.byte_offset + told.byte_length
        last = begin + stride * (count - 1) + size
        if count and (stride < size or last > end or end > len(data)):
            raise Damaged(f"Values reach beyond the end of stretch {view} of the buffers.")
        raw = np.ndarray((count, size), np.uint8, data, begin, (stride, 1)) if count else np.zeros((0, size), np.uint8)
        return np.ascontiguousarray(raw).view(kind).reshape(count, width)

    def raw(self, index: int) -> tuple[NDArray[Any], Accessor]:
        """The values of an accessor as they are kept, (count, width)."""
        if index >= len(self._described.accessors):
            raise Damaged(f"Accessor {index} is read, but the file has none of that number.")
        told = self._described.accessors[index]
        if told.component_type not in _TYPES or told.type not in WIDTHS:
            raise Damaged(
                f"Accessor {index} holds {told.type[:20]!r} of type {told.component_type}, which no mesh has."
            )
        if told.count > _MOST_VALUES:
            raise Damaged(f"Accessor {index} says it holds {told.count:,} values; at most {_MOST_VALUES:,} are read.")
        kind, width = np.dtype(_TYPES[told.component_type]), WIDTHS[told.type]
        if told.buffer_view is None:
            found = np.zeros((told.count, width), dtype=kind)
        else:
            found = self._stretch(told.buffer_view, told.byte_offset, kind, width, told.count)
        return (self._with_sparse(found, told, kind), told) if told.sparse else (found, told)

    def _with_sparse(self, found: NDArray[Any], told: Accessor, kind: np.dtype[Any]) -> NDArray[Any]:
        sparse = told.sparse
        assert sparse is not None
        if sparse.count > told.count or sparse.indices.component_type not in (5121, 5123, 5125):
            raise Damaged("Values that differ are listed wrongly.")
        places_kind = np.dtype(_TYPES[sparse.indices.component_type])
        places = self._stretch(sparse.indices.buffer_view, sparse.indices.byte_offset, places_kind, 1, sparse.count)
        values = self._stretch(sparse.values.buffer_view, sparse.values.byte_offset, kind, found.shape[1], sparse.count)
        if len(places) and places.max() >= told.count:
            raise Damaged("Values that differ are listed beyond the last one.")
        changed = found.copy()
        changed[places[:, 0]] = values
        return changed

    def numbers(self, index: int) -> tuple[NDArray[np.float32], str]:
        """The values of an accessor as floats, and the type they are kept in; whole numbers run over 0..1 or -1..1."""
        found, told = self.raw(index)
        kind = found.dtype
        if kind.kind == "f" or not told.normalized:
            return found.astype(np.float32), kind.name
        # glTF 2.0, 3.6.2.2: the least of signed types is -1 as well.
        scaled = found.astype(np.float32) / np.float32(np.iinfo(kind).max)
        return np.maximum(scaled, np.float32(-1.0)), kind.name
