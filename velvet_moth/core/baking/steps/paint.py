"""Numbers that a hand has painted, over what steps above have made."""

import hashlib
from typing import Annotated as A

import numpy as np

from velvet_moth.core.baking.painting.laying import Painted, laid, over
from velvet_moth.core.baking.step import OnMesh, step
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.catalogue.settings import choice, number, strokes, text, values
from velvet_moth.core.forms.mesh import Floats
from velvet_moth.core.stacks.stroke import PAINTED, Stroke

GROUP = "By hand"
Below = A[Floats | None, values("what is painted over; nothing for 0", optional=True)]
# Each stroke is one more of the same: what was laid before it is at hand.
_laid: BoundedCache[Painted] = BoundedCache("painted layers", 256 << 20, lambda painted: painted.nbytes, "bytes")
_REMEMBERED = 3


def below(on: OnMesh, *given: Floats | None) -> Painted:
    """What lies under all strokes, (n, 4): what the steps above give, and 0 where they give nothing."""
    nothing = np.zeros(on.count, dtype=np.float32)
    return np.stack([nothing if one is None else np.asarray(one, dtype=np.float32) for one in given], axis=1)


def opacity_of(shown: str, opacity: float, **_: object) -> float:
    """How much of the paint is seen with these settings of a painted step."""
    return 0.0 if shown == "off" else opacity


def painted_by(on: OnMesh, lines: tuple[Stroke, ...], under: Painted) -> Painted:
    """The painted layers, (n, 4), after these strokes; only those that are new are laid."""
    base = (on.mark, hashlib.blake2b(under.tobytes(), digest_size=16).digest())
    for kept in range(len(lines), max(len(lines) - _REMEMBERED, 0), -1):
        found = _laid.find((base, lines[:kept]))
        if found is not None:
            break
    else:
        kept, found = 0, under
    made = laid(lines[kept:], found, under, on.surface)
    return _laid.get((base, lines), lambda: made)


@step("Paint", GROUP, layers=PAINTED)
def paint(
    on: OnMesh,
    lines: A[tuple[Stroke, ...], strokes("what a brush has drawn on the mesh, in order")] = (),
    name: A[str, text("what it is, such as puddles by the stairs")] = "",
    shown: A[str, choice("on", "off")] = "on",
    opacity: A[float, number(0, 1, "how much of the paint is seen over what is below")] = 1.0,
    red: Below = None,
    green: Below = None,
    blue: Below = None,
    alpha: Below = None,
) -> tuple[Floats, Floats, Floats, Floats]:
    """What a hand has painted, four layers at once. Strokes are kept in space: they are laid again onto whatever mesh there is."""
    under = below(on, red, green, blue, alpha)
    seen = opacity_of(shown, opacity)
    made = over(under, painted_by(on, lines, under), seen) if seen else under
    first, second, third, fourth = np.ascontiguousarray(made.T)
    return first, second, third, fourth
