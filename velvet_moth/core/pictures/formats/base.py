"""What a picture is, and what a file format of pictures declares of itself."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

# uint8, uint16, float16 or float32.
Samples = NDArray[Any]
DEPTHS = {"uint8": "8 bit", "uint16": "16 bit", "float16": "half float", "float32": "float"}


class Damaged(Exception):
    """A file that cannot be read; the text is a sentence that says why."""


@dataclass(frozen=True, eq=False)
class Picture:
    """Samples as a file holds them: (rows, columns, channels), row 0 at the bottom; ``note`` says what reading changed.

    One channel is grey, two are grey and alpha, three RGB, four RGBA. Whole numbers run over their whole range,
    floats are what they are.
    """

    samples: Samples
    note: str = ""

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in pixels."""
        return self.samples.shape[1], self.samples.shape[0]

    @property
    def channels(self) -> int:
        """How many numbers each pixel has."""
        return int(self.samples.shape[2])

    @property
    def depth(self) -> str:
        """The name of the sample type: uint8, uint16, float16 or float32."""
        return str(self.samples.dtype.name)


@dataclass(frozen=True)
class PictureFormat:
    """One open file format: how it is told from others, and what it can carry without loss.

    ``size`` reads width and height from the header alone, so that no pixel of a lying file is decoded; ``encode`` is
    None where the format is only read. ``depths`` and ``channels`` are what ``encode`` keeps exactly.
    """

    key: str
    name: str
    suffixes: tuple[str, ...]
    mimetype: str
    is_this: Callable[[bytes], bool]
    size: Callable[[bytes], tuple[int, int]]
    decode: Callable[[bytes], Picture]
    encode: Callable[[Picture], bytes] | None = None
    depths: tuple[str, ...] = ()
    channels: tuple[int, ...] = ()


def flipped(samples: Samples) -> Samples:
    """Rows in the other order, three axes, contiguous."""
    return np.ascontiguousarray((samples if samples.ndim == 3 else samples[..., None])[::-1])
