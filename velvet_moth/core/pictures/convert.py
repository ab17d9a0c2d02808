"""Pictures for other programs: in another format, one channel alone, a whole set under names by a pattern."""

import io
import re
import zipfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace

import numpy as np

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.language.texture import linear_to_srgb
from velvet_moth.core.pictures.formats import Picture, writable, write_picture
from velvet_moth.core.pictures.inspection import channel_names, values_of
from velvet_moth.core.pictures.levels import levels_of
from velvet_moth.core.pictures.library import NamedPicture

# Which of four channels a picture has.
_KEPT = {1: [0], 2: [0, 3], 3: [0, 1, 2], 4: [0, 1, 2, 3]}
FIELDS = ("name", "role", "width", "height")


def one_channel(picture: Picture, channel: str) -> Picture:
    """A single channel as a grey picture; FileRefused where the picture has none of that name."""
    names = channel_names(picture)
    if channel not in names:
        raise FileRefused(f"The picture has no {channel}.", "channel", f"It has {', '.join(names)}.")
    at = names.index(channel)
    return Picture(np.ascontiguousarray(picture.samples[..., at : at + 1]))


def fitted(picture: Picture, key: str) -> Picture:
    """The picture as a format can carry it: as it is where that is so, else in the depth that loses least.

    Floats become 16 bits in PNG and 8 in TGA, cut to 0..1; whole numbers become half floats in OpenEXR.
    """
    made = writable(key)
    channels = picture.channels if picture.channels in made.channels else max(made.channels)
    samples = picture.samples
    if channels != picture.channels:
        samples = samples[..., :3] if picture.channels > 3 else np.repeat(samples[..., :1], channels, axis=2)
    if not made.depths or picture.depth in made.depths:
        return Picture(np.ascontiguousarray(samples if made.depths else _floats(samples)))
    if "float16" in made.depths:
        return Picture(_floats(samples).astype(np.float16))
    deepest = np.dtype(made.depths[-1])
    values = np.clip(_floats(samples), 0, 1)
    return Picture(np.rint(values * np.float32(np.iinfo(deepest).max)).astype(deepest))


def _floats(samples: np.ndarray) -> np.ndarray:
    return np.ascontiguousarray(values_of(Picture(samples)).transpose(1, 2, 0))


def within(texture: NamedPicture, most: int) -> NamedPicture:
    """A texture with no side longer than ``most`` pixels (0 for any): the level of detail that fits, in the depth it had."""
    picture = texture.picture
    if not most or max(picture.size) <= most:
        return texture
    # Levels have green up; a picture of another kind keeps its own.
    levels = levels_of(picture, replace(texture.reading, green="up"))
    level = next(one for one in levels if max(one.shape[:2]) <= most)
    kept = level[..., _KEPT[picture.channels]]
    if picture.samples.dtype == np.uint16:
        colours = 1 if picture.channels == 2 else min(picture.channels, 3)
        if texture.reading.is_colour:
            kept = np.concatenate((linear_to_srgb(kept[..., :colours]), kept[..., colours:]), axis=2)
        kept = np.rint(np.clip(kept, 0, 1) * 65535)
    return replace(texture, picture=Picture(np.ascontiguousarray(kept.astype(picture.samples.dtype))))


def file_names(pattern: str, textures: Iterable[Mapping[str, object]], suffix: str) -> list[str]:
    """A file name for each texture by its fields; ``{name}``, ``{role}``, ``{width}`` and ``{height}`` stand for its own.

    What no file system likes becomes a dash; names that would meet are numbered.
    """
    unknown = [field for field in re.findall(r"\{([^}]*)\}", pattern) if field not in FIELDS]
    if unknown or not pattern.strip():
        raise FileRefused(
            f"The pattern names {unknown[0]!r}, which is not known." if unknown else "The pattern is empty.",
            "pattern",
            f"Use {', '.join('{' + f + '}' for f in FIELDS)}.",
        )
    found: list[str] = []
    for texture in textures:
        name = pattern
        for field in FIELDS:
            name = name.replace("{" + field + "}", str(texture[field]))
        stem = re.sub(r"[^\w.-]+", "-", name, flags=re.ASCII).strip("-.").lower()[:100] or "texture"
        number, wanted = 2, stem
        while f"{wanted}{suffix}" in found:
            wanted = f"{stem}-{number}"
            number += 1
        found.append(f"{wanted}{suffix}")
    return found


def as_files(textures: Sequence[NamedPicture], key: str, pattern: str) -> Iterator[tuple[str, bytes]]:
    """Each texture as a file of one format, under its name by the pattern."""
    names = file_names(pattern, [texture.fields for texture in textures], writable(key).suffixes[0])
    for name, texture in zip(names, textures, strict=True):
        yield name, write_picture(fitted(texture.picture, key), key)


def as_zip(textures: Sequence[NamedPicture], key: str, pattern: str = "{name}_{role}") -> bytes:
    """All textures as files of one format in a ZIP; nothing is packed twice, so it is only stored."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as folder:
        for name, data in as_files(textures, key, pattern):
            folder.writestr(name, data)
    return out.getvalue()
