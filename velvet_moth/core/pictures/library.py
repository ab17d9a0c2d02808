"""Textures as the interpreters see them: pictures with a name and a reading, and what stands in for missing ones."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from velvet_moth.core.language.texture import Pixels, Texture
from velvet_moth.core.pictures.formats import Picture
from velvet_moth.core.pictures.levels import texture_of
from velvet_moth.core.pictures.reading import Reading


@dataclass(frozen=True, eq=False)
class NamedPicture:
    """A picture, what it is called, and how it is meant to be read."""

    name: str
    reading: Reading
    picture: Picture

    @property
    def fields(self) -> dict[str, object]:
        """What the name of a file can tell of it."""
        width, height = self.picture.size
        return {"name": self.name, "role": self.reading.role, "width": width, "height": height}


WHITE, GREY, FLAT = "missing:white", "missing:grey", "missing:flat"
MISSING = {WHITE: (255, 255, 255, 255), GREY: (128, 128, 128, 255), FLAT: (128, 128, 255, 255)}
# Grey stands for a colour as it is seen.
MISSING_COLOURS = frozenset({GREY})


@lru_cache(maxsize=len(MISSING))
def missing_texture(key: str) -> Texture:
    """One pixel of what an unset texture reads as."""
    return texture_of((missing_pixels(key),), is_colour=key in MISSING_COLOURS)


def missing_pixels(key: str) -> Pixels:
    """The one pixel that stands in for a missing texture of a sort."""
    return np.array(MISSING[key], dtype=np.uint8).reshape(1, 1, 4)
