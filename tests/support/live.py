"""The application served for a browser, in a process and on a database of its own."""

import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import ClassVar

from tests.support.databases import fresh_database
from tooling.places import MADE_FILES
from tooling.postgres import free_port
from velvet_moth.store.database import make_engine

TRIES = 20


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
        command = [sys.executable, "-m", "velvet_moth.web.serve", str(self.secret), str(self.port), str(MADE_FILES)]
        environment = {**os.environ, "MOTH_DATABASE": self.address}
        for _ in range(TRIES):
            self.process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True)
            assert self.process.stdout
            # It says where it is once it takes connections; somebody's own end of a connection may hold its port.
            if self.process.stdout.readline():
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
        self.process.wait(20)
        if self.process.stdout:
            self.process.stdout.close()

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
        cls.live = LiveServer(fresh_database())
        cls.addClassCleanup(cls.live.close)
