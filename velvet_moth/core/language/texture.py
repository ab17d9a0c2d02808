"""A texture in memory and how it is sampled: the NumPy twin of the GPU's filtered read."""

from dataclasses import dataclass, replace
from typing import Literal, cast

import numpy as np
from numpy.typing import NDArray

Pixels = NDArray[np.uint8]
Floats = NDArray[np.float32]
# Weights of linear red, green and blue in relative luminance (ITU-R BT.709).
LUMINANCE = (0.2126, 0.7152, 0.0722)
# A cut-out surface has no pixels where its alpha is below this.
ALPHA_CUTOFF = 0.5


def srgb_to_linear(encoded: Floats) -> Floats:
    """The transfer function of IEC 61966-2-1, 0..1 to 0..1."""
    e = np.asarray(encoded, dtype=np.float32)
    return np.where(e <= 0.04045, e / 12.92, ((e + 0.055) / 1.055) ** 2.4).astype(np.float32)


def linear_to_srgb(linear: Floats) -> Floats:
    """The inverse of ``srgb_to_linear``; values are clamped to 0..1 first."""
    v = np.clip(np.asarray(linear, dtype=np.float32), 0.0, 1.0)
    return np.where(v <= 0.0031308, v * 12.92, 1.055 * v ** (1 / 2.4) - 0.055).astype(np.float32)


Wrap = Literal["repeat", "clamp", "mirror"]
Filter = Literal["smooth", "pixels"]


@dataclass(frozen=True, eq=False)
class Texture:
    """Levels of float32 RGBA, each (4, rows, columns), row 0 at the bottom, halving down to 1x1.

    ``bias`` is added to the level asked for; below zero reads sharper. ``wrap`` is what comes beyond the edges
    along u and v; ``filter`` whether neighbouring pixels blend.
    """

    levels: tuple[Floats, ...]
    bias: float = 0.0
    wrap: tuple[Wrap, Wrap] = ("repeat", "repeat")
    filter: Filter = "smooth"

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.levels[0].shape[2], self.levels[0].shape[1]

    def read_by(self, wrap: tuple[str, str], filter_: str) -> "Texture":
        """The same texture with another way beyond the edges and between pixels."""
        return replace(self, wrap=cast(tuple[Wrap, Wrap], wrap), filter=cast(Filter, filter_))

    def sample(self, uv: Floats, level: Floats) -> Floats:
        """Read between levels, and between pixels by the filter; ``uv`` is (2, rows, columns), gives (4, rows, columns)."""
        shape = np.broadcast_shapes(uv.shape[1:], level.shape)
        u, v = (np.broadcast_to(c, shape).ravel() for c in uv)
        wanted = np.clip(np.broadcast_to(level + np.float32(self.bias), shape).ravel(), 0, len(self.levels) - 1).astype(
            np.float32
        )
        lower = np.floor(wanted).astype(np.int32)
        blend = wanted - lower
        result = np.zeros((4, u.size), dtype=np.float32)
        between = _bilinear if self.filter == "smooth" else _nearest
        for index in np.unique(np.concatenate((lower, lower[blend > 0] + 1))):
            weight = np.where(lower == index, 1 - blend, np.where(lower + 1 == index, blend, 0)).astype(np.float32)
            here = np.flatnonzero(weight)
            result[:, here] += weight[here] * between(self.levels[index], u[here], v[here], self.wrap)
        return result.reshape(4, *shape)


def _folded(along: Floats, wrap: Wrap) -> Floats:
    """A coordinate brought back to 0..1, where its wrap does that."""
    if wrap == "repeat":
        return np.asarray(along - np.floor(along))
    if wrap == "mirror":
        twice = along - 2 * np.floor(along / 2)
        return np.asarray(np.minimum(twice, 2 - twice))
    return along


def _nearest(level: Floats, u: Floats, v: Floats, wrap: tuple[Wrap, Wrap]) -> Floats:
    _, rows, columns = level.shape
    x, y = _folded(u, wrap[0]) * np.float32(columns), _folded(v, wrap[1]) * np.float32(rows)
    column, row = (np.clip(np.floor(at), 0, size - 1).astype(np.int32) for at, size in ((x, columns), (y, rows)))
    return np.asarray(level[:, row, column])


def _bilinear(level: Floats, u: Floats, v: Floats, wrap: tuple[Wrap, Wrap]) -> Floats:
    _, rows, columns = level.shape
    u, v = _folded(u, wrap[0]), _folded(v, wrap[1])
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
