"""Levels of detail: from a picture and how it is read to what the GPU gets, each level half the size of the last."""

from functools import lru_cache

import cv2
import numpy as np

from velvet_moth.core.language.texture import ALPHA_CUTOFF, Floats, Pixels, Texture, linear_to_srgb, srgb_to_linear
from velvet_moth.core.pictures.formats.base import Picture, Samples
from velvet_moth.core.pictures.reading import Reading

# Rows that are turned into floats at a time: a whole picture of the largest size would need 256 MB.
_STRIP = 512


def rgba(samples: Samples) -> Samples:
    """(rows, columns, 4) of the same kind: grey in all three colours, alpha full where there is none."""
    rows, columns, channels = samples.shape
    if channels == 4:
        return samples
    full = np.iinfo(samples.dtype).max if samples.dtype.kind == "u" else 1
    out = np.empty((rows, columns, 4), dtype=samples.dtype)
    out[..., :3] = samples[..., :1] if channels < 3 else samples[..., :3]
    out[..., 3] = samples[..., 1] if channels == 2 else full
    return out


def _read(samples: Samples, reading: Reading) -> Samples:
    """As the interpreters take it: 8 bits as they are, the deeper kinds decoded to linear floats; green up."""
    found = rgba(samples)
    if found.dtype == np.uint16:
        found = found.astype(np.float32) / np.float32(65535)
    if found.dtype != np.uint8 and reading.is_colour:
        found = np.dstack((srgb_to_linear(found[..., :3]), found[..., 3:])) if samples.dtype == np.uint16 else found
    if reading.turns_green:
        found = found.copy()
        found[..., 1] = (255 if found.dtype == np.uint8 else 1) - found[..., 1]
    return np.ascontiguousarray(found)


@lru_cache(maxsize=2)
def _decoding(is_colour: bool) -> Floats:
    """What each of 256 values stands for, for red, green, blue and alpha."""
    plain = np.arange(256, dtype=np.float32) / np.float32(255)
    colour = srgb_to_linear(plain) if is_colour else plain
    return np.stack((colour, colour, colour, plain), axis=-1).reshape(1, 256, 4)


@lru_cache(maxsize=1)
def _encoding() -> Pixels:
    """The sRGB value in 8 bits of each of 65536 amounts of light."""
    light = np.arange(65536, dtype=np.float32) / np.float32(65535)
    return np.rint(linear_to_srgb(light) * 255).astype(np.uint8)


# What a clear pixel weighs beside an opaque one: where all are clear, the mean is that of their colours.
_CLEAR = np.float32(1 / 4096)


