"""Emitted code against the same effects written by hand: instructions left after spirv-opt.

Run: .venv/bin/python -m bench.handwritten (needs Debian's glslang-tools and spirv-tools)
"""

import re
import subprocess
import tempfile
from collections.abc import Callable
from pathlib import Path

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from bench.handwritten_effects import hologram, ink, tiles, triplanar
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.files.graph_json import graph_from_json, graph_to_json
from velvet_moth.core.language.interpreters.cost import Cost
from velvet_moth.core.language.interpreters.glsl import emit
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.render.shading import drawing, shown_look
from velvet_moth.demo.contents import demo_textures, mesh_names
from velvet_moth.demo.graphs import ferry_enamel
from velvet_moth.demo.grounds import silt_splash
from velvet_moth.demo.metal_and_hair import ferrywomans_braid
from velvet_moth.demo.moving import basin_water, wind_reeds

FOLDER = Path(__file__).with_name("handwritten")
MOST = 1.1
HEAD = "#version 310 es\n#extension GL_EXT_control_flow_attributes : enable\nprecision highp float; precision highp int; precision highp sampler2D;\n"


# The graph of each effect, and the files that stand before its own in each stage.
EFFECTS: dict[str, tuple[Callable[[dict[str, str]], Graph], tuple[str, ...], tuple[str, ...]]] = {
    "enamel": (ferry_enamel, ("common.glsl",), ()),
    "water": (basin_water, ("common.glsl", "waves.glsl"), ("vertex.glsl", "waves.glsl")),
    "reeds": (wind_reeds, ("common.glsl", "wind.glsl"), ("vertex.glsl", "hills3", "wind.glsl")),
    "triplanar": (triplanar, ("common.glsl",), ()),
    "braid": (ferrywomans_braid, ("common.glsl",), ()),
    "splash": (silt_splash, ("common.glsl",), ()),
    "ink": (ink, ("common.glsl",), ()),
    "tiles": (tiles, ("common.glsl",), ()),
    "hologram": (hologram, ("common.glsl",), ()),
}
# By hand their values stand in the text; in the others they are uniforms, and so the emitted ones are not folded.
FOLDED = frozenset({"ink", "tiles", "hologram"})


def optimised(text: str, kind: str) -> str:
    """The SPIR-V listing of a shader after full optimisation, loops unrolled."""
    with tempfile.TemporaryDirectory() as folder:
        source, binary, small = (Path(folder) / n for n in (f"shader.{kind}", "a.spv", "b.spv"))
        # SPIR-V has no such uniform: the picture itself is counted, not that of the sun.
        source.write_text(re.sub(r"uniform bool (\w+);", r"const bool \1 = false;", text))
        compiling = ["glslangValidator", "-G", "--aml", "--amb", "-o", str(binary), str(source)]
        done = subprocess.run(compiling, capture_output=True, text=True)
        if done.returncode:
            raise SystemExit(f"{done.stdout}\n{text}")
        subprocess.run(["spirv-opt", "-O", "--loop-unroll", "-O", binary, "-o", small], check=True)
        return subprocess.run(["spirv-dis", small], capture_output=True, text=True, check=True).stdout


_SKIPPED = ("OpLabel", "OpFunction", "OpReturn", "OpLine", "OpNoLine", "OpSelectionMerge", "OpLoopMerge", "OpVariable")
_MOVES = (
    "OpLoad",
    "OpStore",
    "OpComposite",
    "OpVectorShuffle",
    "OpAccessChain",
    "OpCopyObject",
    "OpBranch",
    "OpImage ",
)


def _inside(listing: str) -> list[list[str]]:
    body = listing[listing.index("OpFunction ") :]
    words = (line.split("=", 1)[-1].split() for line in body.splitlines())
    return [w for w in words if w and w[0].startswith("Op") and not w[0].startswith(_SKIPPED)]


def instructions(text: str, kind: str) -> int:
    """Operations inside functions after full optimisation, labels and the like left out."""
    return len(_inside(optimised(text, kind)))


def scalar_operations(text: str, kind: str) -> int:
    """As a GPU does them, component by component; moving values about is free."""
    listing = optimised(text, kind)
    widths = {name: int(width) for name, width in re.findall(r"(%\S+) = OpTypeVector %\S+ (\d)", listing)}
    wide = {name: widths.get(type_, 1) for name, type_ in re.findall(r"(%\S+) = Op\w+ (%\S+)", listing)}
    total = 0
    for words in _inside(listing):
        if f"{words[0]} ".startswith(_MOVES) or len(words) < 2:
            continue
        # A dot product is as wide as what it multiplies.
        own = wide.get(words[2], 1) if words[0] == "OpDot" else widths.get(words[1], 1)
        total += own * 2 - 1 if words[0] == "OpDot" else own
    return total


def _hand(name: str, stage: str) -> str:
    _, before, above = EFFECTS[name]
    parts = [HEAD]
    common = (FOLDER / "common.glsl").read_text()
    for file in before if stage == "frag" else above:
        if file == "hills3":
            parts.append(common[common.index("vec3 random3(") : common.index("float hills(vec2")])
            parts.append(common[common.index("float corner3(") : common.index("float fractal(")])
        elif file == "wind.glsl":
            parts.append("uniform vec4 values[12];\n" + (FOLDER / file).read_text())
        else:
            parts.append((FOLDER / file).read_text())
    own = (FOLDER / f"{name}.{stage}").read_text()
    return "\n".join([*parts, own.replace("uniform vec4 values[12];\n", "") if name == "reeds" else own])


def _emitted(graph: Graph, folded: bool) -> tuple[str, str, Cost]:
    lowered = lower(graph, folded=folded)
    look = shown_look(lowered)
    shader = emit(look.picture, lowered.names, look.offset, look.opacity, look.given)
    vertex, fragment = (t.replace("#version 300 es", "#version 310 es") for t in (shader.vertex, shader.fragment))
    return vertex, fragment, drawing(lowered).cost


def main() -> None:
    names = {key: key for key in (*demo_textures(), *mesh_names())}
    print(f"{'effect':10} {'stage':6} {'by hand':>8} {'emitted':>8} {'ratio':>6}   our own count of the graph")
    worst = 0.0
    for name, (build, _, above) in EFFECTS.items():
        graph = graph_from_json(graph_to_json(build(names)), name)
        vertex, fragment, cost = _emitted(graph, name in FOLDED)
        stages = [("frag", fragment)] + ([("vert", vertex)] if above else [])
        for stage, text in stages:
            ours, theirs = instructions(text, stage), instructions(_hand(name, stage), stage)
            worst = max(worst, ours / theirs)
            counted = f"{cost.operations} operations, {cost.reads} reads" if stage == "frag" else ""
            print(f"{name:10} {stage:6} {theirs:8} {ours:8} {ours / theirs:6.2f}   {counted}")
    print(f"worst {worst:.2f}x, at most {MOST}: {'kept' if worst <= MOST else 'MISSED'}")


if __name__ == "__main__":
    main()
