"""The application served for a browser, in a process and on a database of its own."""

import multiprocessing
import os
import tempfile
import unittest
from pathlib import Path
from typing import ClassVar

from tests.support.databases import drop_database, fresh_database
from tests.support.served import served_by
from tooling.places import MADE_FILES
from tooling.postgres import free_port
from velvet_moth.store.database import make_engine

TRIES = 20
# Servers are forks of a process that has imported everything already: a start by itself takes three seconds.
PROCESSES = multiprocessing.get_context("forkserver")
PROCESSES.set_forkserver_preload(["tests.support.served"])


class LiveServer:
    """Can be stopped, killed outright, and started again on the same port and database."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.port = free_port()
        self.engine = make_engine(address)
        handle, name = tempfile.mkstemp()
        os.write(handle, b"a secret for tests")
        os.close(handle)
        self.secret = Path(name)
        self.start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        for _ in range(TRIES):
            reader, writer = PROCESSES.Pipe(duplex=False)
            address = (self.address, str(self.secret), str(self.port), str(MADE_FILES))
            self.process = PROCESSES.Process(target=served_by, args=(writer, *address))
            self.process.start()
            writer.close()
            with os.fdopen(os.dup(reader.fileno())) as said:
                # It says where it is once it takes connections; somebody's own end of a connection may hold its port.
                is_there = bool(said.readline())
            reader.close()
            if is_there:
                return
            self._ended()
        raise AssertionError("the server did not start")

    def stop(self) -> None:
        self.process.terminate()
        self._ended()

    def kill(self) -> None:
        """With no chance to end anything in order."""
        self.process.kill()
        self._ended()

    def _ended(self) -> None:
        self.process.join(20)
        assert self.process.exitcode is not None, "the server did not end"

    def restart(self) -> None:
        self.stop()
        self.start()

    def close(self) -> None:
        self.stop()
        self.engine.dispose()
        self.secret.unlink(missing_ok=True)


class LiveCase(unittest.TestCase):
    """One server with the demo for the class."""

    live: ClassVar[LiveServer]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        address = fresh_database()
        cls.addClassCleanup(drop_database, address)
        cls.live = LiveServer(address)
        cls.addClassCleanup(cls.live.close)
