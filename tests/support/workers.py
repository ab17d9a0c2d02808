"""A worker for tests, in processes of its own."""

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


class Worker:
    """Takes jobs from a database until it is stopped, or killed outright."""

    def __init__(self, address: str) -> None:
        environment = {**os.environ, "MOTH_DATABASE": address, "PYTHONPATH": str(ROOT)}
        command = [sys.executable, "-W", "ignore", "-m", "velvet_moth.work", "0.5"]
        self.process = subprocess.Popen(command, cwd=ROOT, env=environment, stdout=subprocess.PIPE, text=True)
        assert self.process.stdout is not None
        if not self.process.stdout.readline():
            raise AssertionError("the worker did not start")

    def stop(self) -> None:
        self.process.terminate()
        self.process.wait(20)
        self._closed()

    def kill(self) -> None:
        """With no chance to end anything in order."""
        self.process.kill()
        self.process.wait(20)
        self._closed()

    def _closed(self) -> None:
        if self.process.stdout is not None:
            self.process.stdout.close()
