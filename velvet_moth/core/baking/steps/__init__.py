"""Each step of meshes as one decorated function, by what it takes its numbers from."""

from velvet_moth.core.baking.steps import (
    along,
    change,
    comb,
    directions,
    form,
    given,
    light,
    paint,
    patterns,
    random,
    shape,
    together,
    uvs,
)

__all__ = [
    "along",
    "change",
    "comb",
    "directions",
    "form",
    "given",
    "light",
    "paint",
    "patterns",
    "random",
    "shape",
    "together",
    "uvs",
]
