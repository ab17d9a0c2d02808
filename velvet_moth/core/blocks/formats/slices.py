"""Pictures as blocks: a ZIP of PNG slices, one for each layer from below; and one picture of heights."""

import io
import zipfile

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.blocks.cells import MOST_ENTRIES, SIDE, Blocks
from velvet_moth.core.blocks.formats.base import AGAIN, Asked, BlockFormat, Colours, standing
from velvet_moth.core.blocks.of_mesh import nearest_entries
from velvet_moth.core.language.texture import srgb_to_linear
from velvet_moth.core.pictures.formats import FORMATS, Picture, read_picture, write_png

# Bytes of one slice, unpacked.
_LARGEST = 8 << 20


def _picture(data: bytes, name: str) -> Picture:
    found = next((one for one in FORMATS.values() if one.is_this(data)), None)
    # Looked at before a pixel is decoded.
    if found is not None and max(found.size(data)) > SIDE:
        raise FileRefused(
            f"A picture of blocks has at most {SIDE} pixels a side.", f"file {name!r}", "Scale it down first."
        )
    return read_picture(data, name)[0]


def _decode_slices(data: bytes, asked: Asked) -> Blocks:
    """Grey pictures hold entries (0 is empty), others colours whose nearest entries are found (what is clear is empty)."""
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        slices = sorted((one for one in archive.infolist() if not one.is_dir()), key=lambda one: one.filename)
    except zipfile.BadZipFile as error:
        raise FileRefused("The archive cannot be read.", asked.where, AGAIN) from error
    if not 1 <= len(slices) <= SIDE:
        raise FileRefused(f"An archive of slices holds 1 to {SIDE} pictures.", asked.where, "Leave some out.")
    places, entries = [], []
    for layer, one in enumerate(slices):
        if one.file_size > _LARGEST:
            raise FileRefused("A slice is too large.", f"file {one.filename[:60]!r}", "Scale it down first.")
        with archive.open(one) as file:
            picture = _picture(file.read(_LARGEST + 1), one.filename[:60])
        found = _entries(picture, asked)
        row, column = np.nonzero(found)
        # The lower edge of a slice is the front of the model.
        places.append(np.stack((column, np.full(len(row), layer), -row), axis=1))
        entries.append(found[row, column])
    return standing(np.concatenate(places), np.concatenate(entries), asked.where)


def _shares(picture: Picture) -> NDArray[np.float32]:
    samples = picture.samples
    most = np.iinfo(samples.dtype).max if samples.dtype.kind in "iu" else 1.0
    return np.asarray(samples / most, dtype=np.float32)


def _entries(picture: Picture, asked: Asked) -> NDArray[np.int64]:
    if picture.channels == 1 and picture.samples.dtype.kind in "iu":
        found = picture.samples[..., 0].astype(np.int64)
        if found.max() > MOST_ENTRIES:
            raise FileRefused(f"An entry of a slice is more than {MOST_ENTRIES}.", asked.where, "Number them from 1.")
        return found
    if not len(asked.colours):
        raise FileRefused("Colours need a palette to be found in.", asked.where, "Choose a palette first.")
    shares = _shares(picture)
    colour = shares[..., :3] if picture.channels >= 3 else np.repeat(shares[..., :1], 3, axis=-1)
    near = nearest_entries(srgb_to_linear(colour).reshape(-1, 3).astype(np.float64), asked.colours)
    is_there = shares[..., -1] >= 0.5 if picture.channels in (2, 4) else np.ones(shares.shape[:2], dtype=bool)
    return np.where(is_there, near.reshape(shares.shape[:2]), 0)


def _encode_slices(blocks: Blocks, size: float, colours: Colours) -> bytes:
    packed = io.BytesIO()
    low, high = blocks.box or ((0, 0, 0), (1, 1, 1))
    cells = blocks.dense((low, high))
    with zipfile.ZipFile(packed, "w") as archive:
        for layer in range(cells.shape[1]):
            # Rows from the front to the back.
            rows = cells[:, layer, ::-1].T[..., None]
            archive.writestr(f"slice_{layer:03}.png", write_png(np.ascontiguousarray(rows)))
    return packed.getvalue()


def _decode_heights(data: bytes, asked: Asked) -> Blocks:
    """A column of blocks for each pixel that is not black, as high as it is bright."""
    shares = _shares(_picture(data, asked.name))[..., 0]
    high = np.round(np.clip(shares, 0, 1) * min(max(asked.high, 1), SIDE)).astype(np.int64)
    row, column = np.nonzero(high)
    counts = high[row, column]
    starts = np.repeat(np.cumsum(counts) - counts, counts)
    layer = np.arange(counts.sum()) - starts
    places = np.stack((np.repeat(column, counts), layer, -np.repeat(row, counts)), axis=1)
    return standing(places, np.full(len(places), asked.entry, dtype=np.int64), asked.where)


SLICES = BlockFormat(
    "slices",
    "PNG slices",
    "a ZIP of pictures, one for each layer from below: grey ones hold entries, others colours",
    ".zip",
    "application/zip",
    lambda data: data[:4] == b"PK\x03\x04",
    _decode_slices,
    _encode_slices,
)
HEIGHTS = BlockFormat(
    "heights",
    "Picture of heights",
    "a picture: the brighter a pixel, the higher its column",
    ".png",
    "image/png",
    lambda data: any(one.is_this(data) for one in FORMATS.values()),
    _decode_heights,
)
