"""What is known where the surface is seen: coordinates, directions, vertex data, the eye, the light, time."""

from typing import Annotated as A

from velvet_moth.core.catalogue.ports import (
    COLOUR_OUT,
    NORMAL_OUT,
    NUMBER_OUT,
    UV_OUT,
    VEC3_OUT,
    Output,
    number,
)
from velvet_moth.core.catalogue.registry import node
from velvet_moth.core.catalogue.settings import choice, spoken
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS
from velvet_moth.core.language import primitives as p
from velvet_moth.core.language.expr import Expr, constant
from velvet_moth.core.language.inputs import surface
from velvet_moth.core.language.types import P_COLOUR, P_NUMBER, P_VEC3
from velvet_moth.core.nodes.noises import random_of

GROUP = "Surface point"
_DIRECTION = Output(P_VEC3, "Direction")
_POSITION = Output(P_VEC3, "Position", unit="m")
_RED, _GREEN, _BLUE, _ALPHA = (Output(P_NUMBER, spoken(name), channel=name) for name in VERTEX_CHANNELS[:4])


@node("UV", GROUP, ("texture coordinates", "texcoord"), ("place a texture on the form",))
def uv(set: A[str, choice("first", "second", words="Which set of coordinates the form brings.")]) -> A[Expr, UV_OUT]:
    """The form's texture coordinates, 0 to 1 across and upwards.

    Formula: (u, v)
    Use: Feed it to Tile, Scroll or Turn, then to a texture or a pattern.
    See: tile, scroll, turn
    """
    return surface("uv" if set == "first" else "second_uv")


@node("Position", GROUP, ("world position",), ("vary by place in the world",))
def position(
    at: A[str, choice("rest", "moved", words="Before or after the surface's own offset; moved exists per pixel only.")],
) -> A[Expr, _POSITION]:
    """Where the surface point is in the world, in metres.

    Formula: (x, y, z), y up
    Use: Patterns that go on across several objects, or fade with height.
    See: object_position, bounds_position
    """
    return surface("position" if at == "rest" else "moved_position")


@node("Object position", GROUP, ("local position", "model position"), ("fix a pattern to a moving form",))
def object_position() -> A[Expr, _POSITION]:
    """Where the surface point is on the form itself, in metres.

    Formula: (x, y, z) before the form is moved
    Use: Patterns in space that stick to the form.
    See: position, bounds_position
    """
    return surface("object_position")


@node("Bounds position", GROUP, ("bounding box", "relative height"), ("fade from bottom to top",), form="mooring")
def bounds_position() -> A[Expr, VEC3_OUT]:
    """Where the surface point is inside the form's box, 0 to 1 along each axis; 0.5 where the form is flat.

    Formula: (object position - low) / (high - low); 1/2 where high - low < 1e-6
    Use: Gradients over a whole form, whatever its size.
    See: object_position, gradient
    """
    low, high = surface("form_low"), surface("form_high")
    size, at = high - low, surface("object_position") - low
    # Where a decal lies on what is behind, the place may be outside its box.
    return p.saturate(p.where_less(size, 1e-6, 0.5, at / p.maximum(size, 1e-6)))


@node("Form normal", GROUP, ("surface normal", "geometry normal"), ("tell floors from walls",))
def form_normal(
    side: A[str, choice("outward", "towards the eye", words="Turned to the seen side it exists per pixel only.")],
) -> A[Expr, NORMAL_OUT]:
    """The direction the form faces at this point, in the world, without any bumps.

    Formula: unit vector; turned round on back faces where it looks towards the eye
    Use: Masks by slope; the Normal channel takes tangent-space normals instead.
    See: view_direction, view_falloff, slope
    """
    normal = surface("normal")
    return normal if side == "outward" else normal * (surface("is_front") * 2.0 - 1.0)


@node("Tangent", GROUP, ("along the strand", "u direction"), ("follow the grain of a form",))
def tangent() -> A[Expr, _DIRECTION]:
    """The direction in which U grows, in the world.

    Formula: unit vector
    Use: Brushed metal, strands of hair, ripples along a form.
    See: form_normal, change_space
    """
    return surface("tangent").xyz


@node("View direction", GROUP, ("eye vector", "camera direction"), ("know where the eye is",))
def view_direction() -> A[Expr, _DIRECTION]:
    """The direction from the surface point to the eye, in the world.

    Formula: normalise(eye - position)
    Use: Effects that change with the angle of sight.
    See: view_falloff, camera_distance
    """
    return surface("view_direction")


@node("Camera distance", GROUP, ("distance to camera", "depth"), ("fade with distance",))
def camera_distance() -> A[Expr, Output(P_NUMBER, "Distance", unit="m")]:
    """How far the surface point is from the eye.

    Formula: |eye - position|
    Use: Fade fine detail, or swap patterns far away.
    See: view_direction, depth_behind
    """
    return surface("camera_distance")


