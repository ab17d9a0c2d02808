"""Putting vectors together, taking them apart, and their products."""

from typing import Annotated as A

from velvet_moth.core import primitives as p
from velvet_moth.core.catalogue import node
from velvet_moth.core.expr import Expr
from velvet_moth.core.ports import (
    COLOUR_OUT,
    NUMBER_OUT,
    VEC2_OUT,
    VEC3_OUT,
    Output,
    choice,
    colour,
    number,
    vec2,
    vec3,
)
from velvet_moth.core.types import P_NUMBER

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

    Formula: x; y
    Use: Take U or V alone.
    See: combine_two, split_three
    """
    return vector.x, vector.y


@node("Split three", GROUP, ("separate vec3", "components"), ("use only one axis",))
def split_three(vector: A[Expr, vec3(0.0, 0.0, 0.0)]) -> tuple[A[Expr, _X], A[Expr, _Y], A[Expr, _Z]]:
    """The three numbers of a vector, each by itself.

    Formula: x; y; z
    Use: Take the height out of a position.
    See: combine_three, split_colour
    """
    return vector.x, vector.y, vector.z


@node("Split colour", GROUP, ("separate rgb", "channels"), ("use several masks packed in one texture",))
def split_colour(colour: A[Expr, colour(0.5, 0.5, 0.5)]) -> tuple[A[Expr, _R], A[Expr, _G], A[Expr, _B]]:
    """Red, green and blue, each by itself.

    Formula: r; g; b
    Use: Masks packed into the channels of one texture.
    See: pick_channel, luminance
    """
    return colour.r, colour.g, colour.b


@node("Pick channel", GROUP, ("red", "green", "blue", "swizzle", "mask"), ("get one number out of a colour",))
def pick_channel(
    colour: A[Expr, colour(0.5, 0.5, 0.5)], channel: A[str, choice("red", "green", "blue")]
) -> A[Expr, NUMBER_OUT]:
    """One channel of a colour as a number.

    Formula: r, g or b
    Use: Feed a number input from a colour.
    See: luminance, split_colour
    """
    return {"red": colour.r, "green": colour.g, "blue": colour.b}[channel]


@node("Luminance", GROUP, ("brightness", "greyscale", "value", "desaturate"), ("get a mask out of a colour",))
def luminance(colour: A[Expr, colour(0.5, 0.5, 0.5)]) -> A[Expr, NUMBER_OUT]:
    """How bright a colour looks, as one number.

    Formula: 0.2126 r + 0.7152 g + 0.0722 b (linear, ITU-R BT.709)
    Use: A mask out of a picture.
    See: pick_channel
    """
    return p.luminance(colour)


@node("To colour", GROUP, ("make colour", "rgb"), ("build a colour from three numbers",))
def to_colour(
    red: A[Expr, number(0.5)], green: A[Expr, number(0.5)], blue: A[Expr, number(0.5)]
) -> A[Expr, COLOUR_OUT]:
    """A colour from three numbers.

    Formula: (r, g, b), linear
    Use: Pack three masks, or drive one channel of a tint.
    See: split_colour, combine_three
    """
    return p.combine(red, green, blue)


@node("Dot", GROUP, ("scalar product", "dot product", "facing"), ("see how much two directions agree",))
def dot(a: A[Expr, vec3(0.0, 0.0, 1.0)], b: A[Expr, vec3(0.0, 0.0, 1.0)]) -> A[Expr, NUMBER_OUT]:
    """How much two directions agree: 1 the same, 0 square, -1 opposite.

    Formula: a.x b.x + a.y b.y + a.z b.z
    Use: Facing masks, light on a normal.
    See: view_falloff, normalise
    """
    return p.dot(a, b)


@node("Cross", GROUP, ("cross product", "perpendicular"), ("get a direction square to two others",))
def cross(a: A[Expr, vec3(1.0, 0.0, 0.0)], b: A[Expr, vec3(0.0, 1.0, 0.0)]) -> A[Expr, VEC3_OUT]:
    """The direction square to both A and B.

    Formula: a x b, right-handed
    Use: Build a third axis.
    See: dot, normalise
    """
    return p.cross(a, b)


@node("Length", GROUP, ("magnitude", "distance"), ("measure a distance",))
def length(vector: A[Expr, vec3(0.0, 0.0, 0.0)]) -> A[Expr, NUMBER_OUT]:
    """How long a vector is.

    Formula: sqrt(x^2 + y^2 + z^2)
    Use: Distance from a place after Subtract.
    See: normalise, dot
    """
    return p.length(vector)


@node("Normalise", GROUP, ("unit vector", "normalize"), ("keep only the direction",))
def normalise(vector: A[Expr, vec3(0.0, 0.0, 1.0)]) -> A[Expr, VEC3_OUT]:
    """The same direction at length 1; zero stays zero.

    Formula: v / |v|
    Use: After adding or mixing directions.
    See: length
    """
    return p.normalise(vector)


@node("Extend pair", GROUP, ("vec2 to vec3", "append"), ("use two numbers where three are taken",))
def extend_pair(vector: A[Expr, vec2(0.0, 0.0)], z: A[Expr, number(0.0)]) -> A[Expr, VEC3_OUT]:
    """A pair with a third number behind it.

    Formula: (x, y, z)
    Use: UV where a place in space is taken.
    See: shorten_triple, combine_three
    """
    return p.combine(vector, z)


@node("Shorten triple", GROUP, ("vec3 to vec2", "swizzle"), ("use a position as UV",))
def shorten_triple(
    vector: A[Expr, vec3(0.0, 0.0, 0.0)], kept: A[str, choice("x and y", "x and z", "y and z")]
) -> A[Expr, VEC2_OUT]:
    """Two of a vector's three numbers.

    Formula: (x, y), (x, z) or (y, z)
    Use: A position seen from above as UV.
    See: extend_pair, split_three
    """
    return {"x and y": vector.xy, "x and z": vector.xz, "y and z": vector.yz}[kept]
