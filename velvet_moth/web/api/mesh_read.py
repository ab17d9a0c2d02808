"""A mesh on its way to the stage."""

import numpy as np

from velvet_moth.core.forms.view import view_of_box
from velvet_moth.store.meshes import MeshState
from velvet_moth.web.api.answers import MeshRead


def mesh_read(state: MeshState) -> MeshRead:
    """A mesh as the stage takes it."""
    low, high = (np.array(corner, dtype=np.float32) for corner in (state.low, state.high))
    return {
        "id": state.id,
        "name": state.name,
        "drawn": state.packed,
        "view": view_of_box(low, high),
        "diameter": float(np.linalg.norm(high - low)),
        "levels": [
            {"drawn": level["packed"], "screen": level["screen"], "triangles": level["triangles"]}
            for level in state.levels
        ],
    }
