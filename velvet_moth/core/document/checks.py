"""Checks of single texts, ids and places of a document; OperationRefused says what does not fit."""

from typing import Any

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import LARGEST_NUMBER, LONGEST_NOTE
from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.document.values import LONGEST_NAME, Value, fits, is_id


def checked_name(text: str, of: str) -> str:
    """The name with single spaces; OperationRefused where it is empty, too long or cannot be shown."""
    clean = " ".join(text.split())
    if not clean or len(clean) > LONGEST_NAME or not clean.isprintable():
        raise OperationRefused(f"A name of 1 to {LONGEST_NAME} characters is needed.", of, "Type a shorter name.")
    return clean


def checked_note(text: str, of: str) -> str:
    """Words of several lines; may be empty."""
    clean = text.strip()
    if len(clean) > LONGEST_NOTE or not (clean.replace("\n", "") or "x").isprintable():
        raise OperationRefused(
            f"A note has at most {LONGEST_NOTE} letters, and nothing that cannot be shown.", of, "Write fewer words."
        )
    return clean


def check_fits(declared: Input, value: Value, where: str) -> None:
    """OperationRefused where an input does not take a value."""
    if not fits(declared, value):
        raise OperationRefused(
            f"{declared.name} takes {declared.type.words} between −{LARGEST_NUMBER:,.0f} and {LARGEST_NUMBER:,.0f}.",
            where,
            "Type another value.",
        )


def check_place(place: tuple[float, float], of: str) -> None:
    """Pixels of the page at full size."""
    if not all(abs(c) <= LARGEST_NUMBER for c in place):
        raise OperationRefused("Nothing can lie that far out.", of, "Move it nearer.")


def check_id(key: str, of: str) -> None:
    """OperationRefused where a text cannot be the id of anything."""
    if not is_id(key):
        raise OperationRefused(
            "An id is a small letter followed by at most 31 small letters, digits or _.",
            f"{of} {key[:40]!r}",
            "Use another.",
        )


def check_new_id(key: str, taken: Any, of: str) -> None:
    """OperationRefused where a text cannot be an id, or is one of those ``taken``."""
    check_id(key, of)
    if key in taken:
        raise OperationRefused("This id is taken.", f"{of} {key}", "Use another.")
