"""Errors of what is kept, and of the database that keeps it."""

from psycopg.errors import DiskFull

from velvet_moth.core.base.errors import MothError


class NotFound(MothError):
    """Nothing of that id is kept here."""

    code = "not-found"


class DatabaseFull(MothError):
    """There is no room to write; what is kept can still be read."""

    code = "disk-full"


class DatabaseAway(MothError):
    """The database is not running, starting again, or asked by too many."""

    code = "database-away"


def no_database(error: Exception) -> MothError:
    """Why the database could not do what was asked; ``error`` is what its driver raised, bare or wrapped."""
    if isinstance(getattr(error, "orig", error), DiskFull):
        return DatabaseFull("The disk of the database is full.", mend="Make room on it.")
    return DatabaseAway("The database does not answer just now.", mend="It is tried again.")
