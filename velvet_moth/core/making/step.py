"""The steps that make textures, and what they take."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Union

from velvet_moth.core.catalogue.settings import whole
from velvet_moth.core.making.exchange import DEPTHS
from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.stacks.step import Family

# Gives a picture at the size it is needed in.
PictureAt = Callable[[Canvas], Layer]


@dataclass(frozen=True)
class PlacedTile:
    """A tile as a step gets it: for each map that is set a picture, or one value all over."""

    name: str
    maps: Mapping[str, Union[PictureAt, tuple[float, ...]]]


SEED = whole(0, 9999, "another number is another picture of the same kind")

# A function of a step takes the canvas and its settings.
TEXTURES = Family(
    "texture",
    groups=("Begin", "Shapes", "Adjust", "Height", "Combine", "Sets"),
    layer="picture",
    depths=DEPTHS,
    most_outputs=8,
)
step = TEXTURES.step
