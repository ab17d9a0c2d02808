"""The reference picture: a form seen by rays, shaded by the same expressions on NumPy."""

from collections.abc import Hashable, Mapping
from functools import lru_cache

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.expr import Array, Expr
from velvet_moth.core.forms import form
from velvet_moth.core.forms.mesh import Mesh
from velvet_moth.core.graph import Value
from velvet_moth.core.interpreters.evaluate import evaluate
from velvet_moth.core.lighting.environment import ENVIRONMENT, environment_map
from velvet_moth.core.surroundings import Surroundings
from velvet_moth.core.texture.image import Pixels, Texture
from velvet_moth.core.view import BACKGROUND, Camera, Rig


@lru_cache(maxsize=8)
def _scene(key: str) -> tuple[EmbreeScene, Mesh]:
    mesh = form(key)
    scene = EmbreeScene()
    TriangleMesh(scene, mesh.positions[mesh.triangles])
    return scene, mesh


def rig_inputs(rig: Rig, time: float) -> dict[str, Array]:
    """The per-draw inputs of a rig, as arrays of size 1."""

    def number(value: float) -> Array:
        return np.array(value, dtype=np.float32)

    def vector(value: tuple[float, ...]) -> Array:
        return np.array(value, dtype=np.float32).reshape(-1, 1, 1)

    return {
        "time": number(time),
        "sun_direction": vector(rig.sun_direction),
        "sun_colour": vector(rig.sun_colour),
        "rig_turn": number(rig.rig_turn),
        "exposure": number(rig.exposure),
    }


@lru_cache(maxsize=8)
def seen_points(key: str, camera: Camera, width: int, height: int) -> tuple[dict[str, Array], NDArray[np.bool_]]:
    """Surface inputs by name, (components, height, width) float32, and where the form is hit.

    Interpolated as the GPU does: linear over each triangle in perspective, normals unit afterwards.
    """
    scene, mesh = _scene(key)
    eye, directions = camera.rays(width, height)
    flat = directions.reshape(-1, 3)
    origins = np.broadcast_to(eye.astype(np.float32), flat.shape).copy()
    result = scene.run(origins, flat.astype(np.float32), output=1)
    hit = result["primID"] >= 0
    triangles = mesh.triangles[np.where(hit, result["primID"], 0)]
    u, v = result["u"], result["v"]
    weights = np.stack((1 - u - v, u, v), axis=-1).astype(np.float32)[..., None]

    def at(values: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(np.sum(values[triangles] * weights, axis=1))

    def unit(values: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(values / np.maximum(np.linalg.norm(values, axis=1, keepdims=True), 1e-12))

    corners = mesh.positions[triangles]
    facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    side = np.where(np.sum(facing * flat, axis=1) > 0, -1.0, 1.0)[:, None].astype(np.float32)
    position, tangent = at(mesh.positions), at(mesh.tangents)
    found = {
        "uv": at(mesh.uvs),
        "position": position,
        "object_position": position,
        "normal": unit(at(mesh.normals)) * side,
        "tangent": np.concatenate((unit(tangent[:, :3]), np.sign(tangent[:, 3:])), axis=1),
        "view_direction": unit((eye - position).astype(np.float32)),
    }
    shaped = {
        name: np.ascontiguousarray(values.astype(np.float32).T).reshape(-1, height, width)
        for name, values in found.items()
    }
    return shaped, hit.reshape(height, width)


def uniform_arrays(values: Mapping[tuple[str, str], Value]) -> dict[Hashable, Array]:
    """Unwired values as arrays: () for one number, (components, 1, 1) for more."""
    return {
        key: np.array(value, dtype=np.float32).reshape(() if len(value) == 1 else (-1, 1, 1))
        for key, value in values.items()
        if not isinstance(value, str)
    }


def render(
    picture: Expr,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
    form_key: str = "mooring",
    camera: Camera | None = None,
    rig: Rig | None = None,
    time: float = 0.0,
) -> Pixels:
    """A display colour expression on a form, 8-bit RGBA (rows, columns, 4), row 0 at the bottom.

    ``size`` is (width, height); alpha is 0 where nothing is hit and the stage's grey shows.
    """
    width, height = size
    points, hit = seen_points(form_key, camera or Camera(), width, height)
    surroundings = Surroundings(
        {**points, **rig_inputs(rig or Rig(), time)},
        uniform_arrays(values),
        {**textures, ENVIRONMENT: environment_map()},
    )
    shown = np.broadcast_to(evaluate([picture], surroundings)[0], (3, height, width))
    pixels = np.empty((height, width, 4), dtype=np.uint8)
    pixels[..., :3] = np.where(
        hit[..., None], np.rint(np.clip(shown, 0, 1) * 255).transpose(1, 2, 0), np.array(BACKGROUND)
    )
    pixels[..., 3] = np.where(hit, 255, 0)
    return pixels
