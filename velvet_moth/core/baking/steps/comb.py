"""Directions that a hand has combed, over what steps above have made."""

from typing import Annotated as A

import numpy as np

from velvet_moth.core.baking.by_hand import BY_HAND, ByHand, Given, Hand, opacity_of
from velvet_moth.core.baking.directions import along_surface, flow_of
from velvet_moth.core.baking.painting.laying import Painted
from velvet_moth.core.baking.painting.media import DIRECTIONS, WAY
from velvet_moth.core.baking.painting.surface import Indices
from velvet_moth.core.baking.step import OnMesh, step
from velvet_moth.core.baking.steps.paint import GROUP, Named, Opacity, Shown
from velvet_moth.core.catalogue.settings import directions, strokes
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.stacks.stroke import Stroke


def _below(on: OnMesh, given: Given) -> Painted:
    found = np.zeros((on.count, WAY + 1), dtype=np.float32)
    if given.get("below") is not None:
        found[:, :WAY] = given["below"]
    return found


def _shown(mesh: Mesh, vertex: Indices, painted: Painted) -> Painted:
    """Directions as flow maps keep them, their speed, and how much was combed, (k, 4)."""
    return np.column_stack((flow_of(mesh, painted[:, :WAY], vertex), painted[:, WAY])).astype(np.float32)


_COMBED = BY_HAND["comb"] = ByHand(DIRECTIONS, _below, _shown)


@step("Comb", GROUP, layers={"directions": "directions", "combed": "values"})
def comb(
    on: OnMesh,
    lines: A[
        tuple[Stroke, ...], strokes(*DIRECTIONS.brushes, words="what a brush has combed on the mesh, in order")
    ] = (),
    name: Named = "",
    shown: Shown = "on",
    opacity: Opacity = 1.0,
    below: A[Floats | None, directions("what is combed over; nothing for still", optional=True)] = None,
) -> tuple[Floats, Floats]:
    """Directions along the strokes of a hand, with a speed; and how much of each place was combed.

    Strokes are kept in space: they are laid again onto whatever mesh there is.
    """
    hand = Hand(_COMBED, on, lines, _below(on, {"below": below}), opacity_of(shown, opacity))
    seen = hand.seen()
    return along_surface(on.mesh, seen[:, :WAY]), seen[:, WAY]
