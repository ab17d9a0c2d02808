"""Modules that were sent out, executed by WebGPU on a software Vulkan: from WGSL, and from SPIR-V of Vulkan's GLSL."""

import os
import re
import subprocess
import tempfile
from collections import Counter
from collections.abc import Hashable, Mapping, Sequence
from functools import cache
from pathlib import Path
from typing import Any

import numpy as np

from velvet_moth.core.language.dialects import Dialect
from velvet_moth.core.language.dialects.glsl import GLSL_VULKAN
from velvet_moth.core.language.dialects.wgsl import WGSL
from velvet_moth.core.language.expr import Expr
from velvet_moth.core.language.interpreters.text.module import Computed, Module, write_module
from velvet_moth.core.language.texture import Texture
from velvet_moth.core.language.types import Type

os.environ.setdefault("XDG_RUNTIME_DIR", tempfile.gettempdir())
EXECUTED = (WGSL, GLSL_VULKAN)
_VERTEX = """
@vertex fn vertices(@builtin(vertex_index) number: u32) -> @builtin(position) vec4f {
  let corners = array<vec2f, 3>(vec2f(-1.0, -1.0), vec2f(1.0, -1.0), vec2f(-1.0, 1.0));
  return vec4f(corners[number], 0.0, 1.0);
}
"""
# What the functions are given, and what they give, is a row of floats for each pixel, from the lowest row.
_WGSL = """
@group(2) @binding(0) var<storage, read> given: array<f32>;
@group(2) @binding(1) var<storage, read> held: array<f32>;
@group(2) @binding(2) var<storage, read_write> made: array<f32>;
@fragment fn pixels(@builtin(position) place: vec4f) -> @location(0) vec4f {
  let pixel = u32(place.x) + SIZEu * (3u * SIZEu - 1u - u32(place.y));
FILL
  return vec4f(1.0);
}
"""
_GLSL = """
layout(set = 2, binding = 0) readonly buffer Given { float given[]; };
layout(set = 2, binding = 1) readonly buffer Held { float held[]; };
layout(set = 2, binding = 2) buffer Made { float made[]; };
layout(location = 0) out vec4 picture;
void main() {
  uint pixel = uint(gl_FragCoord.x) + SIZEu * (3u * SIZEu - 1u - uint(gl_FragCoord.y));
FILL
  picture = vec4(1.0);
}
"""
_ENTRIES = {WGSL: _WGSL, GLSL_VULKAN: _GLSL}
_WRAPS = {"repeat": "repeat", "clamp": "clamp-to-edge", "mirror": "mirror-repeat"}


@cache
def device() -> Any:
    """The software Vulkan of this machine."""
    import wgpu  # noqa: PLC0415 - asks for a device only where one is used

    found = [a for a in wgpu.gpu.enumerate_adapters_sync() if a.info["backend_type"] == "Vulkan"]
    return found[0].request_device_sync(required_features=["float32-filterable"])


def accepted(text: str, options: Sequence[str]) -> bytes:
    """What glslangValidator makes of a fragment shader, accepted by spirv-val; AssertionError with what they say.

    Nothing where the options ask for no SPIR-V.
    """
    with tempfile.TemporaryDirectory() as folder:
        source, made = Path(folder, "a.frag"), Path(folder, "a.spv")
        source.write_text(text)
        target = ["-o", str(made)] if options else []
        commands = [
            ["glslangValidator", *options, str(source), *target],
            *([["spirv-val", str(made)]] if options else []),
        ]
        for command in commands:
            done = subprocess.run(command, capture_output=True, text=True, check=False)
            assert done.returncode == 0, f"{done.stdout[-2000:]}{done.stderr[-500:]}"
        return made.read_bytes() if options else b""


def _filled(dialect: Dialect, module: Module, function: Computed, size: int) -> str:
    """The statements that fill the structures, call the function, and keep what it gives."""
    lines, arguments, at = [], [], 0

    def put(member: str, kind: Type, source: Sequence[str]) -> None:
        text = source[0] if kind.width == 1 else f"{dialect.types[kind]}({', '.join(source)})"
        lines.append(f"{member} = {text};")

    if module.inputs[function.name]:
        lines.append(dialect.unset.format(type=function.point, name="at"))
        arguments.append("at")
    for declared in module.inputs[function.name]:
        width = declared.type.width
        put(f"at.{declared.name}", declared.type, [f"given[{(at + n) * size * size}u + pixel]" for n in range(width)])
        at += width
    if module.values:
        lines.append(dialect.unset.format(type="Values", name="values"))
        arguments.append("values")
    for number, member in enumerate(module.values):
        first = sum(one.type.width for one in module.values[:number])
        put(
            f"values.{member.name}",
            member.type,
            [f"held[{(first + n) * size * size}u + pixel]" for n in range(member.type.width)],
        )
    called = f"{function.name}({', '.join(arguments)})"
    lines.append(dialect.local.format(type=function.result, name="found", value=called))
    at = 0
    for key, expr in function.members.items():
        for n in range(expr.type.width):
            part = f"found.{key}" + (f".{'xyzw'[n]}" if expr.type.width > 1 else "")
            lines.append(f"made[{at * size * size}u + pixel] = {part};")
            at += 1
    return "\n".join(f"  {line}" for line in lines)


