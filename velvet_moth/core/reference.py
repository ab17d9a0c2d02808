"""The reference picture: a form seen by rays, shaded by the same expressions on NumPy."""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.backdrop import BACKDROP, SUN_REACH, synthetic_backdrop, synthetic_sun_reach
from velvet_moth.core.expr import Array, Expr
from velvet_moth.core.forms import FORMS, form
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.graph import Value
from velvet_moth.core.interpreters.cost import cost
from velvet_moth.core.interpreters.evaluate import evaluate, evaluate_in_tiles
from velvet_moth.core.interpreters.glsl import CUT_AT
from velvet_moth.core.lighting.environment import ENVIRONMENT, environment_map
from velvet_moth.core.lighting.model import Look
from velvet_moth.core.lighting.rigs import RIGS
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
    def of(cls, key: str, rig: str = "open_dock") -> "Scene":
        """A form from where it is first seen, under a rig as it first stands."""
        return cls(key, FORMS[key].view if key in FORMS else Camera(), RIGS[rig].rig if rig in RIGS else Rig())


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


def camera_inputs(camera: Camera, width: int, height: int) -> dict[str, Array]:
    """The per-draw inputs of an eye."""
    right, up, _ = camera.axes
    return {
        "camera_right": _vector(tuple(right)),
        "camera_up": _vector(tuple(up)),
        "lens": _vector(camera.lens(width, height)),
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


def stage_textures(rig: str = "open_dock") -> dict[Hashable, Texture]:
    """What the stage itself brings: the surroundings of a rig, and the backdrop."""
    return {ENVIRONMENT: environment_map(rig), BACKDROP: synthetic_backdrop(), SUN_REACH: synthetic_sun_reach()}


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
    inputs = {
        **vertex_inputs(mesh, scene.camera.position),
        **rig_inputs(scene.rig, scene.time),
        **form_inputs(mesh),
        **camera_inputs(scene.camera, 1, 1),
    }
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


@dataclass(frozen=True, eq=False)
class Hits:
    """Where rays through pixels meet a form: flat arrays, a ray each, row by row from the bottom.

    ``weights`` are barycentric, (rays, 3); outside a triangle they lie beyond 0..1, as the GPU's helper
    pixels have them.
    """

    eye: NDArray[np.float64]
    directions: NDArray[np.float64]
    pixels: NDArray[np.int64]
    faces: NDArray[np.int64]
    weights: Floats
    hit: NDArray[np.bool_]


def _cast(traced: EmbreeScene, camera: Camera, width: int, height: int) -> Hits:
    eye, directions = camera.rays(width, height)
    flat = directions.reshape(-1, 3)
    origins = np.broadcast_to(eye.astype(np.float32), flat.shape).copy()
    result = traced.run(origins, flat.astype(np.float32), output=1)
    hit = result["primID"] >= 0
    u, v = result["u"], result["v"]
    weights = np.stack((1 - u - v, u, v), axis=-1).astype(np.float32)
    column, row = np.meshgrid(np.arange(width), np.arange(height))
    pixels = np.stack((column.ravel(), row.ravel()), axis=1)
    return Hits(eye, flat, pixels, np.where(hit, result["primID"], 0), weights, hit)


def _inputs_at(mesh: Mesh, moved: Floats, hits: Hits, size: tuple[int, int]) -> dict[str, Floats]:
    """Surface inputs by name, (rays, components).

    Interpolated as the GPU does: linear over each triangle in perspective, normals unit afterwards.
    """
    triangles, weights = mesh.triangles[hits.faces], hits.weights[..., None]

    def at(values: Floats) -> Floats:
        return np.asarray(np.sum(values[triangles] * weights, axis=1))

    corners = moved[triangles]
    facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    position, tangent, at_last = at(mesh.positions), at(mesh.tangents), at(moved)
    towards = (hits.eye - at_last).astype(np.float32)
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
        "is_front": np.where(np.sum(facing * hits.directions, axis=1) > 0, 0.0, 1.0)[:, None],
        "screen_pixel": hits.pixels,
        "screen_position": (hits.pixels + 0.5) / size,
    }
    return {name: values.astype(np.float32) for name, values in found.items()}


