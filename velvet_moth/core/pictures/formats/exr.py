"""OpenEXR: half and whole floats, without loss."""

import io
import os
import struct
import tempfile
from collections.abc import Iterator, Mapping

import numpy as np
import OpenEXR

from velvet_moth.core.pictures.formats.base import Damaged, Picture, PictureFormat, Samples, flipped

MAGIC = struct.pack("<I", 20000630)
_CUT = "The OpenEXR file is damaged or cut off."
# Flags of the version field: a multi-part file, and one of deep samples.
_DEEP, _MULTI = 0x800, 0x1000
# Four floats a pixel of the largest texture.
MOST_CHANNELS = 128
MOST_HELD = 4096 * 4096 * 16


def _attributes(data: bytes) -> Iterator[tuple[str, str, bytes]]:
    """Name, type and value of every attribute of the first header."""
    at = 8
    while at < len(data) and data[at]:
        ends = [data.find(b"\0", at)]
        ends.append(data.find(b"\0", ends[0] + 1))
        if min(ends) < 0 or ends[1] + 5 > len(data):
            raise Damaged(_CUT)
        (size,) = struct.unpack_from("<i", data, ends[1] + 1)
        start = ends[1] + 5
        if size < 0 or start + size > len(data):
            raise Damaged(_CUT)
        name, kind = data[at : ends[0]], data[ends[0] + 1 : ends[1]]
        yield name.decode("latin-1"), kind.decode("latin-1"), data[start : start + size]
        at = start + size


def _size(data: bytes) -> tuple[int, int]:
    if len(data) < 8:
        raise Damaged(_CUT)
    (version,) = struct.unpack_from("<I", data, 4)
    if version & _DEEP:
        raise Damaged("The OpenEXR file holds deep samples, which a texture cannot.")
    if version & _MULTI:
        raise Damaged("The OpenEXR file holds several parts; a texture is one.")
    for name, kind, value in _attributes(data):
        if name == "dataWindow" and kind == "box2i" and len(value) == 16:
            left, top, right, bottom = struct.unpack("<4i", value)
            if right < left or bottom < top:
                raise Damaged("The OpenEXR file names a size below zero.")
            return right - left + 1, bottom - top + 1
    raise Damaged(_CUT)


def _check_channels(data: bytes, pixels: int) -> None:
    """All channels are decoded at once: a small file may not claim more of them than there is room for."""
    held = count = 0
    for name, kind, value in _attributes(data):
        at = 0
        while (name, kind) == ("channels", "chlist") and at < len(value) and value[at]:
            end = value.find(b"\0", at)
            if end < 0 or end + 17 > len(value):
                raise Damaged(_CUT)
            sample, _, across, down = struct.unpack_from("<iIii", value, end + 1)
            if (across, down) != (1, 1):
                raise Damaged("A channel of the OpenEXR file has fewer pixels than the others; a texture has one size.")
            held += pixels * (2 if sample == 1 else 4)
            count += 1
            at = end + 17
    if count > MOST_CHANNELS:
        raise Damaged(f"The OpenEXR file has {count} channels; at most {MOST_CHANNELS} are read.")
    if held > MOST_HELD:
        raise Damaged(f"The channels of the OpenEXR file need {held >> 20} MB; at most {MOST_HELD >> 20} MB are read.")


def _chosen(found: Mapping[str, Samples]) -> tuple[list[str], list[str]]:
    """The channels that make the picture, and those left out."""
    layers = {name.rpartition(".")[0] for name in found}
    layer = "" if "" in layers else min(layers)
    here = {name.rpartition(".")[2]: name for name in found if name.rpartition(".")[0] == layer}
    colour = [here[c] for c in "RGBA" if c in here]
    if [c for c in "RGB" if c in here] == ["R", "G", "B"]:
        chosen = colour
    elif "Y" in here:
        chosen = [here["Y"], *([here["A"]] if "A" in here else [])]
    else:
        chosen = sorted(here.values())[:1]
    return chosen, sorted(found.keys() - set(chosen))


def _decode(data: bytes) -> Picture:
    width, height = _size(data)
    _check_channels(data, width * height)
    try:
        file = OpenEXR.File(io.BytesIO(data), separate_channels=True)
        found = {name: np.asarray(c.pixels) for name, c in file.channels().items()}
    except (RuntimeError, ValueError, TypeError, MemoryError, KeyError) as error:
        raise Damaged(_CUT) from error
    if not found or any(c.shape != (height, width) for c in found.values()):
        raise Damaged("The channels of the OpenEXR file differ in size; a texture has one size.")
    chosen, left = _chosen(found)
    kinds = {found[name].dtype.name for name in chosen}
    depth = np.float16 if kinds == {"float16"} else np.float32
    samples = np.stack([found[name].astype(depth) for name in chosen], axis=-1)
    notes = [f"The channels {', '.join(left[:4])}{' …' if len(left) > 4 else ''} were left out."] if left else []
    if not np.isfinite(samples).all():
        wrong = int((~np.isfinite(samples)).any(axis=-1).sum())
        most = float(np.finfo(depth).max)
        samples = np.clip(np.where(np.isnan(samples), np.zeros((), depth), samples), -most, most).astype(depth)
        notes.append(f"{wrong} pixels that were no numbers or infinite were set to 0 or the largest number.")
    return Picture(flipped(samples), " ".join(notes))


def _encode(picture: Picture) -> bytes:
    names = {1: "Y", 2: "YA", 3: "RGB", 4: "RGBA"}[picture.channels]
    rows = picture.samples[::-1]
    channels = {name: np.ascontiguousarray(rows[..., i]) for i, name in enumerate(names)}
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    with tempfile.TemporaryDirectory() as folder:
        path = os.path.join(folder, "out.exr")
        with OpenEXR.File(header, channels) as file:
            file.write(path)
        with open(path, "rb") as written:
            return written.read()


EXR = PictureFormat(
    "exr",
    "OpenEXR",
    suffixes=(".exr",),
    mimetype="image/x-exr",
    is_this=lambda data: data.startswith(MAGIC),
    size=_size,
    decode=_decode,
    encode=_encode,
    depths=("float16", "float32"),
    channels=(1, 2, 3, 4),
)
