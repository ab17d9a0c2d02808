"""Looking through what is cut away: from sheet to sheet of a form, until one stays."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.language.expr import Array, Expr, inputs_of
from velvet_moth.core.render.tracing.rays import View, cast, inputs_at, quads_of, shaped

# So many sheets are looked through at most: the cards of a head of hair lie a dozen deep.
MOST_SHEETS = 24
_STEP = 1e-4

# Is given the places of some pixels and the inputs of their quads, (components, 2, 2 * pixels); tells which stay.
Shade = Callable[[NDArray[np.int64], Mapping[str, Array]], NDArray[np.bool_]]


def look_through(
    mesh: Mesh,
    moved: Floats,
    traced: EmbreeScene,
    view: View,
    pixels: NDArray[np.int64],
    size: tuple[int, int],
    shade: Shade,
    outputs: Sequence[Expr] | None,
    beyond: NDArray[np.float64] | float = 0.0,
) -> None:
    """Has every sheet shaded that is seen through some pixels, (n, 2) columns and rows, until one stays.

    The quads are given the surface inputs that ``outputs`` read (all, without), their place and how far they lie from
    the eye. What lies nearer than ``beyond`` (metres along each ray) is not looked at.
    """
    names = None if outputs is None else {*inputs_of(outputs), "camera_distance", "moved_position"}
    left = np.arange(len(pixels))
    begin = np.broadcast_to(beyond, len(pixels)).astype(np.float64)
    for _ in range(MOST_SHEETS):
        if not left.size:
            return
        hits = cast(traced, view, pixels[left], begin[left])
        there = np.flatnonzero(hits.hit)
        if not there.size:
            return
        quads = quads_of(mesh, moved, view, hits, there)
        stays = shade(left[there], shaped(inputs_at(mesh, moved, quads, size, names), 2, 2 * len(there)))
        begin[left[there]] = hits.reach[there] + _STEP
        left = left[there[~stays]]


def in_quads(values: Array, pixels: NDArray[np.int64]) -> Array:
    """Of values over quads, (..., 2, 2 * n), those at the n pixels themselves."""
    columns, rows = pixels.T
    whole = np.broadcast_to(values, (*values.shape[:-2], 2, 2 * len(pixels)))
    return np.asarray(whole[..., rows % 2, np.arange(len(pixels)) * 2 + columns % 2])
