"""All frames on one picture, in rows from the upper left, for the node that plays them."""

from typing import BinaryIO

import numpy as np

from velvet_moth.core.pictures.films.base import FilmFormat, FilmShape, Frame, FrameWriter
from velvet_moth.core.pictures.formats.png import write_png


class SheetWriter(FrameWriter):
    """Takes memory for the whole sheet. ``pixels`` are (rows, columns, 4), row 0 at the bottom."""

    def __init__(self, file: BinaryIO, shape: FilmShape) -> None:
        super().__init__(file, shape)
        self.pixels = np.zeros((shape.rows * shape.height, shape.columns * shape.width, 4), dtype=np.uint8)
        self.count = 0

    def add(self, frame: Frame) -> None:
        row, column = divmod(self.count, self.shape.columns)
        low = (self.shape.rows - 1 - row) * self.shape.height
        left = column * self.shape.width
        self.pixels[low : low + self.shape.height, left : left + self.shape.width] = frame
        self.count += 1

    def finish(self) -> None:
        self.file.write(write_png(self.pixels))


SHEET = FilmFormat(
    "sheet",
    "Sheet of frames",
    "one picture with alpha, for the node Frame sequence",
    ".png",
    "image/png",
    1.6,
    SheetWriter,
    is_sheet=True,
)
