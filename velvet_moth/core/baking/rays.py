"""What rays from the vertices of a mesh meet: how hidden they are, and how thick the mesh is below them."""

import math
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import lru_cache
from typing import Any

import numpy as np
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

from velvet_moth.core.baking.skin import frames
from velvet_moth.core.forms.mesh import Floats, Mesh, unit_vectors
from velvet_moth.core.render.tracing.rays import resting_scene

Directions = NDArray[np.float64]

# So many rays are traced together, and so many threads do so: Embree holds no lock of Python's.
_AT_ONCE = 1 << 18
_THREADS = os.cpu_count() or 1
# Rays begin this far above the surface, as a share of the mesh's size, so that they do not meet where they begin.
_LIFT = 2e-5
# How far to the side a ray is turned that met nothing where something should be.
_ASIDE = 1e-3
# Steps of a sequence that fills a square evenly whatever its length.
# Source: M. Roberts, "The Unreasonable Effectiveness of Quasirandom Sequences", 2018.
_EVEN = (0.7548776662466927, 0.5698402909980532)


def _turns(mesh: Mesh) -> NDArray[np.float64]:
    """An angle for each vertex (radians): the same for the same place and normal, wherever in the mesh it stands."""
    rows = np.ascontiguousarray(np.concatenate((mesh.positions, mesh.normals), axis=1)).view(np.uint32)
    key = np.full(len(rows), 0x9E3779B9, dtype=np.uint64)
    for part in rows.T:
        key = (key ^ part) * np.uint64(0xD6E8FEB86659FD93)
        key ^= key >> np.uint64(32)
    return np.asarray((key >> np.uint64(11)) * (2 * np.pi / (1 << 53)), dtype=np.float64)


@lru_cache(maxsize=16)
def _pattern(count: int, widest: float) -> Floats:
    """``count`` directions about the third axis, (count, 3), as dense as the cosine to it, up to an angle (radians)."""
    u, v = (np.arange(1, count + 1)[:, None] * _EVEN % 1.0).T
    sine = np.sqrt(u) * np.sin(widest)
    made = np.stack((sine * np.cos(2 * np.pi * v), sine * np.sin(2 * np.pi * v), np.sqrt(1 - sine * sine)), axis=1)
    return made.astype(np.float32)


def _around(normals: Directions, turns: NDArray[np.float64], pattern: Floats) -> Floats:
    """The directions of a pattern about each normal, (n, count, 3): turned otherwise at each, so that no neighbours agree."""
    first, second = frames(normals)
    cosine, sine = np.cos(turns)[:, None], np.sin(turns)[:, None]
    axes = np.stack((first * cosine + second * sine, second * cosine - first * sine, normals), axis=1)
    return np.asarray(np.matmul(pattern, axes.astype(np.float32)))


def _at_vertices(count: int, rays: int, work: Callable[[slice], Floats], hears: Callable[[float], None]) -> Floats:
    """What ``work`` gives for each run of vertices, put together, (count,). ``hears`` hears the share that is done."""
    step = max(1, _AT_ONCE // rays)
    parts = [slice(first, min(first + step, count)) for first in range(0, count, step)]
    found = np.empty(count, dtype=np.float32)
    pool = ThreadPoolExecutor(_THREADS)
    try:
        for part, values in zip(parts, pool.map(work, parts), strict=True):
            found[part] = values
            hears(part.stop / count)
    finally:
        pool.shutdown(cancel_futures=True)
    return found


def occlusion(
    mesh: Mesh,
    rays: int = 64,
    reach: float = 0.0,
    is_two_sided: bool = False,
    hears: Callable[[float], None] = lambda share: None,
) -> Floats:
    """How much of the sky above each vertex is open, (n,) 0..1, weighed by the cosine as diffuse light is.

    What is farther than ``reach`` (metres; 0 for any) hides nothing; backs of faces hide only where ``is_two_sided``.
    ``hears`` hears the share that is done. The same vertices get the same values in whatever order they come.
    """
    scene = resting_scene(mesh)
    size = float(np.linalg.norm(mesh.box[1] - mesh.box[0]))
    normals = mesh.normals.astype(np.float64)
    turns, pattern = _turns(mesh), _pattern(rays, np.pi / 2)

    def open_sky(part: slice) -> Floats:
        ways = _around(normals[part], turns[part], pattern).reshape(-1, 3)
        start = (mesh.positions[part] + normals[part] * (size * _LIFT)).astype(np.float32)
        met = scene.run(np.repeat(start, rays, axis=0), ways, output=1)
        hides = met["primID"] >= 0
        if reach > 0:
            hides &= met["tfar"] <= reach
        if not is_two_sided:
            hides &= np.einsum("ij,ij->i", met["Ng"], ways) < 0
        return np.asarray(1.0 - hides.reshape(-1, rays).mean(axis=1), dtype=np.float32)

    return _at_vertices(len(mesh.positions), rays, open_sky, hears)


def thickness(
    mesh: Mesh, rays: int = 16, widest: float = 0.0, hears: Callable[[float], None] = lambda share: None
) -> Floats:
    """How thick the mesh is below each vertex, (n,) metres: as far as the other side lies against the normal.

    The mean over a cone of ``widest`` degrees to its side, each way counted by what of it runs along the normal, so that
    between parallel faces it is exact. 0 where nothing lies below.
    """
    scene = resting_scene(mesh)
    lift = float(np.linalg.norm(mesh.box[1] - mesh.box[0])) * _LIFT
    inward = -mesh.normals.astype(np.float64)
    count = rays if widest > 0 else 1
    turns, pattern = _turns(mesh), _pattern(count, math.radians(widest))

    def depth(part: slice) -> Floats:
        ways = _around(inward[part], turns[part], pattern).reshape(-1, 3)
        below = np.repeat(inward[part], count, axis=0)
        start = np.repeat(mesh.positions[part] + inward[part] * lift, count, axis=0).astype(np.float32)
        deep, hit = _met(scene, start, ways)
        # A ray that meets a corner exactly may pass between its triangles.
        missed = np.flatnonzero(~hit)
        first, second = frames(ways[missed].astype(np.float64))
        aside = unit_vectors(ways[missed] + (first + second * 0.382) * _ASIDE)
        deep[missed], hit[missed] = _met(scene, start[missed], aside)
        thick = np.where(hit, deep * np.sum(ways * below, axis=1) + lift, 0.0).reshape(-1, count)
        return np.asarray(thick.sum(axis=1) / np.maximum(hit.reshape(-1, count).sum(axis=1), 1), dtype=np.float32)

    return _at_vertices(len(mesh.positions), count, depth, hears)


def _met(scene: EmbreeScene, start: Floats, ways: NDArray[Any]) -> tuple[NDArray[np.float64], NDArray[np.bool_]]:
    """How far rays run until they meet something, and whether they do."""
    if not len(start):
        return np.zeros(0), np.zeros(0, dtype=bool)
    met = scene.run(start, np.asarray(ways, dtype=np.float32), output=1)
    return met["tfar"].astype(np.float64), met["primID"] >= 0
