"""Making textures: a stack of steps, each one function; computed from the first to the last, never painted in."""

from velvet_moth.core.making import adjust, atlas, chalk, combine, height, noise, shapes
from velvet_moth.core.making.layer import Canvas, Layer
from velvet_moth.core.making.step import TEXTURES

__all__ = ["TEXTURES", "Canvas", "Layer", "adjust", "atlas", "chalk", "combine", "height", "noise", "shapes"]
