"""Putting vectors together, taking them apart, and their products."""

import math
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import (
    COLOUR_OUT,
    NUMBER_OUT,
    VEC2_OUT,
    VEC3_OUT,
    VEC4_OUT,
    Output,
    colour,
    number,
    vec2,
    vec3,
    vec4,
)
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.types import P_NUMBER
from velvet_moth.core.lighting.axes import tangent_to_world, world_to_tangent

GROUP = "Vectors and colour"
_X, _Y, _Z = (Output(P_NUMBER, n) for n in "XYZ")
_R, _G, _B = (Output(P_NUMBER, n) for n in ("Red", "Green", "Blue"))


@node("Combine two", GROUP, ("make vec2", "append"), ("build UV from two numbers",))
def combine_two(x: A[Expr, number(0.0)], y: A[Expr, number(0.0)]) -> A[Expr, VEC2_OUT]:
    """Two numbers side by side.

    Formula: (x, y)
    Use: Build UV, tilings and speeds.
    See: split_two, combine_three
    """
    return p.combine(x, y)


@node("Combine three", GROUP, ("make vec3", "append"), ("build a vector from three numbers",))
def combine_three(x: A[Expr, number(0.0)], y: A[Expr, number(0.0)], z: A[Expr, number(0.0)]) -> A[Expr, VEC3_OUT]:
    """Three numbers side by side.

    Formula: (x, y, z)
    Use: Build a direction, or a colour from three masks.
    See: split_three, combine_two
    """
    return p.combine(x, y, z)


@node("Split two", GROUP, ("separate vec2", "components"), ("use only U or only V",))
def split_two(vector: A[Expr, vec2(0.0, 0.0)]) -> tuple[A[Expr, _X], A[Expr, _Y]]:
    """The two numbers of a pair, each by itself.

    Formula: vector.x; vector.y
    Use: Take U or V alone.
    See: combine_two, split_three
    """
    return vector.x, vector.y


@node("Split three", GROUP, ("separate vec3", "components"), ("use only one axis",))
def split_three(vector: A[Expr, vec3(0.0, 0.0, 0.0)]) -> tuple[A[Expr, _X], A[Expr, _Y], A[Expr, _Z]]:
    """The three numbers of a vector, each by itself.

    Formula: vector.x; vector.y; vector.z
    Use: Take the height out of a position.
    See: combine_three, split_colour
    """
    return vector.x, vector.y, vector.z


@node("Split colour", GROUP, ("separate rgb", "channels"), ("use several masks packed in one texture",))
def split_colour(colour: A[Expr, colour(0.5, 0.5, 0.5)]) -> tuple[A[Expr, _R], A[Expr, _G], A[Expr, _B]]:
    """Red, green and blue, each by itself.

    Formula: colour.r; colour.g; colour.b
    Use: Masks packed into the channels of one texture.
    See: pick_channel, luminance
    """
    return colour.r, colour.g, colour.b


@node("Pick channel", GROUP, ("red", "green", "blue", "swizzle", "mask"), ("get one number out of a colour",))
def pick_channel(
    colour: A[Expr, colour(0.5, 0.5, 0.5)], channel: A[str, choice("red", "green", "blue")]
) -> A[Expr, NUMBER_OUT]:
    """One channel of a colour as a number.

    Formula: red: colour.r; green: colour.g; blue: colour.b
    Use: Feed a number input from a colour.
    See: luminance, split_colour
    """
    return {"red": colour.r, "green": colour.g, "blue": colour.b}[channel]


@node("Luminance", GROUP, ("brightness", "greyscale", "value", "desaturate"), ("get a mask out of a colour",))
def luminance(colour: A[Expr, colour(0.5, 0.5, 0.5)]) -> A[Expr, NUMBER_OUT]:
    """How bright a colour looks, as one number.

    Formula: 0.2126 colour.r + 0.7152 colour.g + 0.0722 colour.b. Linear, ITU-R BT.709
    Use: A mask out of a picture.
    See: pick_channel
    """
    return p.luminance(colour)


@node("To colour", GROUP, ("make colour", "rgb"), ("build a colour from three numbers",))
def to_colour(
    red: A[Expr, number(0.5)], green: A[Expr, number(0.5)], blue: A[Expr, number(0.5)]
) -> A[Expr, COLOUR_OUT]:
    """A colour from three numbers.

    Formula: (red, green, blue). Linear
    Use: Pack three masks, or drive one channel of a tint.
    See: split_colour, combine_three
    """
    return p.combine(red, green, blue)


