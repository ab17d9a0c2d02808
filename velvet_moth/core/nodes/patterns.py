"""Patterns computed from coordinates, all built on one integer hash."""

from typing import Annotated as A

from velvet_moth.core import primitives as p
from velvet_moth.core.catalogue import node
from velvet_moth.core.expr import Expr, constant
from velvet_moth.core.ports import NUMBER_OUT, Output, number, uv, vec2, whole
from velvet_moth.core.trace import emitted_function
from velvet_moth.core.types import P_NUMBER

GROUP = "Patterns"
Scale = A[Expr, number(8.0, 0.0, 64.0, 0.1, words="Cells across one unit of the coordinates.")]
Seed = A[Expr, number(1.0, 0.0, 100.0, 1.0, words="Another number, another pattern.")]


def _random(cell: Expr, seed: Expr) -> Expr:
    return p.cell_random(p.combine(cell, p.floor(seed)))


def _eased(t: Expr) -> Expr:
    """6t^5 - 15t^4 + 10t^3. Source: K. Perlin, "Improving Noise", 2002."""
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


def _corners(cell: Expr) -> tuple[Expr, Expr, Expr, Expr]:
    return cell, cell + p.combine(1.0, 0.0), cell + p.combine(0.0, 1.0), cell + p.combine(1.0, 1.0)


@emitted_function("Value noise at a place")
def value_noise_at(place: Expr, seed: Expr) -> Expr:
    """Random heights at whole coordinates, smoothly joined; 0..1."""
    cell = p.floor(place)
    t = _eased(place - cell)
    a, b, c, d = (_random(k, seed).x for k in _corners(cell))
    return p.assume(p.mix(p.mix(a, b, t.x), p.mix(c, d, t.x), t.y), 0.0, 1.0)


@emitted_function("Gradient noise at a place")
def gradient_noise_at(place: Expr, seed: Expr) -> Expr:
    """Random slopes at whole coordinates, smoothly joined; about -1..1, 0 at whole coordinates."""
    cell = p.floor(place)
    f = place - cell
    t = _eased(f)
    a, b, c, d = (p.dot(_random(k, seed).xy * 2.0 - 1.0, place - k) for k in _corners(cell))
    # Slopes up to (1, 1) over half a cell: the sum of the four never exceeds 1.
    return p.assume(p.mix(p.mix(a, b, t.x), p.mix(c, d, t.x), t.y), -1.0, 1.0)


@node("Value noise", GROUP, ("random clouds", "smooth noise"), ("break up an even tone",))
def value_noise(uv: A[Expr, uv()], scale: Scale, seed: Seed) -> A[Expr, NUMBER_OUT]:
    """Soft random blotches between 0 and 1.

    Formula: random numbers at whole coordinates, joined by 6t^5 - 15t^4 + 10t^3
    Use: Break up an even tone cheaply.
    See: gradient_noise, fractal_noise
    """
    return value_noise_at(uv * scale, seed)


@node("Gradient noise", GROUP, ("perlin", "smooth noise", "clouds"), ("break up an even tone", "make soft waves"))
def gradient_noise(uv: A[Expr, uv()], scale: Scale, seed: Seed) -> A[Expr, NUMBER_OUT]:
    """Soft random hills between 0 and 1, more even in size than Value noise.

    Formula: 0.5 + 0.5 * random slopes at whole coordinates, joined by 6t^5 - 15t^4 + 10t^3
    Use: Hills, wisps, slow variation.
    See: value_noise, fractal_noise
    """
    return p.assume(gradient_noise_at(uv * scale, seed) * 0.5 + 0.5, 0.0, 1.0)


@node("Fractal noise", GROUP, ("fbm", "turbulence", "clouds"), ("make natural roughness", "make clouds"))
def fractal_noise(
    uv: A[Expr, uv()],
    scale: Scale,
    gain: A[Expr, number(0.5, words="Strength of each finer layer beside the one before.")],
    seed: Seed,
    layers: A[int, whole(4, 1, 8, "How many layers, each twice as fine.")],
) -> A[Expr, NUMBER_OUT]:
    """Hills upon hills: noise in several sizes added up, between 0 and 1.

    Formula: 0.5 + 0.5 * sum(gain^i * noise(uv * scale * 2^i)) / sum(gain^i)
    Use: Dirt, clouds, stone.
    See: gradient_noise, cell_noise
    """
    place, strength = uv * scale, constant(1.0)
    total, weight = constant(0.0), constant(0.0)
    for layer in range(layers):
        total = total + gradient_noise_at(place, seed + float(layer * 17)) * strength
        weight = weight + strength
        place = place * 2.0
        strength = strength * gain
    return p.assume(total / weight * 0.5 + 0.5, 0.0, 1.0)


