"""PNG (ISO/IEC 15948): 8 and 16 bits a channel, without loss."""

import struct
import zlib
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import cv2
import numpy as np

from velvet_moth.core.pictures.formats.base import Damaged, Picture, PictureFormat, Samples, flipped

SIGNATURE = b"\x89PNG\r\n\x1a\n"
# Samples a pixel by colour type: grey, RGB, palette, grey and alpha, RGBA.
_SAMPLES = {0: 1, 2: 3, 3: 1, 4: 2, 6: 4}
# Start and step of the columns and rows of each pass of an interlaced picture.
_PASSES = ((0, 8, 0, 8), (4, 8, 0, 8), (0, 4, 4, 8), (2, 4, 0, 4), (0, 2, 2, 4), (1, 2, 0, 2), (0, 1, 1, 2))
_CUT = "The PNG is damaged or cut off."


def _chunks(data: bytes) -> Iterator[tuple[bytes, memoryview]]:
    """Every chunk, its checksum tested, up to the end mark, which must be there."""
    view, at = memoryview(data), len(SIGNATURE)
    while at + 12 <= len(data):
        (length,) = struct.unpack_from(">I", data, at)
        kind, body = data[at + 4 : at + 8], view[at + 8 : at + 8 + length]
        if at + 12 + length > len(data):
            break
        (told,) = struct.unpack_from(">I", data, at + 8 + length)
        if zlib.crc32(view[at + 4 : at + 8 + length]) != told:
            raise Damaged(_CUT)
        yield kind, body
        if kind == b"IEND":
            return
        at += 12 + length
    raise Damaged(_CUT)


def _size(data: bytes) -> tuple[int, int]:
    if len(data) < 33 or data[12:16] != b"IHDR":
        raise Damaged(_CUT)
    width, height = struct.unpack_from(">II", data, 16)
    return width, height


def _expected(data: bytes) -> int:
    """How many bytes the pixels have before compression, each row with its filter byte."""
    width, height = _size(data)
    bits, colour, _, _, interlaced = data[24:29]
    if colour not in _SAMPLES or bits not in (1, 2, 4, 8, 16):
        raise Damaged("The PNG names a kind of colour that PNG does not have.")

    def held(columns: int, rows: int) -> int:
        return rows * (1 + (columns * bits * _SAMPLES[colour] + 7) // 8) if columns and rows else 0

    if not interlaced:
        return held(width, height)
    return sum(held(-((x - width) // dx), -((y - height) // dy)) for x, dx, y, dy in _PASSES)


def _check(data: bytes) -> None:
    """A decoder fills what a file lacks with black: refuse instead of guessing."""
    inflate, found, expected = zlib.decompressobj(), 0, _expected(data)
    try:
        for kind, body in _chunks(data):
            rest: bytes | memoryview = body if kind == b"IDAT" else b""
            while len(rest) and not inflate.eof:
                found += len(inflate.decompress(rest, 1 << 20))
                rest = inflate.unconsumed_tail
                if found > expected:
                    raise Damaged("The PNG holds more pixels than the size it names.")
    except zlib.error as error:
        raise Damaged(_CUT) from error
    if found < expected:
        raise Damaged(_CUT)


def _decode(data: bytes) -> Picture:
    # Both let go of the interpreter, so that testing costs little time beside decoding.
    with ThreadPoolExecutor(1) as beside:
        tested = beside.submit(_check, data)
        decoded = cv2.imdecode(np.frombuffer(data, dtype=np.uint8), cv2.IMREAD_UNCHANGED)
        tested.result()
    width, height = _size(data)
    if decoded is None or decoded.shape[:2] != (height, width):
        raise Damaged(_CUT)
    found: Samples = np.asarray(decoded)
    if found.ndim == 3 and found.shape[2] >= 3:
        found = cv2.cvtColor(found, cv2.COLOR_BGR2RGB if found.shape[2] == 3 else cv2.COLOR_BGRA2RGBA)
    if data[25] == 4 and found.shape[2] == 4:
        found = found[..., 2:]
    return Picture(flipped(found))


def write_png(samples: Samples, compression: int = 6) -> bytes:
    """8- or 16-bit PNG of (rows, columns, 1 to 4), row 0 at the bottom."""
    rows = np.ascontiguousarray(samples[::-1])
    if rows.shape[2] == 2:
        return _grey_and_alpha(rows, compression)
    if rows.shape[2] >= 3:
        rows = cv2.cvtColor(rows, cv2.COLOR_RGB2BGR if rows.shape[2] == 3 else cv2.COLOR_RGBA2BGRA)
    done, encoded = cv2.imencode(".png", rows, [cv2.IMWRITE_PNG_COMPRESSION, compression])
    assert done
    return bytes(encoded.tobytes())


def _grey_and_alpha(rows: Samples, compression: int) -> bytes:
    """OpenCV writes no grey with alpha: rows without a filter, compressed by zlib."""
    height, width, _ = rows.shape
    bits = rows.dtype.itemsize * 8
    body = rows.astype(rows.dtype.newbyteorder(">")).view(np.uint8).reshape(height, -1)
    raw = np.hstack((np.zeros((height, 1), dtype=np.uint8), body)).tobytes()

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = struct.pack(">IIBBBBB", width, height, bits, 4, 0, 0, 0)
    return SIGNATURE + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(raw, compression)) + chunk(b"IEND", b"")


PNG = PictureFormat(
    "png",
    "PNG",
    suffixes=(".png",),
    mimetype="image/png",
    is_this=lambda data: data.startswith(SIGNATURE),
    size=_size,
    decode=_decode,
    encode=lambda picture: write_png(picture.samples, 3),
    depths=("uint8", "uint16"),
    channels=(1, 2, 3, 4),
)
