"""Radiance HDR: RGB with a shared exponent of 8 bits, about three significant digits."""

import re

import cv2
import numpy as np

from velvet_moth.core.pictures.formats.base import Damaged, Picture, PictureFormat, flipped

_RESOLUTION = re.compile(rb"\n\n([-+])Y (\d{1,7}) ([-+])X (\d{1,7})\n")
_CUT = "The HDR file is damaged or cut off."


def _header(data: bytes) -> re.Match[bytes]:
    found = _RESOLUTION.search(data[:8192].replace(b"\r\n", b"\n"))
    if found is None:
        raise Damaged(_CUT)
    if found[1] + found[3] != b"-+":
        raise Damaged("The HDR file is turned or mirrored; rows from the top and columns from the left are read.")
    return found


def _size(data: bytes) -> tuple[int, int]:
    found = _header(data)
    return int(found[4]), int(found[2])


def _decode(data: bytes) -> Picture:
    width, height = _size(data)
    _complete(data, width, height)
    decoded = cv2.imdecode(np.frombuffer(data, dtype=np.uint8), cv2.IMREAD_UNCHANGED)
    if decoded is None or decoded.shape[:2] != (height, width):
        raise Damaged(_CUT)
    rgb = cv2.cvtColor(np.asarray(decoded, dtype=np.float32), cv2.COLOR_BGR2RGB)
    if not np.isfinite(rgb).all():
        raise Damaged(_CUT)
    return Picture(flipped(rgb))


def _complete(data: bytes, width: int, height: int) -> None:
    """Walks the run lengths of every row: the decoder fills what is missing with what it had before."""
    at, end = _header(data).end(), len(data)
    is_packed = 8 <= width < 32768 and data[at : at + 2] == b"\x02\x02"
    if not is_packed:
        if end - at < width * height * 4 and not _old_runs(data, at, width * height):
            raise Damaged(_CUT)
        return
    for _ in range(height):
        if data[at : at + 4] != bytes((2, 2, width >> 8, width & 255)):
            raise Damaged(_CUT)
        at += 4
        for _ in range(4):
            left = width
            while left > 0:
                if at >= end:
                    raise Damaged(_CUT)
                count = data[at]
                run = count - 128 if count > 128 else count
                at += 2 if count > 128 else 1 + count
                if run == 0 or run > left:
                    raise Damaged(_CUT)
                left -= run
        if at > end:
            raise Damaged(_CUT)


def _old_runs(data: bytes, at: int, pixels: int) -> bool:
    """Whether the older packing, a pixel (1, 1, 1, n) that repeats the one before, reaches the end."""
    shift = 0
    while pixels > 0:
        pixel = data[at : at + 4]
        if len(pixel) < 4:
            return False
        is_run = pixel[:3] == b"\x01\x01\x01"
        pixels -= pixel[3] << shift if is_run else 1
        shift = shift + 8 if is_run else 0
        at += 4
    return True


def _rounded(rgb: np.ndarray) -> np.ndarray:
    """(rows, columns, 3) as the format can hold it, a quarter step up: the encoder cuts off what is less than a step."""
    largest = rgb.max(axis=2, keepdims=True)
    exponent = np.frexp(largest)[1]
    # What rounds up to the next power of two has steps twice as large.
    exponent += np.rint(np.ldexp(largest, 8 - exponent)) >= 256
    steps = np.rint(np.ldexp(rgb, 8 - exponent)) + np.float32(0.25)
    return np.asarray(np.where(largest > 1e-32, np.ldexp(steps, exponent - 8), 0), dtype=np.float32)


def _encode(picture: Picture) -> bytes:
    rgb = _rounded(np.ascontiguousarray(picture.samples[::-1, :, :3].astype(np.float32)))
    done, encoded = cv2.imencode(".hdr", cv2.cvtColor(rgb, cv2.COLOR_RGB2BGR))
    assert done
    return bytes(encoded.tobytes())


HDR = PictureFormat(
    "hdr",
    "Radiance HDR",
    suffixes=(".hdr",),
    mimetype="image/vnd.radiance",
    is_this=lambda data: data.startswith((b"#?RADIANCE", b"#?RGBE")),
    size=_size,
    decode=_decode,
    encode=_encode,
    depths=(),
    channels=(3,),
)
