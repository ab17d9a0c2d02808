"""What answers about jobs hold; see ``answers``."""

from typing_extensions import TypedDict


class JobState(TypedDict):
    """A job as pages show it. ``left`` is how long it will likely take yet, in seconds, where that is known; ``words`` why it failed."""

    id: int
    kind: str
    title: str
    subject: str
    state: str
    share: float
    left: float | None
    words: str


class Jobs(TypedDict):
    jobs: list[JobState]
