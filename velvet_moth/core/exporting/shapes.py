"""Shapes of an export: which functions a text has, and what each gives."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.interpreters.text.module import Computed
from velvet_moth.core.lighting.channels import CHANNELS
from velvet_moth.core.lowering.lowered import LoweredGraph
from velvet_moth.core.render.shading import shown_look

# Every engine asks for these, whatever the graph sets.
ALWAYS = ("base_colour", "metallic", "roughness", "normal", "occlusion", "emissive", "opacity")


@dataclass(frozen=True)
class Shape:
    """One shape: its name, what it is in a sentence, and its functions for a graph."""

    name: str
    words: str
    functions: Callable[[LoweredGraph], list[Computed]]


def _surface(lowered: LoweredGraph) -> list[Computed]:
    surface = lowered.surface
    set_ = {key: surface[key] for key in CHANNELS if key != "offset" and (key in ALWAYS or not surface.is_default(key))}
    return [
        Computed("surface", "Surface", "SurfacePoint", set_),
        *_offset(None if surface.is_default("offset") else surface["offset"]),
    ]


def _offset(offset: Expr | None) -> list[Computed]:
    return [] if offset is None else [Computed("offset", "Offset", "VertexPoint", {"metres": offset})]


def _whole(lowered: LoweredGraph) -> list[Computed]:
    look = shown_look(lowered)
    members = {"colour": look.picture, **({} if look.opacity is None else {"opacity": look.opacity})}
    return [Computed("lit", "Lit", "SurfacePoint", members), *_offset(look.offset)]


SHAPES: Mapping[str, Shape] = {
    "surface": Shape(
        "The surface alone",
        "A function from the surface point and the values to the channels, for an engine with lights of its own.",
        _surface,
    ),
    "whole": Shape(
        "With its light",
        "A function to the colour on the screen, lit as on the stage by this program's own lights.",
        _whole,
    ),
}
