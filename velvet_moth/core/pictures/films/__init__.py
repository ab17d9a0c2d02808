"""Films: frames one after the other as one file, written as they come, so that a long film takes no more memory than a short one."""

from collections.abc import Mapping
from typing import BinaryIO

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.pictures.films.base import FilmFormat, FilmShape, Frame, FrameWriter
from velvet_moth.core.pictures.films.by_av import APNG, MP4, WEBM
from velvet_moth.core.pictures.films.numbered import EXR_FRAMES, PNG_FRAMES
from velvet_moth.core.pictures.films.sheet import SHEET

__all__ = ["FILM_FORMATS", "FilmFormat", "FilmShape", "Frame", "FrameWriter", "film_format", "film_writer"]

FILM_FORMATS: Mapping[str, FilmFormat] = {made.key: made for made in (MP4, WEBM, APNG, PNG_FRAMES, EXR_FRAMES, SHEET)}


def film_format(key: str) -> FilmFormat:
    """The format of that key; FileRefused where there is none."""
    found = FILM_FORMATS.get(key)
    if found is None:
        raise FileRefused(f"There is no film format {key[:20]!r}.", "film", f"Choose {', '.join(FILM_FORMATS)}.")
    return found


def film_writer(key: str, file: BinaryIO, shape: FilmShape) -> FrameWriter:
    """Begins a film in an open file that can be written and sought; FileRefused where the format does not take its shape."""
    made = film_format(key)
    made.check(shape)
    return made.begin(file, shape)
