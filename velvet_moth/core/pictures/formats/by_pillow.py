"""JPEG, TGA and WebP, which Pillow reads; TGA is written too."""

import io
import struct
import warnings

import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError

from velvet_moth.core.pictures.formats.base import Damaged, Picture, PictureFormat, flipped

_KEPT = ("L", "LA", "RGB", "RGBA")


def _opened(data: bytes, kind: str) -> Image.Image:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            return Image.open(io.BytesIO(data), formats=(kind,))
    except Image.DecompressionBombError as error:
        raise Damaged("The picture says it has more pixels than any texture here.") from error
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, struct.error) as error:
        raise Damaged(f"The {kind} is damaged or cut off.") from error


# A progressive JPEG has about ten; each is decoded over the whole picture.
MOST_SCANS = 100


def _size(kind: str, data: bytes) -> tuple[int, int]:
    if kind == "JPEG" and data.count(b"\xff\xda") > MOST_SCANS:
        raise Damaged(f"The JPEG has more than {MOST_SCANS} scans.")
    with _opened(data, kind) as picture:
        return picture.size


def _decode(kind: str, data: bytes) -> Picture:
    notes: list[str] = []
    with _opened(data, kind) as picture:
        try:
            if getattr(picture, "n_frames", 1) > 1:
                notes.append("Only the first picture of the animation is kept.")
            picture.load()
            turned = ImageOps.exif_transpose(picture) if kind == "JPEG" else picture
            if turned.mode not in _KEPT:
                has_alpha = turned.mode in ("PA", "La", "RGBa") or "transparency" in turned.info
                wanted = "RGBA" if has_alpha else "L" if turned.mode in ("1", "I;16") else "RGB"
                notes += [f"Its colours ({turned.mode}) were turned into {wanted}."] if turned.mode == "CMYK" else []
                turned = turned.convert(wanted)
            samples = np.asarray(turned, dtype=np.uint8)
        except (OSError, SyntaxError, ValueError, IndexError, struct.error, EOFError) as error:
            raise Damaged(f"The {kind} is damaged or cut off.") from error
    return Picture(flipped(samples), " ".join(notes))


def _is_tga(data: bytes) -> bool:
    """TGA has no mark of its own: a header whose every field makes sense."""
    if len(data) < 18:
        return False
    mapped, kind, _, count, entry = struct.unpack_from("<BBHHB", data, 1)
    width, height, bits, flags = struct.unpack_from("<HHBB", data, 12)
    fits_map = (mapped == 1 and entry in (15, 16, 24, 32) and 0 < count <= 256) if kind in (1, 9) else mapped in (0, 1)
    depths = {1: (8,), 9: (8,), 3: (8, 16), 11: (8, 16)}.get(kind, (15, 16, 24, 32))
    return bool(fits_map and kind in (1, 2, 3, 9, 10, 11) and width and height and bits in depths and flags < 64)


def _tga_size(data: bytes) -> tuple[int, int]:
    width, height = struct.unpack_from("<HH", data, 12)
    return width, height


def _decode_tga(data: bytes) -> Picture:
    width, height = _tga_size(data)
    kind, bits = data[2], data[16]
    if kind < 9:
        mapped = struct.unpack_from("<H", data, 5)[0] * ((data[7] + 7) // 8)
        if len(data) < 18 + data[0] + mapped + width * height * ((bits + 7) // 8):
            raise Damaged("The TGA is damaged or cut off.")
    return _decode("TGA", data)


def _encode_tga(picture: Picture) -> bytes:
    mode = _KEPT[picture.channels - 1]
    samples = picture.samples[::-1, :, 0] if picture.channels == 1 else picture.samples[::-1]
    out = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(samples), mode).save(out, "TGA", compression="tga_rle")
    return out.getvalue()


JPEG = PictureFormat(
    "jpeg",
    "JPEG",
    suffixes=(".jpg", ".jpeg"),
    mimetype="image/jpeg",
    is_this=lambda data: data.startswith(b"\xff\xd8\xff"),
    size=lambda data: _size("JPEG", data),
    decode=lambda data: _decode("JPEG", data),
)
WEBP = PictureFormat(
    "webp",
    "WebP",
    suffixes=(".webp",),
    mimetype="image/webp",
    is_this=lambda data: data[:4] == b"RIFF" and data[8:12] == b"WEBP",
    size=lambda data: _size("WEBP", data),
    decode=lambda data: _decode("WEBP", data),
)
TGA = PictureFormat(
    "tga",
    "TGA",
    suffixes=(".tga",),
    mimetype="image/x-tga",
    is_this=_is_tga,
    size=_tga_size,
    decode=_decode_tga,
    encode=_encode_tga,
    depths=("uint8",),
    channels=(1, 2, 3, 4),
)
