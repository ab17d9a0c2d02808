"""One job done, in a process that ends with it, so that it can be stopped at any moment and gives its memory back."""

import os
import signal
import threading
import time

from sqlalchemy.orm import Session

from velvet_moth.core.base.apart import limit
from velvet_moth.core.base.errors import MothError
from velvet_moth.store import jobs
from velvet_moth.store.database import make_engine
from velvet_moth.work.kinds import KINDS

# Bytes of memory for a job: one that wants more fails, and takes nothing from the rest of the machine.
_ROOM = 8 << 30


def do_job(address: str, key: int) -> None:
    """Does a job and writes down how it ended. Errors that have a sentence end it with that; others are the program's own."""
    engine = make_engine(address)
    try:
        with Session(engine) as session, session.begin():
            if not jobs.start(session, key):
                return
            job = jobs.load(session, key)
            kind, subject, arguments = job.kind, job.subject, dict(job.arguments)
        words, about = "", None
        try:
            about = KINDS[kind](engine, subject, arguments, jobs.Progress(engine, key))
        except jobs.Cancelled:
            return
        except MothError as error:
            words = f"{error.what} {error.mend}".strip()
        except MemoryError:
            words = "This machine has too little memory for it. Simplify the mesh first, or let another machine work."
        with Session(engine) as session, session.begin():
            jobs.end(session, key, words, about)
    finally:
        engine.dispose()


def in_a_process(address: str, key: int, parent: int) -> None:
    """``do_job``, as long as the worker that asked for it is there."""
    threading.Thread(target=_end_with, args=(parent,), daemon=True).start()
    # A shell's Ctrl-C is the worker's matter, which ends this one.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    limit(_ROOM)
    do_job(address, key)


def _end_with(parent: int) -> None:
    while True:
        try:
            os.kill(parent, 0)
        except OSError:
            os._exit(1)
        time.sleep(0.3)
