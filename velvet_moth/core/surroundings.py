"""What an expression may ask of the surface point and of the draw: declared once, for the stage and for NumPy."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field

from velvet_moth.core.expr import Array, Expr, Rate, surface_input
from velvet_moth.core.interval import SIGNED_UNIT, UNIT, Interval
from velvet_moth.core.texture.image import Texture
from velvet_moth.core.types import NUMBER, VEC2, VEC3, VEC4, Type


@dataclass(frozen=True)
class SurfaceInput:
    """One thing known at the surface point.

    ``glsl`` computes it in the fragment shader from the stage's varyings and uniforms.
    """

    name: str
    type: Type
    rate: Rate
    bound: Interval
    glsl: str

    @property
    def expr(self) -> Expr:
        return surface_input(self.name, self.type, self.rate)


SURFACE_INPUTS = {
    declared.name: declared
    for declared in (
        SurfaceInput("uv", VEC2, Rate.PIXEL, UNIT, "v_uv"),
        SurfaceInput("position", VEC3, Rate.PIXEL, Interval(-1e4, 1e4), "v_position"),
        SurfaceInput("object_position", VEC3, Rate.PIXEL, Interval(-1e4, 1e4), "v_object_position"),
        SurfaceInput("normal", VEC3, Rate.PIXEL, SIGNED_UNIT, "normalize(v_normal) * (gl_FrontFacing ? 1.0 : -1.0)"),
        SurfaceInput("tangent", VEC4, Rate.PIXEL, SIGNED_UNIT, "vec4(normalize(v_tangent.xyz), v_tangent.w)"),
        SurfaceInput("view_direction", VEC3, Rate.PIXEL, SIGNED_UNIT, "normalize(camera_position - v_position)"),
        SurfaceInput("time", NUMBER, Rate.DRAW, Interval(0.0, 3600.0), "time"),
        SurfaceInput("sun_direction", VEC3, Rate.DRAW, SIGNED_UNIT, "sun_direction"),
        SurfaceInput("sun_colour", VEC3, Rate.DRAW, Interval(0.0, 1e3), "sun_colour"),
        SurfaceInput("rig_turn", NUMBER, Rate.DRAW, Interval(0.0, 1.0), "rig_turn"),
        SurfaceInput("exposure", NUMBER, Rate.DRAW, Interval(0.0, 1e3), "exposure"),
    )
}


def surface(name: str) -> Expr:
    """The expression of a declared surface input."""
    return SURFACE_INPUTS[name].expr


@dataclass(frozen=True)
class Surroundings:
    """Everything outside the DAG that an evaluation needs, as arrays and textures by key."""

    inputs: Mapping[str, Array]
    uniforms: Mapping[Hashable, Array] = field(default_factory=dict)
    textures: Mapping[Hashable, Texture] = field(default_factory=dict)
