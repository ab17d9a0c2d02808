"""Regular patterns and the numbers of their cells."""

from typing import Annotated as A

from velvet_moth.core.catalogue.ports import COLOUR_OUT, NUMBER_OUT, UV_OUT, Output, number, uv, vec2
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.types import P_NUMBER, P_VEC2
from velvet_moth.core.nodes.noises import Seed, random_of

GROUP = "Patterns"
Tiling = A[Expr, vec2(4.0, 4.0, 0.0, 64.0, 1.0, words="Cells along u and v.")]
_CELL = Output(P_VEC2, "Cell")


@node("Checker", GROUP, ("checkerboard", "chess"), ("check UVs",))
def checker(
    uv: A[Expr, uv()], tiling: A[Expr, vec2(4.0, 4.0, 0.0, 64.0, 1.0, words="Pairs of squares along u and v.")]
) -> A[Expr, NUMBER_OUT]:
    """Black and white squares.

    Formula: modulo(floor(2 p.x) + floor(2 p.y), 2), p = uv tiling
    Use: See how UVs lie on a form.
    See: tile, stripes
    """
    cell = p.floor(uv * tiling * 2.0)
    return p.modulo(cell.x + cell.y, 2.0)


@node("Stripes", GROUP, ("lines", "bands", "bars", "scan lines"), ("make stripes",))
def stripes(
    uv: A[Expr, uv()],
    count: A[Expr, number(6.0, 0.0, 64.0, 1.0, words="Stripes along U.")],
    width: A[Expr, number(0.5, words="Share of a stripe that is white.")],
    softness: A[Expr, number(0.1, 0.0, 0.5, words="How soft its edges are, of a stripe's width.")],
) -> A[Expr, NUMBER_OUT]:
    """White stripes on black across U; turn the UV for other directions.

    Formula: 1 - smoothstep(h - s, h + s, d), h = width / 2, s = max(softness / 2, 0.0001), d = |fract(uv.x count) -
    1/2|
    Use: Pennants, planks, ribs.
    See: checker, wave, turn
    """
    d = p.absolute(p.fract(uv.x * count) - 0.5)
    half, soft = width * 0.5, p.maximum(softness * 0.5, 1e-4)
    return p.assume(1.0 - p.smoothstep(half - soft, half + soft, d), 0.0, 1.0)


@node(
    "Disc", GROUP, ("circle", "radial gradient", "distance to centre", "spot", "sphere mask"), ("fade from a centre",)
)
def disc(
    uv: A[Expr, uv()],
    centre: A[Expr, vec2(0.5, 0.5)],
    inner: A[Expr, number(0.3, words="White up to this distance.")],
    outer: A[Expr, number(0.5, words="Black from this distance on.")],
) -> tuple[A[Expr, NUMBER_OUT], A[Expr, Output(P_NUMBER, "Distance")]]:
    """A white disc with a soft edge, and the distance to its centre.

    Formula: 1 - smoothstep(inner, outer, distance); Distance = |uv - centre|
    Use: Spots, splashes, a mask around a place.
    See: smooth_step, cell_noise, splash
    """
    distance = p.length(uv - centre)
    return p.assume(1.0 - p.smoothstep(inner, outer, distance), 0.0, 1.0), distance


@node("Brick", GROUP, ("tiles", "planks", "masonry", "which tile am I in", "bricks"), ("give each tile its own tone",))
def brick(
    uv: A[Expr, uv()],
    tiling: A[Expr, vec2(4.0, 8.0, 0.0, 64.0, 1.0, words="Bricks along u, courses along v.")],
    shift: A[Expr, number(0.5, words="How far every second course is moved; 0 gives square tiles.")],
    gap: A[Expr, number(0.08, 0.0, 0.5, words="Width of the joint, of a brick's side.")],
    softness: A[Expr, number(0.02, 0.0, 0.2, words="How soft the joint's edge is.")],
    seed: Seed,
) -> tuple[
    A[Expr, Output(P_NUMBER, "Brick")],
    A[Expr, Output(P_NUMBER, "Random")],
    A[Expr, _CELL],
    A[Expr, Output(P_VEC2, "UV")],
]:
    """Courses of bricks: white on a brick, a random number and the cell of each, and UV inside it.

    Formula: place = uv tiling, every second course moved by shift; edge distance over gap / 2, softened;
    random(floor(place), seed)
    Use: Masonry, planks, boathouse tiles; Random varies tone and roughness, with other seeds independently.
    See: checker, cell_number, random_per_cell
    """
    place = uv * tiling
    course = p.floor(place.y)
    moved = p.combine(place.x + p.modulo(course, 2.0) * shift, place.y)
    cell = p.floor(moved)
    inside = moved - cell
    edge = p.minimum(p.minimum(inside.x, 1.0 - inside.x), p.minimum(inside.y, 1.0 - inside.y))
    soft = p.maximum(softness, 1e-4)
    white = p.smoothstep(gap * 0.5 - soft * 0.5, gap * 0.5 + soft * 0.5, edge)
    return white, random_of(cell, seed).x, cell, inside


@node("Cell number", GROUP, ("tile index", "which tile", "cell id"), ("know which tile this is",))
def cell_number(uv: A[Expr, uv()], tiling: Tiling) -> tuple[A[Expr, _CELL], A[Expr, UV_OUT]]:
    """Which cell of a grid this is, counted from 0 along u and v, and UV inside the cell.

    Formula: floor(uv tiling); fract(uv tiling)
    Use: Feed Cell to Random per cell; UV to a texture for each tile.
    See: random_per_cell, brick, atlas_cell
    """
    place = uv * tiling
    cell = p.floor(place)
    return cell, place - cell


@node(
    "Random per cell",
    GROUP,
    ("random per tile", "hash", "random id", "seed", "repetition"),
    ("give each tile its own tone",),
)
def random_per_cell(
    cell: A[Expr, vec2(0.0, 0.0, 0.0, 64.0, 1.0, words="Whole numbers, from Cell number or Brick.")],
    seed: Seed,
    low: A[Expr, number(0.0, words="The least it gives.")],
    high: A[Expr, number(1.0, words="The most it gives.")],
) -> tuple[A[Expr, NUMBER_OUT], A[Expr, COLOUR_OUT]]:
    """A random number for each cell, and three of them as a colour; other seeds are independent.

    Formula: low + (high - low) * random(floor(cell), seed) (pcg3d, M. Jarzynski and M. Olano, 2020)
    Use: Tone from one seed and roughness from another, so that bright tiles are not always the smooth ones.
    See: cell_number, brick, atlas_cell
    """
    drawn = random_of(p.floor(cell + 0.001), seed)
    return p.mix(low, high, drawn.x), p.mix(p.splat(low, 3), p.splat(high, 3), drawn)


@node("Grid distance", GROUP, ("grid lines", "wireframe pattern"), ("draw a grid", "round the edges of tiles"))
def grid_distance(uv: A[Expr, uv()], tiling: Tiling) -> A[Expr, Output(P_NUMBER, "Distance")]:
    """How far the nearest line of a grid is, in cells: 0 on the lines, 1/2 in the middle of a cell.

    Formula: min(d.x, d.y), d = 1/2 - abs(fract(uv tiling) - 1/2)
    Use: Joints, bevels, measuring lines.
    See: cell_number, stripes, smooth_step
    """
    away = 0.5 - p.absolute(p.fract(uv * tiling) - 0.5)
    return p.assume(p.minimum(away.x, away.y), 0.0, 0.5)
