"""What the core makes out of nothing but its own code, kept in a folder from one start to the next."""

import logging
import os
import re
import shutil
import tempfile
from collections.abc import Callable
from pathlib import Path

from flask import current_app

from velvet_moth.core.base.program import program

VERSION = re.compile("[0-9a-f]{16}")
log = logging.getLogger(__name__)


def made_files() -> "MadeFiles":
    """Of the application that answers."""
    found: MadeFiles = current_app.extensions["made_files"]
    return found


class MadeFiles:
    """A folder of made files; without one (None) each is made whenever it is asked for."""

    def __init__(self, folder: Path | None) -> None:
        self.folder = folder / program() if folder else None
        # What other versions made is of no use any more; whatever else lies there is not ours.
        for other in folder.iterdir() if folder and folder.is_dir() else ():
            if VERSION.fullmatch(other.name) and other != self.folder:
                shutil.rmtree(other, ignore_errors=True)

    def get(self, name: str, make: Callable[[], bytes]) -> bytes:
        """The file of that name, made where this version of the core has not made it yet.

        A folder that cannot be read or written costs time, never an answer; the log says so.
        """
        if self.folder is None:
            return make()
        place = self.folder / name
        try:
            return place.read_bytes()
        except FileNotFoundError:
            pass
        except OSError as error:
            log.warning("%s cannot be read: %s", place, error)
        made = make()
        try:
            _write(place, made)
        except OSError as error:
            log.warning("%s cannot be kept: %s", place, error)
        return made


def _write(place: Path, data: bytes) -> None:
    """At once, so that nobody reads half of it."""
    place.parent.mkdir(parents=True, exist_ok=True)
    handle, name = tempfile.mkstemp(dir=place.parent)
    with os.fdopen(handle, "wb") as file:
        file.write(data)
    Path(name).replace(place)
