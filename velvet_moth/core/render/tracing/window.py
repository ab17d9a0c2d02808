"""A window: a part of a picture, in pixels, that is worked out by itself."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class Window:
    """From the left and from below; whole quads of 2x2 pixels, so that differences between pixels hold."""

    left: int
    low: int
    width: int
    height: int

    @classmethod
    def whole(cls, size: tuple[int, int]) -> "Window":
        """All of a picture of ``size`` (width, height)."""
        return cls(0, 0, *size)

    @classmethod
    def quad_of(cls, pixel: tuple[int, int]) -> "Window":
        """The quad of a pixel (column, row)."""
        return cls(pixel[0] // 2 * 2, pixel[1] // 2 * 2, 2, 2)

    @property
    def pixels(self) -> NDArray[np.int64]:
        """Columns and rows of its pixels, (2, height, width)."""
        columns, rows = self.left + np.arange(self.width), self.low + np.arange(self.height)
        return np.stack(np.meshgrid(columns, rows))

    @property
    def slices(self) -> tuple[slice, slice]:
        """Its rows and columns in the picture."""
        return slice(self.low, self.low + self.height), slice(self.left, self.left + self.width)
