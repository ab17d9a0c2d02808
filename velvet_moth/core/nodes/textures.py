"""Reading textures, with the level of detail chosen from how fast the coordinates change."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import COLOUR_OUT, Output, from_surface, number, texture, uv
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.footprint import footprint
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.language.types import P_NUMBER, P_VEC2

GROUP = "Textures"
RED, GREEN, BLUE, ALPHA = (Output(P_NUMBER, n) for n in ("Red", "Green", "Blue", "Alpha"))
LUMINANCE = Output(P_NUMBER, "Luminance")
Picture = A[Expr, texture()]
Reading = tuple[A[Expr, COLOUR_OUT], A[Expr, RED], A[Expr, GREEN], A[Expr, BLUE], A[Expr, ALPHA], A[Expr, LUMINANCE]]
Time = A[Expr, from_surface(P_NUMBER, "time", "Seconds; the timeline's where nothing is wired.")]


@emitted_function("Level of detail")
def level_of(size: Expr, right: Expr, up: Expr) -> Expr:
    """The level at which neighbouring screen pixels read neighbouring pixels of a texture of that size.

    ``right`` and ``up`` are how the coordinates change to the pixel beside and above.
    Source: OpenGL ES 3.0 specification, section 3.8.10, the isotropic form.
    """
    across, up = right * size, up * size
    longest = p.maximum(p.dot(across, across), p.dot(up, up))
    return p.maximum(p.logarithm(p.assume(longest, 1e-30, 3.4e38)) * (0.5 / 0.6931471805599453), 0.0)


def level_of_detail(picture: Expr, coordinates: Expr) -> Expr:
    """The level of a texture that suits its coordinates at a pixel."""
    return level_of(p.texture_size(picture), *footprint(coordinates))


def read(picture: Expr, coordinates: Expr) -> Expr:
    """All four channels at the fitting level."""
    return p.sample(picture, coordinates, level_of_detail(picture, coordinates))


def channels(texel: Expr) -> tuple[Expr, Expr, Expr, Expr, Expr, Expr]:
    """The colour, each channel, and the luminance of a reading."""
    return texel.rgb, texel.r, texel.g, texel.b, texel.a, p.luminance(texel.rgb)


@node("Texture", GROUP, ("image", "bitmap", "map", "sampler", "sample"), ("read a picture", "use a mask from a file"))
def texture_(texture: Picture, uv: A[Expr, uv()]) -> Reading:
    """The colour and the single channels of a texture.

    Formula: texture at uv, filtered between pixels and levels; luminance 0.2126 r + 0.7152 g + 0.0722 b
    Use: Base colours from Colour, masks from the channel that carries them.
    See: normal_map, tile, texture_at_level
    """
    return channels(read(texture, uv))


@node(
    "Texture by footprint",
    GROUP,
    ("given derivatives", "explicit gradient", "seam", "ddx", "ddy", "derivative", "seams", "dotted lines"),
    ("read a texture without seams",),
)
def texture_by_footprint(
    texture: Picture,
    uv: A[Expr, uv()],
    footprint: A[Expr, from_surface(P_VEC2, "uv", "Smooth coordinates: how fast they change sets the level.")],
) -> Reading:
    """A texture read at coordinates that jump, as fine as other coordinates ask for.

    Formula: texture at uv, filtered between pixels and levels; the level is that of footprint
    Use: Dotted lines where coordinates jump (at edges read from a texture): wire what they were made from to Footprint.
    See: texture, texture_at_level, cell_number
    """
    return channels(p.sample(texture, uv, level_of_detail(texture, footprint)))


@node(
    "Texture at level",
    GROUP,
    ("fixed mip", "vertex texture", "lod", "blurry", "sampler", "mipmap"),
    ("move a form by a texture", "blur a texture"),
)
def texture_at_level(
    texture: Picture,
    uv: A[Expr, uv()],
    level: A[Expr, number(0.0, 0.0, 10.0, 0.1, words="0 is the sharpest; each level halves the detail.")],
) -> Reading:
    """A texture read at a level of detail you set; works in the vertex offset too.

    Formula: texture at uv, level fixed
    Use: Heights that move the form; a cheap blur.
    See: texture, waves_by_texture
    """
    return channels(p.sample(texture, uv, p.maximum(level, 0.0)))


_LOG_2, _LOG2_3 = 0.6931471805599453, 1.584962500721156
# Of a pixel: rounding must not take an edge that meets one for an edge within it.
_SLACK = 1e-3


def cell_of(index: Expr, columns: Expr, rows: Expr) -> Expr:
    """Column and row (from the top) of picture number ``index``, counted from 1; wraps around past the end.

    Halves inside each floor keep whole numbers clear of rounding, whatever the grid.
    """
    count = columns * rows
    whole = p.floor(index + 0.001) - 1.0
    inside = whole - count * p.floor((whole + 0.5) / count)
    row = p.floor((inside + 0.5) / columns)
    return p.combine(inside - row * columns, row)


def _whole_grid(columns: Expr, rows: Expr) -> Expr:
    return p.maximum(p.floor(p.combine(columns, rows) + 0.5), 1.0)


def atlas_level(texture: Expr, at: Expr, columns: Expr, rows: Expr, padding: Expr) -> Expr:
    """The level at which a cell of an atlas is as fine as the coordinates ``at`` ask for, which cross it once from 0 to 1."""
    share = (1.0 - 2.0 * p.clamp(padding, 0.0, 0.25)) / _whole_grid(columns, rows)
    return level_of(p.texture_size(texture), *(change * share for change in footprint(at)))


@emitted_function("One picture of an atlas at a level")
def atlas_at_level(
    texture: Expr, inside: Expr, index: Expr, columns: Expr, rows: Expr, padding: Expr, level: Expr
) -> Expr:
    """All four channels of an atlas cell at a place in its picture (0 to 1); what is read is whole inside the cell.

    A pixel of a coarse level may lie across the edge of a cell: those are kept out, down to the level at which a cell
    is three pixels wide. Coarser ones are read only where the edges of cells meet those of pixels.
    """
    grid, size = _whole_grid(columns, rows), p.texture_size(texture)
    gutter = p.clamp(padding, 0.0, 0.25)
    side = size / grid
    shorter = p.maximum(p.minimum(side.x, side.y), 1.0)
    texture, level = p.settled_bias(texture, level)
    finest = p.logarithm(shorter) * (1.0 / _LOG_2) + _SLACK
    in_step = p.minimum(level, p.floor(finest))
    left = p.fract(side * p.exponential(p.ceiling(in_step) * -_LOG_2) + _SLACK)
    meets = p.less(p.maximum(left.x, left.y), 2.0 * _SLACK)
    level = p.select(meets, in_step, p.minimum(level, p.maximum(p.floor(finest - _LOG2_3), 0.0)))
    cell = cell_of(index, grid.x, grid.y)
    corner = p.combine(cell.x, grid.y - 1.0 - cell.y)
    # In pixels of the coarser of the two levels that are blended: the finer ones nest in them, but for an odd one that
    # fell away and moves them by up to half a pixel.
    shrunk = p.exponential(p.ceiling(level) * -_LOG_2)
    pixels = p.maximum(p.floor(size * shrunk + _SLACK), 1.0)
    odd = p.floor(size * shrunk * 2.0 + _SLACK) - pixels * 2.0
    first, last = p.ceiling(corner * side * shrunk - _SLACK), p.floor((corner + 1.0) * side * shrunk + _SLACK)
    middle = (corner + p.mix(gutter, 1.0 - gutter, inside)) / grid * pixels
    place = p.maximum(p.minimum(middle, last - 0.5 - odd * 0.5), first + 0.5)
    return p.sample(texture, place / pixels, level)


def atlas_read(texture: Expr, at: Expr, index: Expr, columns: Expr, rows: Expr, padding: Expr) -> Expr:
    """All four channels of an atlas cell at the fitting level; its picture repeats with the whole numbers of ``at``."""
    level = atlas_level(texture, at, columns, rows, padding)
    return atlas_at_level(texture, p.fract(at), index, columns, rows, padding, level)


Columns = A[Expr, number(4.0, 1.0, 16.0, 1.0, words="Pictures side by side.")]
Rows = A[Expr, number(4.0, 1.0, 16.0, 1.0, words="Pictures one below the other.")]
Padding = A[Expr, number(0.0, 0.0, 0.25, 0.005, words="Gutter at each side of a cell, as a share of it.")]


def _pictures(ranges: Mapping[str, Interval]) -> Interval:
    """The numbers of the pictures there can be."""
    return Interval(0.0, ranges["columns"].high * ranges["rows"].high)


Index = replace(
    number(1.0, 1.0, 256.0, 1.0, words="Counted from 1, along the top row first; wraps around."),
    beyond="there are not so many pictures, so counting begins again",
    limits=_pictures,
)


@node("Atlas cell", GROUP, ("sprite sheet", "sub-image", "palette texture"), ("use one picture of many in a texture",))
def atlas_cell(
    texture: Picture,
    uv: A[Expr, uv()],
    columns: Columns,
    rows: Rows,
    index: A[Expr, Index],
    padding: Padding,
) -> Reading:
    """One picture of a grid in one texture.

    Formula: i = (floor(index) - 1) modulo (rows * columns); column i modulo columns, row floor(i / columns)
    Use: Tile palettes; Random per cell times the count gives each tile a picture of its own.
    See: frame_sequence, random_per_cell
    """
    return channels(atlas_read(texture, uv, index, columns, rows, padding))


@node(
    "Frame sequence",
    GROUP,
    ("flipbook", "sprite animation", "sparks", "smoke", "fire", "flicker"),
    ("play frames from a texture",),
)
def frame_sequence(
    texture: Picture,
    uv: A[Expr, uv()],
    columns: Columns,
    rows: Rows,
    rate: A[Expr, number(12.0, 0.0, 60.0, 0.5, "per s", "Frames each second.")],
    time: Time,
    padding: Padding,
    between: A[str, choice("blend", "cut", words="Whether neighbouring frames are mixed.")],
) -> Reading:
    """The pictures of an atlas one after the other.

    Formula: f = time * rate; frame floor(f) + 1, mixed with the next by fract(f) where blended
    Use: Steam, splashes and sparks baked to frames.
    See: atlas_cell, loop
    """
    frame = time * rate
    now = atlas_read(texture, uv, p.floor(frame) + 1.0, columns, rows, padding)
    if between == "cut":
        return channels(now)
    following = atlas_read(texture, uv, p.floor(frame) + 2.0, columns, rows, padding)
    return channels(p.mix(now, following, p.fract(frame)))
