"""What a film format is, and what writes one."""

from abc import ABC, abstractmethod
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, BinaryIO

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.base.errors import FileRefused

# (rows, columns, 4), row 0 at the bottom: 8-bit display colours with alpha, or float32 linear light with alpha.
Frame = NDArray[Any]

MOST_FRAMES = 3600
LARGEST_SIDE = 4096


@dataclass(frozen=True)
class FilmShape:
    """Pixels of a frame, how many frames there are, how many a second, and of a sheet how many stand side by side.

    ``ground`` is the display colour behind what is clear, where a format keeps no alpha.
    """

    width: int
    height: int
    frames: int
    rate: int
    columns: int = 1
    ground: tuple[int, int, int] = (0, 0, 0)

    @property
    def rows(self) -> int:
        """How many rows of frames a sheet has."""
        return -(-self.frames // max(self.columns, 1))


class FrameWriter(ABC):
    """Takes the frames of a film in their order, and writes them to a file that stays open."""

    def __init__(self, file: BinaryIO, shape: FilmShape) -> None:
        self.file, self.shape = file, shape

    @abstractmethod
    def add(self, frame: Frame) -> None:
        """Writes the next frame."""

    @abstractmethod
    def finish(self) -> None:
        """Writes what comes last."""


@dataclass(frozen=True)
class FilmFormat:
    """A way to keep frames: ``weighs`` are the bytes that a pixel of a frame takes, roughly.

    ``keeps_clear``: it has alpha; ``holds_light``: its frames are linear light as float32; ``is_even``: its sides are even numbers.
    """

    key: str
    name: str
    words: str
    suffix: str
    media_type: str
    weighs: float
    begin: Callable[[BinaryIO, FilmShape], FrameWriter]
    keeps_clear: bool = True
    holds_light: bool = False
    is_even: bool = False
    is_sheet: bool = False

    def check(self, shape: FilmShape) -> None:
        """FileRefused where it cannot hold such a film."""
        wide, high = shape.width, shape.height
        if self.is_sheet and shape.frames % max(shape.columns, 1):
            raise FileRefused(
                f"{shape.frames} frames do not fill rows of {shape.columns}.",
                self.name,
                "Choose a number of columns by which they can be divided: an empty place would be played too.",
            )
        if self.is_sheet:
            wide, high = wide * shape.columns, high * shape.rows
        where = f"{self.name}, {shape.width} x {shape.height}"
        if not (shape.width >= 16 and shape.height >= 16 and wide <= LARGEST_SIDE * 2 and high <= LARGEST_SIDE * 2):
            raise FileRefused(
                f"The picture would be {wide} x {high} pixels; a side has 16 to {LARGEST_SIDE * 2}.",
                where,
                "Choose smaller frames, or fewer.",
            )
        if not 1 <= shape.frames <= MOST_FRAMES:
            raise FileRefused(
                f"A film has 1 to {MOST_FRAMES} frames.", where, "Choose a shorter stretch, or fewer a second."
            )
        if not 1 <= shape.rate <= 120:
            raise FileRefused("A second has 1 to 120 frames.", where, "Choose another number.")
        if self.is_even and (shape.width % 2 or shape.height % 2):
            raise FileRefused("Its sides must be even numbers of pixels.", where, "Make it one pixel wider or higher.")

    def weight(self, shape: FilmShape) -> int:
        """How many bytes such a film will have, roughly."""
        return int(self.weighs * shape.width * shape.height * shape.frames) + 2000


def on_ground(frame: Frame, ground: tuple[int, int, int]) -> Frame:
    """A frame of 8 bits with nothing clear in it, for what keeps no alpha; (rows, columns, 3)."""
    if frame[..., 3].min() == 255:
        return frame[..., :3]
    alpha = frame[..., 3:].astype(np.float32) / 255.0
    behind = np.array(ground, dtype=np.float32)
    return np.asarray(np.rint(frame[..., :3] * alpha + behind * (1.0 - alpha)), dtype=np.uint8)
