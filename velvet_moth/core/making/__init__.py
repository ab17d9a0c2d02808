"""Making textures: a stack of steps, each one function; computed from the first to the last, never painted in."""

from velvet_moth.core.catalogue.settings import Setting
from velvet_moth.core.making import adjust, atlas, chalk, combine, height, noise, shapes
from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.making.step import GROUPS, STEPS, Step

__all__ = [
    "GROUPS",
    "STEPS",
    "Canvas",
    "Layer",
    "Setting",
    "Step",
    "adjust",
    "atlas",
    "chalk",
    "combine",
    "height",
    "noise",
    "shapes",
]
