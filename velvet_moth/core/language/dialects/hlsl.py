"""HLSL of shader model 6; the text holds for older compilers too."""

from velvet_moth.core.language.dialects.base import Dialect, EntryText
from velvet_moth.core.language.types import BOOL, NUMBER, VEC2, VEC3, VEC4

_CELL_RANDOM = """float3 cell_random(float3 p) {
  uint3 v = (uint3)((int3)p) * 1664525u + 1013904223u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  v ^= v >> 16u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  return (float3)(v >> 8u) * 5.9604644775390625e-8;
}"""


def _where(width: int, operator: str, a: str, b: str, yes: str, no: str) -> str:
    # Compilers do not agree on how vectors are chosen from in one go.
    return f"({a} {operator} {b} ? {yes} : {no})" if width == 1 else f"chosen_{width}({a} {operator} {b}, {yes}, {no})"


def _chosen(width: int) -> str:
    parts = ", ".join(f"c.{letter} ? yes.{letter} : no.{letter}" for letter in "xyzw"[:width])
    kind = f"float{width}"
    return f"{kind} chosen_{width}(bool{width} c, {kind} yes, {kind} no) {{ return {kind}({parts}); }}"


def _entry(text: EntryText) -> str:
    blocks = [
        f"cbuffer {structure}Block : register(b{number}) {{ {structure} {name}; }};"
        for number, (name, structure) in enumerate(text.blocks.items())
    ]
    taken = [f"{kind} {name} : TEXCOORD{number}" for number, (name, kind) in enumerate(text.given.items())]
    taken += ["float4 given_place : SV_Position", "bool given_front : SV_IsFrontFace"]
    made = [f"out float4 target_{number} : SV_Target{number}" for number in range(text.targets)]
    return "\n".join([*blocks, f"void pixel_shader({', '.join([*taken, *made])}) {{\n{text.body}}}"])


HLSL = Dialect(
    key="hlsl",
    name="HLSL, shader model 6",
    types={
        NUMBER: "float",
        VEC2: "float2",
        VEC3: "float3",
        VEC4: "float4",
        BOOL: "bool",
    },
    wide="(({type})({value}))",
    private="static {type} {name};",
    chosen=lambda width, condition, yes, no: f"({condition} ? {yes} : {no})",
    where=_where,
    sample="{texture}.SampleLevel({texture}_sampler, {uv}, {level})",
    size="pixels_of({texture})",
    along_x="ddx({value})",
    # Rows count downwards.
    along_y="(-ddy({value}))",
    between_rows="ddy({value})",
    cell_random=_CELL_RANDOM,
    texture="Texture2D {name} : register(t{number});\nSamplerState {name}_sampler : register(s{number});",
    texture_parameter="Texture2D {name}, SamplerState {name}_sampler",
    texture_argument="{name}, {name}_sampler",
    reduced="min16{type} {name} = {value};",
    front="given_front",
    place="float2(given_place.x, {size}.y - given_place.y)",
    entry=_entry,
    suffix=".hlsl",
    functions={"fract": "frac", "atan": "atan2", "inversesqrt": "rsqrt"},
    further={
        **{f"chosen_{width}": _chosen(width) for width in (2, 3, 4)},
        "pixels_of": "float2 pixels_of(Texture2D t) { uint across, down; t.GetDimensions(across, down); return float2(across, down); }",
    },
)
