"""Films whose frames come from a page, one after the other, drawn by its stage."""

import secrets
import tempfile
import threading
import time
from dataclasses import dataclass, field
from typing import Any, BinaryIO

import numpy as np
from flask import current_app

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.workbench.filming import Film, Filming, solid
from velvet_moth.store.errors import NotFound
from velvet_moth.web.lanes import Busy

MOST_AT_ONCE = 4
# A film of which no frame has come for so long is given up, in seconds.
PATIENCE = 300.0


@dataclass
class ComingFilm:
    """A film under way. Its file has no name: whatever happens to the server, nothing stays behind."""

    graph: int
    filming: Filming
    file: BinaryIO
    lock: threading.Lock = field(default_factory=threading.Lock)
    heard: float = field(default_factory=time.monotonic)

    def add(self, number: int, data: bytes) -> int:
        """The frame of that number, RGBA of 8 bits with row 0 at the bottom; how many there are then.

        One that has come already, asked for again after its answer was lost, changes nothing.
        """
        with self.lock:
            self.heard = time.monotonic()
            shape, count = self.filming.shape, self.filming.loop.count
            if number == count - 1:
                return count
            if number != count or len(data) != shape.width * shape.height * 4:
                raise FileRefused(
                    f"Frame {count} of {shape.width} x {shape.height} pixels is next.",
                    f"frame {number}",
                    "Begin the film again.",
                )
            frame: Any = np.frombuffer(data, dtype=np.uint8).reshape(shape.height, shape.width, 4)
            self.filming.add(frame if self.filming.film.is_clear else solid(frame))
            return count + 1


class ComingFilms:
    """The films under way on this server."""

    def __init__(self) -> None:
        self._films: dict[str, ComingFilm] = {}
        self._lock = threading.Lock()

    def begin(self, graph: int, film: Film) -> str:
        """A new film; FileRefused where it cannot be, Busy where too many are under way."""
        if film.made.holds_light:
            raise FileRefused("The stage draws 8 bits.", film.made.name, "Have the reference draw OpenEXR.")
        with self._lock:
            now = time.monotonic()
            for key in [key for key, one in self._films.items() if now - one.heard > PATIENCE]:
                self._close(key)
            if len(self._films) >= MOST_AT_ONCE:
                raise Busy("films are being made")
            file: BinaryIO = tempfile.TemporaryFile()  # noqa: SIM115 - closed when the film is done or given up
            key = secrets.token_hex(8)
            self._films[key] = ComingFilm(graph, Filming(film, file), file)
            return key

    def get(self, key: str) -> ComingFilm:
        """The film of that key; NotFound where it was given up."""
        found = self._films.get(key)
        if found is None:
            raise NotFound("This film is no longer being made.", f"film {key[:20]}", "Begin it again.")
        return found

    def end(self, key: str) -> None:
        """Forgets a film, done or given up."""
        with self._lock:
            self._close(key)

    def _close(self, key: str) -> None:
        found = self._films.pop(key, None)
        if found is not None:
            found.file.close()


def coming_films() -> ComingFilms:
    """Of the application that answers."""
    found: ComingFilms = current_app.extensions["coming_films"]
    return found
