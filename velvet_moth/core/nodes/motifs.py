"""The edge of a motif: what comes in from the graph that uses it, and what goes out."""

from typing import Annotated as A

from velvet_moth.core.catalogue.ports import (
    COLOUR_OUT,
    FLEXIBLE_OUT,
    NUMBER_OUT,
    SURFACE_OUT,
    TEXTURE_OUT,
    VEC2_OUT,
    VEC3_OUT,
    Input,
    colour,
    flexible,
    surface_port,
    texture,
)
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.types import P_NUMBER, P_VEC2, P_VEC3
from velvet_moth.core.lighting.channels import Surface

GROUP = "Motifs"
_IN, _OUT = "motif input", "motif output"


@node("Number in", GROUP, ("motif input",), ("let a motif take a number",), role=_IN)
def number_in(value: A[Expr, Input(P_NUMBER, (0.5,), wirable=False)]) -> A[Expr, NUMBER_OUT]:
    """A number the motif takes; its own value stands where nothing is wired.

    Formula: the number wired to the motif
    Use: Name it for whoever uses the motif.
    See: colour_in, result_out
    """
    return value


@node("Pair in", GROUP, ("motif input", "uv input"), ("let a motif take UV",), role=_IN)
def pair_in(value: A[Expr, Input(P_VEC2, (1.0, 1.0), 0.0, 10.0, 0.1, wirable=False)]) -> A[Expr, VEC2_OUT]:
    """Two numbers the motif takes, such as UV or a tiling.

    Formula: the pair wired to the motif
    Use: Coordinates, tilings, speeds.
    See: number_in, result_out
    """
    return value


@node("Triple in", GROUP, ("motif input", "normal input"), ("let a motif take a direction",), role=_IN)
def triple_in(value: A[Expr, Input(P_VEC3, (0.0, 0.0, 1.0), -1.0, 1.0, wirable=False)]) -> A[Expr, VEC3_OUT]:
    """Three numbers the motif takes, such as a direction, a place or a normal.

    Formula: the triple wired to the motif
    Use: Normals, positions, directions.
    See: number_in, result_out
    """
    return value


@node("Colour in", GROUP, ("motif input", "tint input"), ("let a motif take a colour",), role=_IN)
def colour_in(value: A[Expr, colour(0.5, 0.5, 0.5, wirable=False)]) -> A[Expr, COLOUR_OUT]:
    """A colour the motif takes.

    Formula: the colour wired to the motif
    Use: Tints that differ from use to use.
    See: number_in, result_out
    """
    return value


@node("Texture in", GROUP, ("motif input", "map input"), ("let a motif take a texture",), role=_IN)
def texture_in(value: A[Expr, texture()]) -> A[Expr, TEXTURE_OUT]:
    """A texture the motif takes.

    Formula: the texture wired to the motif
    Use: One reading for several maps.
    See: texture_choice, result_out
    """
    return value


@node("Surface in", GROUP, ("motif input", "layer input"), ("let a motif take a surface",), role=_IN)
def surface_in(value: A[Surface, surface_port("Stands in while the motif is edited.")]) -> A[Surface, SURFACE_OUT]:
    """A whole surface the motif takes.

    Formula: the surface wired to the motif
    Use: Motifs that weather or coat whatever they are given.
    See: surface_out
    """
    return value


@node("Result out", GROUP, ("motif output",), ("let a motif give a value",), role=_OUT)
def result_out(value: A[Expr, flexible(0.0)]) -> A[Expr, FLEXIBLE_OUT]:
    """A value the motif gives to the graph that uses it.

    Formula: value
    Use: Name it; one for each output.
    See: number_in, surface_out
    """
    return value


@node("Surface out", GROUP, ("motif output",), ("let a motif give a surface",), role=_OUT)
def surface_out(value: A[Surface, surface_port()]) -> A[Surface, SURFACE_OUT]:
    """A whole surface the motif gives to the graph that uses it.

    Formula: value
    Use: A layer of paint kept for many graphs.
    See: result_out
    """
    return value


# Which node lets in a value of a port type, and which lets it out.
INPUT_NODES = {
    "number": "number_in",
    "vec2": "pair_in",
    "vec3": "triple_in",
    "colour": "colour_in",
    "texture": "texture_in",
    "surface": "surface_in",
}
OUTPUT_NODES = {"flexible": "result_out", "surface": "surface_out"}
