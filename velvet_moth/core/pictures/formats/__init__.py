"""File formats of pictures, one file each; every one declares how it is recognised and what it can carry."""

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.pictures.formats.base import DEPTHS, Damaged, Picture, PictureFormat, Samples
from velvet_moth.core.pictures.formats.by_pillow import JPEG, TGA, WEBP
from velvet_moth.core.pictures.formats.exr import EXR
from velvet_moth.core.pictures.formats.hdr import HDR
from velvet_moth.core.pictures.formats.png import PNG, write_png

__all__ = [
    "DEPTHS",
    "FORMATS",
    "WRITABLE",
    "Picture",
    "PictureFormat",
    "Samples",
    "format_of",
    "read_picture",
    "writable",
    "write_picture",
    "write_png",
]

# TGA last: it has no mark of its own, so the others are asked first.
FORMATS: dict[str, PictureFormat] = {f.key: f for f in (PNG, JPEG, WEBP, EXR, HDR, TGA)}
WRITABLE = tuple(key for key, made in FORMATS.items() if made.encode)
READABLE = ", ".join(f.name for f in FORMATS.values())
MOST_BYTES = 128 * 1024 * 1024
LARGEST_SIDE = 4096


def format_of(data: bytes) -> PictureFormat | None:
    """The format of a file by what is in it, whatever its name says."""
    return next((f for f in FORMATS.values() if f.is_this(data)), None)


def read_picture(data: bytes, name: str) -> tuple[Picture, PictureFormat]:
    """A file's picture, every sample as it is; FileRefused with a sentence for anything else.

    The header is checked before a single pixel is decoded, so a small file cannot claim a huge picture.
    """
    found, where = check_file(data, name), f"file {name!r}"
    again = "Export it again from where it was made."
    try:
        picture = found.decode(data)
    except Damaged as error:
        raise FileRefused(str(error), where, again) from error
    suffix = f".{name.rpartition('.')[2].lower()}"
    other = next((f for f in FORMATS.values() if suffix in f.suffixes and f is not found), None)
    if other is not None:
        told = f"Its name says {other.name}, but it is {found.name}; it was read as that."
        return Picture(picture.samples, " ".join(filter(None, (told, picture.note)))), found
    return picture, found


def check_file(data: bytes, name: str) -> PictureFormat:
    """The format of a file that is worth decoding, by its first bytes; FileRefused with a sentence for any other."""
    where = f"file {name!r}"
    again = "Export it again from where it was made."
    if not data:
        raise FileRefused("The file is empty.", where, "Choose a picture.")
    if len(data) > MOST_BYTES:
        raise FileRefused(
            f"The file has {len(data) / 2**20:.0f} MB; at most {MOST_BYTES // 2**20} MB are read.",
            where,
            "Save it smaller or with stronger compression.",
        )
    found = format_of(data)
    if found is None:
        raise FileRefused(
            "This is no picture that can be read here, whatever its name says.", where, f"Export it as {READABLE}."
        )
    try:
        width, height = found.size(data)
        if not 1 <= min(width, height) <= max(width, height) <= LARGEST_SIDE:
            raise FileRefused(
                f"The picture says it is {width} x {height}; a side has 1 to {LARGEST_SIDE} pixels.",
                where,
                "Scale it first.",
            )
    except Damaged as error:
        raise FileRefused(str(error), where, again) from error
    return found


def writable(key: str) -> PictureFormat:
    """The format of that key; FileRefused where there is none or it is only read here."""
    if key not in WRITABLE:
        raise FileRefused(f"{key[:20]!r} cannot be written.", "format", f"Choose one of {', '.join(WRITABLE)}.")
    return FORMATS[key]


def write_picture(picture: Picture, key: str) -> bytes:
    """A file of the format ``key``; raises FileRefused where the format cannot carry the picture without loss.

    Radiance HDR keeps three digits of floats: it takes any RGB.
    """
    made = writable(key)
    assert made.encode is not None
    if picture.channels not in made.channels or (made.depths and picture.depth not in made.depths):
        depths = " or ".join(DEPTHS[d] for d in made.depths) or "floats"
        raise FileRefused(
            f"{made.name} carries {depths}; this picture has {DEPTHS[picture.depth]} and {picture.channels} channels.",
            key,
            "Convert it first.",
        )
    return made.encode(picture)
