"""What is known where the surface is seen: coordinates, directions, time."""

from typing import Annotated as A

from velvet_moth.core.catalogue import node
from velvet_moth.core.expr import Expr
from velvet_moth.core.ports import COLOUR_OUT, NORMAL_OUT, UV_OUT, Output
from velvet_moth.core.surroundings import surface
from velvet_moth.core.types import P_NUMBER, P_VEC3

GROUP = "Surface point"
_DIRECTION = Output(P_VEC3, "Direction")
_POSITION = Output(P_VEC3, "Position", unit="m")


@node("UV", GROUP, ("texture coordinates", "texcoord"), ("place a texture on the form",))
def uv() -> A[Expr, UV_OUT]:
    """The form's texture coordinates, 0 to 1 across and upwards.

    Formula: (u, v)
    Use: Feed it to Tile, Scroll or Turn, then to a texture or a pattern.
    See: tile, scroll, turn
    """
    return surface("uv")


@node("Position", GROUP, ("world position",), ("vary by place in the world",))
def position() -> A[Expr, _POSITION]:
    """Where the surface point is in the world, in metres.

    Formula: (x, y, z), y up
    Use: Patterns that go on across several objects, or fade with height.
    See: object_position
    """
    return surface("position")


@node("Object position", GROUP, ("local position", "model position"), ("fix a pattern to a moving form",))
def object_position() -> A[Expr, _POSITION]:
    """Where the surface point is on the form itself, in metres.

    Formula: (x, y, z) before the form is moved
    Use: Patterns in space that stick to the form.
    See: position
    """
    return surface("object_position")


@node("Form normal", GROUP, ("surface normal", "geometry normal"), ("tell floors from walls",))
def form_normal() -> A[Expr, NORMAL_OUT]:
    """The direction the form faces at this point, in the world, without any bumps.

    Formula: unit vector, turned towards the viewer's side
    Use: Masks by slope; the Normal channel takes tangent-space normals instead.
    See: view_direction, view_falloff
    """
    return surface("normal")


@node("View direction", GROUP, ("eye vector", "camera direction"), ("know where the eye is",))
def view_direction() -> A[Expr, _DIRECTION]:
    """The direction from the surface point to the eye, in the world.

    Formula: normalise(eye - position)
    Use: Effects that change with the angle of sight.
    See: view_falloff
    """
    return surface("view_direction")


@node("Sun direction", GROUP, ("light direction", "light vector"), ("know where the light is",))
def sun_direction() -> A[Expr, _DIRECTION]:
    """The direction from the surface point to the sun, in the world.

    Formula: unit vector
    Use: Dot it with a normal to see what the sun reaches.
    See: sun_colour, form_normal
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
    See: scroll, sine
    """
    return surface("time")
