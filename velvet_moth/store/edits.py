"""What the store does with documents that change by operations: each edit checked against the newest revision, kept, undone, redone."""

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, TypeVar

from pydantic import TypeAdapter
from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import MothError, OperationRefused
from velvet_moth.core.base.operation import BatchOf, DocumentOperation
from velvet_moth.store.errors import NotFound
from velvet_moth.store.models import EditedRow, EditRow

LONGEST_HISTORY = 1000
# The most changes that a refused edit is answered with.
MOST_SINCE = 200
# The most that an id column holds.
LARGEST_ID = 2**31 - 1
Row = TypeVar("Row", bound=EditedRow)
Document = TypeVar("Document")


class NothingToUndo(MothError):
    """The undo or redo stack is empty."""

    code = "nothing-to-undo"


@dataclass(frozen=True)
class Change:
    """A change of a document: ``kind`` is edit, undo, redo or jump."""

    number: int
    kind: str
    words: str
    operation: dict[str, Any]


@dataclass(frozen=True)
class Step:
    """An edit that can be taken back or done again, by its number and in words; 0 and none where there is nothing."""

    number: int
    words: str


class StaleRevision(MothError):
    """An edit was made on a revision that is no longer the newest; ``since`` tells what happened after it."""

    code = "stale-revision"

    def __init__(self, noun: str, revision: int, since: Sequence[Change]) -> None:
        newest = "; ".join(c.words for c in since[-5:]) or f"the {noun} was reloaded"
        super().__init__(
            f"The {noun} has changed since: {newest}.",
            f"revision {revision}",
            "Your edit is tried again on the new state.",
        )
        self.revision = revision
        self.since = since


