"""GLSL: ES 3.00 as WebGL 2 takes it, and 4.50 for OpenGL and for Vulkan."""

from collections.abc import Callable
from dataclasses import replace

from velvet_moth.core.language.dialects.base import Dialect, EntryText
from velvet_moth.core.language.types import BOOL, NUMBER, VEC2, VEC3, VEC4

_CELL_RANDOM = """vec3 cell_random(vec3 p) {
  uvec3 v = uvec3(ivec3(p)) * 1664525u + 1013904223u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  v ^= v >> 16u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  return vec3(v >> 8u) * 5.9604644775390625e-8;
}"""
_COMPARED = {"<": "lessThan({a}, {b})", "==": "equal({a}, {b})"}


def _where(width: int, operator: str, a: str, b: str, yes: str, no: str) -> str:
    answer = f"{a} {operator} {b}" if width == 1 else _COMPARED[operator].format(a=a, b=b)
    return f"mix({no}, {yes}, {answer})"


def _chosen(width: int, condition: str, yes: str, no: str) -> str:
    # Both are computed anyway: a selection is cheaper than a branch.
    return f"mix({no}, {yes}, {condition if width == 1 else f'bvec{width}({condition})'})"


def _entry(block: str, given: str) -> Callable[[EntryText], str]:
    """Entry points with such layouts of blocks and of what vertices give, for numbers from 0."""

    def entry(text: EntryText) -> str:
        blocks = [
            f"{block.format(number=number)} uniform {structure}Block {{ {structure} {name}; }};"
            for number, (name, structure) in enumerate(text.blocks.items())
        ]
        taken = [
            f"{given.format(number=number)}in {kind} {name};" for number, (name, kind) in enumerate(text.given.items())
        ]
        made = [f"layout(location = {number}) out vec4 target_{number};" for number in range(text.targets)]
        return "\n".join([*blocks, *taken, *made, f"void main() {{\n{text.body}}}"])

    return entry


_LOCATION = "layout(location = {number}) "

GLSL_ES = Dialect(
    key="glsl_es",
    name="GLSL ES 3.00",
    types={
        NUMBER: "float",
        VEC2: "vec2",
        VEC3: "vec3",
        VEC4: "vec4",
        BOOL: "bool",
    },
    wide="{type}({value})",
    private="{type} {name};",
    chosen=_chosen,
    where=_where,
    sample="textureLod({texture}, {uv}, {level})",
    size="vec2(textureSize({texture}, 0))",
    along_x="dFdx({value})",
    along_y="dFdy({value})",
    between_rows="dFdy({value})",
    cell_random=_CELL_RANDOM,
    texture="uniform sampler2D {name};",
    texture_parameter="sampler2D {name}",
    texture_argument="{name}",
    reduced="mediump {type} {name} = {value};",
    front="gl_FrontFacing",
    place="gl_FragCoord.xy",
    entry=_entry("layout(std140)", ""),
    entry_name="main",
    suffix=".glsl",
    before=("#version 300 es", "precision highp float;", "precision highp int;", "precision highp sampler2D;"),
)
GLSL_OPENGL = replace(
    GLSL_ES,
    key="glsl",
    name="GLSL 4.50 for OpenGL",
    entry=_entry("layout(std140, binding = {number})", _LOCATION),
    before=("#version 450",),
)
# Rows count downwards there; textures and samplers are apart, as every API on top of it has them.
GLSL_VULKAN = replace(
    GLSL_ES,
    key="glsl_vulkan",
    name="GLSL 4.50 for Vulkan",
    sample="textureLod(sampler2D({texture}, {texture}_sampler), {uv}, {level})",
    along_y="(-dFdy({value}))",
    texture=(
        "layout(set = 0, binding = {number}) uniform texture2D {name};\n"
        "layout(set = 1, binding = {number}) uniform sampler {name}_sampler;"
    ),
    texture_parameter="texture2D {name}, sampler {name}_sampler",
    texture_argument="{name}, {name}_sampler",
    switch="layout(constant_id = {number}) const bool {name} = {value};",
    switch_name=str,
    place="vec2(gl_FragCoord.x, {size}.y - gl_FragCoord.y)",
    entry=_entry("layout(std140, set = 2, binding = {number})", _LOCATION),
    before=("#version 450", "#extension GL_EXT_samplerless_texture_functions : require"),
)
