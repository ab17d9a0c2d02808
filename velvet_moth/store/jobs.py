"""Long work as jobs: asked for, followed, cancelled. Workers take them from a queue in the same database."""

import time
from dataclasses import dataclass, field
from typing import Any

from procrastinate import App, SyncPsycopgConnector
from sqlalchemy import Engine, func, select
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.store.errors import NotFound
from velvet_moth.store.events import News, announce
from velvet_moth.store.models import JobRow

# What the queue calls all our work: which kind it is, a job itself says.
TASK = "moth.job"
WAITING, RUNNING, DONE, FAILED, CANCELLED = "waiting", "running", "done", "failed", "cancelled"
UNDER_WAY = (WAITING, RUNNING)
# Jobs that have ended are listed for so long, in seconds.
_REMEMBERED = 600
# Progress is written down no more often than this, in seconds.
_SELDOM = 0.4
_queue = App(connector=SyncPsycopgConnector())


class Cancelled(Exception):
    """Somebody has cancelled the job that is being done."""


def begin(session: Session, kind: str, title: str, subject: str, arguments: dict[str, Any]) -> JobRow:
    """Asks for work of a ``kind`` on a ``subject``; the very same work that is under way already is that one.

    The queue hears of it when the transaction ends, and never if it fails.
    """
    same = select(JobRow).where(
        JobRow.kind == kind, JobRow.subject == subject, JobRow.arguments == arguments, JobRow.state.in_(UNDER_WAY)
    )
    found = session.scalars(same).first()
    if found is not None:
        return found
    job = JobRow(kind=kind, title=title[:120], subject=subject, arguments=arguments)
    _defer(session, job)
    return job


def begin_soon(session: Session, kind: str, title: str, subject: str, seconds: int) -> None:
    """Asks for work in some seconds, which then finds its subject as it is by that time; once, however often it is asked for."""
    waiting = select(JobRow.id).where(JobRow.kind == kind, JobRow.subject == subject, JobRow.state == WAITING)
    if session.scalars(waiting).first() is None:
        _defer(session, JobRow(kind=kind, title=title[:120], subject=subject, arguments={}), seconds)


def _defer(session: Session, job: JobRow, seconds: int = 0) -> None:
    job.state, job.share, job.words = WAITING, 0.0, ""
    session.add(job)
    session.flush()
    connection = session.connection().connection.driver_connection
    task = _queue.configure_task(
        TASK,
        allow_unknown=True,
        connection=connection,
        lock=f"{job.kind} {job.subject}",
        schedule_in={"seconds": seconds} if seconds else None,
    )
    task.defer(job=job.id)
    _announced(session, job)


def _announced(session: Session, job: JobRow) -> None:
    session.flush()
    announce(session, News(job=job.id, words=job.state))


def load(session: Session, key: int, lock: bool = False) -> JobRow:
    """A job by its number; NotFound where there is none."""
    job = session.get(JobRow, key, with_for_update=lock or None, populate_existing=lock)
    if job is None:
        raise NotFound("There is no such job.", f"job {key}", "Ask for the work again.")
    return job


def listed(session: Session) -> list[JobRow]:
    """The jobs under way, and those that have ended lately, the oldest first."""
    lately = func.now() - func.make_interval(0, 0, 0, 0, 0, 0, _REMEMBERED)
    query = select(JobRow).where(JobRow.state.in_(UNDER_WAY) | (JobRow.ended > lately))
    return list(session.scalars(query.order_by(JobRow.id)))


def cancel(session: Session, key: int) -> JobRow:
    """Has a job under way end; a worker that does it notices soon."""
    job = load(session, key, lock=True)
    if job.state not in UNDER_WAY:
        raise OperationRefused("This job has ended already.", job.title, "")
    _end(session, job, CANCELLED)
    return job


def start(session: Session, key: int) -> bool:
    """Marks a job as being done; False where it is no longer wanted. One whose worker was lost is begun again."""
    job = load(session, key, lock=True)
    if job.state not in UNDER_WAY:
        return False
    job.state, job.share, job.started = RUNNING, 0.0, func.now()
    _announced(session, job)
    return True


def end(session: Session, key: int, words: str = "", subject: str | None = None) -> None:
    """Marks a job as done; with ``words`` as failed, and why. One that was cancelled meanwhile stays that.

    ``subject`` is what it was about in the end, where that was not known when it was asked for.
    """
    job = load(session, key, lock=True)
    if job.state == RUNNING:
        job.words, job.subject = words[:600], subject or job.subject
        _end(session, job, FAILED if words else DONE)


def _end(session: Session, job: JobRow, state: str) -> None:
    job.state, job.ended = state, func.now()
    if state == DONE:
        job.share = 1.0
    _announced(session, job)


@dataclass
class Progress:
    """Writes down how much of a job is done, and raises Cancelled once it is no longer wanted."""

    engine: Engine
    job: int
    _next: float = field(default=0.0, init=False)

    def __call__(self, share: float) -> None:
        if time.monotonic() < self._next:
            return
        self._next = time.monotonic() + _SELDOM
        with Session(self.engine) as session, session.begin():
            job = load(session, self.job, lock=True)
            if job.state != RUNNING:
                raise Cancelled
            job.share = max(0.0, min(share, 1.0))
            _announced(session, job)
