"""What a field of a graph declares when it is set as a whole: its check, and the words for history and comparison."""

import dataclasses
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

_KEY = "document"


@dataclass(frozen=True)
class DocumentField:
    """A field that one operation sets, a file holds and a comparison tells.

    ``check`` takes a value and the graph's title and gives the value as it is kept, or raises OperationRefused.
    ``did`` says what setting it does, for the history, and ``differs`` what has become of it, both from the values
    before and after. Without ``differs`` two states are not compared by it, nor is it brought back with an older one.
    """

    check: Callable[[Any, str], Any]
    did: Callable[[Any, Any], str]
    differs: Callable[[Any, Any], str] | None


def described(field: DocumentField) -> dict[str, DocumentField]:
    """The metadata of a dataclass field with what is declared of it."""
    return {_KEY: field}


def declared_in(record: type) -> Mapping[str, DocumentField]:
    """The declared fields of a dataclass by their names."""
    return {f.name: f.metadata[_KEY] for f in dataclasses.fields(record) if _KEY in f.metadata}