_SINGLE = ("camera_distance", "is_front")


def _shaped(found: Mapping[str, Floats], rows: int, columns: int) -> dict[str, Array]:
    """Inputs of rays in the order of a picture as the interpreters take them."""
    shaped = {n: np.ascontiguousarray(v.T).reshape(-1, rows, columns) for n, v in found.items()}
    return {n: v[0] if n in _SINGLE else v for n, v in shaped.items()}


def _torn(hits: Hits, distance: Floats, width: int, height: int) -> NDArray[np.int64]:
    """The rays that hit where a 2x2 quad of pixels does not lie on one piece of surface."""
    if width % 2 or height % 2:
        return np.zeros(0, dtype=np.int64)

    def over_quads(values: NDArray[Any], combine: np.ufunc) -> NDArray[Any]:
        quads = values.reshape(height // 2, 2, width // 2, 2)
        joined = combine.reduce(combine.reduce(quads, axis=3), axis=1)
        return np.asarray(np.repeat(np.repeat(joined, 2, axis=0), 2, axis=1)).ravel()

    far = np.where(hits.hit, distance, 0.0)
    # Far nearer than a hundredth apart two neighbours lie on one sheet.
    jumps = over_quads(far, np.maximum) - over_quads(np.where(hits.hit, distance, np.inf), np.minimum) > 0.02 * far
    whole = over_quads(hits.hit, np.logical_and)
    return np.flatnonzero(hits.hit & (~whole | jumps))


def _quads_of(mesh: Mesh, moved: Floats, hits: Hits, rays: NDArray[np.int64], width: int) -> Hits:
    """For each of some rays the four pixels of its quad, all on the plane of its own triangle.

    In the order of a picture two rows high: what the GPU computes for the pixels beside a triangle.
    """
    column, row = hits.pixels[rays].T
    steps = np.array([(0, 0), (1, 0), (0, 1), (1, 1)])
    pixels = np.stack((column // 2 * 2, row // 2 * 2), axis=1)[:, None] + steps
    pixels = np.concatenate((pixels[:, :2].reshape(-1, 2), pixels[:, 2:].reshape(-1, 2)))
    faces = np.concatenate([np.repeat(hits.faces[rays], 2)] * 2)
    directions = hits.directions[pixels[:, 1] * width + pixels[:, 0]]
    a, b, c = (moved[mesh.triangles[faces]][:, i].astype(np.float64) for i in range(3))
    # T. Moeller, B. Trumbore, "Fast, Minimum Storage Ray-Triangle Intersection", 1997, without its bounds.
    first, second, to_eye = b - a, c - a, hits.eye - a
    across = np.cross(directions, second)
    area = np.sum(first * across, axis=1)
    area = np.where(np.abs(area) < 1e-12, 1e-12, area)
    u = np.sum(to_eye * across, axis=1) / area
    v = np.sum(directions * np.cross(to_eye, first), axis=1) / area
    weights = np.clip(np.stack((1 - u - v, u, v), axis=-1), -50, 50).astype(np.float32)
    return Hits(hits.eye, directions, pixels, faces, weights, np.ones(len(pixels), dtype=bool))


@dataclass(frozen=True, eq=False)
class Seen:
    """Surface inputs of the pixels a scene shows, and again for the quads that lie on no one surface."""

    points: Mapping[str, Array]
    hit: NDArray[np.bool_]
    torn: NDArray[np.int64]
    torn_points: Mapping[str, Array]


def points_seen(mesh: Mesh, traced: EmbreeScene, moved: Floats, camera: Camera, width: int, height: int) -> Seen:
    """Surface inputs by name, (components, height, width) float32, and where the form is hit."""
    hits = _cast(traced, camera, width, height)
    found = _inputs_at(mesh, moved, hits, (width, height))
    torn = _torn(hits, found["camera_distance"][:, 0], width, height)
    quads = _quads_of(mesh, moved, hits, torn, width)
    beside = _shaped(_inputs_at(mesh, moved, quads, (width, height)), 2, 2 * len(torn)) if len(torn) else {}
    return Seen(_shaped(found, height, width), hits.hit.reshape(height, width), torn, beside)


@lru_cache(maxsize=8)
def points_at_rest(key: str, camera: Camera, width: int, height: int) -> Seen:
    """What a camera sees of a form before any vertex offset."""
    mesh = form(key)
    return points_seen(mesh, _resting(key), mesh.positions, camera, width, height)


def uniform_arrays(values: Mapping[tuple[str, str], Value]) -> dict[Hashable, Array]:
    """Unwired values as arrays: () for one number, (components, 1, 1) for more."""
    return {
        key: np.array(value, dtype=np.float32).reshape(() if len(value) == 1 else (-1, 1, 1))
        for key, value in values.items()
        if not isinstance(value, str)
    }


@dataclass(frozen=True, eq=False)
class Stage:
    """Everything an expression may ask at the pixels of a scene, and where the form is."""

    seen: Seen
    draw: Mapping[str, Array]
    uniforms: Mapping[Hashable, Array]
    textures: Mapping[Hashable, Texture]

    @property
    def surroundings(self) -> Surroundings:
        return Surroundings({**self.seen.points, **self.draw}, self.uniforms, self.textures)

    @property
    def hit(self) -> NDArray[np.bool_]:
        return self.seen.hit

    def evaluate(self, outputs: list[Expr]) -> list[Floats]:
        """The outputs over the whole picture; at torn quads as the GPU computes them, each on its own plane."""
        height, width = self.hit.shape
        found = evaluate_in_tiles(outputs, self.surroundings, (height, width))
        torn = self.seen.torn
        if len(torn) and cost(outputs).by_sort["derivative"]:
            inputs = {**self.seen.torn_points, **self.draw}
            quads = evaluate(outputs, Surroundings(inputs, self.uniforms, self.textures))
            row, column = torn // width, torn % width
            place = (row % 2, np.arange(len(torn)) * 2 + column % 2)
            for picture, values in zip(found, quads, strict=True):
                whole = np.broadcast_to(values, (*picture.shape[:-2], 2, 2 * len(torn)))
                picture[..., row, column] = whole[..., place[0], place[1]]
        return found


def points_of(
    scene: Scene,
    offset: Expr | None,
    values: Mapping[tuple[str, str], Value],
    textures: Mapping[Hashable, Texture],
    size: tuple[int, int],
) -> Stage:
    """What a scene shows, ``size`` as (width, height)."""
    width, height = size
    mesh, uniforms = form(scene.form), uniform_arrays(values)
    bound = {**textures, **stage_textures(scene.rig.key)}
    if offset is None:
        seen = points_at_rest(scene.form, scene.camera, width, height)
    else:
        moved = moved_positions(mesh, offset, scene, uniforms, bound)
        seen = points_seen(mesh, _traced(mesh, moved), moved, scene.camera, width, height)
    draw = {**rig_inputs(scene.rig, scene.time), **form_inputs(mesh), **camera_inputs(scene.camera, width, height)}
    return Stage(seen, draw, uniforms, bound)


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
    stage = points_of(scene or Scene(), look.offset, values, textures, size)
    found = stage.evaluate([look.picture] if look.opacity is None else [look.picture, look.opacity])
    hit = stage.hit if look.opacity is None else stage.hit & (found[1] >= CUT_AT)
    pixels = np.empty((height, width, 4), dtype=np.uint8)
    pixels[..., :3] = np.where(
        hit[..., None], np.rint(np.clip(found[0], 0, 1) * 255).transpose(1, 2, 0), np.array(BACKGROUND)
    )
    pixels[..., 3] = np.where(hit, 255, 0)
    return pixels
