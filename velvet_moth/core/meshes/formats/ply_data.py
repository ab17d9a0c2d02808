"""The tables of a PLY file, with any properties and lists, text and binary.

Read here since the library for it has a licence that this program cannot take on, and others give up properties.
"""

import re
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.meshes.formats.base import Damaged

_LONGEST_HEADER = 1 << 16
_TYPES = {
    **dict.fromkeys(("char", "int8"), "i1"),
    **dict.fromkeys(("uchar", "uint8"), "u1"),
    **dict.fromkeys(("short", "int16"), "i2"),
    **dict.fromkeys(("ushort", "uint16"), "u2"),
    **dict.fromkeys(("int", "int32"), "i4"),
    **dict.fromkeys(("uint", "uint32"), "u4"),
    **dict.fromkeys(("float", "float32"), "f4"),
    **dict.fromkeys(("double", "float64"), "f8"),
}
_ORDERS = {"ascii": "", "binary_little_endian": "<", "binary_big_endian": ">"}
_END = re.compile(rb"^end_header\r?\n", re.MULTILINE)


@dataclass
class Lists:
    """Lists of numbers, one a row: all numbers one after the other, and how many each row has."""

    values: NDArray[Any]
    sizes: NDArray[np.int64]


@dataclass
class Table:
    """One sort of thing in a file: how many, and for each property its types: of its numbers, and of counts for a list."""

    name: str
    count: int
    properties: dict[str, tuple[str, str]] = field(default_factory=dict)

    def columns(self, order: str) -> "tuple[list[tuple[str, str]], bool]":
        """Names and types of the numbers in a row, without lists; and whether there are lists."""
        plain = [(key, order + kind) for key, (kind, counts) in self.properties.items() if not counts]
        return plain, len(plain) < len(self.properties)


Columns = dict[str, NDArray[Any] | Lists]


def tables(data: bytes) -> dict[str, Columns]:
    """The columns of every table of a file, by the names of both; Damaged with a sentence where that cannot be."""
    end = _END.search(data, 0, _LONGEST_HEADER)
    if end is None:
        raise Damaged("The header of the file does not end.")
    order, found = _header(data[: end.start()].decode("latin-1").splitlines())
    for table in found:
        # Each thing takes a byte at least, so a header that says more lies.
        if table.count > len(data):
            raise Damaged(
                f"The header says that there are {table.count:,} of {table.name[:20]!r}, in a file of {len(data):,} bytes."
            )
    body = data[end.end() :]
    if not order:
        return _from_text(body, found)
    made, at = {}, 0
    for table in found:
        made[table.name], at = _from_bytes(body, at, table, order)
    return made


def _header(lines: list[str]) -> tuple[str, list[Table]]:
    order, found = None, []
    for number, line in enumerate(lines, 1):
        words = line.split()
        match words:
            case ["format", kind, _] if kind in _ORDERS:
                order = _ORDERS[kind]
            case ["element", name, count] if count.isdigit():
                found.append(Table(name, int(count)))
            case ["property", "list", counts, kind, name] if found and counts in _TYPES and kind in _TYPES:
                found[-1].properties[name] = _TYPES[kind], _TYPES[counts]
            case ["property", kind, name] if found and kind in _TYPES:
                found[-1].properties[name] = _TYPES[kind], ""
            case ["ply"] | ["comment", *_] | ["obj_info", *_] | []:
                pass
            case _:
                raise Damaged(f"Line {number} of the header says {line[:40]!r}, which is no PLY.")
    if order is None:
        raise Damaged("The header does not say how the file is written.")
    return order, found


def _from_bytes(data: bytes, at: int, table: Table, order: str) -> tuple[Columns, int]:
    """The columns of a table that begins at a place of the bytes, and where it ends."""
    plain, has_lists = table.columns(order)
    if not has_lists:
        kind = np.dtype(plain)
        _check(data, at, kind.itemsize * table.count, table)
        rows = np.frombuffer(data, kind, table.count, at)
        return {key: rows[key] for key, _ in plain}, at + kind.itemsize * table.count
    same = _alike(data, at, table, order)
    if same is not None:
        return same
    return _row_by_row(data, at, table, order)


def _check(data: bytes, at: int, size: int, table: Table) -> None:
    if at + size > len(data):
        raise Damaged(f"The file ends in the middle of {table.name[:20]!r}: it was cut off.")