@node("Dot", GROUP, ("scalar product", "dot product", "facing"), ("see how much two directions agree",))
def dot(a: A[Expr, vec3(0.0, 0.0, 1.0)], b: A[Expr, vec3(0.0, 0.0, 1.0)]) -> A[Expr, NUMBER_OUT]:
    """How much two directions agree: 1 the same, 0 square, -1 opposite.

    Formula: A.x B.x + A.y B.y + A.z B.z
    Use: Facing masks, light on a normal.
    See: view_falloff, normalise
    """
    return p.dot(a, b)


@node("Cross", GROUP, ("cross product", "perpendicular"), ("get a direction square to two others",))
def cross(a: A[Expr, vec3(1.0, 0.0, 0.0)], b: A[Expr, vec3(0.0, 1.0, 0.0)]) -> A[Expr, VEC3_OUT]:
    """The direction square to both A and B.

    Formula: cross(A, B). Right-handed
    Use: Build a third axis.
    See: dot, normalise
    """
    return p.cross(a, b)


@node("Length", GROUP, ("magnitude", "distance"), ("measure a distance",))
def length(vector: A[Expr, vec3(0.0, 0.0, 0.0)]) -> A[Expr, NUMBER_OUT]:
    """How long a vector is.

    Formula: |vector|
    Use: Distance from a place after Subtract.
    See: normalise, dot
    """
    return p.length(vector)


@node("Normalise", GROUP, ("unit vector", "normalize"), ("keep only the direction",))
def normalise(vector: A[Expr, vec3(0.0, 0.0, 1.0)]) -> A[Expr, VEC3_OUT]:
    """The same direction at length 1; zero stays zero.

    Formula: vector / |vector|. For lengths of 1e-19 to 1e19; zero stays zero
    Use: After adding or mixing directions.
    See: length
    """
    return p.normalise(vector)


@node("Extend pair", GROUP, ("vec2 to vec3", "append"), ("use two numbers where three are taken",))
def extend_pair(vector: A[Expr, vec2(0.0, 0.0)], z: A[Expr, number(0.0)]) -> A[Expr, VEC3_OUT]:
    """A pair with a third number behind it.

    Formula: (vector.x, vector.y, z)
    Use: UV where a place in space is taken.
    See: shorten_triple, combine_three
    """
    return p.combine(vector, z)


@node("Shorten triple", GROUP, ("vec3 to vec2", "swizzle"), ("use a position as UV",))
def shorten_triple(
    vector: A[Expr, vec3(0.0, 0.0, 0.0)], kept: A[str, choice("x and y", "x and z", "y and z")]
) -> A[Expr, VEC2_OUT]:
    """Two of a vector's three numbers.

    Formula: x and y: vector.xy; x and z: vector.xz; y and z: vector.yz
    Use: A position seen from above as UV.
    See: extend_pair, split_three
    """
    return {"x and y": vector.xy, "x and z": vector.xz, "y and z": vector.yz}[kept]


@node("Combine four", GROUP, ("make vec4", "append"), ("build four numbers",))
def combine_four(
    x: A[Expr, number(0.0)], y: A[Expr, number(0.0)], z: A[Expr, number(0.0)], w: A[Expr, number(1.0)]
) -> A[Expr, VEC4_OUT]:
    """Four numbers side by side.

    Formula: (x, y, z, w)
    Use: Four masks on one wire.
    See: split_four, combine_three
    """
    return p.combine(x, y, z, w)


@node("Split four", GROUP, ("separate vec4", "components"), ("use one of four numbers",))
def split_four(
    vector: A[Expr, vec4(0.0, 0.0, 0.0, 1.0)],
) -> tuple[A[Expr, _X], A[Expr, _Y], A[Expr, _Z], A[Expr, Output(P_NUMBER, "W")]]:
    """The four numbers of a vector, each by itself.

    Formula: vector.x; vector.y; vector.z; vector.w
    Use: Take packed masks apart.
    See: combine_four, split_three
    """
    return vector.x, vector.y, vector.z, vector.w


_ORDERS = ("x z y", "y x z", "y z x", "z x y", "z y x", "x x x", "y y y", "z z z")


