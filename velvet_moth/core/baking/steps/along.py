"""How far along a strand, a blade, a cloth: from its root to its tip."""

from typing import Annotated as A

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.baking.step import OnMesh, step
from velvet_moth.core.baking.steps.shape import over_islands
from velvet_moth.core.catalogue.settings import choice, number, values
from velvet_moth.core.forms.mesh import Floats

GROUP = "Along"
# Of the height of an island: what is no higher belongs to its lowest ring.
_LOWEST = 1e-3


@step("Root to tip", GROUP)
def root_to_tip(
    on: OnMesh,
    by: A[
        str, choice("distance from the lowest", "U", "V", words="how far along is measured")
    ] = "distance from the lowest",
    root: A[
        Floats, values("marks the roots where it is above a half, in the place of the lowest", optional=True)
    ] = None,  # type: ignore[assignment] # an unset input has no values
    hold: A[float, number(0, 1, "how much of each island at its root stays 0")] = 0.0,
) -> Floats:
    """0 at the root of each island, 1 at its tip: what holds still in the wind, and how far the rest may go.

    The distance runs over the surface, from the lowest ring of each island or from what is marked. Islands without a mark stay 0.
    """
    if by in ("U", "V"):
        found = over_islands(on, on.mesh.uvs[:, "UV".index(by)].astype(np.float64))
    else:
        found = over_islands(on, on.skin.distances(_roots(on, root))[on.skin.place_of])
    return np.asarray(np.clip((found - hold) / max(1.0 - hold, 1e-6), 0.0, 1.0), dtype=np.float32)


def _roots(on: OnMesh, root: Floats | None) -> NDArray[np.int64]:
    """The places from which is measured."""
    if root is not None:
        return np.flatnonzero(on.skin.at_places(root) > 0.5)
    high, island = on.skin.positions[:, 1], on.skin.island
    low, top = np.full(island.max() + 1, np.inf), np.full(island.max() + 1, -np.inf)
    np.minimum.at(low, island, high)
    np.maximum.at(top, island, high)
    return np.flatnonzero(high <= (low + (top - low) * _LOWEST)[island])
