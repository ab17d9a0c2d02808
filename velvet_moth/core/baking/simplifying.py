"""Fewer triangles at nearly the same form, with the numbers at the vertices weighed in."""

from ctypes import POINTER, c_float, c_size_t, c_ubyte, c_uint
from dataclasses import replace
from typing import Any

import meshoptimizer
import numpy as np
from meshoptimizer import simplifier
from numpy.typing import NDArray

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.forms.mesh import Mesh

# How much an error in a normal, a UV or a channel counts beside one of as many times the size of the mesh.
_NORMALS_COUNT, _UVS_COUNT, CHANNELS_COUNT = 0.05, 0.1, 0.1

# The package calls this function of the library without saying what it takes, so that sizes arrive broken.
_simplify = simplifier.lib.meshopt_simplifyWithAttributes
_simplify.restype = c_size_t
_simplify.argtypes = [
    *(POINTER(c_uint), POINTER(c_uint), c_size_t),
    *(POINTER(c_float), c_size_t, c_size_t),
    *(POINTER(c_float), c_size_t, POINTER(c_float), c_size_t),
    *(POINTER(c_ubyte), c_size_t, c_float, c_uint, POINTER(c_float)),
]


def _pointer(values: NDArray[Any], kind: Any) -> Any:
    return values.ctypes.data_as(POINTER(kind))


def simplified(
    mesh: Mesh, share: float, error: float, weights: tuple[float, ...] = (CHANNELS_COUNT,) * 8
) -> tuple[Mesh, float]:
    """A mesh with that share of its triangles, or more where the ``error`` (a share of its size) is reached before; and the error, metres.

    ``weights`` say how much each of the eight channels counts. The vertices are some of the mesh's own.
    Source: M. Garland, P. Heckbert, "Simplifying Surfaces with Color and Texture using Quadric Error Metrics", 1998.
    """
    attributes = np.ascontiguousarray(np.concatenate((mesh.normals, mesh.uvs, mesh.data), axis=1), dtype=np.float32)
    counts = np.array((*(_NORMALS_COUNT,) * 3, *(_UVS_COUNT,) * 2, *weights), dtype=np.float32)
    indices = np.ascontiguousarray(mesh.triangles.reshape(-1), dtype=np.uint32)
    target = max(3, int(len(mesh.triangles) * share) * 3)
    made, reached = np.empty_like(indices), np.zeros(1, dtype=np.float32)
    positions = np.ascontiguousarray(mesh.positions, dtype=np.float32)
    count = _simplify(
        _pointer(made, c_uint),
        _pointer(indices, c_uint),
        indices.size,
        _pointer(positions, c_float),
        len(positions),
        positions.strides[0],
        _pointer(attributes, c_float),
        attributes.strides[0],
        _pointer(counts, c_float),
        len(counts),
        None,
        target,
        error,
        0,
        _pointer(reached, c_float),
    )
    scale = float(meshoptimizer.simplify_scale(positions))
    triangles = made[:count].reshape(-1, 3)
    if not len(triangles):
        raise OperationRefused("No triangle would be left.", "Simplify", "Leave a larger share.")
    part_of = None
    if mesh.part_of is not None:
        # A triangle that is left has corners of one part, unless parts share vertices.
        of_vertex = np.zeros(len(mesh.positions), dtype=np.int32)
        of_vertex[mesh.triangles] = mesh.part_of[:, None]
        part_of = of_vertex[triangles[:, 0]]
    fewer = replace(mesh, triangles=triangles, part_of=part_of)
    used = np.zeros(len(mesh.positions), dtype=bool)
    used[triangles] = True
    return fewer.only(used), float(reached[0]) * scale
