"""Instances on NumPy: an emitter's whole picture of a moment as one mesh, by the expressions that the vertex shader has."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.emitting.emitter import Emitter, EmitterSource, emitter_textures
from velvet_moth.core.emitting.instances import instancing_of
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.language.expr import Array
from velvet_moth.core.language.inputs import Bindings
from velvet_moth.core.language.interpreters.evaluate import evaluate


def nothing_of(mesh: Mesh) -> Mesh:
    """A mesh of which nothing is seen: one triangle, far away."""
    bare = replace(mesh.taken(np.zeros(3, dtype=np.int64)), triangles=np.array([[0, 1, 2]], dtype=np.uint32))
    far = np.array(((0, -9e3, 0), (1e-3, -9e3, 0), (0, -9e3, 1e-3)), dtype=np.float32)
    own = replace(mesh.own.taken(np.zeros(3, dtype=np.int64)), triangles=bare.triangles)
    return replace(bare, positions=far, part_of=None, unposed=own)


def instanced(
    mesh: Mesh, emitter: Emitter, sources: Sequence[EmitterSource], time: float, eye: NDArray[np.float64]
) -> Mesh | None:
    """A form as often as an emitter has instances at a time (s), seen from ``eye``; None where there are none.

    Its vertices know what their instance knows (``Mesh.instance``).
    """
    how = instancing_of(emitter)
    if how is None or not sources:
        return None
    textures = emitter_textures(emitter, tuple(sources))
    slots = np.arange(emitter.slots * len(sources), dtype=np.float32).reshape(1, -1, 1)
    around: dict[str, Array] = {
        **emitter.inputs,
        "time": np.array(time, dtype=np.float32),
        "camera_position": eye.astype(np.float32).reshape(3, 1, 1),
        "instance_slot": slots[0],
    }
    (lives,) = evaluate([how.lives], Bindings(around, {}, textures))
    there = np.flatnonzero(np.broadcast_to(lives, slots[0].shape).ravel() > 0.5)
    if not there.size:
        return None
    around["instance_slot"] = slots[0, there]
    own = evaluate(list(how.own.values()), Bindings(around, {}, textures))
    form: dict[str, Array] = {
        "position": mesh.positions.T[:, None],
        "normal": mesh.normals.T[:, None],
        "tangent": mesh.tangents.T[:, None],
        "uv": mesh.uvs.T[:, None],
    }
    count, vertices = len(there), len(mesh.positions)
    placed = dict(
        zip(how.placed, evaluate(list(how.placed.values()), Bindings({**around, **form}, {}, textures)), strict=True)
    )

    def flat(values: Array) -> Floats:
        parts = values if values.ndim == 3 else values[None]
        wide = np.broadcast_to(parts, (len(parts), count, vertices))
        return np.ascontiguousarray(wide.reshape(len(parts), -1).T, dtype=np.float32)

    tiled = np.tile(np.arange(vertices), count)
    triangles = (mesh.triangles[None].astype(np.int64) + vertices * np.arange(count)[:, None, None]).reshape(-1, 3)
    whole = mesh.taken(tiled)
    return replace(
        whole,
        positions=flat(placed["position"]),
        normals=flat(placed["normal"]),
        tangents=flat(placed["tangent"]),
        triangles=triangles.astype(np.uint32),
        part_of=None,
        unposed=replace(mesh.own.taken(tiled), unposed=None, triangles=triangles.astype(np.uint32)),
        instance={name: flat(values) for name, values in zip(how.own, own, strict=True)},
    )
