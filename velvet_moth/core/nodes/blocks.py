"""Blocks: which block a surface point is on, and the material of its entry in a palette."""

import math
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import NORMAL_OUT, Output, number, texture, uv
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.types import P_COLOUR, P_NUMBER, P_VEC3
from velvet_moth.core.nodes.noises import random_of
from velvet_moth.core.nodes.normals import decoded
from velvet_moth.core.nodes.textures import Columns, Padding, Rows, atlas_at_level, atlas_level

GROUP = "Blocks"
_LOG_2 = math.log(2.0)
# Coarser than any level there is.
_COARSEST = 16.0
Seed = A[Expr, number(1.0, 0.0, 65535.0, 1.0, words="Another one gives other random numbers.")]


def block_entry() -> Expr:
    """The entry of the block that a point is on; block models carry it in their second coordinates."""
    # A whole number, but for rounding; where it is none, halves themselves are kept clear of it.
    return p.floor(surface("second_uv").x + 0.503)


def block_place() -> Expr:
    """The place of the block, in blocks from the origin of the model. It exists per pixel only: blocks share their corners."""
    size = p.maximum(surface("second_uv").y, 1e-4)
    # Half a block below its face is its middle, whichever side is seen. The side is known at pixels, and so is the sum.
    return p.floor(surface("object_position") / size - surface("object_normal") * 0.5) + p.minimum(
        surface("is_front"), 0.0
    )


@node(
    "Block",
    GROUP,
    ("voxel", "cell", "palette index", "block id"),
    ("vary each block", "know which block this is"),
    form="voxel_block",
)
def block(
    seed: Seed,
) -> tuple[
    A[Expr, Output(P_NUMBER, "Entry")],
    A[Expr, Output(P_VEC3, "Place", unit="blocks")],
    A[Expr, Output(P_NUMBER, "Random")],
]:
    """Which block of a block model this point is on: its entry in the palette, its place, a random number of its own.

    Formula: entry: the whole number nearest to second uv.x; place: floor(object position / second uv.y - object normal / 2); random:
    a hash of the place, 0 to 1
    Use: Random makes some blocks darker or wetter than others; Entry chooses among palettes.
    See: palette_tile, random_per_cell, face
    """
    place = block_place()
    return block_entry(), place, random_of(place, seed).x


def _turned(at: Expr, ways: str, seed: Expr) -> tuple[Expr, Expr, Expr]:
    """A place on a face as its tile has it; and what takes directions of the tile back onto the face: for right, for up."""
    chance = random_of(block_place(), seed + 7.0)
    angle = p.floor(chance.y * 4.0) * (math.pi / 2)
    # Of quarter turns these are whole numbers.
    cosine, sine = p.floor(p.cosine(angle) + 0.5), p.floor(p.sine(angle) + 0.5)
    if ways in ("as drawn", "mirrored"):
        cosine, sine = constant(1.0), constant(0.0)
    side = p.where_less(chance.z, 0.5, -1.0, 1.0) if "mirrored" in ways else constant(1.0)
    middle = at - 0.5
    found = p.combine((middle.x * cosine - middle.y * sine) * side, middle.x * sine + middle.y * cosine) + 0.5
    return found, p.combine(cosine * side, sine), p.combine(-sine * side, cosine)


@node(
    "Palette tile",
    GROUP,
    ("voxel palette", "material palette", "tile set", "block material", "texture array"),
    ("give blocks whole materials", "draw a model in materials"),
    form="voxel_block",
)
def palette_tile(
    base_colour: A[Expr, texture("white", "The palette's base colours.")],
    metallic: A[Expr, texture("white", "Its map of metallic; red is read.")],
    roughness: A[Expr, texture("white", "Its map of roughness; red is read.")],
    normal: A[Expr, texture("flat", "Its normal map.")],
    height: A[Expr, texture("white", "Its map of heights; red is read.")],
    emission: A[Expr, texture("white", "Its map of light that comes out of it; red is read.")],
    uv: A[Expr, uv()],
    columns: Columns,
    rows: Rows,
    padding: Padding,
    entry: A[Expr, number(0.0, 0.0, 256.0, 1.0, words="Which tile, counted from 1; 0 is the block's own.")],
    seed: Seed,
    ways: A[
        str,
        choice(
            "as drawn", "mirrored", "turned", "turned and mirrored", words="How each block's tile is turned by chance."
        ),
    ],
) -> tuple[
    A[Expr, Output(P_COLOUR, "Base colour")],
    A[Expr, Output(P_NUMBER, "Metallic")],
    A[Expr, Output(P_NUMBER, "Roughness")],
    A[Expr, NORMAL_OUT],
    A[Expr, Output(P_NUMBER, "Height")],
    A[Expr, Output(P_NUMBER, "Emission")],
    A[Expr, Output(P_NUMBER, "Alpha")],
]:
    """The material of a block, from a palette of tiles on one grid: all maps in step, and nothing of any neighbour.

    Formula: tile entry of the grid at fract(uv), as Atlas cell; at levels whose pixels are more than twice as wide as the gutter the mean of the
    whole tile instead. Turned by a quarter of a random number of the block, mirrored where another is below 1/2
    Use: Between a block model and the dock: one palette made by Tile palette, with its columns, rows and padding.
    See: block, atlas_cell, tile
    """
    number = p.where_less(entry, 0.5, block_entry(), entry)
    at, across, upwards = _turned(p.fract(uv), ways, seed)

    def of(picture: Expr) -> Expr:
        picture, level = p.settled_bias(picture, atlas_level(picture, uv, columns, rows, padding))
        side = p.texture_size(picture) / p.maximum(p.floor(p.combine(columns, rows) + 0.5), 1.0)
        gutter = p.minimum(side.x, side.y) * p.clamp(padding, 0.0, 0.25)
        # Up to here, where it is half a pixel, a gutter of the tile as it repeats joins one block to the next.
        clean = p.maximum(p.logarithm(p.maximum(gutter, 1.0)) * (1.0 / _LOG_2) + 1.0, 2.0)
        near = atlas_at_level(picture, p.clamp(at, 0.0, 1.0), number, columns, rows, padding, p.minimum(level, clean))
        mean = atlas_at_level(picture, p.combine(0.5, 0.5), number, columns, rows, padding, constant(_COARSEST))
        return p.mix(near, mean, p.smoothstep(0.0, 1.0, level - clean))

    colour = of(base_colour)
    bumps = decoded(of(normal).rgb, constant(1.0), "up")
    return (
        colour.rgb,
        of(metallic).r,
        of(roughness).r,
        p.combine(p.dot(bumps.xy, across), p.dot(bumps.xy, upwards), bumps.z),
        of(height).r,
        of(emission).r,
        colour.a,
    )
