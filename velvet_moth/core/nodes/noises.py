"""Noises on the plane and in space, tileable where asked, all built on one integer hash."""

from collections.abc import Callable, Mapping
from functools import wraps
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import NUMBER_OUT, Input, Output, from_surface, number, uv
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice, whole
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr, Structural, constant
from velvet_moth.core.language.trace import emitted_function
from velvet_moth.core.language.types import P_COLOUR, P_NUMBER, P_VEC2, P_VEC3

GROUP = "Patterns"
Scale = A[Expr, number(8.0, 0.0, 64.0, 0.1, words="Cells across one unit of the coordinates.")]
Seed = A[Expr, Input(P_NUMBER, (1.0,), 0.0, 100.0, 1.0, words="Another number, another pattern.", role="seed")]
Repeat = A[
    Expr,
    Input(
        P_NUMBER,
        (0.0,),
        0.0,
        64.0,
        1.0,
        words="Cells after which it repeats without a seam; 0 never repeats, at no cost.",
        idle_at_default=True,
    ),
]
Place = A[Expr, from_surface(P_VEC3, "object_position", "A place in metres; on the form where nothing is wired.")]
Layers = A[int, whole(1, 8, "How many layers, each twice as fine.", default=4)]
Roughness = A[Expr, number(0.5, words="Strength of each finer layer beside the one before.")]


Noise = Callable[[Expr, Expr, Expr], Expr]
Wrap = Callable[[Expr], Expr]


def _repeating(repeat: Expr) -> Wrap:
    """Takes cells into their repeat; below 1 it leaves them as they are."""
    size = p.maximum(p.floor(repeat + 0.5), 1.0)
    is_endless = p.less(repeat, 0.5)
    return lambda cell: p.select(is_endless, cell, p.modulo(cell, p.splat(size, cell.type.width)))


def tileable(words: str) -> Callable[[Callable[[Expr, Expr, Wrap], Expr]], Noise]:
    """Decorator: a noise over (place, seed, wrap of cells) becomes one over (place, seed, repeat).

    Two functions are emitted: a plain one for what never repeats, and one that repeats.
    """

    def decorate(body: Callable[[Expr, Expr, Wrap], Expr]) -> Noise:
        def endless(place: Expr, seed: Expr) -> Expr:
            return body(place, seed, lambda cell: cell)

        def repeating(place: Expr, seed: Expr, repeat: Expr) -> Expr:
            return body(place, seed, _repeating(repeat))

        endless.__name__ = body.__name__
        repeating.__name__ = f"{body.__name__}_repeating"
        plain, seamless = emitted_function(words)(endless), emitted_function(f"{words}, repeating")(repeating)

        @wraps(body)
        def noise(place: Expr, seed: Expr, repeat: Expr) -> Expr:
            is_endless = repeat.operator is Structural.CONSTANT and repeat.attributes[0] < 0.5
            return plain(place, seed) if is_endless else seamless(place, seed, repeat)

        return noise

    return decorate


def random_of(cell: Expr, seed: Expr) -> Expr:
    """Three random numbers 0..1 for a whole cell of two or three coordinates; other seeds are independent."""
    if cell.type.width == 2:
        return p.cell_random(p.combine(cell, p.floor(seed)))
    # A seed moves to a far part of the hash's own space, along all three axes.
    return p.cell_random(cell + p.floor(seed) * p.combine(1013.0, 2477.0, 3581.0))


def eased(t: Expr) -> Expr:
    """6t^5 - 15t^4 + 10t^3. Source: K. Perlin, "Improving Noise", 2002."""
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


def _corners(cell: Expr) -> list[Expr]:
    """The corners of a cell, the first coordinate changing fastest."""
    width = cell.type.width
    steps = ([float(index >> axis & 1) for axis in range(width)] for index in range(2**width))
    return [cell + p.combine(*step) if any(step) else cell for step in steps]


def _joined(values: list[Expr], t: Expr) -> Expr:
    """Corner values mixed along each axis in turn."""
    for axis in range(t.type.width):
        values = [p.mix(a, b, t[axis]) for a, b in zip(values[::2], values[1::2], strict=True)]
    return values[0]


