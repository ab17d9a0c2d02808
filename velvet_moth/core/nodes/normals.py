"""Normals: reading, weighing and combining those of tangent space, and making them from heights and offsets."""

from collections.abc import Callable, Mapping
from typing import Annotated as A

from velvet_moth.core.catalogue.ports import NORMAL_OUT, Output, colour, direction, number, texture, uv, vec3
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.types import P_VEC3
from velvet_moth.core.lighting.axes import world_to_tangent
from velvet_moth.core.lighting.moved import moved_normal
from velvet_moth.core.nodes.textures import Picture, level_of_detail, read

GROUP = "Normals"
Green = A[str, choice("up", "down", words="Which way the map's green points; where bumps look like dents, the other.")]
Strength = A[Expr, number(1.0, 0.0, 2.0, words="0 is flat, 1 as painted, above 1 steeper.")]
Flat = A[Expr, direction(0.0, 0.0, 1.0)]


def decoded(stored: Expr, strength: Expr, green: str) -> Expr:
    """A stored colour as a unit normal of tangent space."""
    n = stored * 2.0 - 1.0
    y = n.y * strength
    return p.normalise(p.combine(n.x * strength, y if green == "up" else -y, p.maximum(n.z, 0.001)))


@node("Normal map", GROUP, ("bump map", "tangent normal"), ("read bumps from a texture",))
def normal_map(
    texture: A[Expr, texture("flat", "A normal map.")], uv: A[Expr, uv()], strength: Strength, green: Green
) -> A[Expr, NORMAL_OUT]:
    """The normal a normal map holds, in tangent space.

    Formula: normalise(n.xy strength, max(n.z, 0.001)), n = 2 rgb - 1 of the texture; n.y turned where green points
    down
    Use: To the Normal channel, or to Combine normals.
    See: normal_strength, combine_normals, decode_normal
    """
    return decoded(read(texture, uv).rgb, strength, green)


@node("Decode normal", GROUP, ("unpack normal", "colour to normal"), ("use a colour as a normal",))
def decode_normal(stored: A[Expr, colour(0.5, 0.5, 1.0)], strength: Strength, green: Green) -> A[Expr, NORMAL_OUT]:
    """A normal out of a colour that stores one.

    Formula: up: normalise(n.x strength, n.y strength, max(n.z, 0.001)); down: normalise(n.x strength, -n.y
    strength, max(n.z, 0.001)), n = 2 stored - 1
    Use: After reading a normal map by Triplanar, Atlas cell or Flow texture.
    See: normal_map, normal_strength
    """
    return decoded(stored, strength, green)


@node("Normal strength", GROUP, ("bump strength", "flatten"), ("make bumps weaker", "make bumps stronger"))
def normal_strength(
    normal: Flat,
    strength: A[Expr, number(0.5, 0.0, 2.0, words="0 is flat, 1 unchanged, above 1 steeper.")],
) -> A[Expr, NORMAL_OUT]:
    """Makes the bumps of a normal weaker or stronger.

    Formula: normalise(normal.xy strength, normal.z)
    Use: Fade bumps by a mask.
    See: combine_normals, normal_map
    """
    return p.normalise(p.combine(normal.x * strength, normal.y * strength, normal.z))


def _reoriented(base: Expr, detail: Expr) -> Expr:
    t = base + p.combine(0.0, 0.0, 1.0)
    u = detail * p.combine(-1.0, -1.0, 1.0)
    return t * (p.dot(t, u) / p.maximum(t.z, 0.001)) - u


def _by_slopes(base: Expr, detail: Expr) -> Expr:
    return p.combine(base.xy * detail.z + detail.xy * base.z, base.z * detail.z)


_METHODS: Mapping[str, Callable[[Expr, Expr], Expr]] = {
    "reoriented": _reoriented,
    "whiteout": lambda base, detail: p.combine(base.xy + detail.xy, base.z * detail.z),
    "partial derivative": _by_slopes,
}


