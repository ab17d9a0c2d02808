"""A server with the demo, for benches that look at the page."""

import os
from collections.abc import Iterator
from contextlib import contextmanager

from tests.support.databases import fresh_database
from tests.support.live import LiveServer
from tooling import commands
from tooling.postgres import Cluster


@contextmanager
def database() -> Iterator[str]:
    """The address of a new database with the demo in it."""
    with Cluster(commands.WORK_TESTS, durable=False).serving() as server:
        os.environ["MOTH_TEST_SERVER"] = str(server)
        yield fresh_database()


@contextmanager
def served() -> Iterator[LiveServer]:
    with database() as address:
        live = LiveServer(address)
        try:
            yield live
        finally:
            live.close()