@node(
    "Face side",
    GROUP,
    ("two-sided", "back face", "front facing", "backface", "two sided"),
    ("make it two-sided", "treat the back apart"),
    form="reeds",
)
def face_side() -> tuple[A[Expr, Output(P_NUMBER, "Front")], A[Expr, Output(P_NUMBER, "Sign")]]:
    """Which side of the surface is seen: Front is 1 or 0, Sign 1 or -1.

    Formula: front ? 1 : 0; 2 front - 1
    Use: Another colour under a leaf; mirror UV on the back.
    See: mirror_back, light_through
    """
    front = surface("is_front")
    return front, front * 2.0 - 1.0


@node(
    "Vertex colour",
    GROUP,
    ("vertex data", "painted mask", "vertex paint"),
    ("use a baked or painted mask",),
    form="reeds",
)
def vertex_colour(
    set: A[str, choice("first", "second", words="Which four of a mesh's eight numbers.")],
) -> tuple[A[Expr, Output(P_COLOUR, "Colour")], A[Expr, _RED], A[Expr, _GREEN], A[Expr, _BLUE], A[Expr, _ALPHA]]:
    """Four numbers baked or painted on the form's vertices, whole and one by one. 1 where the mesh does not carry them.

    Formula: (r, g, b, a) between the vertices
    Use: Masks that come with the mesh: sway, wear, dirt.
    See: sway, edge_wear
    """
    data = surface("vertex_colour" if set == "first" else "second_vertex_colour")
    return data.rgb, data.r, data.g, data.b, data.a


@node("Screen position", GROUP, ("screen uv", "viewport position"), ("lay a pattern flat on the screen",))
def screen_position() -> A[Expr, UV_OUT]:
    """Where the pixel is on the screen, 0 to 1 from the lower left.

    Formula: pixel centre / size of the picture
    Use: Patterns that do not follow the form; where Colour behind reads.
    See: colour_behind, dither
    """
    return surface("screen_position")


@node(
    "Face",
    GROUP,
    ("triangle", "polygon", "face id", "primitive id", "facet", "low poly"),
    ("give every face a colour of its own", "one value for each face"),
)
def face() -> tuple[
    A[Expr, Output(P_NUMBER, "Number")],
    A[Expr, Output(P_VEC3, "Middle", unit="m")],
    A[Expr, Output(P_NUMBER, "Random")],
]:
    """What is the same all over a triangle of the form: its number, its middle in the world before the offset, a random number.

    Formula: number from 0 in the order of the mesh; the mean of its corners; a hash of the number, 0 to 1
    Use: Low-polygon looks: read a noise or a gradient at the middle, so that each face has one colour.
    See: random_per_cell, face_normal, position
    """
    number = surface("face_number")
    return number, surface("face_middle"), random_of(p.combine(number, 0.0), constant(0.0)).x


@node("Form scale", GROUP, ("object scale", "size"), ("keep a pattern's size when a form is scaled",))
def form_scale() -> A[Expr, VEC3_OUT]:
    """By how much the form is scaled along its own axes.

    Formula: lengths of the columns of the form's matrix
    Use: Multiply object positions by it, so that a pattern keeps its size in metres.
    See: object_position, triplanar
    """
    return surface("form_scale")


@node("Sun direction", GROUP, ("light direction", "light vector", "lamp"), ("know where the light is",))
def sun_direction() -> A[Expr, _DIRECTION]:
    """The direction from the surface point to the sun, in the world.

    Formula: unit vector
    Use: Dot it with a normal to see what the sun reaches.
    See: sun_colour, form_normal, light_through
    """
    return surface("sun_direction")


@node("Sun colour", GROUP, ("light colour",), ("tint by the light",))
def sun_colour() -> A[Expr, COLOUR_OUT]:
    """The sun's light as linear colour, strength included.

    Formula: irradiance facing the sun, per channel
    Use: Tint glints and rims like the light that makes them.
    See: sun_direction
    """
    return surface("sun_colour")


@node("Time", GROUP, ("clock", "seconds"), ("make it move", "animate"))
def time() -> A[Expr, Output(P_NUMBER, "Seconds", unit="s")]:
    """Seconds since the timeline began.

    Formula: t
    Use: Drive Scroll, or a sine for something that comes and goes.
    See: loop, scroll, sine
    """
    return surface("time")


@node("Loop", GROUP, ("cycle", "loop length", "phase", "flicker"), ("repeat every few seconds",))
def loop(
    length: A[Expr, number(4.0, 0.1, 60.0, 0.1, "s", "Seconds of one round.")],
) -> tuple[A[Expr, NUMBER_OUT], A[Expr, Output(P_NUMBER, "Round")]]:
    """How far through a repeating stretch of time we are, 0 to 1, and the number of the round.

    Formula: fract(r); floor(r), r = time / max(length, 0.001)
    Use: Splashes and pulses that begin again; Round as a seed makes each one different.
    See: time, wave
    """
    rounds = surface("time") / p.maximum(length, 0.001)
    return p.fract(rounds), p.floor(rounds)
