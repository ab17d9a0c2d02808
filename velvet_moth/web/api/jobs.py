"""Jobs: what long work is under way, how far it is, and having it cancelled."""

from datetime import UTC, datetime

from flask import Blueprint

from velvet_moth.store import jobs
from velvet_moth.store.models import JobRow
from velvet_moth.web.api.contract import takes
from velvet_moth.web.api.job_answers import Jobs, JobState
from velvet_moth.web.database import db

api = Blueprint("jobs", __name__, url_prefix="/api/jobs")

# Before so much of it is done, nothing is known of how long a job takes.
_TELLING = 0.05


def job_state(job: JobRow) -> JobState:
    left = None
    if job.state == jobs.RUNNING and job.started is not None and job.share > _TELLING:
        spent = (datetime.now(UTC) - job.started).total_seconds()
        left = spent / job.share * (1 - job.share)
    return {
        "id": job.id,
        "kind": job.kind,
        "title": job.title,
        "subject": job.subject,
        "state": job.state,
        "share": job.share,
        "left": left,
        "words": job.words,
    }


@api.get("")
@takes()
def listed() -> Jobs:
    """The jobs under way, and those that have ended lately."""
    return {"jobs": [job_state(job) for job in jobs.listed(db())]}


@api.post("/<int:key>/cancel")
@takes()
def cancel(key: int) -> JobState:
    return job_state(jobs.cancel(db(), key))
