"""Errors of what is kept."""

from velvet_moth.core.errors import MothError


class NotFound(MothError):
    """Nothing of that id is kept here."""

    code = "not-found"
