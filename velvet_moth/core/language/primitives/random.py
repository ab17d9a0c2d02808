"""The integer hash behind every noise and every random number."""

from collections.abc import Sequence

import numpy as np

from velvet_moth.core.base.hashing import cell_randoms
from velvet_moth.core.language.expr import Array, Expr, Primitive, apply, declare
from velvet_moth.core.language.interval import UNIT
from velvet_moth.core.language.primitives.rules import Attributes, fixed, no_change
from velvet_moth.core.language.types import VEC3


def _cell_random(arrays: Sequence[Array], _: Attributes) -> Array:
    # GLSL's conversion to int cuts towards zero.
    wide = np.clip(np.trunc(arrays[0].astype(np.float64)), -(2.0**31), 2.0**31 - 128)
    return cell_randoms(wide.astype(np.int64))


declare(
    Primitive(
        "cell_random",
        fixed(VEC3, VEC3),
        spell=lambda dialect, types, texts, _: f"cell_random({texts[0]})",
        numpy=_cell_random,
        bound=lambda r, _: UNIT,
        operations=12,
        domains=(),
        helper=lambda dialect, types: dialect.cell_random,
        operation_class="hash",
        change=no_change,
        jumps=True,
    )
)


def cell_random(cell: Expr) -> Expr:
    """Three independent random numbers in 0..1 for a cell of whole coordinates (below 2^31); see ``hashing``."""
    return apply("cell_random", cell)