@tileable("Value noise at a place")
def value_noise_at(place: Expr, seed: Expr, wrap: Wrap) -> Expr:
    """Random heights at whole coordinates, smoothly joined; 0..1."""
    cell = p.floor(place)
    corners = [random_of(wrap(k), seed).x for k in _corners(cell)]
    return p.continuous(p.assume(_joined(corners, eased(place - cell)), 0.0, 1.0))


@tileable("Gradient noise at a place")
def gradient_noise_at(place: Expr, seed: Expr, wrap: Wrap) -> Expr:
    """Random slopes at whole coordinates, smoothly joined; about -1..1, 0 at whole coordinates."""
    cell = p.floor(place)

    def hill(corner: Expr) -> Expr:
        drawn = random_of(wrap(corner), seed)
        slope = (drawn.xy if place.type.width == 2 else drawn) * 2.0 - 1.0
        return p.dot(slope, place - corner)

    # Slopes of at most 1 a component over half a cell: the joined sum never exceeds 1 in the plane, 1.5 in space.
    bound = 1.0 if place.type.width == 2 else 1.5
    return p.continuous(p.assume(_joined([hill(k) for k in _corners(cell)], eased(place - cell)), -bound, bound))


@tileable("Cell noise at a place")
def cell_noise_at(place: Expr, seed: Expr, wrap: Wrap) -> Expr:
    """The distance to the nearest scattered point, in the plane that to the next nearest, and the cell of the nearest."""
    cell = p.floor(place)
    width = place.type.width
    nearest, second, chosen = constant(8.0), constant(8.0), cell
    for index in range(3**width):
        step = [float(index // 3**axis % 3 - 1) for axis in range(width)]
        other = cell + p.combine(*step)
        drawn = random_of(wrap(other), seed)
        d = other + (drawn.xy if width == 2 else drawn) - place
        squared = p.dot(d, d)
        closer = p.less(squared, nearest)
        second = p.select(closer, nearest, p.minimum(second, squared))
        nearest = p.select(closer, squared, nearest)
        chosen = p.select(closer, wrap(other), chosen)
    root = p.square_root(p.assume(p.combine(nearest, second), 0.0, 8.0))
    return p.combine(root, chosen) if width == 2 else p.combine(root.x, chosen)


def fractal_at(noise: Noise, place: Expr, roughness: Expr, repeat: Expr, seed: Expr, layers: int) -> Expr:
    """Layers of a noise, each twice as fine and ``roughness`` as strong, over the sum of their strengths."""
    total, weight, strength = constant(0.0), constant(0.0), constant(1.0)
    for layer in range(layers):
        total = total + noise(place, seed + float(layer * 17), repeat) * strength
        weight = weight + strength
        place, repeat, strength = place * 2.0, repeat * 2.0, strength * roughness
    return total / weight


def _half(value: Expr) -> Expr:
    return p.assume(p.saturate(value * 0.5 + 0.5), 0.0, 1.0)


@node("Value noise", GROUP, ("random clouds", "smooth noise"), ("break up an even tone",))
def value_noise(uv: A[Expr, uv()], scale: Scale, seed: Seed, repeat: Repeat) -> A[Expr, NUMBER_OUT]:
    """Soft random blotches between 0 and 1.

    Formula: random numbers at whole coordinates, joined by 6t^5 - 15t^4 + 10t^3
    Use: Break up an even tone cheaply.
    See: gradient_noise, fractal_noise, noise_in_space
    """
    return value_noise_at(uv * scale, seed, repeat)


@node(
    "Gradient noise", GROUP, ("smooth noise", "clouds", "perlin", "smoke"), ("break up an even tone", "make soft waves")
)
def gradient_noise(uv: A[Expr, uv()], scale: Scale, seed: Seed, repeat: Repeat) -> A[Expr, NUMBER_OUT]:
    """Soft random hills between 0 and 1, more even in size than Value noise.

    Formula: 0.5 + 0.5 * random slopes at whole coordinates, joined by 6t^5 - 15t^4 + 10t^3 (K. Perlin, 2002)
    Use: Hills, wisps, slow variation.
    See: value_noise, fractal_noise, noise_in_space
    """
    return _half(gradient_noise_at(uv * scale, seed, repeat))


@node(
    "Fractal noise",
    GROUP,
    ("fbm", "turbulence", "clouds", "smoke", "fire", "lava", "marble"),
    ("make natural roughness", "make clouds"),
)
def fractal_noise(
    uv: A[Expr, uv()], scale: Scale, gain: Roughness, seed: Seed, repeat: Repeat, layers: Layers
) -> A[Expr, NUMBER_OUT]:
    """Hills upon hills: noise in several sizes added up, between 0 and 1.

    Formula: 0.5 + 0.5 * sum(gain^i * noise(uv * scale * 2^i)) / sum(gain^i)
    Use: Dirt, clouds, stone.
    See: gradient_noise, cell_noise, sum_of_heights
    """
    return _half(fractal_at(gradient_noise_at, uv * scale, gain, repeat, seed, layers))


_CELL = Output(P_VEC2, "Cell")


@node(
    "Cell noise",
    GROUP,
    ("voronoi", "worley", "cellular", "flakes", "pebbles", "scales", "honeycomb", "caustics", "car paint", "sparks"),
    ("make flakes, scales or pebbles",),
)
def cell_noise(
    uv: A[Expr, uv()], scale: Scale, seed: Seed, repeat: Repeat
) -> tuple[
    A[Expr, Output(P_NUMBER, "Distance")],
    A[Expr, Output(P_NUMBER, "Random")],
    A[Expr, Output(P_NUMBER, "Edge")],
    A[Expr, _CELL],
    A[Expr, Output(P_COLOUR, "Random colour")],
]:
    """Distance to the nearest of scattered points, random numbers for each cell, and how far the cell's edge is.

    Formula: d1 = min |place - point|; random(cell); d2 - d1. S. Worley, "A Cellular Texture Basis Function", 1996
    Use: Flakes and pebbles; Random gives each its own tone, Random colour three numbers more, Edge draws cracks. Cell to
    Random per cell gives any number of further ones.
    See: value_noise, checker, random_per_cell
    """
    found = cell_noise_at(uv * scale, seed, repeat)
    # The distances go on over the edges of cells, where the nearest point is another.
    nearest, beyond = p.continuous(found.x), p.continuous(found.y - found.x)
    # The first two random numbers place the point; another seed gives some that have nothing to do with its place.
    own, others = random_of(found.zw, seed).z, random_of(found.zw, seed + 57.0)
    return p.assume(nearest, 0.0, 1.5), own, p.assume(beyond, 0.0, 2.9), found.zw, others


_IN_SPACE: Mapping[str, Noise] = {
    "gradient": lambda place, seed, repeat: _half(gradient_noise_at(place, seed, repeat)),
    "value": value_noise_at,
    "cell": lambda place, seed, repeat: p.saturate(p.continuous(cell_noise_at(place, seed, repeat).x)),
}


@node(
    "Noise in space",
    GROUP,
    ("3d noise", "solid noise", "volume noise", "seams", "marble", "solid texture"),
    ("make a noise without seams",),
    form="sphere",
)
def noise_in_space(
    place: Place, scale: Scale, seed: Seed, repeat: Repeat, kind: A[str, choice(*_IN_SPACE, words="Which noise.")]
) -> A[Expr, NUMBER_OUT]:
    """A noise through space, 0 to 1: no seams, whatever the UV.

    Formula: the noise of that kind at place * scale in three dimensions
    Use: Weathering over a whole form; wire Position for one pattern across many forms.
    See: fractal_in_space, gradient_noise, position
    """
    return _IN_SPACE[kind](place * scale, seed, repeat)


@node(
    "Fractal in space", GROUP, ("3d fbm", "solid fractal", "marble"), ("make stone through and through",), form="sphere"
)
def fractal_in_space(
    place: Place, scale: Scale, gain: Roughness, seed: Seed, repeat: Repeat, layers: Layers
) -> A[Expr, NUMBER_OUT]:
    """Hills upon hills through space, 0 to 1.

    Formula: 0.5 + 0.5 * sum(gain^i * noise(place * scale * 2^i)) / sum(gain^i) in three dimensions
    Use: Stone, rust, clouds without seams.
    See: noise_in_space, fractal_noise
    """
    return _half(fractal_at(gradient_noise_at, place * scale, gain, repeat, seed, layers))
