"""Takes plain data from a file apart; every refusal names the place in the file."""

import math
from collections.abc import Callable
from typing import Any, TypeVar

import orjson

from velvet_moth.core.base.errors import FileRefused, MothError
from velvet_moth.core.document.graph import LARGEST_NUMBER, Value

Made = TypeVar("Made")

LONGEST_TEXT = 200
# A graph of the most nodes has about 50,000.
MOST_VALUES = 1_000_000


def parsed(text: bytes | str, where: str, mend: str) -> Any:
    """Plain data from JSON text; FileRefused for what is none, with endless numbers, halves of letters, too deep or huge."""
    # Counted before anything is made of it. A comma inside a text counts too, but texts are few.
    commas = text.count(",") if isinstance(text, str) else text.count(b",")
    if commas > MOST_VALUES:
        raise FileRefused(f"This holds more than {MOST_VALUES:,} values.", where, "Share it out over several graphs.")
    try:
        return orjson.loads(text)
    except (orjson.JSONDecodeError, RecursionError) as error:
        raise FileRefused(f"This is not JSON: {error}.", where, mend) from error


class Reader:
    """Some plain data and where it stands.

    With ``mended`` it forgives: a text too long is cut, a number too large is the largest, and what cannot be read at
    all is left out; what was wrong each time is put on that list. Without, the first wrong thing is refused.
    """

    def __init__(self, data: Any, where: str, mended: list[MothError] | None = None) -> None:
        self.data, self.where, self.mended = data, where, mended

    def refuse(self, what: str, mend: str = "Export the graph again, or mend the file by hand.") -> FileRefused:
        return FileRefused(what, self.where, mend)

    def _or(self, stand_in: Made, error: MothError) -> Made:
        """What stands in for something wrong; raises the error where nothing is forgiven."""
        if self.mended is None:
            raise error
        self.mended.append(error)
        return stand_in

    def attempt(self, read: Callable[[], Made]) -> list[Made]:
        """What is read, alone in a list; where it is refused and that is forgiven, nothing."""
        try:
            return [read()]
        except MothError as error:
            return self._or([], error)

    def strictly(self, read: Callable[["Reader"], Made]) -> list[Made]:
        """As ``attempt``, where half a thing is worth nothing: nothing inside is made to fit."""
        return self.attempt(lambda: read(Reader(self.data, self.where)))

    def each(self, read: Callable[["Reader"], Made]) -> list[Made]:
        """What is read of every entry of a list."""
        return [made for entry in self.items() for made in entry.attempt(lambda e=entry: read(e))]  # type: ignore[misc] # bound now

    def _inside(self, data: Any, where: str) -> "Reader":
        return Reader(data, where, self.mended)

    def at(self, key: str, default: Any = ...) -> "Reader":
        if not isinstance(self.data, dict):
            raise self.refuse("An object with named fields is needed here.")
        if key not in self.data and default is ...:
            raise self.refuse(f"The field {key!r} is missing.")
        return self._inside(self.data.get(key, default), f"{self.where}/{key}")

    def text(self, most: int = LONGEST_TEXT) -> str:
        wrong = self.refuse(f"A text of at most {most} characters is needed here.")
        if not isinstance(self.data, str):
            return self._or("", wrong)
        is_whole = self.data.isascii() or self.data.encode(errors="replace").decode() == self.data
        if "\0" in self.data or not is_whole or len(self.data) > most:
            return self._or(self.data.replace("\0", "").encode(errors="replace").decode()[:most], wrong)
        return self.data

    def number(self) -> float:
        wrong = self.refuse(f"A number between -{LARGEST_NUMBER:.0f} and {LARGEST_NUMBER:.0f} is needed here.")
        if isinstance(self.data, bool) or not isinstance(self.data, (int, float)) or math.isnan(self.data):
            return self._or(0.0, wrong)
        if not abs(self.data) <= LARGEST_NUMBER:
            return self._or(math.copysign(LARGEST_NUMBER, self.data), wrong)
        return float(self.data)

    def items(self) -> list["Reader"]:
        if not isinstance(self.data, list):
            raise self.refuse("A list is needed here.")
        return [self._inside(item, f"{self.where}[{i}]") for i, item in enumerate(self.data)]

    def fields(self) -> dict[str, "Reader"]:
        if not isinstance(self.data, dict):
            raise self.refuse("An object with named fields is needed here.")
        return {k: self._inside(v, f"{self.where}/{k[:40]}") for k, v in self.data.items()}

    def value(self) -> Value:
        return self.data if isinstance(self.data, str) else tuple(i.number() for i in self.items())

    def pair(self) -> list["Reader"]:
        found = self.items()
        if len(found) != 2:
            raise self.refuse("Exactly two entries are needed here.")
        return found

    def yes_or_no(self) -> bool:
        return (
            self.data if isinstance(self.data, bool) else self._or(False, self.refuse("true or false is needed here."))
        )

    def point(self) -> tuple[float, float]:
        first, second = self.pair()
        return first.number(), second.number()
