"""Where rays through the pixels of a picture meet a form, and what is known of the surface there, as the GPU has it."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.emitting.emitter import INSTANCE
from velvet_moth.core.forms.mesh import Floats, Mesh
from velvet_moth.core.forms.view import Camera
from velvet_moth.core.language.expr import Array
from velvet_moth.core.render.tracing.window import Window


def unit(values: Floats) -> Floats:
    """Vectors (n, 3) at length one."""
    return np.asarray(values / np.maximum(np.linalg.norm(values, axis=1, keepdims=True), 1e-12), dtype=np.float32)


def traced_scene(mesh: Mesh, positions: Floats) -> EmbreeScene:
    """A mesh for rays, its vertices at other positions, (n, 3)."""
    scene = EmbreeScene()
    TriangleMesh(scene, positions[mesh.triangles])
    # The first ray makes the scene ready, which threads must not do together.
    scene.run(np.zeros((1, 3), dtype=np.float32), np.ones((1, 3), dtype=np.float32))
    return scene


@lru_cache(maxsize=8)
def resting_scene(mesh: Mesh) -> EmbreeScene:
    """A form for rays, not moved."""
    return traced_scene(mesh, mesh.positions)


# From pixels, (n, 2) columns and rows, to where their rays begin and their unit directions, (n, 3) each.
Through = Callable[[NDArray[np.int64]], tuple[NDArray[np.float64], NDArray[np.float64]]]


@dataclass(frozen=True)
class View:
    """Rays through the pixels of a picture, and the eye that surfaces know of, which may be another."""

    eye: NDArray[np.float64]
    through: Through


def view_of(camera: Camera, size: tuple[int, int]) -> View:
    """What a camera sees in a picture of ``size`` (width, height)."""

    def through(pixels: NDArray[np.int64]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        ways = camera.through(pixels[:, 0], pixels[:, 1], *size)
        return np.broadcast_to(camera.position, ways.shape), ways

    return View(camera.position, through)


@dataclass(frozen=True, eq=False)
class Hits:
    """Where rays through pixels meet a form: flat arrays, a ray each, row by row from the bottom.

    ``reach`` is in metres from where the rays come from. ``weights`` are barycentric, (rays, 3); outside a triangle they lie beyond 0..1, as the GPU's helper
    pixels have them.
    """

    eye: NDArray[np.float64]
    directions: NDArray[np.float64]
    pixels: NDArray[np.int64]
    faces: NDArray[np.int64]
    weights: Floats
    hit: NDArray[np.bool_]
    reach: NDArray[np.float64]


def cast(traced: EmbreeScene, view: View, pixels: NDArray[np.int64], beyond: NDArray[np.float64] | float = 0.0) -> Hits:
    """Rays through some pixels, (n, 2) columns and rows; what lies nearer than ``beyond`` (metres) is passed."""
    origins, directions = view.through(pixels)
    begin = np.broadcast_to(beyond, len(pixels))
    started = (origins + directions * begin[:, None]).astype(np.float32)
    result = traced.run(started, directions.astype(np.float32), output=1)
    hit = result["primID"] >= 0
    u, v = result["u"], result["v"]
    weights = np.stack((1 - u - v, u, v), axis=-1).astype(np.float32)
    reach = begin + np.where(hit, result["tfar"], 0.0)
    return Hits(
        view.eye,
        directions,
        pixels=pixels,
        faces=np.where(hit, result["primID"], 0),
        weights=weights,
        hit=hit,
        reach=reach,
    )


# What each surface input is where rays hit a mesh, from the mesh as it lies, the hits, the picture's size, and what mixes
# values of vertices at the hits.
_AtHits = Callable[[Mesh, Floats, Hits, tuple[int, int], Callable[[Floats], Floats]], NDArray[Any]]


def _facing(mesh: Mesh, moved: Floats, hits: Hits) -> NDArray[Any]:
    corners = moved[mesh.triangles[hits.faces]]
    facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return np.where(np.sum(facing * hits.directions, axis=1) > 0, 0.0, 1.0)[:, None]


def _tangent(values: Floats) -> NDArray[Any]:
    return np.concatenate((unit(values[:, :3]), np.sign(values[:, 3:])), axis=1)


def _towards(hits: Hits, places: Floats) -> Floats:
    return (hits.eye - places).astype(np.float32)


def _middle(mesh: Mesh, hits: Hits) -> Floats:
    """The middles of the triangles that are hit; of an instance the last corner, which is where the GPU has it from."""
    corners = mesh.positions[mesh.triangles[hits.faces]]
    return corners.mean(axis=1) if mesh.instance is None else corners[:, 2]


def _of_instance(name: str) -> _AtHits:
    return lambda mesh, moved, hits, size, at: (mesh.instance or {})[name][mesh.triangles[hits.faces, 0]]


_AT_HITS: Mapping[str, _AtHits] = {
    "uv": lambda mesh, moved, hits, size, at: at(mesh.uvs),
    "second_uv": lambda mesh, moved, hits, size, at: at(mesh.second_uvs),
    "position": lambda mesh, moved, hits, size, at: at(mesh.positions),
    "moved_position": lambda mesh, moved, hits, size, at: at(moved),
    "object_position": lambda mesh, moved, hits, size, at: at(mesh.own.positions),
    "normal": lambda mesh, moved, hits, size, at: unit(at(mesh.normals)),
    "moved_normal": lambda mesh, moved, hits, size, at: unit(at(mesh.normals)),
    "object_normal": lambda mesh, moved, hits, size, at: unit(at(mesh.own.normals)),
    "tangent": lambda mesh, moved, hits, size, at: _tangent(at(mesh.tangents)),
    "vertex_colour": lambda mesh, moved, hits, size, at: at(mesh.colours),
    "second_vertex_colour": lambda mesh, moved, hits, size, at: at(mesh.second_data),
    "face_middle": lambda mesh, moved, hits, size, at: _middle(mesh, hits),
    "face_number": lambda mesh, moved, hits, size, at: hits.faces[:, None],
    "view_direction": lambda mesh, moved, hits, size, at: unit(_towards(hits, at(moved))),
    "camera_distance": lambda mesh, moved, hits, size, at: np.linalg.norm(
        _towards(hits, at(moved)), axis=1, keepdims=True
    ),
    "is_front": lambda mesh, moved, hits, size, at: _facing(mesh, moved, hits),
    "screen_pixel": lambda mesh, moved, hits, size, at: hits.pixels,
    "screen_position": lambda mesh, moved, hits, size, at: (hits.pixels + 0.5) / size,
}
_OF_INSTANCES = {name: _of_instance(name) for name in INSTANCE}


def inputs_at(
    mesh: Mesh, moved: Floats, hits: Hits, size: tuple[int, int], names: Collection[str] | None = None
) -> dict[str, Floats]:
    """Surface inputs by name, (rays, components): all, or those of the ``names`` that a form tells.

    Interpolated as the GPU does: linear over each triangle in perspective, normals unit afterwards.
    """
    triangles = mesh.triangles[hits.faces]
    a, b, c = (triangles[:, corner] for corner in range(3))
    first, second, third = (hits.weights[:, corner, None] for corner in range(3))
    known: dict[int, Floats] = {}

    def at(values: Floats) -> Floats:
        if id(values) not in known:
            known[id(values)] = values[a] * first + values[b] * second + values[c] * third
        return known[id(values)]

    every = _AT_HITS if mesh.instance is None else {**_AT_HITS, **_OF_INSTANCES}
    wanted = every if names is None else [name for name in every if name in names]
    return {name: np.asarray(every[name](mesh, moved, hits, size, at), dtype=np.float32) for name in wanted}


_SINGLE = ("camera_distance", "is_front", "face_number", "instance_age")


def shaped(found: Mapping[str, Floats], rows: int, columns: int) -> dict[str, Array]:
    """Inputs of rays in the order of a picture as the interpreters take them."""
    made = {n: np.ascontiguousarray(v.T).reshape(-1, rows, columns) for n, v in found.items()}
    return {n: v[0] if n in _SINGLE else v for n, v in made.items()}


def _torn(hits: Hits, width: int, height: int) -> NDArray[np.int64]:
    """The rays that hit where a 2x2 quad of pixels does not lie on one triangle.

    There the GPU takes differences on the plane of each pixel's own, and not between what the pixels show.
    """
    if width % 2 or height % 2:
        return np.zeros(0, dtype=np.int64)
    faces = np.where(hits.hit, hits.faces, -1).reshape(height // 2, 2, width // 2, 2)
    parted = faces.max(axis=(1, 3), keepdims=True) != faces.min(axis=(1, 3), keepdims=True)
    return np.flatnonzero(hits.hit & np.broadcast_to(parted, faces.shape).ravel())


def quads_of(mesh: Mesh, moved: Floats, view: View, hits: Hits, rays: NDArray[np.int64]) -> Hits:
    """For each of some rays the four pixels of its quad, all on the plane of its own triangle.

    In the order of a picture two rows high: what the GPU computes for the pixels beside a triangle.
    """
    column, row = hits.pixels[rays].T
    steps = np.array([(0, 0), (1, 0), (0, 1), (1, 1)])
    pixels = np.stack((column // 2 * 2, row // 2 * 2), axis=1)[:, None] + steps
    pixels = np.concatenate((pixels[:, :2].reshape(-1, 2), pixels[:, 2:].reshape(-1, 2)))
    faces = np.concatenate([np.repeat(hits.faces[rays], 2)] * 2)
    origins, directions = view.through(pixels)
    a, b, c = (moved[mesh.triangles[faces]][:, i].astype(np.float64) for i in range(3))
    # T. Moeller, B. Trumbore, "Fast, Minimum Storage Ray-Triangle Intersection", 1997, without its bounds.
    first, second, to_eye = b - a, c - a, origins - a
    across = np.cross(directions, second)
    area = np.sum(first * across, axis=1)
    area = np.where(np.abs(area) < 1e-12, 1e-12, area)
    u = np.sum(to_eye * across, axis=1) / area
    v = np.sum(directions * np.cross(to_eye, first), axis=1) / area
    weights = np.clip(np.stack((1 - u - v, u, v), axis=-1), -50, 50).astype(np.float32)
    reach = np.concatenate([np.repeat(hits.reach[rays], 2)] * 2)
    return Hits(
        hits.eye,
        directions,
        pixels=pixels,
        faces=faces,
        weights=weights,
        hit=np.ones(len(pixels), dtype=bool),
        reach=reach,
    )


# The inputs of some names at the quads of some rays, (components, 2, 2 * rays), each on the plane of its own triangle.
AtQuads = Callable[[NDArray[np.int64], Collection[str]], dict[str, Array]]


@dataclass(frozen=True, eq=False)
class Seen:
    """Surface inputs of the pixels a scene shows; and, for the rays whose quads lie on no one triangle, ``at_quads``."""

    points: Mapping[str, Array]
    hit: NDArray[np.bool_]
    torn: NDArray[np.int64]
    at_quads: AtQuads


def points_seen(
    mesh: Mesh, traced: EmbreeScene, moved: Floats, camera: Camera, size: tuple[int, int], window: Window | None = None
) -> Seen:
    """Surface inputs by name, (components, height, width) float32, and where the form is hit; in a ``window`` or all over."""
    window = window or Window.whole(size)
    width, height = window.width, window.height
    view = view_of(camera, size)
    hits = cast(traced, view, window.pixels.reshape(2, -1).T)

    def at_quads(rays: NDArray[np.int64], names: Collection[str]) -> dict[str, Array]:
        return shaped(inputs_at(mesh, moved, quads_of(mesh, moved, view, hits, rays), size, names), 2, 2 * len(rays))

    found = shaped(inputs_at(mesh, moved, hits, size), height, width)
    return Seen(found, hits.hit.reshape(height, width), _torn(hits, width, height), at_quads)