def _halved(level: Floats, by_alpha: bool = False) -> Floats:
    """Each pixel the mean of the four it covers; the GPU's chain rounds the size down, so an odd edge falls away.

    With ``by_alpha`` a colour weighs as much as it is there, so that what is clear leaves no dark rim.
    """
    rows, columns, _ = level.shape
    kept = level[: max(rows & ~1, 1), : max(columns & ~1, 1)]
    size = (max(columns // 2, 1), max(rows // 2, 1))
    if by_alpha:
        kept = kept.copy()
        kept[..., :3] *= kept[..., 3:] + _CLEAR
    half = np.asarray(cv2.resize(kept, size, interpolation=cv2.INTER_AREA), dtype=np.float32).reshape(*size[::-1], 4)
    if by_alpha:
        half[..., :3] /= half[..., 3:] + _CLEAR
    return half


def _decoded(pixels: Pixels, is_colour: bool) -> Floats:
    return np.asarray(cv2.LUT(pixels, _decoding(is_colour)), dtype=np.float32)


def _halved_bytes(pixels: Pixels, is_colour: bool, by_alpha: bool) -> Floats:
    if pixels.shape[0] < 2:
        return _halved(_decoded(pixels, is_colour), by_alpha)
    strips = [pixels[at : at + _STRIP] for at in range(0, pixels.shape[0] & ~1, _STRIP)]
    return np.concatenate([_halved(_decoded(strip, is_colour), by_alpha) for strip in strips if len(strip) > 1])


def _encoded(level: Floats, is_colour: bool) -> Pixels:
    """The exact mean of colours, as light, in 8 bits."""
    if not is_colour:
        return np.rint(level * 255).astype(np.uint8)
    light = np.rint(level[..., :3] * 65535).astype(np.uint16)
    return np.dstack((_encoding()[light], np.rint(level[..., 3:] * 255).astype(np.uint8)))


# An alpha is an outline where it lies between these in so few of its pixels, and covers neither nearly all nor nothing.
_BETWEEN = (0.1, 0.9)
_FEW = 0.2
_COVERED = (0.01, 0.99)
# The pixels below which a share says nothing.
_FEWEST = 16


def outline_share(picture: Picture) -> float | None:
    """The share of a picture that its alpha covers, where that is an outline; None for soft alphas and without one."""
    if picture.channels not in (2, 4):
        return None
    alpha = picture.samples[..., -1]
    if alpha.dtype.kind == "u":
        most = int(np.iinfo(alpha.dtype).max)
        often = np.bincount(alpha.ravel(), minlength=most + 1) / alpha.size
        low, high = (int(part * most) for part in _BETWEEN)
        soft, covered = float(often[low:high].sum()), float(often[(most + 1) // 2 :].sum())
    else:
        soft = float(((alpha > _BETWEEN[0]) & (alpha < _BETWEEN[1])).mean())
        covered = float((alpha >= ALPHA_CUTOFF).mean())
    return covered if soft < _FEW and _COVERED[0] < covered < _COVERED[1] else None


def _kept_outline(level: Floats, share: float, before: float) -> tuple[Floats, float]:
    """A level whose alpha is scaled so that as much of it lies above the cut as of the first; and by how much.

    Leaves and strands would thin with every level. Source: I. Castano, "Computing Alpha Mipmaps", 2010.
    """
    alpha = level[..., 3]
    scale = before
    if alpha.size >= _FEWEST:
        at = min(int(alpha.size * (1.0 - share)), alpha.size - 1)
        scale = ALPHA_CUTOFF / max(float(np.partition(alpha.ravel(), at)[at]), 1e-3)
    kept = level.copy()
    kept[..., 3] = np.clip(alpha * np.float32(scale), 0.0, 1.0)
    return kept, scale


def levels_of(picture: Picture, reading: Reading, only_first: bool = False) -> tuple[Samples, ...]:
    """All levels, (rows, columns, 4), row 0 at the bottom, halving down to 1x1.

    8-bit pictures stay uint8 as they are encoded, colour averaged as light; the deeper kinds are linear light or
    plain numbers: float16 from half floats, else float32. ``only_first`` leaves out the smaller ones. Colours are weighed by
    their alpha, and an outline in it covers the same share of every level.
    """
    first = _read(picture.samples, reading)
    share = outline_share(picture) if reading.is_colour and not only_first else None
    by_alpha = reading.is_colour and picture.channels in (2, 4)
    scale = 1.0
    levels, is_bytes = [first], first.dtype == np.uint8
    level: Floats | None = None
    while max(levels[-1].shape[:2]) > 1 and not only_first:
        if level is not None:
            level = _halved(level, by_alpha)
        elif is_bytes:
            level = _halved_bytes(first, reading.is_colour, by_alpha)
        else:
            level = _halved(first.astype(np.float32), by_alpha)
        shown = level
        if share is not None:
            shown, scale = _kept_outline(level, share, scale)
        levels.append(_encoded(shown, reading.is_colour) if is_bytes else shown.astype(first.dtype))
    return tuple(levels)


def read_texture(picture: Picture, reading: Reading) -> Texture:
    """A picture as the interpreters read it."""
    return texture_of(levels_of(picture, reading), reading.is_colour)


def texture_of(levels: tuple[Samples, ...], is_colour: bool) -> Texture:
    """The texture as the GPU sees it: every level decoded from its own samples before filtering."""
    return Texture(
        tuple(
            np.ascontiguousarray(
                (_decoded(level, is_colour) if level.dtype == np.uint8 else level.astype(np.float32))
                .reshape(*level.shape[:2], 4)
                .transpose(2, 0, 1)
            )
            for level in levels
        )
    )
