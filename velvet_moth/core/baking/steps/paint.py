"""Numbers that a hand has painted, over what steps above have made."""

from typing import Annotated as A

import numpy as np

from velvet_moth.core.baking.by_hand import BY_HAND, ByHand, Given, Hand, opacity_of
from velvet_moth.core.baking.painting.laying import Painted
from velvet_moth.core.baking.painting.media import NUMBERS
from velvet_moth.core.baking.step import OnMesh, step
from velvet_moth.core.catalogue.settings import choice, number, strokes, text, values
from velvet_moth.core.forms.mesh import Floats
from velvet_moth.core.stacks.stroke import PAINTED, Stroke

GROUP = "By hand"
Below = A[Floats | None, values("what is painted over; nothing for 0", optional=True)]
Shown = A[str, choice("on", "off")]
Named = A[str, text("what it is, such as puddles by the stairs")]
Opacity = A[float, number(0, 1, "how much of what was painted is seen over what is below")]


def _below(on: OnMesh, given: Given) -> Painted:
    nothing = np.zeros(on.count, dtype=np.float32)
    layers = [given.get(layer) for layer in PAINTED]
    return np.stack([nothing if one is None else np.asarray(one, dtype=np.float32) for one in layers], axis=1)


_PAINTED = BY_HAND["paint"] = ByHand(NUMBERS, _below)


@step("Paint", GROUP, layers=PAINTED)
def paint(
    on: OnMesh,
    lines: A[tuple[Stroke, ...], strokes(*NUMBERS.brushes, words="what a brush has drawn on the mesh, in order")] = (),
    name: Named = "",
    shown: Shown = "on",
    opacity: Opacity = 1.0,
    red: Below = None,
    green: Below = None,
    blue: Below = None,
    alpha: Below = None,
) -> tuple[Floats, Floats, Floats, Floats]:
    """What a hand has painted, four layers at once. Strokes are kept in space: they are laid again onto whatever mesh there is."""
    given = {"red": red, "green": green, "blue": blue, "alpha": alpha}
    hand = Hand(_PAINTED, on, lines, _below(on, given), opacity_of(shown, opacity))
    first, second, third, fourth = np.ascontiguousarray(hand.seen().T)
    return first, second, third, fourth
