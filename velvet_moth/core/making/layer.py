"""What steps work on: layers of numbers on a canvas that repeats at every edge."""

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.language.texture import LUMINANCE, Floats
from velvet_moth.core.pictures.reading import RoleKey


@dataclass(frozen=True)
class Canvas:
    """The size of what is made, in pixels. Lengths in steps are shares of its width, so that a preview looks alike."""

    columns: int
    rows: int

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns."""
        return self.rows, self.columns

    @property
    def aspect(self) -> float:
        """Height over width."""
        return self.rows / self.columns

    def uv(self) -> tuple[Floats, Floats]:
        """u (1, columns) and v (rows, 1) at the pixel centres, 0..1, v up."""
        u = ((np.arange(self.columns) + 0.5) / self.columns).astype(np.float32)
        v = ((np.arange(self.rows) + 0.5) / self.rows).astype(np.float32)
        return u[None, :], v[:, None]

    def pixels(self, share: float) -> float:
        """A share of the width in pixels."""
        return share * self.columns


@dataclass(frozen=True, eq=False)
class Layer:
    """Values (channels, rows, columns), row 0 at the bottom, and what they mean.

    Colours are linear light, with alpha where there are four channels; normals and flows run from -1 to 1; heights
    and data are numbers, mostly 0 to 1.
    """

    values: Floats
    role: RoleKey = "data"

    @property
    def channels(self) -> int:
        """How many numbers each pixel has."""
        return int(self.values.shape[0])

    @property
    def colour(self) -> Floats:
        """Three channels, without alpha."""
        return self.values[:3] if self.channels >= 3 else np.repeat(self.values[:1], 3, axis=0)

    @property
    def alpha(self) -> Floats:
        """(rows, columns), 1 where there is none."""
        if self.channels == 4 or (self.channels == 2 and self.role != "flow"):
            return np.asarray(self.values[-1])
        return np.ones(self.values.shape[1:], dtype=np.float32)

    @property
    def number(self) -> Floats:
        """(rows, columns): the luminance of colours (ITU-R BT.709), else the first channel."""
        if self.channels >= 3 and self.role == "colour":
            return np.asarray(np.tensordot(np.array(LUMINANCE, np.float32), self.values[:3], axes=1), dtype=np.float32)
        return np.asarray(self.values[0])


def fitted(layer: Layer, canvas: Canvas) -> Layer:
    """The layer at the size of a canvas, each pixel the mean of what it covers; normals keep their length."""
    rows, columns = layer.values.shape[1:]
    if (rows, columns) == canvas.shape:
        return layer
    smaller = (min(columns, canvas.columns), min(rows, canvas.rows))
    planes = [cv2.resize(plane, smaller, interpolation=cv2.INTER_AREA) for plane in layer.values]
    values = _enlarged(_enlarged(np.stack(planes), canvas.rows, axis=1), canvas.columns, axis=2)
    return Layer(unit_length(values) if layer.role == "normal" else values, layer.role)


def _enlarged(values: Floats, count: int, axis: int) -> Floats:
    """More pixels along an axis, linear between the old ones and over the edge too: what tiles goes on tiling."""
    before = values.shape[axis]
    if before == count:
        return values
    at = (np.arange(count) + 0.5) * (before / count) - 0.5
    lower = np.floor(at).astype(int)
    share = (at - lower).astype(np.float32).reshape([-1 if i == axis else 1 for i in range(3)])
    first, second = (np.take(values, (lower + step) % before, axis=axis) for step in (0, 1))
    return np.asarray(first + (second - first) * share, dtype=np.float32)


def unit_length(values: Floats) -> Floats:
    """Directions of length one, where there are three components."""
    if len(values) != 3:
        return values
    return np.asarray(values / np.maximum(np.sqrt((values**2).sum(axis=0)), 1e-6), dtype=np.float32)


def number_layer(values: NDArray[Any], role: RoleKey = "data") -> Layer:
    """A layer of one number a pixel, of (rows, columns)."""
    return Layer(np.asarray(values, dtype=np.float32)[None], role)


def spread(values: Floats) -> Floats:
    """Stretched over the whole of 0..1."""
    low, high = float(values.min()), float(values.max())
    return np.asarray((values - low) / max(high - low, 1e-6), dtype=np.float32)


def smooth(low: float, high: float, x: NDArray[Any]) -> Floats:
    """The smoothstep of GLSL; a hard step where both ends are the same."""
    t = np.clip((x - low) / max(high - low, 1e-6), 0, 1)
    return np.asarray(t * t * (3 - 2 * t), dtype=np.float32)
