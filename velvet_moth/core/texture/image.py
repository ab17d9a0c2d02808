"""A texture in memory and how it is sampled: the NumPy twin of the GPU's filtered read."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.uint8]
Floats = NDArray[np.float32]


def srgb_to_linear(encoded: Floats) -> Floats:
    """The transfer function of IEC 61966-2-1, 0..1 to 0..1."""
    e = np.asarray(encoded, dtype=np.float32)
    return np.where(e <= 0.04045, e / 12.92, ((e + 0.055) / 1.055) ** 2.4).astype(np.float32)


def linear_to_srgb(linear: Floats) -> Floats:
    """The inverse of ``srgb_to_linear``; values are clamped to 0..1 first."""
    v = np.clip(np.asarray(linear, dtype=np.float32), 0.0, 1.0)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055).astype(np.float32)


@dataclass(frozen=True, eq=False)
class Texture:
    """Levels of float32 RGBA, each (4, rows, columns), row 0 at the bottom, halving down to 1x1.

    ``bias`` is added to the level asked for; below zero reads sharper.
    """

    levels: tuple[Floats, ...]
    bias: float = 0.0

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.levels[0].shape[2], self.levels[0].shape[1]

    def sample(self, uv: Floats, level: Floats, wrap: tuple[str, str]) -> Floats:
        """Linear filtering between pixels and levels; ``uv`` is (2, rows, columns), returns (4, rows, columns)."""
        shape = np.broadcast_shapes(uv.shape[1:], level.shape)
        u, v = (np.broadcast_to(c, shape).ravel() for c in uv)
        wanted = np.clip(np.broadcast_to(level + np.float32(self.bias), shape).ravel(), 0, len(self.levels) - 1).astype(
            np.float32
        )
        lower = np.floor(wanted).astype(np.int32)
        blend = wanted - lower
        result = np.zeros((4, u.size), dtype=np.float32)
        for index in np.unique(np.concatenate((lower, lower[blend > 0] + 1))):
            weight = np.where(lower == index, 1 - blend, np.where(lower + 1 == index, blend, 0)).astype(np.float32)
            here = np.flatnonzero(weight)
            result[:, here] += weight[here] * _bilinear(self.levels[index], u[here], v[here], wrap)
        return result.reshape(4, *shape)


def _bilinear(level: Floats, u: Floats, v: Floats, wrap: tuple[str, str]) -> Floats:
    _, rows, columns = level.shape
    u = u - np.floor(u) if wrap[0] == "repeat" else u
    v = v - np.floor(v) if wrap[1] == "repeat" else v
    x, y = u * np.float32(columns) - np.float32(0.5), v * np.float32(rows) - np.float32(0.5)
    x0, y0 = np.floor(x), np.floor(y)
    fx, fy = (x - x0).astype(np.float32), (y - y0).astype(np.float32)

    def index(at: Floats, size: int, mode: str) -> NDArray[np.int32]:
        whole = at.astype(np.int32)
        return whole % size if mode == "repeat" else np.clip(whole, 0, size - 1)

    xa, xb = index(x0, columns, wrap[0]), index(x0 + 1, columns, wrap[0])
    ya, yb = index(y0, rows, wrap[1]), index(y0 + 1, rows, wrap[1])
    low = level[:, ya, xa] * (1 - fx) + level[:, ya, xb] * fx
    high = level[:, yb, xa] * (1 - fx) + level[:, yb, xb] * fx
    return np.asarray(low * (1 - fy) + high * fy, dtype=np.float32)
