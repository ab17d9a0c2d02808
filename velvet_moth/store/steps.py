"""The edits of any document as a list of steps, and going to one of them."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from velvet_moth.core.base.operation import BatchOf
from velvet_moth.store.edits import Document, History, Row
from velvet_moth.store.errors import NotFound


@dataclass(frozen=True)
class MadeStep:
    """One edit that can be gone back to or forward to; ``is_done`` tells whether it holds now."""

    number: int
    words: str
    made: datetime
    is_done: bool


def steps(session: Session, history: History[Row, Document], key: int) -> list[MadeStep]:
    """The edits of a document, the first first: those that hold, then those taken back."""
    row = history.load(session, key)
    numbers = [*row.undo, *reversed(row.redo)]
    edits = history.edits
    query = select(edits.number, edits.words, edits.made).where(history.of(key), edits.number.in_(numbers))
    found = {number: (words, made) for number, words, made in session.execute(query).tuples()}
    return [MadeStep(n, *found[n], at < len(row.undo)) for at, n in enumerate(numbers) if n in found]


def go_to(
    session: Session,
    history: History[Row, Document],
    batch: type[BatchOf[Document]],
    key: int,
    revision: int,
    number: int,
) -> Row:
    """Undoes or redoes until the edit ``number`` is the newest that holds, as one revision; 0 is before all of them.

    ``batch`` makes one step of several operations. StaleRevision where the document has changed since ``revision``.
    """
    row = history.current(session, key, revision)
    found = steps(session, history, key)
    if number and not any(s.number == number for s in found):
        raise NotFound("This step is no longer in the history.", f"step {number}", "Choose another step.")
    at = next((i for i, s in enumerate(found) if s.number == number), -1)
    now = sum(s.is_done for s in found) - 1
    between = found[at + 1 : now + 1][::-1] if at < now else found[now + 1 : at + 1]
    if not between:
        return row
    edits = session.scalars(
        select(history.edits).where(history.of(key), history.edits.number.in_([s.number for s in between]))
    )
    by_number = {edit.number: edit for edit in edits}
    kept: list[Any] = [by_number[s.number].inverse if at < now else by_number[s.number].operation for s in between]
    operations = [history.operations.validate_python(one) for one in kept]
    whole = batch.of(operations, _way(found, at, now))
    return history.move(session, key, whole, -len(between) if at < now else len(between))


def _way(found: Sequence[MadeStep], at: int, now: int) -> str:
    goal = found[at].words if at >= 0 else "the beginning"
    return f"went {'back' if at < now else 'forward'} to: {goal}"
