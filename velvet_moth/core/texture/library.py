"""Textures by id as the interpreters see them: decoded, with levels, missing ones standing in."""

from functools import lru_cache

import numpy as np

from velvet_moth.core.texture.image import Pixels, Texture, texture_from_levels

MISSING = {"missing:white": (255, 255, 255, 255), "missing:flat": (128, 128, 255, 255)}


@lru_cache(maxsize=len(MISSING))
def missing_texture(key: str) -> Texture:
    """One pixel of what an unset texture reads as."""
    return texture_from_levels((missing_pixels(key),), is_colour=False)


def missing_pixels(key: str) -> Pixels:
    return np.array(MISSING[key], dtype=np.uint8).reshape(1, 1, 4)