@node("Rearrange", GROUP, ("swizzle", "reorder", "swap axes"), ("swap two axes",))
def rearrange(
    vector: A[Expr, vec3(0.0, 0.0, 0.0)], order: A[str, choice(*_ORDERS, words="Which number goes where.")]
) -> A[Expr, VEC3_OUT]:
    """The three numbers of a vector in another order, or one of them three times.

    Formula: the components in the order chosen
    Use: Swap axes of a position, or spread one channel.
    See: split_three, shorten_triple
    """
    return p.combine(*(vector["xyz".index(letter)] for letter in order.split()))


@node("Mirror direction", GROUP, ("reflect", "reflection vector"), ("find what a mirror shows",))
def mirror_direction(
    direction: A[Expr, vec3(0.0, 0.0, 1.0)], normal: A[Expr, vec3(0.0, 1.0, 0.0)]
) -> A[Expr, VEC3_OUT]:
    """A direction thrown back by a surface.

    Formula: direction - 2 n dot(n, direction), n = normalise(normal)
    Use: Feed minus the view direction to see where a mirror looks.
    See: bend_direction, form_normal
    """
    n = p.normalise(normal)
    return direction - n * (p.dot(n, direction) * 2.0)


@node(
    "Bend direction", GROUP, ("refract", "refraction vector", "glass", "caustics"), ("bend light into water or glass",)
)
def bend_direction(
    direction: A[Expr, vec3(0.0, 0.0, -1.0)],
    normal: A[Expr, vec3(0.0, 0.0, 1.0)],
    ratio: A[Expr, number(0.75, 0.2, 2.0, words="Refractive index outside / inside; air to water is 0.75.")],
) -> A[Expr, VEC3_OUT]:
    """A direction bent as it enters another medium; (0, 0, 0) where all of it is thrown back.

    Formula: k < 0 ? 0 d : ratio d - (ratio c + sqrt(k)) n, k = 1 - ratio ^ 2 (1 - c ^ 2), c = dot(n, d), n =
    normalise(normal), d = normalise(direction). Snell, as in GLSL
    Use: Its X and Y shift Colour behind.
    See: mirror_direction, colour_behind
    """
    n, d = p.normalise(normal), p.normalise(direction)
    cosine = p.dot(n, d)
    k = 1.0 - ratio * ratio * (1.0 - cosine * cosine)
    bent = d * ratio - n * (ratio * cosine + p.square_root(p.maximum(k, 0.0)))
    return p.select(p.less(k, 0.0), p.combine(0.0, 0.0, 0.0), bent)


@node("Turn about axis", GROUP, ("rotate about axis", "rodrigues"), ("turn a direction in space",))
def turn_about_axis(
    vector: A[Expr, vec3(1.0, 0.0, 0.0)],
    axis: A[Expr, vec3(0.0, 1.0, 0.0)],
    angle: A[Expr, number(0.125, 0.0, 1.0, 0.005, "turns", "In whole turns, right-handed about the axis.")],
) -> A[Expr, VEC3_OUT]:
    """A vector turned about an axis.

    Formula: vector cos(t) + cross(k, vector) sin(t) + k dot(k, vector) (1 - cos(t)), k = normalise(axis), t = 2 pi
    angle. Rodrigues
    Use: Turn a normal, a light or a place about a trunk.
    See: turn, change_space
    """
    k, t = p.normalise(axis), angle * (2.0 * math.pi)
    c, s = p.cosine(t), p.sine(t)
    return vector * c + p.cross(k, vector) * s + k * (p.dot(k, vector) * (1.0 - c))


@node("Change space", GROUP, ("transform", "tangent to world", "world to tangent"), ("move a normal into the world",))
def change_space(
    direction: A[Expr, vec3(0.0, 0.0, 1.0)],
    way: A[str, choice("tangent to world", "world to tangent", words="From which axes to which.")],
) -> A[Expr, VEC3_OUT]:
    """A direction told on other axes: those of the surface (tangent, side, normal) or those of the world.

    Formula: t d.x + b d.y + n d.z; back: (d.t, d.b, d.n), t made square to n
    Use: A world direction for the Normal channel; a normal map for masks by slope.
    See: form_normal, tangent, slope
    """
    return tangent_to_world(direction) if way == "tangent to world" else world_to_tangent(direction)
