"""A worker: python -m velvet_moth.work [SECONDS_BETWEEN_SIGNS_OF_LIFE]. MOTH_DATABASE is in the environment."""

import asyncio
import logging
import os
import sys
import time

from sqlalchemy.exc import OperationalError

from velvet_moth.store.database import migrate
from velvet_moth.work.worker import BEAT, PROCESSES, work

# So long a database may be slow to answer before a worker gives up, in seconds.
PATIENCE = 60.0


def _migrated(address: str) -> None:
    """A worker may be there before any server has made the tables, and before the database has time for it."""
    until = time.monotonic() + PATIENCE
    while True:
        try:
            return migrate(address)
        except OperationalError:
            if time.monotonic() > until:
                raise
            time.sleep(1.0)


def main(address: str, beat: str = str(BEAT)) -> None:
    logging.basicConfig(level=logging.WARNING)
    PROCESSES.set_forkserver_preload(["velvet_moth.work.doing"])
    _migrated(address)
    asyncio.run(work(address, float(beat)))


if __name__ == "__main__":
    # The address holds a password: it comes by the environment, not where a process list shows it.
    main(os.environ["MOTH_DATABASE"], *sys.argv[1:2])
