"""Reading textures, with the level of detail chosen from how fast the coordinates change."""

from typing import Annotated as A

from velvet_moth.core import primitives as p
from velvet_moth.core.catalogue import node
from velvet_moth.core.expr import Expr
from velvet_moth.core.ports import COLOUR_OUT, NORMAL_OUT, Output, number, texture, uv
from velvet_moth.core.types import P_NUMBER

GROUP = "Textures"
_R, _G, _B, _ALPHA = (Output(P_NUMBER, n) for n in ("Red", "Green", "Blue", "Alpha"))


def level_of_detail(picture: Expr, coordinates: Expr) -> Expr:
    """The level at which neighbouring screen pixels read neighbouring texture pixels.

    Source: OpenGL ES 3.0 specification, section 3.8.10, the isotropic form.
    """
    size = p.texture_size(picture)
    across, up = p.along_x(coordinates) * size, p.along_y(coordinates) * size
    longest = p.maximum(p.dot(across, across), p.dot(up, up))
    return p.maximum(p.logarithm(p.assume(longest, 1e-30, 3.4e38)) * (0.5 / 0.6931471805599453), 0.0)


def read(picture: Expr, coordinates: Expr) -> Expr:
    """All four channels at the fitting level."""
    return p.sample(picture, coordinates, level_of_detail(picture, coordinates))


@node("Texture", GROUP, ("image", "sample", "bitmap", "map"), ("read a picture", "use a mask from a file"))
def texture_(
    texture: A[Expr, texture()], uv: A[Expr, uv()]
) -> tuple[A[Expr, COLOUR_OUT], A[Expr, _R], A[Expr, _G], A[Expr, _B], A[Expr, _ALPHA]]:
    """The colour and the single channels of a texture.

    Formula: texture at uv, filtered between pixels and levels
    Use: Base colours from Colour, masks from a single channel.
    See: normal_map, tile
    """
    texel = read(texture, uv)
    return texel.rgb, texel.r, texel.g, texel.b, texel.a


@node("Normal map", GROUP, ("bump map", "tangent normal"), ("read bumps from a texture",))
def normal_map(
    texture: A[Expr, texture("flat", "A normal map, green up.")],
    uv: A[Expr, uv()],
    strength: A[Expr, number(1.0, 0.0, 2.0, words="0 is flat, 1 as painted, above 1 steeper.")],
) -> A[Expr, NORMAL_OUT]:
    """The normal a normal map holds, in tangent space.

    Formula: normalise((2 rg - 1) * strength, 2 b - 1)
    Use: To the Normal channel, or to Combine normals.
    See: normal_strength, combine_normals
    """
    texel = read(texture, uv).rgb * 2.0 - 1.0
    return p.normalise(p.combine(texel.r * strength, texel.g * strength, p.maximum(texel.b, 0.001)))
