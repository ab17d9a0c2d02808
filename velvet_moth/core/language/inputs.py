"""What an expression may ask of the surface point and of the draw: declared once, for the stage and for NumPy."""

from collections.abc import Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from velvet_moth.core.language.expr import Array, Expr, Rate, inputs_of, surface_input
from velvet_moth.core.language.interval import SIGNED_UNIT, UNIT, Interval
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import NUMBER, VEC2, VEC3, VEC4, Type


@dataclass(frozen=True)
class SurfaceInput:
    """One thing known at the surface point.

    ``pixel`` computes it in the fragment shader from varyings and uniforms, ``vertex`` in the vertex
    shader from attributes; what exists only per pixel has no ``vertex`` text. ``words`` say for people what it is; those of what is
    the same for a draw may be the uniform's (``interpreters/glsl/outside.py``).
    """

    name: str
    type: Type
    bound: Interval
    pixel: str
    vertex: str = ""
    is_per_draw: bool = False
    words: str = ""

    @property
    def rate(self) -> Rate:
        """For what it is known: a draw, a vertex, or a pixel."""
        if self.is_per_draw:
            return Rate.DRAW
        return Rate.VERTEX if self.vertex else Rate.PIXEL

    @property
    def expr(self) -> Expr:
        """The expression that reads it."""
        return surface_input(self.name, self.type, self.rate)


def _per_draw(name: str, type_: Type, bound: Interval, spelled: str = "", words: str = "") -> SurfaceInput:
    return SurfaceInput(name, type_, bound, spelled or name, spelled or name, is_per_draw=True, words=words)


_PLACES = Interval(-1e4, 1e4)
# A form may be covered by more than one repeat.
_COORDINATES = Interval(-100.0, 100.0)
_LENGTHS = Interval(0.0, 1e4)

INSTANCE_NUMBERS = Interval(-100.0, 100.0)
# So many lamps a draw knows of, besides the sun.
MOST_LAMPS = 3
HARMONICS = tuple(f"around_{number}" for number in range(9))

# A form may be scaled by another factor along each axis.
WORLD_NORMAL = "normalize(transpose(inverse(mat3(modelMatrix))) * normal)"

