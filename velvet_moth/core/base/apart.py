"""Work on what is untrusted, in processes of its own with limits of time and memory: it can stop nothing else."""

import logging
import multiprocessing
import resource
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import TimeoutError as TooLong
from contextlib import contextmanager
from typing import ParamSpec, TypeVar

from pebble import ProcessExpired, ProcessPool

from velvet_moth.core.base.errors import FileRefused, MothError

log = logging.getLogger(__name__)

P = ParamSpec("P")
T = TypeVar("T")

# Bytes beyond what the program itself needs.
ROOM = 3 << 30
WORKERS = 2
# A worker is replaced after so many pieces of work, so that nothing it holds on to adds up.
WORK_EACH = 200


def limit(room: int = ROOM) -> None:
    """Gives this process no more memory than ``room`` (bytes)."""
    resource.setrlimit(resource.RLIMIT_AS, (room, room))
    # A core of it would be of use to nobody and fill the disk.
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def _nothing() -> None:
    """Work that only starts a process."""


@contextmanager
def refusals(where: str, smaller: str) -> Iterator[None]:
    """What a decoder makes of a file that is not as it should be, as FileRefused; ``smaller`` says how it could take less memory."""
    try:
        yield
    except MothError:
        raise
    except MemoryError as error:
        raise FileRefused("Reading the file took more memory than there is for it.", where, smaller) from error
    except Exception as error:
        log.warning("reading %s failed: %r", where, error)
        raise FileRefused("The file cannot be read.", where, "Export it again from where it was made.") from error


class Apart:
    """Processes that are started when the first work comes. Safe to use from several threads."""

    def __init__(self, room: int = ROOM) -> None:
        self.room = room
        self._pool: ProcessPool | None = None
        self._lock = threading.Lock()

    def make_ready(self) -> None:
        """Starts the processes, so that the first work need not wait for them."""
        if self._pool is None:
            self._started().schedule(_nothing)

    def _started(self) -> ProcessPool:
        with self._lock:
            if self._pool is None:
                # A fork of a program with threads may take a lock that nobody opens.
                context = multiprocessing.get_context("spawn")
                self._pool = ProcessPool(WORKERS, WORK_EACH, limit, (self.room,), context=context)
            return self._pool

    def read(self, patience: float, smaller: str, work: Callable[P, T], *args: P.args, **kwargs: P.kwargs) -> T:
        """What reading a file gives; FileRefused also where that takes longer than ``patience`` (s) or too much memory.

        ``smaller`` says for people how the file could take less. The last of ``args`` is its name.
        """
        where = f"file {args[-1]!r}"
        with refusals(where, smaller):
            try:
                found: T = self._started().schedule(work, args=args, kwargs=kwargs, timeout=patience).result()
            except TooLong as error:
                what = f"Reading the file took longer than {patience:.0f} seconds."
                raise FileRefused(what, where, smaller) from error
            except ProcessExpired as error:
                raise MemoryError from error
        return found

    def close(self) -> None:
        """Ends the processes."""
        if self._pool is not None:
            self._pool.stop()  # type: ignore[no-untyped-call] # the package leaves it without types
            self._pool.join()
            self._pool = None
