"""Hands the database's news of changed graphs to every open event stream."""

import logging
import queue
import threading
from collections.abc import Iterator

import psycopg

from velvet_moth.store.events import News, listen

# A dead browser is noticed when something is written to it: this often, in seconds.
HEARTBEAT = 5.0
# Each stream keeps a thread of the server; the oldest gives way, and its browser comes again.
MOST_STREAMS = 12
_PATIENCE = 0.5
_AGAIN = 1.0

log = logging.getLogger(__name__)


class Newsroom:
    """Listens while anybody is subscribed. Safe to use from several threads."""

    def __init__(self, address: str) -> None:
        self.address = address
        self._lock = threading.Lock()
        self._streams: list[queue.SimpleQueue[News | None]] = []
        self._listener: threading.Thread | None = None
        self._is_closed = False

    def stream(self) -> Iterator[News | None]:
        """News as they come, None as a heartbeat; ends when the newsroom closes or younger streams crowd it out."""
        mine: queue.SimpleQueue[News | None] = queue.SimpleQueue()
        with self._lock:
            self._streams.append(mine)
            crowded = self._streams[:-MOST_STREAMS]
            if self._listener is None:
                self._listener = threading.Thread(target=self._listen, daemon=True)
                self._listener.start()
        for old in crowded:
            old.put(None)
            self._drop(old)
        try:
            while not self._is_closed and mine in self._streams:
                try:
                    yield mine.get(timeout=HEARTBEAT)
                except queue.Empty:
                    yield None
        finally:
            self._drop(mine)

    def _drop(self, stream: "queue.SimpleQueue[News | None]") -> None:
        with self._lock:
            if stream in self._streams:
                self._streams.remove(stream)

    def _listen(self) -> None:
        while not self._is_closed:
            try:
                for news in listen(self.address, _PATIENCE):
                    with self._lock:
                        streams = list(self._streams)
                        if self._is_closed or not streams:
                            self._listener = None
                            return
                    for stream in streams if news else ():
                        stream.put(news)
            except psycopg.Error:
                # The database may be starting again; pages fetch anew whenever a stream comes back.
                log.warning("no news from the database; asking again")
                threading.Event().wait(_AGAIN)

    def close(self) -> None:
        with self._lock:
            self._is_closed = True
            for stream in self._streams:
                stream.put(None)