SURFACE_INPUTS = {
    declared.name: declared
    for declared in (
        SurfaceInput("uv", VEC2, _COORDINATES, "v_uv", "uv", words="texture coordinates, V up"),
        SurfaceInput(
            "second_uv", VEC2, _COORDINATES, "v_second_uv", "second_uv", words="second texture coordinates, V up"
        ),
        SurfaceInput(
            "position",
            VEC3,
            _PLACES,
            "v_position",
            "rest_position",
            words="place in the world before the offset, metres",
        ),
        SurfaceInput("moved_position", VEC3, _PLACES, "v_moved", words="place in the world with the offset, metres"),
        SurfaceInput(
            "object_position", VEC3, _PLACES, "v_object_position", "position", words="place on the form itself, metres"
        ),
        SurfaceInput(
            "normal",
            VEC3,
            SIGNED_UNIT,
            "normalize(v_normal)",
            WORLD_NORMAL,
            words="unit normal in the world, before the offset",
        ),
        # The normal of the form as the surface moves it: a look that moves it says what it is (see ``lighting/shown.py``).
        SurfaceInput(
            "moved_normal",
            VEC3,
            SIGNED_UNIT,
            "normalize(v_normal)",
            WORLD_NORMAL,
            words="unit normal in the world, with the offset",
        ),
        SurfaceInput(
            "object_normal",
            VEC3,
            SIGNED_UNIT,
            "normalize(v_object_normal)",
            "normal",
            words="unit normal on the form itself",
        ),
        SurfaceInput(
            "tangent",
            VEC4,
            SIGNED_UNIT,
            "vec4(normalize(v_tangent.xyz), v_tangent.w)",
            "vec4(normalize(mat3(modelMatrix) * tangent.xyz), tangent.w)",
            words="unit tangent along U in the world, and 1 or -1 for the side of the bitangent",
        ),
        SurfaceInput("vertex_colour", VEC4, UNIT, "v_colour", "colour", words="vertex colour, linear"),
        SurfaceInput(
            "second_vertex_colour",
            VEC4,
            UNIT,
            "v_second_colour",
            "second_colour",
            words="four more numbers of the vertices, 0 to 1; 1 where there are none",
        ),
        # The same all over a triangle: where its middle is, and its number.
        SurfaceInput("face_middle", VEC3, _PLACES, "v_face.xyz", words="middle of the triangle in the world, metres"),
        SurfaceInput("face_number", NUMBER, Interval(0.0, 1e7), "v_face.w", words="number of the triangle, from 0"),
        SurfaceInput(
            "view_direction",
            VEC3,
            SIGNED_UNIT,
            "normalize(camera_position - v_moved)",
            "normalize(camera_position - rest_position)",
            words="unit direction to the eye, in the world",
        ),
        SurfaceInput(
            "camera_distance",
            NUMBER,
            _LENGTHS,
            "length(camera_position - v_moved)",
            "length(camera_position - rest_position)",
            words="distance to the eye, metres",
        ),
        SurfaceInput(
            "is_front", NUMBER, UNIT, "(gl_FrontFacing ? 1.0 : 0.0)", words="1 where the front is seen, 0 from behind"
        ),
        SurfaceInput(
            "screen_position",
            VEC2,
            UNIT,
            "gl_FragCoord.xy / screen_size",
            words="place on the screen, 0 to 1 from its lower left",
        ),
        SurfaceInput(
            "screen_pixel",
            VEC2,
            Interval(0.0, 16384.0),
            "floor(gl_FragCoord.xy)",
            words="pixel on the screen from its lower left, whole numbers",
        ),
        _per_draw("form_low", VEC3, _PLACES),
        _per_draw("form_high", VEC3, _PLACES),
        _per_draw(
            "form_scale",
            VEC3,
            _LENGTHS,
            "vec3(length(modelMatrix[0].xyz), length(modelMatrix[1].xyz), length(modelMatrix[2].xyz))",
            "how much larger the form is in the world, along each of its axes",
        ),
        # Of each instance: eight numbers that it was given; its share of life and a random number; its age (s).
        _per_draw("instance_data", VEC4, INSTANCE_NUMBERS),
        _per_draw("second_instance_data", VEC4, INSTANCE_NUMBERS),
        _per_draw("instance_life", VEC2, UNIT),
        _per_draw("instance_age", NUMBER, _LENGTHS),
        _per_draw("instance_slot", NUMBER, Interval(0.0, 1e6)),
        # What an emitter is set to (see ``emitting/``).
        _per_draw("emitter_slots", NUMBER, Interval(1.0, 1e6)),
        _per_draw("emitter_births", VEC3, _LENGTHS),
        _per_draw("emitter_life", VEC4, _LENGTHS),
        _per_draw("emitter_start", VEC4, _LENGTHS),
        _per_draw("emitter_forces", VEC4, Interval(-1e4, 1e4)),
        _per_draw("emitter_path", VEC4, Interval(-1e4, 1e4)),
        # The box of a decal: its middle, right, up, half its sides; what tells it from others.
        _per_draw("decal_place", VEC3, _PLACES),
        _per_draw("decal_right", VEC3, SIGNED_UNIT),
        _per_draw("decal_up", VEC3, SIGNED_UNIT),
        _per_draw("decal_half", VEC3, _LENGTHS),
        _per_draw("decal_index", NUMBER, Interval(0.0, 4096.0)),
        _per_draw("decal_tint", VEC3, UNIT),
        # Its beginning (seconds), seed, strength and four free numbers, and the angles at which it fades, as cosines.
        _per_draw("decal_born", NUMBER, Interval(-3600.0, 3600.0)),
        _per_draw("decal_seed", NUMBER, Interval(0.0, 65535.0)),
        _per_draw("decal_strength", NUMBER, UNIT),
        _per_draw("decal_numbers", VEC4, Interval(-1e6, 1e6)),
        _per_draw("decal_fade", VEC2, UNIT),
        # How decals live (see ``lighting/spread.py``).
        _per_draw("spread_times", VEC4, _LENGTHS),
        _per_draw("spread_way", VEC3, Interval(-10.0, 10.0)),
        _per_draw("spread_ending", VEC2, UNIT),
        _per_draw("camera_position", VEC3, _PLACES),
        _per_draw("camera_right", VEC3, SIGNED_UNIT),
        _per_draw("camera_up", VEC3, SIGNED_UNIT),
        # Half the width and height of the picture at one metre from the eye.
        _per_draw("lens", VEC2, Interval(0.0, 100.0)),
        _per_draw("time", NUMBER, Interval(0.0, 3600.0)),
        _per_draw("sun_direction", VEC3, SIGNED_UNIT),
        _per_draw("sun_colour", VEC3, Interval(0.0, 1e3)),
        *(_per_draw(f"lamp_place_{number}", VEC3, _PLACES) for number in range(1, MOST_LAMPS + 1)),
        *(_per_draw(f"lamp_colour_{number}", VEC3, Interval(0.0, 1e3)) for number in range(1, MOST_LAMPS + 1)),
        # The picture that the sun sees: its axes, and half its side in metres.
        _per_draw("sun_right", VEC3, SIGNED_UNIT),
        _per_draw("sun_up", VEC3, SIGNED_UNIT),
        _per_draw("sun_half", NUMBER, Interval(0.1, 1e3)),
        # The diffuse light of the surroundings (see ``lighting/harmonics.py``).
        *(_per_draw(name, VEC3, Interval(-1e4, 1e4)) for name in HARMONICS),
        _per_draw("rig_turn", NUMBER, UNIT),
        _per_draw("exposure", NUMBER, Interval(0.0, 1e3)),
    )
}


