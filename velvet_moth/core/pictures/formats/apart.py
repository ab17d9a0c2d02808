"""Picture files read in a process of their own, with limits of time and memory: what is untrusted can stop nothing else."""

import logging
import multiprocessing
import resource
import threading
from concurrent.futures import TimeoutError as TooLong

from pebble import ProcessExpired, ProcessPool

from velvet_moth.core.base.errors import FileRefused, MothError
from velvet_moth.core.pictures.formats import FORMATS, Picture, PictureFormat, check_file, read_picture

log = logging.getLogger(__name__)

# Seconds; the largest sound file of any format takes a third of them on a slow machine.
PATIENCE = 10.0
# Bytes beyond what the program itself needs.
ROOM = 3 << 30
WORKERS = 2
# A worker is replaced after so many files, so that nothing it holds on to adds up.
FILES_EACH = 200


def _limited(room: int) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (room, room))
    # A core of it would be of use to nobody and fill the disk.
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _read(data: bytes, name: str) -> tuple[Picture, str]:
    picture, made = read_picture(data, name)
    return picture, made.key


class PictureReader:
    """Processes that read pictures, started when the first file comes. Safe to use from several threads."""

    def __init__(self, patience: float = PATIENCE, room: int = ROOM) -> None:
        self.patience, self.room = patience, room
        self._pool: ProcessPool | None = None
        self._lock = threading.Lock()

    def make_ready(self) -> None:
        """Starts the processes, so that the first file need not wait for them."""
        if self._pool is None:
            self._started().schedule(_read, args=(b"", "nothing"))

    def _started(self) -> ProcessPool:
        with self._lock:
            if self._pool is None:
                # A fork of a program with threads may take a lock that nobody opens.
                context = multiprocessing.get_context("spawn")
                self._pool = ProcessPool(WORKERS, FILES_EACH, _limited, (self.room,), context=context)
            return self._pool

    def read(self, data: bytes, name: str) -> tuple[Picture, PictureFormat]:
        """As ``read_picture``; FileRefused also where reading takes too long or too much memory."""
        check_file(data, name)
        where = f"file {name!r}"
        try:
            picture, key = self._started().schedule(_read, args=(data, name), timeout=self.patience).result()
        except TooLong as error:
            what = f"Reading the file took longer than {self.patience:.0f} seconds."
            raise FileRefused(what, where, "Save it again, without layers or passes it does not need.") from error
        except (MemoryError, ProcessExpired) as error:
            raise FileRefused(
                "Reading the file took more memory than there is for it.", where, "Scale it first."
            ) from error
        except MothError:
            raise
        except Exception as error:
            # Whatever a decoder makes of a file that is not as it should be.
            log.warning("reading %s failed: %r", where, error)
            raise FileRefused("The file cannot be read.", where, "Export it again from where it was made.") from error
        return picture, FORMATS[key]

    def close(self) -> None:
        """Ends the processes that read."""
        if self._pool is not None:
            self._pool.stop()  # type: ignore[no-untyped-call] # the package leaves it without types
            self._pool.join()
            self._pool = None
