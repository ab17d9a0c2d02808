"""The reference picture: a form seen by rays, shaded by the same expressions on NumPy."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.backdrop import BACKDROP, synthetic_backdrop
from velvet_moth.core.expr import Array, Expr, Structural
from velvet_moth.core.forms import FORMS, form
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.graph import Value
from velvet_moth.core.interpreters.evaluate import evaluate, evaluate_in_tiles
from velvet_moth.core.interpreters.glsl import CUT_AT
from velvet_moth.core.lighting.environment import ENVIRONMENT, environment_map
from velvet_moth.core.lighting.model import Look
from velvet_moth.core.surroundings import Surroundings
from velvet_moth.core.texture.image import Pixels, Texture
from velvet_moth.core.view import BACKGROUND, INSTANCE, Camera, Rig


@dataclass(frozen=True)
class Scene:
    """What is looked at, from where, in which light, and when."""

    form: str = "mooring"
    camera: Camera = field(default_factory=Camera)
    rig: Rig = field(default_factory=Rig)
    time: float = 0.0

    @classmethod
    def of(cls, key: str) -> "Scene":
        """A form from where it is first seen."""
        return cls(key, FORMS[key].view if key in FORMS else Camera())


def _number(value: float) -> Array:
    return np.array(value, dtype=np.float32)


def _vector(value: tuple[float, ...] | Floats) -> Array:
    return np.array(value, dtype=np.float32).reshape(-1, 1, 1)


def rig_inputs(rig: Rig, time: float) -> dict[str, Array]:
    """The per-draw inputs of a rig, as arrays of size 1."""
    return {
        "time": _number(time),
        "sun_direction": _vector(rig.sun_direction),
        "sun_colour": _vector(rig.sun_colour),
        "rig_turn": _number(rig.rig_turn),
        "exposure": _number(rig.exposure),
    }


def form_inputs(mesh: Mesh) -> dict[str, Array]:
    """The per-draw inputs of a form."""
    low, high = mesh.box
    return {
        "form_low": _vector(low),
        "form_high": _vector(high),
        "form_scale": _vector((1.0, 1.0, 1.0)),
        "instance_data": _vector(INSTANCE),
    }


def stage_textures() -> dict[Hashable, Texture]:
    """What the stage itself brings: surroundings and backdrop."""
    return {ENVIRONMENT: environment_map(), BACKDROP: synthetic_backdrop()}


def _unit(values: Floats) -> Floats:
    return np.asarray(values / np.maximum(np.linalg.norm(values, axis=1, keepdims=True), 1e-12), dtype=np.float32)


def vertex_inputs(mesh: Mesh, eye: NDArray[np.float64]) -> dict[str, Array]:
    """Surface inputs at the vertices, (components, 1, vertices), as the vertex shader has them."""
    towards = (eye - mesh.positions).astype(np.float32)
    found = {
        "uv": mesh.uvs,
        "second_uv": mesh.second_uvs,
        "position": mesh.positions,
        "object_position": mesh.positions,
        "normal": _unit(mesh.normals),
        "object_normal": _unit(mesh.normals),
        "tangent": np.concatenate((_unit(mesh.tangents[:, :3]), mesh.tangents[:, 3:]), axis=1),
        "vertex_colour": mesh.colours,
        "view_direction": _unit(towards),
    }
    shaped = {name: np.ascontiguousarray(values.T)[:, None, :] for name, values in found.items()}
    return {**shaped, "camera_distance": np.linalg.norm(towards, axis=1).astype(np.float32)[None]}


def moved_positions(
    mesh: Mesh,
    offset: Expr | None,
    scene: Scene,
    uniforms: Mapping[Hashable, Array],
    textures: Mapping[Hashable, Texture],
) -> Floats:
    """The vertices after the offset, (n, 3) metres."""
    if offset is None:
        return mesh.positions
    inputs = {**vertex_inputs(mesh, scene.camera.position), **rig_inputs(scene.rig, scene.time), **form_inputs(mesh)}
    moved = evaluate([offset], Surroundings(inputs, uniforms, textures))[0]
    shift = np.broadcast_to(moved, (3, 1, len(mesh.positions)))[:, 0].T
    return np.asarray(mesh.positions + shift, dtype=np.float32)


def _traced(mesh: Mesh, positions: Floats) -> EmbreeScene:
    scene = EmbreeScene()
    TriangleMesh(scene, positions[mesh.triangles])
    return scene


@lru_cache(maxsize=16)
def _resting(key: str) -> EmbreeScene:
    return _traced(form(key), form(key).positions)


def points_seen(
    mesh: Mesh, traced: EmbreeScene, moved: Floats, camera: Camera, width: int, height: int
) -> tuple[dict[str, Array], NDArray[np.bool_]]:
    """Surface inputs by name, (components, height, width) float32, and where the form is hit.

    Interpolated as the GPU does: linear over each triangle in perspective, normals unit afterwards.
    """
    eye, directions = camera.rays(width, height)
    flat = directions.reshape(-1, 3)
    origins = np.broadcast_to(eye.astype(np.float32), flat.shape).copy()
    result = traced.run(origins, flat.astype(np.float32), output=1)
    hit = result["primID"] >= 0
    triangles = mesh.triangles[np.where(hit, result["primID"], 0)]
    u, v = result["u"], result["v"]
    weights = np.stack((1 - u - v, u, v), axis=-1).astype(np.float32)[..., None]

    def at(values: Floats) -> Floats:
        return np.asarray(np.sum(values[triangles] * weights, axis=1))

    corners = moved[triangles]
    facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    position, tangent, at_last = at(mesh.positions), at(mesh.tangents), at(moved)
    towards = (eye - at_last).astype(np.float32)
    column, row = np.meshgrid(np.arange(width), np.arange(height))
    pixel = np.stack((column.ravel(), row.ravel()), axis=1)
    found = {
        "uv": at(mesh.uvs),
        "second_uv": at(mesh.second_uvs),
        "position": position,
        "moved_position": at_last,
        "object_position": position,
        "normal": _unit(at(mesh.normals)),
        "object_normal": _unit(at(mesh.normals)),
        "tangent": np.concatenate((_unit(tangent[:, :3]), np.sign(tangent[:, 3:])), axis=1),
        "vertex_colour": at(mesh.colours),
        "view_direction": _unit(towards),
        "camera_distance": np.linalg.norm(towards, axis=1, keepdims=True),
        "is_front": np.where(np.sum(facing * flat, axis=1) > 0, 0.0, 1.0)[:, None],
        "screen_pixel": pixel,
        "screen_position": (pixel + 0.5) / (width, height),
    }
    shaped = {
        name: np.ascontiguousarray(values.astype(np.float32).T).reshape(-1, height, width)
        for name, values in found.items()
    }
    for name in ("camera_distance", "is_front"):
        shaped[name] = shaped[name][0]
    return shaped, hit.reshape(height, width)


@lru_cache(maxsize=8)
def _points_at_rest(key: str, camera: Camera, width: int, height: int) -> tuple[dict[str, Array], NDArray[np.bool_]]:
    mesh = form(key)
    return points_seen(mesh, _resting(key), mesh.positions, camera, width, height)


def uniform_arrays(values: Mapping[tuple[str, str], Value]) -> dict[Hashable, Array]:
    """Unwired values as arrays: () for one number, (components, 1, 1) for more."""
    return {
        key: np.array(value, dtype=np.float32).reshape(() if len(value) == 1 else (-1, 1, 1))
        for key, value in values.items()
        if not isinstance(value, str)
    }


def points_of(
    scene: Scene,
    offset: Expr | None,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
) -> tuple[Surroundings, NDArray[np.bool_]]:
    """Everything an expression may ask at the points a scene shows, (height, width), and where the form is."""
    width, height = size
    mesh, uniforms = form(scene.form), uniform_arrays(values)
    bound = {**textures, **stage_textures()}
    if offset is None or offset.operator is Structural.CONSTANT:
        points, hit = _points_at_rest(scene.form, scene.camera, width, height)
    else:
        moved = moved_positions(mesh, offset, scene, uniforms, bound)
        points, hit = points_seen(mesh, _traced(mesh, moved), moved, scene.camera, width, height)
    inputs = {**points, **rig_inputs(scene.rig, scene.time), **form_inputs(mesh)}
    return Surroundings(inputs, uniforms, bound), hit


def render(
    look: Look,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
    scene: Scene | None = None,
) -> Pixels:
    """A form as the stage shows it, 8-bit RGBA (rows, columns, 4), row 0 at the bottom.

    ``size`` is (width, height); alpha is 0 where nothing is hit and the stage's grey shows.
    """
    width, height = size
    surroundings, hit = points_of(scene or Scene(), look.offset, values, textures, size)
    wanted = [look.picture] if look.opacity is None else [look.picture, look.opacity]
    found = evaluate_in_tiles(wanted, surroundings, (height, width))
    shown = found[0]
    if look.opacity is not None:
        hit = hit & (found[1] >= CUT_AT)
    pixels = np.empty((height, width, 4), dtype=np.uint8)
    pixels[..., :3] = np.where(
        hit[..., None], np.rint(np.clip(shown, 0, 1) * 255).transpose(1, 2, 0), np.array(BACKGROUND)
    )
    pixels[..., 3] = np.where(hit, 255, 0)
    return pixels
