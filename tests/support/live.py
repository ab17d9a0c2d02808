"""The application served for a browser, on a database of its own; it can be stopped and started again."""

import threading

from waitress.server import create_server

from tooling.postgres import free_port
from velvet_moth.store.database import make_engine
from velvet_moth.web.app import create_app


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
