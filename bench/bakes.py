"""Bakes at vertices against raw calls of what they stand on: ``python -m bench.bakes``."""

import time

import numpy as np

from velvet_moth.core.baking.curvature import curvature
from velvet_moth.core.baking.rays import occlusion
from velvet_moth.core.baking.skin import Skin
from velvet_moth.core.forms.mesh import Mesh, grid, square
from velvet_moth.core.meshes.formats import FORMATS, read_mesh
from velvet_moth.core.meshes.intake import MeshReading, as_source, taken_in
from velvet_moth.core.render.tracing.rays import resting_scene

RAYS = 64


def hills(side: int) -> Mesh:
    """A sheet of side x side vertices that hides parts of itself."""
    u, v = square(side, side)
    high = 0.08 * np.sin(40 * u) * np.cos(37 * v)
    return grid(np.stack((u, high, 1 - v), axis=-1), np.stack((u, v), axis=-1))


def main() -> None:
    mesh = hills(224)
    scene = resting_scene(mesh)
    random = np.random.default_rng(1)
    ways = random.normal(size=(len(mesh.positions) * RAYS, 3)).astype(np.float32)
    ways[:, 1] = np.abs(ways[:, 1])
    start = np.repeat(mesh.positions + mesh.normals * np.float32(1e-4), RAYS, axis=0).astype(np.float32)
    at = time.perf_counter()
    scene.run(start, ways, output=1)
    raw = time.perf_counter() - at
    at = time.perf_counter()
    occlusion(mesh, RAYS)
    own = time.perf_counter() - at
    print(
        f"occlusion, {len(mesh.positions):,} vertices, {RAYS} rays: {own:.2f} s, raw Embree {raw:.2f} s: {raw / own:.2f}x"
    )
    large = hills(317)
    skin = Skin.of(large)
    for name, work in (
        ("skin", lambda: Skin.of(large)),
        ("blur over 3 cm", lambda: skin.blurred(skin.positions[:, 1], 0.03)),
        ("distance", lambda: skin.distances(np.array([0]))),
        ("curvature", lambda: curvature(skin)),
    ):
        at = time.perf_counter()
        work()
        print(f"{name}, {len(large.positions):,} vertices: {time.perf_counter() - at:.2f} s")
    million = as_source(hills(1000))
    for key, made in FORMATS.items():
        data = made.encode(million)
        at = time.perf_counter()
        source, _ = read_mesh({"mesh": data}, "mesh")
        read = time.perf_counter() - at
        at = time.perf_counter()
        taken_in(source, MeshReading())
        print(
            f"{key}, a million vertices, {len(data) >> 20} MB: read {read:.1f} s, taken in {time.perf_counter() - at:.1f} s"
        )


if __name__ == "__main__":
    main()