class History(ABC, Generic[Row, Document]):
    """The edits of one kind of document: ``rows`` keep the documents, ``edits`` what was done to each.

    ``noun`` is what people call the document; ``where_from`` is where they can open one. ``owner`` is the column of an
    edit that names its document.
    """

    noun: str
    where_from: str
    rows: type[Row]
    edits: type[EditRow]
    owner: str
    operations: TypeAdapter[Any]

    @abstractmethod
    def document(self, session: Session, row: Row) -> Document:
        """The document of a row as operations take it."""

    @abstractmethod
    def title(self, row: Row) -> str:
        """What a row is called, for sentences."""

    @abstractmethod
    def write(self, session: Session, row: Row, before: Document, after: Document) -> None:
        """Puts a changed document into its row; may refuse it."""

    def written(self, session: Session, row: Row, after: Document, words: str) -> None:
        """Called once a change is kept."""

    def of(self, key: int) -> ColumnElement[bool]:
        """What is true of the edits of one document."""
        found: ColumnElement[int] = getattr(self.edits, self.owner)
        return found == key

    def find(self, session: Session, key: int, lock: bool = False) -> Row:
        """A row, deleted or not; with ``lock`` it stays as it is until the transaction ends."""
        is_one = 0 < key <= LARGEST_ID
        # A row that was read before it was locked may have changed until then.
        row = session.get(self.rows, key, with_for_update=lock, populate_existing=lock) if is_one else None
        if row is None:
            raise NotFound(f"There is no such {self.noun}.", f"{self.noun} {key}", f"Open one from {self.where_from}.")
        return row

    def load(self, session: Session, key: int, lock: bool = False) -> Row:
        """A row that is not deleted."""
        row = self.find(session, key, lock)
        if row.deleted is not None:
            raise NotFound(
                f"This {self.noun} was deleted.", f"{self.noun} {key}", f"Bring it back from {self.where_from}."
            )
        return row

    def current(self, session: Session, key: int, revision: int) -> Row:
        """The row, locked; StaleRevision where it has changed since that revision."""
        row = self.load(session, key, lock=True)
        if row.revision != revision:
            raise StaleRevision(self.noun, row.revision, self._since(session, key, revision))
        return row

    def edit(self, session: Session, key: int, number: int) -> EditRow:
        """What made a revision."""
        return session.scalars(select(self.edits).where(self.of(key), self.edits.number == number)).one()

    def change(self, session: Session, key: int, revision: int, operation: DocumentOperation[Document]) -> Row:
        """Applies an operation to the revision it was made on; StaleRevision where that is not the newest."""
        return self.change_by(session, key, revision, lambda before: operation)[0]

    def change_by(
        self, session: Session, key: int, revision: int, doing: Callable[[Document], DocumentOperation[Document]]
    ) -> tuple[Row, Document, Document]:
        """As ``change``, by an operation that is made for the document as it is; and the document before and after."""
        row = self.current(session, key, revision)
        before = self.document(session, row)
        operation = doing(before)
        after, inverse = operation.apply(before)
        number = self._record(session, row, before, after, "edit", (operation, inverse, operation.words(before)))
        row.undo = [*row.undo, number][-LONGEST_HISTORY:]
        row.redo = []
        return row, before, after

    def undo(self, session: Session, key: int, revision: int) -> Row:
        """Takes back the newest edit that is not taken back yet."""
        row = self.current(session, key, revision)
        if not row.undo:
            raise NothingToUndo("There is nothing to undo.", self.title(row), "")
        edit = self.edit(session, key, row.undo[-1])
        self._step(session, row, edit, "undo", edit.inverse, f"undid: {edit.words}")
        row.undo, row.redo = row.undo[:-1], [*row.redo, edit.number]
        return row

    def redo(self, session: Session, key: int, revision: int) -> Row:
        """Does again the edit that was taken back last."""
        row = self.current(session, key, revision)
        if not row.redo:
            raise NothingToUndo("There is nothing to redo.", self.title(row), "")
        edit = self.edit(session, key, row.redo[-1])
        self._step(session, row, edit, "redo", edit.operation, f"redid: {edit.words}")
        row.undo, row.redo = [*row.undo, edit.number], row.redo[:-1]
        return row

    def move(self, session: Session, key: int, batch: BatchOf[Document], steps: int) -> Row:
        """Applies what undoes (``steps`` below zero) or redoes so many edits, as one revision."""
        row = self.find(session, key, lock=True)
        before = self.document(session, row)
        after, inverse = batch.apply(before)
        self._record(session, row, before, after, "jump", (batch, inverse, batch.summary))
        # The newest edit is last on both stacks, so what moves over is turned around.
        if steps < 0:
            row.redo = [*row.redo, *row.undo[steps:][::-1]]
            row.undo = row.undo[:steps]
        else:
            row.undo = [*row.undo, *row.redo[-steps:][::-1]]
            row.redo = row.redo[:-steps]
        return row

    def newest(self, session: Session, row: Row) -> tuple[Step, Step]:
        """What undo would take back and redo do again."""
        numbers = [*row.undo[-1:], *row.redo[-1:]]
        query = select(self.edits.number, self.edits.words).where(self.of(row.id), self.edits.number.in_(numbers))
        words: dict[int, str] = {number: text for number, text in session.execute(query)} if numbers else {}
        undo, redo = (stack[-1] if stack else 0 for stack in (row.undo, row.redo))
        return Step(undo, words.get(undo, "")), Step(redo, words.get(redo, ""))

    def _since(self, session: Session, key: int, revision: int) -> list[Change]:
        """The newest changes after a revision, the newest last."""
        rows = session.scalars(
            select(self.edits)
            .where(self.of(key), self.edits.number > revision)
            .order_by(self.edits.number.desc())
            .limit(MOST_SINCE)
        ).all()
        return [Change(r.number, r.kind, r.words, r.operation) for r in reversed(rows)]

    def _step(self, session: Session, row: Row, edit: EditRow, kind: str, data: dict[str, Any], words: str) -> None:
        """Applies what an edit is kept with; where that no longer fits, the sentence says which edit it is."""
        operation = self.operations.validate_python(data)
        before = self.document(session, row)
        try:
            after, inverse = operation.apply(before)
            self._record(session, row, before, after, kind, (operation, inverse, words))
        except OperationRefused as error:
            mend = "Go to an earlier step in the history, or restore a version."
            raise OperationRefused(f"{error.what} So this step stays: {edit.words}.", error.where, mend) from error

    def _record(
        self,
        session: Session,
        row: Row,
        before: Document,
        after: Document,
        kind: str,
        change: tuple[DocumentOperation[Document], DocumentOperation[Document], str],
    ) -> int:
        operation, inverse, words = change
        self.write(session, row, before, after)
        row.revision += 1
        row.changed = func.now()
        words = " ".join(words.split())[:400]
        dumped = [self.operations.dump_python(one, mode="json") for one in (operation, inverse)]
        made: dict[str, Any] = {"number": row.revision, "kind": kind, "words": words, self.owner: row.id}
        session.add(self.edits(operation=dumped[0], inverse=dumped[1], **made))
        session.flush()
        session.refresh(row, ["changed"])
        self.written(session, row, after, words)
        return row.revision
