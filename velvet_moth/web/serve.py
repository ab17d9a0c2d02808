"""Serves the application: python -m velvet_moth.web.serve SECRET_FILE PORT [FOLDER_FOR_MADE_FILES].

PORT is a number, or "fd:" and the number of an open socket that listens. MOTH_DATABASE is in the environment.
"""

import gc
import logging
import os
import resource
import signal
import socket
import sys
import threading
import time
from pathlib import Path
from typing import Any

from sqlalchemy.exc import OperationalError
from waitress.server import create_server

from velvet_moth.demo.heron_lock import load_demo
from velvet_moth.store.database import make_engine, migrate
from velvet_moth.store.errors import DatabaseFull, no_database
from velvet_moth.web.app import create_app
from velvet_moth.web.security import MOST_OF_ANY

MOST_CONNECTIONS = 4000
SERVING: dict[str, Any] = {
    # Streams of news and heavy work take some of them for long; the rest is for pages and edits.
    "threads": 64,
    # A connection that says nothing costs a line of a table; select() knows only the first thousand of them.
    "connection_limit": MOST_CONNECTIONS,
    "asyncore_use_poll": True,
    # What is larger is refused by its length, before any of it is read.
    "max_request_body_size": MOST_OF_ANY,
    "outbuf_overflow": 8 << 20,
    # A thread is done when its answer is; what a slow reader has not taken waits in a file.
    "outbuf_high_watermark": 1 << 30,
    # A browser that leaves its event stream is no error.
    "log_socket_errors": False,
}


def _end_with_parent(parent: int) -> None:
    """A start command that was killed outright must not leave a server on its port."""
    while os.getppid() == parent:
        time.sleep(0.2)
    os.kill(os.getpid(), signal.SIGTERM)


def collect_seldom() -> None:
    """Graphs and their expressions are large and live long: looking through them again and again costs a fifth of an edit."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)


def _allow_files(wanted: int) -> None:
    """Each connection is an open file."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    most = wanted if hard == resource.RLIM_INFINITY else min(wanted, hard)
    resource.setrlimit(resource.RLIMIT_NOFILE, (max(soft, most), hard))


def _socket(port: str) -> socket.socket:
    kind, _, handle = port.rpartition(":")
    return socket.socket(fileno=int(handle)) if kind == "fd" else socket.create_server(("127.0.0.1", int(port)))


def main(database: str, secret_file: str, port: str, made: str = "") -> None:
    logging.basicConfig(level=logging.WARNING)
    engine = make_engine(database)
    try:
        migrate(database)
        load_demo(engine, lambda words: print(f"moth: the demo is loaded for the first time: {words} ...", flush=True))
    except OperationalError as error:
        if not isinstance(refusal := no_database(error), DatabaseFull):
            raise
        raise SystemExit(f"moth: {refusal} Then start again.") from None
    app = create_app(engine, Path(secret_file).read_text(), Path(made) if made else None)
    listening = _socket(port)
    _allow_files(MOST_CONNECTIONS + 500)
    server = create_server(app, sockets=[listening], **SERVING)

    def stop(*_: object) -> None:
        # The streams end first: the server waits for the threads that write them.
        app.extensions["newsroom"].close()
        raise SystemExit(0)

    for asked in (signal.SIGTERM, signal.SIGINT):
        signal.signal(asked, stop)
    threading.Thread(target=_end_with_parent, args=(os.getppid(),), daemon=True).start()
    collect_seldom()
    print(f"Velvet Moth is at http://127.0.0.1:{listening.getsockname()[1]}/", flush=True)
    try:
        server.run()
    except SystemExit:
        pass
    finally:
        server.close()
        app.extensions["apart"].close()


if __name__ == "__main__":
    # The address holds a password: it comes by the environment, not where a process list shows it.
    main(os.environ["MOTH_DATABASE"], *sys.argv[1:4])
