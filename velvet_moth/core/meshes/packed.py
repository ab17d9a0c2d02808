"""A mesh of the stage as bytes, and back: plain arrays, so that it is at hand without its file being read again."""

import io

import numpy as np

from velvet_moth.core.forms.mesh import Mesh

_ARRAYS = ("positions", "normals", "tangents", "uvs", "colours", "triangles", "second", "part_of")


def to_bytes(mesh: Mesh) -> bytes:
    """All arrays with the names of the parts, without compression."""
    held = {key: getattr(mesh, key) for key in _ARRAYS if getattr(mesh, key) is not None}
    made = io.BytesIO()
    np.savez(made, part_names=np.array(mesh.part_names, dtype=np.str_), **held)
    return made.getvalue()


def from_bytes(data: bytes) -> Mesh:
    """The mesh that ``to_bytes`` was given."""
    with np.load(io.BytesIO(data), allow_pickle=False) as held:
        arrays = {key: held[key] for key in _ARRAYS if key in held}
        return Mesh(**arrays, part_names=tuple(str(name) for name in held["part_names"]))
