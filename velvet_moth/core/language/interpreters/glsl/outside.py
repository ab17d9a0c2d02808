"""What a draw gets from outside besides a graph's own values: uniforms, and attributes of the vertices."""

from dataclasses import dataclass

from velvet_moth.core.language.inputs import HARMONICS, MOST_LAMPS

# How many vec4s a uniform takes, where it is more than one.
_VECTORS = {"mat4": 4}


@dataclass(frozen=True)
class Given:
    """One uniform or vertex attribute: its GLSL type and name, and for people what it carries, with its unit."""

    type: str
    name: str
    words: str

    @property
    def vectors(self) -> int:
        """The vec4s that it takes as a uniform."""
        return _VECTORS.get(self.type, 1)


ATTRIBUTES = (
    Given("vec3", "position", "place on the form, metres"),
    Given("vec3", "normal", "unit normal of the form"),
    Given("vec4", "tangent", "unit tangent along U, and 1 or -1 for the side of the bitangent, as glTF has it"),
    Given("vec2", "uv", "texture coordinates, V up"),
    Given("vec2", "second_uv", "second texture coordinates, V up"),
    Given("vec4", "colour", "vertex colour, linear"),
    Given("vec4", "second_colour", "four more numbers at each vertex, 0 to 1; 1 where there are none"),
    Given("vec4", "face", "at the last corner of each triangle: its middle on the form, metres, and its number from 0"),
)
_LAMPS = tuple(
    given
    for number in range(1, MOST_LAMPS + 1)
    for given in (
        Given("vec3", f"lamp_place_{number}", "place of a lamp in the world, metres"),
        Given("vec3", f"lamp_colour_{number}", "light of the lamp at one metre, linear"),
    )
)
UNIFORMS = (
    Given("mat4", "modelMatrix", "from the form to the world"),
    Given("mat4", "viewMatrix", "from the world to the eye"),
    Given("mat4", "projectionMatrix", "from the eye to the screen"),
    Given("vec3", "camera_position", "place of the eye in the world, metres"),
    Given("vec2", "screen_size", "pixels across and up"),
    Given("vec3", "form_low", "lower corner of the bounds of the form itself, metres"),
    Given("vec3", "form_high", "upper corner of the bounds of the form itself, metres"),
    Given("vec4", "instance_data", "four numbers of each instance"),
    Given("vec4", "second_instance_data", "four more numbers of each instance"),
    Given("vec2", "instance_life", "of each instance: share of its life, and a random number, 0 to 1"),
    Given("float", "instance_age", "of each instance: age in seconds"),
    Given("float", "instance_slot", "number of the instance among all that are drawn, from 0"),
    Given("float", "emitter_slots", "instances of each source"),
    Given("vec3", "emitter_births", "instances a second, instances at once, seconds of emission (0 for all the time)"),
    Given("vec4", "emitter_life", "shortest and longest life (s), smallest and largest size"),
    Given("vec4", "emitter_start", "slowest and fastest start (m/s), half the angle of the cone (radians), radius (m)"),
    Given("vec4", "emitter_forces", "gravity (m/s2), drag (1/s), slowest and fastest spin (radians a second)"),
    Given("vec4", "emitter_path", "length (m, or s of a trail), radius (m), turns, turns a second"),
    Given("vec3", "decal_place", "middle of the decal's box in the world, metres"),
    Given("vec3", "decal_right", "unit direction to the right of the box"),
    Given("vec3", "decal_up", "unit direction up in the box"),
    Given("vec3", "decal_half", "half the sides of the box, metres"),
    Given("float", "decal_index", "number of the decal, from 0"),
    Given("vec3", "decal_tint", "colour of the decal, linear"),
    Given("float", "decal_born", "when the decal begins, seconds"),
    Given("float", "decal_seed", "seed of the decal, a whole number from 0 to 65535"),
    Given("float", "decal_strength", "how hard the decal was thrown, 0 to 1"),
    Given("vec4", "decal_numbers", "four free numbers of the decal"),
    Given("vec2", "decal_fade", "cosines of the angles at which a face begins to fade and is gone"),
    Given("vec4", "spread_times", "smallest size (m), speed (m/s), how long it stays and how long it takes to go (s)"),
    Given("vec3", "spread_way", "growth by the share of its time x: the coefficients of x, x squared, x cubed"),
    Given("vec2", "spread_ending", "1 where decals are drawn in at their end; 1 where they dry"),
    Given("vec3", "camera_right", "unit direction to the right of the eye, in the world"),
    Given("vec3", "camera_up", "unit direction up of the eye, in the world"),
    Given("vec2", "lens", "half the width and height of the picture at one metre, metres"),
    Given("float", "time", "seconds"),
    Given("vec3", "sun_direction", "unit direction to the sun, in the world"),
    Given("vec3", "sun_colour", "light of the sun, linear"),
    *_LAMPS,
    Given("vec3", "sun_right", "unit direction to the right in the sun's picture"),
    Given("vec3", "sun_up", "unit direction up in the sun's picture"),
    Given("float", "sun_half", "half the side of the sun's picture, metres"),
    *(Given("vec3", name, "light of the surroundings, a spherical harmonic, linear") for name in HARMONICS),
    Given("float", "rig_turn", "turn of the surroundings about the vertical, whole turns"),
    Given("float", "exposure", "factor on all light"),
)
# Of the stage alone: draws the distances that shadows are made from, in place of the picture.
SUN_PASS = Given("bool", "sun_pass", "yes while the sun's picture of distances is drawn")
