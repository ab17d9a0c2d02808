"""Strokes as a hand would draw them on ground that has one height at every place."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.source import SourceMesh
from velvet_moth.core.stacks.stroke import WIDTH, text_of

Numbers = NDArray[np.float64]


@dataclass(frozen=True)
class Ground:
    """Ground by its ``height`` in metres at places x, z."""

    height: Callable[[Numbers, Numbers], Numbers]

    def places(self, x: Numbers, z: Numbers) -> Numbers:
        """Places on it, (..., 3)."""
        return np.stack((x, self.height(x, z), z), axis=-1)

    def normals(self, x: Numbers, z: Numbers) -> Numbers:
        """Which way it faces there, (..., 3)."""
        step = 1e-4
        slope = [
            (self.height(x + a, z + b) - self.height(x - a, z - b)) / (2 * step) for a, b in ((step, 0), (0, step))
        ]
        found = np.stack((-slope[0], np.ones_like(x), -slope[1]), axis=-1)
        return np.asarray(found / np.linalg.norm(found, axis=-1, keepdims=True))

    def sheet(self, wide: float, deep: float, cells: tuple[int, int]) -> tuple[Numbers, Numbers, NDArray[np.int64]]:
        """Its places x and z over a rectangle about the origin, (n,) each, and triangles, (m, 3)."""
        u, v = np.meshgrid(np.linspace(0, 1, cells[0] + 1), np.linspace(0, 1, cells[1] + 1))
        at = np.arange(u.size).reshape(u.shape)
        a, b, c, d = at[:-1, :-1], at[:-1, 1:], at[1:, 1:], at[1:, :-1]
        triangles = np.stack((a, b, c, a, c, d), axis=-1).reshape(-1, 3)
        return ((u - 0.5) * wide).ravel(), ((0.5 - v) * deep).ravel(), triangles

    def file(self, wide: float, deep: float, cells: tuple[int, int]) -> bytes:
        """A sheet over it with UVs as a GLB; its longer side is one unit of the UVs."""
        x, z, triangles = self.sheet(wide, deep, cells)
        side = max(wide, deep)
        return FORMATS["gltf"].encode(
            SourceMesh(
                self.places(x, z).astype(np.float32),
                triangles.astype(np.uint32),
                normals=self.normals(x, z).astype(np.float32),
                uvs=np.stack((x / side + 0.5, 0.5 - z / side), axis=-1).astype(np.float32),
            )
        )

    def stroke(
        self, places: Sequence[tuple[float, float]], radius: float, touches: str, shake: float = 0.12, **brush: Any
    ) -> dict[str, Any]:
        """A stroke through places (x, z) with a brush whose radius changes a little.

        A hand is never quite straight: it may ``shake`` by a share of the radius.
        """
        ends = np.array(places)
        count = (
            max(2, int(np.ceil(np.linalg.norm(np.diff(ends, axis=0), axis=1).sum() / (radius * 0.4))))
            if len(ends) > 1
            else 1
        )
        along = np.linspace(0, len(ends) - 1, count)
        x, z = (np.interp(along, np.arange(len(ends)), ends[:, axis]) for axis in range(2))
        x, z = x + shake * radius * np.sin(along * 9.0), z + shake * radius * np.cos(along * 7.0)
        rows = np.concatenate((self.places(x, z), self.normals(x, z), np.ones((count, 3))), axis=1)
        rows[:, 6] = radius * (1.0 + 0.15 * np.sin(along * 5.0))
        assert rows.shape[1] == WIDTH, "a point is nine numbers"
        return {"points": text_of(rows.astype(np.float32)), "touches": [touches], **brush}

    def combed(self, places: Sequence[tuple[float, float]], radius: float, speed: float) -> dict[str, Any]:
        """A stroke that combs along places at a speed, without any shake: that would comb waves."""
        return self.stroke(places, radius, "red", 0.0, mode="comb", value=speed, softness=0.4)


def through(places: Sequence[tuple[float, float, float]], radius: float, **brush: Any) -> dict[str, Any]:
    """A stroke of red through places in space, which reaches through what is thin."""
    rows = np.zeros((len(places), WIDTH), dtype=np.float32)
    rows[:, :3], rows[:, 5], rows[:, 6], rows[:, 7:] = places, 1.0, radius, 1.0
    return {"points": text_of(rows), "touches": ["red"], "side": "through", **brush}
