"""The integer hash behind every noise and every random number."""

from collections.abc import Sequence

import numpy as np

from velvet_moth.core.expr import Array, Expr, Primitive, apply, declare
from velvet_moth.core.interval import UNIT
from velvet_moth.core.primitives.rules import Attributes, fixed
from velvet_moth.core.types import VEC3

_GLSL = """vec3 cell_random(vec3 p) {
  uvec3 v = uvec3(ivec3(p)) * 1664525u + 1013904223u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  v ^= v >> 16u;
  v.x += v.y * v.z; v.y += v.z * v.x; v.z += v.x * v.y;
  return vec3(v >> 8u) * 5.9604644775390625e-8;
}"""


def _cell_random(arrays: Sequence[Array], _: Attributes) -> Array:
    wide = np.clip(np.trunc(arrays[0].astype(np.float64)), -(2.0**31), 2.0**31 - 128)
    x, y, z = wide.astype(np.int64).astype(np.uint32) * np.uint32(1664525) + np.uint32(1013904223)
    for turn in range(2):
        x = x + y * z
        y = y + z * x
        z = z + x * y
        if turn == 0:
            x, y, z = (c ^ (c >> np.uint32(16)) for c in (x, y, z))
    return np.stack([(c >> np.uint32(8)).astype(np.float32) for c in (x, y, z)]) * np.float32(2.0**-24)


declare(
    Primitive(
        "cell_random",
        fixed(VEC3, VEC3),
        lambda types, texts, _: f"cell_random({texts[0]})",
        _cell_random,
        lambda r, _: UNIT,
        7,
        (),
        _GLSL,
    )
)


def cell_random(cell: Expr) -> Expr:
    """Three independent random numbers in 0..1 for a cell of whole coordinates (below 2^31).

    Source: M. Jarzynski, M. Olano, "Hash Functions for GPU Rendering", JCGT 9(3), 2020 (pcg3d).
    """
    return apply("cell_random", cell)