@node("Combine normals", GROUP, ("blend normals", "detail normal"), ("lay fine bumps over coarse ones",))
def combine_normals(
    base: Flat, detail: Flat, method: A[str, choice(*_METHODS, words="Reoriented keeps most of both.")]
) -> A[Expr, NORMAL_OUT]:
    """Lays the detail's bumps onto the base so that both keep their tilt.

    Formula: reoriented: normalise(t dot(t, u) / max(t.z, 0.001) - u); whiteout: normalise(base.xy + detail.xy,
    base.z detail.z); partial derivative: normalise(base.xy detail.z + detail.xy base.z, base.z detail.z), t = base
    + (0, 0, 1), u = (-detail.x, -detail.y, detail.z). C. Barre-Brisebois, S. Hill, "Blending in Detail", 2012
    Use: Fine grain over large waves. Averaging the two would flatten both.
    See: normal_strength, normal_map
    """
    return p.normalise(_METHODS[method](base, detail))


@node("Height to normal", GROUP, ("bump from height", "sobel"), ("make bumps from a height map",))
def height_to_normal(
    height: Picture,
    uv: A[Expr, uv()],
    depth: A[Expr, number(0.05, 0.0, 1.0, 0.005, words="From black to white, in widths of the texture.")],
) -> A[Expr, NORMAL_OUT]:
    """The bumps of a height map, computed while it is read.

    Formula: normalise(-dh/du depth, -dh/dv depth, 1), differences over two pixels of the level read; h is red
    Use: Heights without a normal map; a normal map baked once is cheaper than these four reads.
    See: bump, normal_map
    """
    level = level_of_detail(height, uv)
    step = p.exponential(level * 0.6931471805599453) / p.texture_size(height)

    def at(x: float, y: float) -> Expr:
        return p.sample(height, uv + step * p.combine(x, y), level).r

    slope_u = (at(1.0, 0.0) - at(-1.0, 0.0)) * depth / (step.x * 2.0)
    slope_v = (at(0.0, 1.0) - at(0.0, -1.0)) * depth / (step.y * 2.0)
    return p.normalise(p.combine(-slope_u, -slope_v, 1.0))


@node(
    "Bump",
    GROUP,
    ("bump from any value", "height bump", "derivative", "ddx", "ddy", "fwidth"),
    ("make bumps from a noise",),
)
def bump(
    height: A[Expr, number(0.0, -1.0, 1.0, words="Any value.")],
    depth: A[Expr, number(0.02, 0.0, 1.0, 0.002, "m", "Metres for a height of 1.")],
) -> A[Expr, NORMAL_OUT]:
    """Bumps from any value, by how it changes over the screen.

    Formula: the normal of position + normal * height * depth (M. Mikkelsen, 2010), on the surface's axes
    Use: Noises, bricks and masks as relief; a little coarse in the distance.
    See: height_to_normal, along_normal
    """
    normal = surface("moved_normal")
    return world_to_tangent(moved_normal(normal, normal * (height * depth), surface("moved_position")))


@node("Offset normal", GROUP, ("normal from displacement",), ("get the normal of a moved surface",))
def offset_normal(offset: A[Expr, vec3(0.0, 0.0, 0.0)]) -> A[Expr, NORMAL_OUT]:
    """The normal of the surface that an offset makes.

    Formula: the normal of position + offset by its change over the screen (M. Mikkelsen, 2010)
    Use: Masks by the slope of waves; the dock's Offset turns the lighting by itself.
    See: waves, bump, along_normal
    """
    return world_to_tangent(moved_normal(surface("normal"), offset, surface("position")))


@node(
    "Face normal",
    GROUP,
    ("flat shading", "facets", "faceted", "low poly", "low-polygon", "facet", "faceted shading"),
    ("show the facets of a form",),
)
def face_normal() -> tuple[A[Expr, NORMAL_OUT], A[Expr, Output(P_VEC3, "World")]]:
    """The flat normal of each triangle, on the surface's axes and in the world.

    Formula: normalise(dp/dx x dp/dy), on the side of the form's normal
    Use: Cut stone and ice; to the Normal channel.
    See: form_normal, bump
    """
    place = surface("moved_position")
    flat = p.normalise(p.cross(p.along_x(place), p.along_y(place)))
    outward = p.select(p.less(p.dot(flat, surface("moved_normal")), 0.0), -flat, flat)
    return world_to_tangent(outward), outward
