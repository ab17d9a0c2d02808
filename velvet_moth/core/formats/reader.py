"""Takes plain data from a file apart; every refusal names the place in the file."""

from typing import Any

from velvet_moth.core.errors import FileRefused
from velvet_moth.core.graph import Value


class Reader:
    """Some plain data and where it stands."""

    def __init__(self, data: Any, where: str) -> None:
        self.data, self.where = data, where

    def refuse(self, what: str, mend: str = "Export the graph again, or mend the file by hand.") -> FileRefused:
        return FileRefused(what, self.where, mend)

    def at(self, key: str, default: Any = ...) -> "Reader":
        if not isinstance(self.data, dict):
            raise self.refuse("An object with named fields is needed here.")
        if key not in self.data and default is ...:
            raise self.refuse(f"The field {key!r} is missing.")
        return Reader(self.data.get(key, default), f"{self.where}/{key}")

    def text(self, most: int = 200) -> str:
        if not isinstance(self.data, str) or "\0" in self.data or len(self.data) > most:
            raise self.refuse(f"A text of at most {most} characters is needed here.")
        return self.data

    def number(self) -> float:
        if isinstance(self.data, bool) or not isinstance(self.data, (int, float)) or not abs(self.data) <= 1e6:
            raise self.refuse("A number between -1000000 and 1000000 is needed here.")
        return float(self.data)

    def items(self) -> list["Reader"]:
        if not isinstance(self.data, list):
            raise self.refuse("A list is needed here.")
        return [Reader(item, f"{self.where}[{i}]") for i, item in enumerate(self.data)]

    def fields(self) -> dict[str, "Reader"]:
        if not isinstance(self.data, dict):
            raise self.refuse("An object with named fields is needed here.")
        return {k: Reader(v, f"{self.where}/{k}") for k, v in self.data.items()}

    def value(self) -> Value:
        return self.data if isinstance(self.data, str) else tuple(i.number() for i in self.items())

    def pair(self) -> list["Reader"]:
        found = self.items()
        if len(found) != 2:
            raise self.refuse("Exactly two entries are needed here.")
        return found

    def yes_or_no(self) -> bool:
        if not isinstance(self.data, bool):
            raise self.refuse("true or false is needed here.")
        return self.data

    def point(self) -> tuple[float, float]:
        first, second = self.pair()
        return first.number(), second.number()