def surface(name: str) -> Expr:
    """The expression of a declared surface input."""
    return SURFACE_INPUTS[name].expr


@dataclass(frozen=True, eq=False)
class Given:
    """Surface inputs that are expressions of others: where no form is drawn all of them, where it moves its normal.

    They take the place of what the form itself would have, in every interpreter. Two of the same expressions are one key of
    a cache.
    """

    inputs: Mapping[str, Expr]

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Given) and self.inputs == other.inputs

    def __hash__(self) -> int:
        return hash(frozenset(self.inputs.items()))

    def read_by(self, outputs: Sequence[Expr]) -> list[str]:
        """The names of those that some expressions read."""
        read = inputs_of(outputs)
        return [name for name in self.inputs if name in read]

    def with_read(self, outputs: Sequence[Expr]) -> list[Expr]:
        """The expressions, and what is given and read by them."""
        return [*outputs, *(self.inputs[name] for name in self.read_by(outputs))]

    def spelled(self, declared: SurfaceInput) -> str:
        """How the fragment shader reads an input: from a global of its own where it is given."""
        return f"given_{declared.name}" if declared.name in self.inputs else declared.pixel


@dataclass(frozen=True, eq=False)
class Instancing:
    """A form drawn many times: where each instance puts its vertices, and what it knows.

    ``placed`` are ``position``, ``normal`` and ``tangent`` in the world, of the same names of the form by itself and of
    ``instance_slot``, which counts instances from 0; ``own`` are the surface inputs that are the same all over an instance.
    ``lives`` is 1 for instances that are there, 0 for others, which have no size.
    """

    placed: Mapping[str, Expr]
    own: Mapping[str, Expr]
    lives: Expr

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Instancing) and self.placed == other.placed and self.own == other.own

    def __hash__(self) -> int:
        return hash((frozenset(self.placed.items()), frozenset(self.own.items())))


@dataclass(frozen=True)
class Bindings:
    """Everything outside the DAG that an evaluation needs, as arrays and textures by key.

    What is ``given`` is computed of the other inputs. With ``calls`` results of functions are kept there for as long as it lasts, for many small pictures of nodes that are
    alike; without, nothing is kept beyond its last use.
    """

    inputs: Mapping[str, Array]
    uniforms: Mapping[Hashable, Array] = field(default_factory=dict)
    textures: Mapping[Hashable, Texture] = field(default_factory=dict)
    calls: dict[Hashable, tuple[Sequence[Array], Any]] | None = None
    given: Given | None = None

    def read_for(self, outputs: list[Expr]) -> list[Expr]:
        """All that is worked out for some outputs: themselves, and what is given and read by them."""
        return outputs if self.given is None else self.given.with_read(outputs)

    def at(self, points: Mapping[str, Array]) -> "Bindings":
        """The same with what is known at some points."""
        return replace(self, inputs={**self.inputs, **points})
