"""How many requests may do heavy work at once, so that pages and edits always find a thread."""

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from velvet_moth.core.base.errors import MothError


class Busy(MothError):
    """Too many ask for the same heavy work at this moment."""

    code = "busy"

    def __init__(self, what: str) -> None:
        super().__init__(f"Too many {what} at once.", "", "It is tried again in a moment.")


@dataclass
class Lane:
    """One kind of heavy work: so many ``at_once``, and so many more that wait for their turn."""

    words: str
    at_once: int
    waiting: int
    _turns: threading.Semaphore = field(init=False)
    _places: threading.Semaphore = field(init=False)

    def __post_init__(self) -> None:
        self._turns = threading.Semaphore(self.at_once)
        self._places = threading.Semaphore(self.at_once + self.waiting)

    @contextmanager
    def turn(self) -> Iterator[None]:
        """Holds a place from here on; Busy where there is none left."""
        if not self._places.acquire(blocking=False):
            raise Busy(self.words)
        try:
            with self._turns:
                yield
        finally:
            self._places.release()


# Together they take fewer threads than the server has.
PAINTING = Lane("pictures are being painted", 1, 17)
READING = Lane("files are being read", 2, 4)
MAKING = Lane("textures are being made", 2, 8)
MESHES = Lane("meshes are being read", 1, 6)
LEVELS = Lane("large textures are being fetched", 3, 8)
