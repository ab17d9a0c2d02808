"""What is brought into a project under a name: found, renamed, taken out of the lists and brought back."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Generic, TypeVar

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.store.errors import NotFound
from velvet_moth.store.events import News, announce
from velvet_moth.store.models import NamedRow

Row = TypeVar("Row", bound=NamedRow)


@dataclass(frozen=True)
class NamedRows(Generic[Row]):
    """Rows of one table. ``noun`` is what people call one, ``news`` what every page is to hear when one has changed."""

    rows: type[Row]
    noun: str
    news: Callable[[Row], News]

    def clean_name(self, name: str) -> str:
        """A name as it is kept; OperationRefused where it is none."""
        found = " ".join(name.split())[:80]
        if not found or not found.isprintable():
            raise OperationRefused(f"A {self.noun} needs a name.", self.noun, "Type one.")
        return found

    def load(self, session: Session, key: str, lock: bool = False) -> Row:
        """The one of that id; NotFound where there is none."""
        query = select(self.rows).where(self.rows.id == key, self.rows.deleted.is_(None))
        # A row that was read before it was locked may have changed until then.
        locked = query.with_for_update().execution_options(populate_existing=True)
        found = session.scalars(locked if lock else query).first()
        if found is None:
            raise NotFound(
                f"There is no such {self.noun}.", f"{self.noun} {key}", "Choose another, or bring it in again."
            )
        return found

    def told(self, session: Session, row: Row) -> None:
        """Tells every page of a row as it stands."""
        session.flush()
        announce(session, self.news(row))

    def changed(self, session: Session, row: Row) -> None:
        """Counts a change, which every use follows."""
        row.revision = (row.revision or 0) + 1
        self.told(session, row)

    def rename(self, session: Session, key: str, name: str) -> Row:
        row = self.load(session, key, lock=True)
        row.name = self.clean_name(name)
        self.told(session, row)
        return row

    def delete(self, session: Session, key: str) -> None:
        """Takes one out of the lists; ``restore`` brings it back."""
        row = self.load(session, key, lock=True)
        row.deleted = func.now()
        self.changed(session, row)

    def restore(self, session: Session, key: str) -> Row:
        row = session.get(self.rows, key)
        if row is None:
            raise NotFound(f"There is no such {self.noun}.", f"{self.noun} {key}", "Bring it in again.")
        row.deleted = None
        self.changed(session, row)
        return row
