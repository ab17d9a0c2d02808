"""A worker: python -m velvet_moth.work [SECONDS_BETWEEN_SIGNS_OF_LIFE]. MOTH_DATABASE is in the environment."""

import asyncio
import logging
import os
import sys

from velvet_moth.store.database import migrate
from velvet_moth.work.worker import BEAT, PROCESSES, work


def main(address: str, beat: str = str(BEAT)) -> None:
    logging.basicConfig(level=logging.WARNING)
    PROCESSES.set_forkserver_preload(["velvet_moth.work.doing"])
    # A worker may be there before any server has made the tables.
    migrate(address)
    asyncio.run(work(address, float(beat)))


if __name__ == "__main__":
    # The address holds a password: it comes by the environment, not where a process list shows it.
    main(os.environ["MOTH_DATABASE"], *sys.argv[1:2])
