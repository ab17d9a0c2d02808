"""Reading pictures from untrusted files, and writing PNG."""

import io
import warnings
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image, UnidentifiedImageError

from velvet_moth.core.errors import FileRefused
from velvet_moth.core.texture.image import Pixels

MOST_BYTES = 32 * 1024 * 1024
# No picture of the largest size is larger as PNG.
MOST_KEPT_BYTES = 80 * 1024 * 1024
LARGEST_SIDE = 4096
FORMATS = ("PNG", "JPEG")


@dataclass(frozen=True)
class Picture:
    """8-bit RGBA, (rows, columns, 4), row 0 at the bottom; ``note`` says what reading changed."""

    pixels: Pixels
    note: str = ""


def read_picture(data: bytes, name: str, most_bytes: int = MOST_BYTES) -> Picture:
    """A PNG or JPEG file as 8-bit RGBA; FileRefused with a sentence for anything else.

    What is kept here may be larger than an upload: a JPEG grows when it is kept without loss.

    The header is checked before a single pixel is decoded, so a small file cannot claim a huge picture.
    """
    where = f"file {name!r}"
    if not data:
        raise FileRefused("The file is empty.", where, "Choose a PNG or JPEG picture.")
    if len(data) > most_bytes:
        raise FileRefused(
            f"The file has {len(data) / 2**20:.1f} MB; at most {most_bytes // 2**20} MB are read.",
            where,
            "Save it smaller or with stronger compression.",
        )
    kind, (width, height) = _header(data, where)
    if max(width, height) > LARGEST_SIDE:
        raise FileRefused(
            f"The picture says it is {width} x {height}; a side has at most {LARGEST_SIDE} pixels.",
            where,
            "Scale it down first.",
        )
    decoded = cv2.imdecode(np.frombuffer(data, dtype=np.uint8), cv2.IMREAD_UNCHANGED)
    if decoded is None or decoded.shape[:2] not in ((height, width), (width, height)):
        raise FileRefused(f"The {kind} is damaged or cut off.", where, "Export it again from where it was made.")
    _complete(data, kind, where)
    note = ""
    if decoded.dtype == np.uint16:
        decoded = np.rint(decoded.astype(np.float32) / 257).astype(np.uint8)
        note = "16 bits a channel were rounded to 8."
    return Picture(np.ascontiguousarray(_rgba(np.asarray(decoded, dtype=np.uint8))[::-1]), note)


def _header(data: bytes, where: str) -> tuple[str, tuple[int, int]]:
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=FORMATS) as picture:
                return str(picture.format), picture.size
    except Image.DecompressionBombError as error:
        raise FileRefused(
            "The picture says it has more pixels than any texture here.", where, "Scale it down first."
        ) from error
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise FileRefused(
            "This is not a PNG or JPEG picture, whatever its name says.", where, "Export it as PNG or JPEG."
        ) from error


def _complete(data: bytes, kind: str, where: str) -> None:
    """OpenCV fills what a cut-off file lacks with grey: refuse instead of guessing."""
    try:
        with Image.open(io.BytesIO(data), formats=FORMATS) as picture:
            picture.load()
    except (OSError, SyntaxError, ValueError) as error:
        raise FileRefused(
            f"The {kind} is damaged or cut off.", where, "Export it again from where it was made."
        ) from error


def _rgba(decoded: Pixels) -> Pixels:
    if decoded.ndim == 2:
        return np.asarray(cv2.cvtColor(decoded, cv2.COLOR_GRAY2RGBA), dtype=np.uint8)
    if decoded.shape[2] == 2:
        grey, alpha = decoded[..., 0], decoded[..., 1]
        return np.dstack((grey, grey, grey, alpha))
    conversion = cv2.COLOR_BGR2RGBA if decoded.shape[2] == 3 else cv2.COLOR_BGRA2RGBA
    return np.asarray(cv2.cvtColor(decoded, conversion), dtype=np.uint8)


def write_png(pixels: Pixels, compression: int = 6) -> bytes:
    """8-bit PNG of (rows, columns, 3 or 4), row 0 at the bottom."""
    flipped = np.ascontiguousarray(pixels[::-1])
    conversion = cv2.COLOR_RGB2BGR if pixels.shape[2] == 3 else cv2.COLOR_RGBA2BGRA
    done, encoded = cv2.imencode(".png", cv2.cvtColor(flipped, conversion), [cv2.IMWRITE_PNG_COMPRESSION, compression])
    assert done
    return bytes(encoded.tobytes())