def executed(
    dialect: Dialect,
    outputs: Sequence[Expr],
    inputs: Mapping[str, np.ndarray],
    textures: Mapping[Hashable, Texture],
    values: Mapping[Hashable, np.ndarray],
    size: int,
) -> list[np.ndarray]:
    """What a module of such outputs gives at size x size pixels, each (components, size, size), the lowest row first.

    ``values`` may be other ones at each pixel.
    """
    function = Computed("all_of_it", "Found", "At", {f"o{n}": e for n, e in enumerate(outputs)})
    module = write_module(dialect, [function], lambda key: "value")
    text = module.text + _ENTRIES[dialect].replace("FILL", _filled(dialect, module, function, size)).replace(
        "SIZE", str(size)
    )
    rows = [_per_pixel(inputs[d.name], d.type.width, size) for d in module.inputs[function.name]]
    held = [_per_pixel(values[member.key], member.type.width, size) for member in module.values]
    widths = [e.type.width for e in outputs]
    made = _drawn(text, dialect, module, textures, rows, held, sum(widths) * size * size, size)
    return np.split(made.reshape(-1, size, size), np.cumsum(widths)[:-1])


def _per_pixel(array: np.ndarray, width: int, size: int) -> np.ndarray:
    """A value as (components, size, size)."""
    stacked = array if array.ndim == 3 else array[None] if array.ndim == 2 else np.reshape(array, (-1, 1, 1))
    return np.broadcast_to(stacked, (width, size, size))


def _drawn(
    text: str,
    dialect: Dialect,
    module: Module,
    textures: Mapping[Hashable, Texture],
    rows: Sequence[np.ndarray],
    held: Sequence[np.ndarray],
    count: int,
    size: int,
) -> np.ndarray:
    gpu = device()
    code: Any = text if dialect is WGSL else accepted(text, ["-V"])
    fragments = gpu.create_shader_module(code=code)
    vertices = gpu.create_shader_module(code=_VERTEX)
    pipeline = gpu.create_render_pipeline(
        layout="auto",
        vertex={"module": vertices, "entry_point": "vertices"},
        fragment={
            "module": fragments,
            "entry_point": "pixels" if dialect is WGSL else "main",
            "targets": [{"format": "r8unorm"}],
        },
        primitive={"topology": "triangle-list"},
    )
    storage = 0x0080 | 0x0004 | 0x0008  # STORAGE, COPY_SRC, COPY_DST
    filled = [(number, np.concatenate(one).astype(np.float32)) for number, one in enumerate((rows, held)) if len(one)]
    buffers = {n: gpu.create_buffer_with_data(data=data.tobytes(), usage=storage) for n, data in filled}
    buffers[2] = gpu.create_buffer(size=count * 4, usage=storage)
    groups = {2: [{"binding": n, "resource": {"buffer": buffer}} for n, buffer in buffers.items()]}
    words = Counter(re.findall(r"\w+", text))
    groups[0] = [
        {"binding": n, "resource": _texture(gpu, textures[slot.key])}
        for n, slot in enumerate(module.samplers)
        if words[slot.name] > 1
    ]
    groups[1] = [
        {"binding": n, "resource": _sampler(gpu, slot)}
        for n, slot in enumerate(module.samplers)
        if words[f"{slot.name}_sampler"] > 1
    ]
    # The triangle is never cut: along a seam of two, pixels beside it would be computed without what they read.
    target = gpu.create_texture(size=(3 * size, 3 * size, 1), format="r8unorm", usage=0x10)
    encoder = gpu.create_command_encoder()
    draw = encoder.begin_render_pass(
        color_attachments=[{"view": target.create_view(), "load_op": "clear", "store_op": "store"}]
    )
    draw.set_pipeline(pipeline)
    draw.set_scissor_rect(0, 2 * size, size, size)
    for number in range(3):
        layout = pipeline.get_bind_group_layout(number)
        draw.set_bind_group(number, gpu.create_bind_group(layout=layout, entries=groups.get(number, [])))
    draw.draw(3)
    draw.end()
    gpu.queue.submit([encoder.finish()])
    return np.frombuffer(gpu.queue.read_buffer(buffers[2]), dtype=np.float32).copy()


def _texture(gpu: Any, texture: Texture) -> Any:
    levels = [np.ascontiguousarray(level.transpose(1, 2, 0), dtype=np.float32) for level in texture.levels]
    high, wide = levels[0].shape[:2]
    made = gpu.create_texture(
        size=(wide, high, 1), format="rgba32float", usage=0x04 | 0x02, mip_level_count=len(levels)
    )
    for number, level in enumerate(levels):
        gpu.queue.write_texture(
            {"texture": made, "mip_level": number},
            level,
            {"bytes_per_row": level.shape[1] * 16, "rows_per_image": level.shape[0]},
            (level.shape[1], level.shape[0], 1),
        )
    return made.create_view()


def _sampler(gpu: Any, slot: Any) -> Any:
    way = "nearest" if slot.filter == "pixels" else "linear"
    return gpu.create_sampler(
        address_mode_u=_WRAPS[slot.wrap[0]],
        address_mode_v=_WRAPS[slot.wrap[1]],
        mag_filter=way,
        min_filter=way,
        mipmap_filter="linear",
    )