@node("Cell noise", GROUP, ("voronoi", "worley", "cellular"), ("make flakes, scales or pebbles",))
def cell_noise(
    uv: A[Expr, uv()], scale: Scale, seed: Seed
) -> tuple[A[Expr, Output(P_NUMBER, "Distance")], A[Expr, Output(P_NUMBER, "Random")]]:
    """Distance to the nearest of scattered points, and a random number for each point's cell.

    Formula: min |place - point|; random(cell). S. Worley, "A Cellular Texture Basis Function", 1996
    Use: Flakes and pebbles; Random gives each its own tone.
    See: value_noise, checker
    """
    place = uv * scale
    cell = p.floor(place)
    nearest, chosen = constant(8.0), constant(0.0)
    for y in (-1.0, 0.0, 1.0):
        for x in (-1.0, 0.0, 1.0):
            other = cell + p.combine(x, y)
            drawn = _random(other, seed)
            d = other + drawn.xy - place
            squared = p.dot(d, d)
            closer = p.less(squared, nearest)
            nearest = p.select(closer, squared, nearest)
            chosen = p.select(closer, drawn.z, chosen)
    return p.assume(p.square_root(p.assume(nearest, 0.0, 8.0)), 0.0, 1.5), chosen


@node("Checker", GROUP, ("checkerboard", "chess"), ("check UVs",))
def checker(
    uv: A[Expr, uv()], tiling: A[Expr, vec2(4.0, 4.0, 0.0, 64.0, 1.0, words="Pairs of squares along u and v.")]
) -> A[Expr, NUMBER_OUT]:
    """Black and white squares.

    Formula: (floor(2u) + floor(2v)) modulo 2
    Use: See how UVs lie on a form.
    See: tile
    """
    cell = p.floor(uv * tiling * 2.0)
    return p.modulo(cell.x + cell.y, 2.0)


@node("Disc", GROUP, ("circle", "radial gradient", "distance to centre"), ("fade from a centre",))
def disc(
    uv: A[Expr, uv()],
    centre: A[Expr, vec2(0.5, 0.5)],
    inner: A[Expr, number(0.3, words="White up to this distance.")],
    outer: A[Expr, number(0.5, words="Black from this distance on.")],
) -> A[Expr, NUMBER_OUT]:
    """A white disc with a soft edge.

    Formula: 1 - smoothstep(inner, outer, |uv - centre|)
    Use: Spots, splashes, a mask around a place.
    See: smooth_step, cell_noise
    """
    return p.assume(1.0 - p.smoothstep(inner, outer, p.length(uv - centre)), 0.0, 1.0)


@node("Brick", GROUP, ("tiles", "planks", "masonry", "which tile am I in"), ("give each tile its own tone",))
def brick(
    uv: A[Expr, uv()],
    tiling: A[Expr, vec2(4.0, 8.0, 0.0, 64.0, 1.0, words="Bricks along u, courses along v.")],
    shift: A[Expr, number(0.5, words="How far every second course is moved; 0 gives square tiles.")],
    gap: A[Expr, number(0.08, 0.0, 0.5, words="Width of the joint, of a brick's side.")],
    seed: Seed,
) -> tuple[A[Expr, Output(P_NUMBER, "Brick")], A[Expr, Output(P_NUMBER, "Random")]]:
    """Courses of bricks: white on a brick, black in the joints, and a random number for each brick.

    Formula: place = uv tiling, every second course moved by shift; random(floor(place), seed)
    Use: Masonry, planks, boathouse tiles; Random varies tone and roughness, with other seeds independently.
    See: checker, cell_noise
    """
    place = uv * tiling
    course = p.floor(place.y)
    moved = p.combine(place.x + p.modulo(course, 2.0) * shift, place.y)
    cell = p.floor(moved)
    inside = moved - cell
    edge = p.minimum(p.minimum(inside.x, 1.0 - inside.x), p.minimum(inside.y, 1.0 - inside.y))
    return p.step(gap * 0.5, edge), _random(cell, seed).x
