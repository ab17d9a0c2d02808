"""Frames as numbered pictures, one after the other in an archive that keeps them as they are."""

import zipfile
from pathlib import Path

from velvet_moth.core.pictures.films.base import FilmFormat, FilmShape, Frame, FrameWriter
from velvet_moth.core.pictures.formats import Picture, write_picture
from velvet_moth.core.pictures.formats.png import write_png


def png_frame(frame: Frame) -> bytes:
    """A frame of 8 bits as PNG with alpha."""
    return write_png(frame)


def exr_frame(frame: Frame) -> bytes:
    """A frame of linear light as OpenEXR, every float as it is."""
    return write_picture(Picture(frame), "exr")


class _NumberedWriter(FrameWriter):
    def __init__(self, place: Path, shape: FilmShape, holds_light: bool) -> None:
        super().__init__(place, shape)
        self.file = zipfile.ZipFile(place, "w", zipfile.ZIP_STORED)
        self.written, self.suffix = (exr_frame, "exr") if holds_light else (png_frame, "png")
        self.count = 0

    def add(self, frame: Frame) -> None:
        # A date would make two archives of the same frames differ.
        entry = zipfile.ZipInfo(f"frame_{self.count:04d}.{self.suffix}")
        self.file.writestr(entry, self.written(frame))
        self.count += 1

    def finish(self) -> None:
        self.close()

    def close(self) -> None:
        self.file.close()


PNG_FRAMES = FilmFormat(
    "png",
    "Numbered PNG",
    "each frame a file, 8 bits with alpha, in one archive",
    ".zip",
    "application/zip",
    1.6,
    lambda place, shape: _NumberedWriter(place, shape, holds_light=False),
)
EXR_FRAMES = FilmFormat(
    "exr",
    "Numbered OpenEXR",
    "each frame a file of linear light with alpha, in one archive",
    ".zip",
    "application/zip",
    8.0,
    lambda place, shape: _NumberedWriter(place, shape, holds_light=True),
    holds_light=True,
)