def _alike(data: bytes, at: int, table: Table, order: str) -> tuple[Columns, int] | None:
    """As ``_from_bytes`` where the lists of all rows are as long as those of the first one; None where they are not."""
    fields: list[tuple[str, str, tuple[int, ...]]] = []
    place = at
    for number, (kind, counts) in enumerate(table.properties.values()):
        if counts:
            size = np.dtype(order + counts)
            _check(data, place, size.itemsize, table)
            (length,) = np.frombuffer(data, size, 1, place)
            fields.append((f"count {number}", order + counts, ()))
            fields.append((f"value {number}", order + kind, (int(length),)))
            place += size.itemsize + int(length) * np.dtype(kind).itemsize
        else:
            fields.append((f"value {number}", order + kind, ()))
            place += np.dtype(kind).itemsize
    whole = np.dtype(fields)
    if at + whole.itemsize * table.count > len(data):
        return None
    rows = np.frombuffer(data, whole, table.count, at)
    made: Columns = {}
    for number, (key, (_, counts)) in enumerate(table.properties.items()):
        values = rows[f"value {number}"]
        if not counts:
            made[key] = values
            continue
        sizes = rows[f"count {number}"].astype(np.int64)
        if (sizes != values.shape[1]).any():
            return None
        made[key] = Lists(values.reshape(-1), sizes)
    return made, at + whole.itemsize * table.count


def _row_by_row(data: bytes, at: int, table: Table, order: str) -> tuple[Columns, int]:
    kinds = [
        (np.dtype(order + kind), np.dtype(order + counts) if counts else None)
        for kind, counts in table.properties.values()
    ]
    values: list[list[NDArray[Any]]] = [[] for _ in kinds]
    sizes: list[list[int]] = [[] for _ in kinds]
    for _ in range(table.count):
        for number, (kind, counts) in enumerate(kinds):
            length = 1
            if counts is not None:
                _check(data, at, counts.itemsize, table)
                length = int(np.frombuffer(data, counts, 1, at)[0])
                at += counts.itemsize
            _check(data, at, max(length, 0) * kind.itemsize, table)
            values[number].append(np.frombuffer(data, kind, max(length, 0), at))
            sizes[number].append(length)
            at += max(length, 0) * kind.itemsize
    made: Columns = {}
    for number, (key, (written, listed)) in enumerate(table.properties.items()):
        whole = np.concatenate(values[number]) if values[number] else np.zeros(0, dtype=order + written)
        made[key] = Lists(whole, np.array(sizes[number], dtype=np.int64)) if listed else whole
    return made, at


def _from_text(text: bytes, found: list[Table]) -> dict[str, Columns]:
    words = text.split()
    made: dict[str, Columns] = {}
    at = 0
    for table in found:
        made[table.name], at = _table_of_words(words, at, table)
    return made


def _table_of_words(words: list[bytes], at: int, table: Table) -> tuple[Columns, int]:
    plain, has_lists = table.columns("")
    if not has_lists:
        size = len(plain) * table.count
        rows = _numbers(words[at : at + size], table).reshape(table.count, len(plain))
        return {key: rows[:, i].astype(kind) for i, (key, kind) in enumerate(plain)}, at + size
    places: dict[str, list[bytes]] = {key: [] for key in table.properties}
    sizes: dict[str, list[int]] = {key: [] for key in table.properties}
    for _ in range(table.count):
        for key, (_, counts) in table.properties.items():
            length = 1
            if counts:
                if at >= len(words) or not words[at].isdigit():
                    raise Damaged(f"A list of {table.name[:20]!r} does not say how long it is.")
                length, at = int(words[at]), at + 1
            if at + length > len(words):
                raise Damaged(f"The file ends in the middle of {table.name[:20]!r}: it was cut off.")
            places[key] += words[at : at + length]
            sizes[key].append(length)
            at += length
    made: Columns = {}
    for key, (kind, counts) in table.properties.items():
        values = _numbers(places[key], table).astype(kind)
        made[key] = Lists(values, np.array(sizes[key], dtype=np.int64)) if counts else values
    return made, at


def _numbers(words: list[bytes], table: Table) -> NDArray[np.float64]:
    try:
        found = np.array(words, dtype="S40").astype(np.float64)
    except ValueError as error:
        raise Damaged(f"A row of {table.name[:20]!r} holds something else than numbers.") from error
    if len(table.columns("")[0]) == len(table.properties) and len(found) < len(table.properties) * table.count:
        raise Damaged(f"The file ends in the middle of {table.name[:20]!r}: it was cut off.")
    return found
