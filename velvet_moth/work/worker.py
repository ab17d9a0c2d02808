"""Works through the queue: takes a job, has it done in a process, notices what is cancelled and whose worker was lost."""

import asyncio
import contextlib
import logging
import multiprocessing
import os
from multiprocessing.process import BaseProcess

from procrastinate import App, PsycopgConnector
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from velvet_moth.store import jobs
from velvet_moth.store.database import make_engine
from velvet_moth.work.doing import in_a_process

# A worker says this often that it is there, in seconds; the jobs of one that was silent for so many beats are taken over.
BEAT = 2.0
SILENT = 4
# A cancelled job is noticed within this, in seconds.
_LOOK = 0.25
# Jobs are forks of a process that has imported everything already.
PROCESSES = multiprocessing.get_context("forkserver")
log = logging.getLogger(__name__)


def worker_app(address: str) -> App:
    """The queue with the one task that all our jobs are."""
    app = App(connector=PsycopgConnector(conninfo=address))
    engine = make_engine(address)

    @app.task(name=jobs.TASK)
    def do(job: int) -> None:
        watched(engine, address, job)

    return app


def watched(engine: Engine, address: str, key: int) -> None:
    """Has a job done in a process of its own, and ends that once the job is cancelled."""
    process = PROCESSES.Process(target=in_a_process, args=(address, key, os.getpid()))
    process.start()
    try:
        while process.is_alive():
            process.join(_LOOK)
            if process.is_alive() and not _is_wanted(engine, key):
                _ended(process)
    finally:
        _ended(process)
    if process.exitcode and _is_wanted(engine, key):
        words = "The program ended in the middle of it. Try again; if it happens twice, simplify the mesh first."
        with Session(engine) as session, session.begin():
            jobs.end(session, key, words)


def _is_wanted(engine: Engine, key: int) -> bool:
    with Session(engine) as session:
        return jobs.load(session, key).state in jobs.UNDER_WAY


def _ended(process: BaseProcess) -> None:
    if process.is_alive():
        process.kill()
    process.join()


async def _take_over(app: App, beat: float) -> None:
    """Gives jobs back to the queue whose worker is no longer there."""
    while True:
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=beat * SILENT):
            log.warning("job %s is done again: its worker was lost", job.task_kwargs.get("job"))
            await app.job_manager.retry_job(job)
        await asyncio.sleep(beat)


async def work(address: str, beat: float = BEAT) -> None:
    """Takes jobs from a database until it is stopped; ``beat``: how often it says that it is there, in seconds."""
    app = worker_app(address)
    async with app.open_async():
        taking_over = asyncio.create_task(_take_over(app, beat))
        print("Velvet Moth's worker waits for jobs.", flush=True)
        try:
            await app.run_worker_async(
                concurrency=1,
                update_heartbeat_interval=beat,
                stalled_worker_timeout=beat * SILENT,
                fetch_job_polling_interval=2.0,
                delete_jobs="always",
                shutdown_graceful_timeout=0.5,
                install_signal_handlers=True,
            )
        finally:
            taking_over.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await taking_over
