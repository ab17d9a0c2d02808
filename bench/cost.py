"""The cost meter against the scalar operations spirv-opt leaves, for the examples of nodes and for whole graphs.

Run: .venv/bin/python -m bench.cost (needs Debian's glslang-tools and spirv-tools)
"""

import numpy as np

from bench.handwritten import scalar_operations
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.language.interpreters.cost import cost
from velvet_moth.core.language.interpreters.glsl import emit
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.workbench.analysis import spent
from velvet_moth.core.workbench.examples import example
from velvet_moth.demo.contents import demo_textures
from velvet_moth.demo.graphs import ferry_enamel, pebble_patch, slate_step
from velvet_moth.demo.grounds import boathouse_tiles, silt_splash

LEAST_CORRELATION = 0.95


def _left(output: object) -> int:
    text = emit(output).fragment.replace("#version 300 es", "#version 310 es")  # type: ignore[arg-type] # an Expr
    return scalar_operations(text, "frag")


def main() -> None:
    counted, left, names = [], [], []
    for kind in CATALOGUE.values():
        if kind.hidden or kind.group in ("Motifs", "Values"):
            continue
        found = lower(example(kind)).surface["base_colour"]
        operations = cost([found])
        if operations.operations < 8:
            continue
        counted.append(operations.operations + operations.reads)
        left.append(_left(found))
        names.append(kind.key)
    ids = {key: key for key in demo_textures()}
    for build in (ferry_enamel, pebble_patch, slate_step, boathouse_tiles, silt_splash):
        lowered = lower(build(ids))
        found = lowered.surface["base_colour"]
        counted.append(cost([found]).operations + cost([found]).reads)
        left.append(_left(found))
        names.append(f"{build.__name__} ({spent(lowered).pixel.operations} in all)")
    ours, theirs = np.array(counted, dtype=float), np.array(left, dtype=float)
    factor = float((ours * theirs).sum() / (ours * ours).sum())
    for name, a, b in sorted(zip(names, ours, theirs, strict=True), key=lambda t: t[2] / t[1])[
        :: max(1, len(names) // 24)
    ]:
        print(f"{name:36} counted {a:6.0f}, left {b:6.0f}, {b / a:5.2f}")
    correlation = float(np.corrcoef(np.log(ours), np.log(theirs))[0, 1])
    spread = np.exp(np.std(np.log(theirs / ours)))
    print(f"{len(names)} outputs: one counted operation is {factor:.2f} of those left, within a factor {spread:.2f}")
    print(
        f"correlation {correlation:.3f}, at least {LEAST_CORRELATION}: {'kept' if correlation >= LEAST_CORRELATION else 'MISSED'}"
    )


if __name__ == "__main__":
    main()
