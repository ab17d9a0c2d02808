"""Projects."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from velvet_moth.store.models import Project


def ensure(session: Session, name: str) -> tuple[Project, bool]:
    """The project of that name, and whether it was made just now."""
    found = session.scalars(select(Project).where(Project.name == name)).one_or_none()
    if found is not None:
        return found, False
    made = Project(name=name)
    session.add(made)
    session.flush()
    return made, True


def first(session: Session) -> Project:
    """The project that the library shows."""
    return session.scalars(select(Project).order_by(Project.id)).first() or ensure(session, "Untitled project")[0]


def by_id(session: Session, key: int) -> Project:
    """A project that is known to be there."""
    return session.get_one(Project, key)
