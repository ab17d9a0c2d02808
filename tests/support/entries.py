"""Entry points around exported functions, so that compilers see them called: everything is given from outside, and everything kept."""

import re
import subprocess
import tempfile
from pathlib import Path

from tests.support.native import accepted
from velvet_moth.core.exporting.choices import Choices
from velvet_moth.core.exporting.exported import Exported
from velvet_moth.core.language.dialects import Dialect
from velvet_moth.core.language.interpreters.text.module import Computed

OPTIONS = {
    "glsl_es": (),
    "glsl": ("-G", "--auto-map-locations", "--auto-map-bindings"),
    "glsl_vulkan": ("-V",),
    "hlsl": ("-V", "-D", "-e", "main", "--auto-map-locations", "--auto-map-bindings"),
}
# What a device computes; the rest moves values about, or says where.
_COMPUTED = (
    "OpF",
    "OpDot",
    "OpExtInst",
    "OpSelect",
    "OpI",
    "OpU",
    "OpS",
    "OpConvert",
    "OpDPd",
    "OpVectorTimes",
    "OpLogical",
)
_NOT_COMPUTED = ("OpFunction", "OpImage ", "OpSampledImage", "OpUndef", "OpImageQuery", "OpStore", "OpSelectionMerge")


def entry(exported: Exported, functions: list[Computed], choices: Choices) -> str:
    """A fragment shader's main that calls the first function; GLSL and HLSL."""
    dialect, function, is_hlsl = choices.dialect, functions[0], choices.language == "hlsl"
    given, lines, arguments = [], [], []

    def from_outside(member: str, width: int, kind: str) -> None:
        letters = "xyzw"[:width]
        lines.append(f"{member} = from_{len(given)}.{letters};")
        given.append(kind)

    inputs = exported.module.inputs[function.name]
    if inputs:
        lines.append(f"{choices.prefix}{function.point} at;")
        arguments.append("at")
    for declared in inputs:
        from_outside(f"at.{declared.name}", declared.type.width, "")
    if exported.module.values:
        lines.append(f"{choices.prefix}Values values;")
        arguments.append("values")
    for member in exported.module.values:
        from_outside(f"values.{member.name}", member.type.width, "")
    called = f"{choices.prefix}{function.name}({', '.join(arguments)})"
    lines.append(f"{choices.prefix}{function.result} found = {called};")
    four = dialect.types[max(dialect.types, key=lambda kind: kind.width)]
    made = []
    for key, expr in function.members.items():
        parts = [f"found.{key}{'' if expr.type.width == 1 else '.' + 'xyzw'[n]}" for n in range(expr.type.width)]
        lines.append(f"to_{len(made)} = {four}({', '.join([*parts, *['0.0'] * (4 - len(parts))])});")
        made.append(key)
    body = "\n".join(f"  {line}" for line in lines)
    if is_hlsl:
        taken = [f"in {four} from_{n} : TEXCOORD{n}" for n in range(len(given))]
        taken += [f"out {four} to_{n} : SV_Target{n}" for n in range(len(made))]
        return f"void main({', '.join(taken)}) {{\n{body}\n}}\n"
    outside = [f"layout(location = {n}) in {four} from_{n};" for n in range(len(given))]
    outside += [f"layout(location = {n}) out {four} to_{n};" for n in range(len(made))]
    if choices.language == "glsl_es":
        outside = [re.sub(r"^layout\(location = \d+\) in", "in", line) for line in outside]
    return "\n".join([*outside, f"void main() {{\n{body}\n}}\n"])


def compiled(text: str, dialect: Dialect) -> bytes:
    """SPIR-V of a whole text, accepted by its compiler; nothing for GLSL ES, which has none."""
    return accepted(text, OPTIONS[dialect.key])


def operations(binary: bytes) -> int:
    """Operations left after spirv-opt; moving values about is none."""
    with tempfile.TemporaryDirectory() as folder:
        made, small = Path(folder, "a.spv"), Path(folder, "b.spv")
        made.write_bytes(binary)
        subprocess.run(["spirv-opt", "-O", str(made), "-o", str(small)], check=True)
        listing = subprocess.run(["spirv-dis", str(small)], capture_output=True, text=True, check=True).stdout
    body = listing[listing.index("OpFunction ") :]
    words = (f"{line.split('=', 1)[-1].strip()} " for line in body.splitlines())
    return sum(word.startswith(_COMPUTED) and not word.startswith(_NOT_COMPUTED) for word in words)
