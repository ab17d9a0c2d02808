"""WGSL, the language of WebGPU."""

from velvet_moth.core.language.dialects.base import Dialect, EntryText
from velvet_moth.core.language.types import BOOL, NUMBER, VEC2, VEC3, VEC4

_CELL_RANDOM = """fn cell_random(p: vec3f) -> vec3f {
  var v = vec3u(vec3i(p)) * 1664525u + 1013904223u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  v = v ^ (v >> vec3u(16u));
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  return vec3f(v >> vec3u(8u)) * 5.9604644775390625e-8;
}"""


def _entry(text: EntryText) -> str:
    blocks = [
        f"@group(2) @binding({number}) var<uniform> {name}: {structure};"
        for number, (name, structure) in enumerate(text.blocks.items())
    ]
    taken = [f"@location({number}) {name}: {kind}" for number, (name, kind) in enumerate(text.given.items())]
    taken += ["@builtin(position) given_place: vec4f", "@builtin(front_facing) given_front: bool"]
    numbers = range(text.targets)
    members = "\n".join(f"  @location({number}) target_{number}: vec4f," for number in numbers)
    unset = "".join(f"  var target_{number}: vec4f;\n" for number in numbers)
    made = ", ".join(f"target_{number}" for number in numbers)
    head = f"@fragment fn pixel_shader({', '.join(taken)}) -> Targets"
    body = f"{head} {{\n{unset}{text.body}  return Targets({made});\n}}"
    return "\n".join([*blocks, f"struct Targets {{\n{members}\n}}", body])


WGSL = Dialect(
    key="wgsl",
    name="WGSL",
    types={
        NUMBER: "f32",
        VEC2: "vec2f",
        VEC3: "vec3f",
        VEC4: "vec4f",
        BOOL: "bool",
    },
    wide="{type}({value})",
    local="let {name}: {type} = {value};",
    unset="var {name}: {type};",
    private="var<private> {name}: {type};",
    parameter="{name}: {type}",
    function="fn {name}({parameters}) -> {type}",
    procedure="fn {name}({parameters})",
    out_parameter="{name}: ptr<function, {type}>",
    out_argument="&{name}",
    out_target="*{name}",
    member="{name}: {type},",
    structure="struct {name} {{\n{members}\n}}",
    chosen=lambda width, condition, yes, no: f"select({no}, {yes}, {condition})",
    where=lambda width, operator, a, b, yes, no: f"select({no}, {yes}, {a} {operator} {b})",
    sample="textureSampleLevel({texture}, {texture}_sampler, {uv}, {level})",
    size="vec2f(textureDimensions({texture}, 0))",
    along_x="dpdx({value})",
    # Rows count downwards.
    along_y="(-dpdy({value}))",
    between_rows="dpdy({value})",
    cell_random=_CELL_RANDOM,
    texture=(
        "@group(0) @binding({number}) var {name}: texture_2d<f32>;\n"
        "@group(1) @binding({number}) var {name}_sampler: sampler;"
    ),
    texture_parameter="{name}: texture_2d<f32>, {name}_sampler: sampler",
    texture_argument="{name}, {name}_sampler",
    switch="@id({number}) override {name}: bool = {value};",
    switch_name=str,
    # Half precision is another type there, and a device may not have it.
    reduced=None,
    front="given_front",
    place="vec2f(given_place.x, {size}.y - given_place.y)",
    entry=_entry,
    suffix=".wgsl",
    functions={"atan": "atan2", "inversesqrt": "inverseSqrt"},
    has_overloads=False,
    mixes_widths=False,
)
