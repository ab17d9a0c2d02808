"""Small pictures of what a step has made: its numbers in grey on the mesh, or the form by itself."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.forms.view import view_of_box
from velvet_moth.core.render.tracing.rays import Hits, cast, resting_scene, view_of

SIDE = 48
# What is seen beside the mesh: the ground of a picture, encoded.
_GROUND = 46
_FROM = np.array((0.35, 0.6, 0.72))


@lru_cache(maxsize=8)
def _hits(mesh: Mesh) -> Hits:
    columns, rows = np.meshgrid(np.arange(SIDE), np.arange(SIDE))
    pixels = np.stack((columns.ravel(), rows.ravel()), axis=1)
    return cast(resting_scene(mesh), view_of(view_of_box(*mesh.box), (SIDE, SIDE)), pixels)


def glimpse(mesh: Mesh, values: Floats | None = None) -> NDArray[np.uint8]:
    """(side, side, 3), row 0 at the bottom, encoded: ``values`` 0..1, unlit, (n,) in grey or (n, 3) as colours;

    without any the form in a plain light.
    """
    hits = _hits(mesh)
    corners = mesh.triangles[hits.faces]
    if values is None:
        normal = np.einsum("pk,pkx->px", hits.weights, mesh.normals[corners])
        shade = np.clip(np.abs(normal @ _FROM), 0.15, 1.0)
    else:
        shade = np.clip(np.einsum("pk,pk...->p...", hits.weights, values[corners]), 0.0, 1.0)
    shown = np.where(hits.hit[:, None], np.rint(shade.reshape(len(shade), -1) * 255), _GROUND).astype(np.uint8)
    return np.broadcast_to(shown.reshape(SIDE, SIDE, -1), (SIDE, SIDE, 3)).copy()
