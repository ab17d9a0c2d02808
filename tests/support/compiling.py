"""Exported texts through real compilers: whether they take them, and how many operations they make of them."""

import subprocess
import tempfile
from pathlib import Path

from tests.support.native import accepted
from velvet_moth.core.language.dialects import Dialect

OPTIONS = {
    "glsl_es": (),
    "glsl": ("-G", "--auto-map-locations", "--auto-map-bindings"),
    "glsl_vulkan": ("-V",),
    "hlsl": ("-V", "-D", "-e", "moth_pixel_shader", "--auto-map-locations", "--auto-map-bindings"),
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
