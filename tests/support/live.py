"""The application served for a browser, on a database of its own; it can be stopped and started again."""

import os
import subprocess
import sys
import tempfile
import threading
from pathlib import Path

from waitress.server import create_server

from tooling.postgres import free_port
from velvet_moth.store.database import make_engine
from velvet_moth.web.app import create_app


class ServerProcess:
    """The application in a process of its own, so that it can be killed outright and started again."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.port = free_port()
        self.secret = Path(tempfile.mkstemp()[1])
        self.secret.write_text("a secret for tests")
        self.start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        command = [sys.executable, "-m", "velvet_moth.web.serve", str(self.secret), str(self.port)]
        environment = {**os.environ, "MOTH_DATABASE": self.address}
        self.process = subprocess.Popen(command, env=environment, stdout=subprocess.PIPE, text=True)
        assert self.process.stdout
        self.process.stdout.readline()

    def kill(self) -> None:
        """With no chance to end anything in order."""
        self.process.kill()
        self.process.wait()
        if self.process.stdout:
            self.process.stdout.close()

    def stop(self) -> None:
        self.kill()
        self.secret.unlink(missing_ok=True)


class LiveServer:
    """Serves in a thread; ``restart`` builds everything anew on the same port and database."""

    def __init__(self, address: str) -> None:
        self.address = address
        self.port = free_port()
        self.start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> None:
        self.engine = make_engine(self.address)
        app = create_app(self.engine, "a secret for tests")
        self.newsroom = app.extensions["newsroom"]
        self.server = create_server(app, host="127.0.0.1", port=self.port, threads=24)
        self.thread = threading.Thread(target=self.server.run, daemon=True)
        self.thread.start()

    def stop(self) -> None:
        self.newsroom.close()
        # Streams end first: a thread that still writes would write to whoever has its socket's number next.
        self.server.task_dispatcher.shutdown(timeout=10)
        # From within its own loop: closing sockets under a running loop makes it complain.
        self.server.trigger.pull_trigger(self._close)
        self.thread.join(10)
        self.engine.dispose()

    def _close(self) -> None:
        for channel in list(self.server.active_channels.values()):
            channel.handle_close()
        self.server.close()

    def restart(self) -> None:
        self.stop()
        self.start()
