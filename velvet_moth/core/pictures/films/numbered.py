"""Frames as numbered pictures, one after the other in an archive that keeps them as they are."""

import zipfile
from collections.abc import Callable
from typing import BinaryIO

from velvet_moth.core.pictures.films.base import FilmFormat, FilmShape, Frame, FrameWriter
from velvet_moth.core.pictures.formats import Picture, write_picture
from velvet_moth.core.pictures.formats.png import write_png


def _exr(frame: Frame) -> bytes:
    return write_picture(Picture(frame), "exr")


class _NumberedWriter(FrameWriter):
    def __init__(self, file: BinaryIO, shape: FilmShape, holds_light: bool) -> None:
        super().__init__(file, shape)
        self.archive = zipfile.ZipFile(file, "w", zipfile.ZIP_STORED)
        self.written: Callable[[Frame], bytes] = _exr if holds_light else write_png
        self.suffix = "exr" if holds_light else "png"
        self.count = 0

    def add(self, frame: Frame) -> None:
        # A date would make two archives of the same frames differ.
        entry = zipfile.ZipInfo(f"frame_{self.count:04d}.{self.suffix}")
        self.archive.writestr(entry, self.written(frame))
        self.count += 1

    def finish(self) -> None:
        self.archive.close()


PNG_FRAMES = FilmFormat(
    "png",
    "Numbered PNG",
    "each frame a file, 8 bits with alpha, in one archive",
    ".zip",
    "application/zip",
    1.6,
    lambda file, shape: _NumberedWriter(file, shape, holds_light=False),
)
EXR_FRAMES = FilmFormat(
    "exr",
    "Numbered OpenEXR",
    "each frame a file of linear light with alpha, in one archive",
    ".zip",
    "application/zip",
    8.0,
    lambda file, shape: _NumberedWriter(file, shape, holds_light=True),
    holds_light=True,
)
