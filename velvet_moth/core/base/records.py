"""Records as plain data: the limits of their values, how they are read, and how they are written.

A record is a frozen dataclass whose fields have the types below. Pydantic checks, reads and writes it. What it refuses
becomes a sentence of ours with the place in the data; a document that is kept already can be mended instead.
"""

import copy
import math
import operator
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, TypeVar, Union

import orjson
from annotated_types import Ge, Le, MaxLen
from pydantic import AfterValidator, AllowInfNan, Field, Strict, TypeAdapter, ValidationError
from pydantic_core import ErrorDetails, PydanticCustomError

from velvet_moth.core.base.errors import FileRefused, MothError

Record = TypeVar("Record")
Mended = list[MothError]

LARGEST_NUMBER = 1e6
LONGEST_TEXT = 200
LONGEST_NOTE = 1000
# A graph of the most nodes has about 50,000.
MOST_VALUES = 1_000_000
MEND = "Export it again, or mend the file by hand."


def _check_letters(text: str) -> str:
    if "\0" in text or not (text.isascii() or text.encode(errors="replace").decode() == text):
        raise PydanticCustomError("broken_text", "This text holds a letter that cannot be kept.")
    return text


def _check_place(place: tuple[float, float]) -> tuple[float, float]:
    if not all(abs(c) <= LARGEST_NUMBER for c in place):
        raise PydanticCustomError("far_place", f"A place lies at most {LARGEST_NUMBER:.0f} away.")
    return place


Number = Annotated[float, Strict(), AllowInfNan(False), Ge(-LARGEST_NUMBER), Le(LARGEST_NUMBER)]
Text = Annotated[str, MaxLen(LONGEST_TEXT), AfterValidator(_check_letters)]
NoteText = Annotated[str, MaxLen(LONGEST_NOTE), AfterValidator(_check_letters)]
Flag = Annotated[bool, Strict()]
Whole = Annotated[int, Strict()]
Two = tuple[Number, Number]
Three = tuple[Number, Number, Number]
Four = tuple[Number, Number, Number, Number]
# Half a place is worth nothing, so it is checked as a whole.
Place = Annotated[
    tuple[Annotated[float, Strict(), AllowInfNan(False)], Annotated[float, Strict(), AllowInfNan(False)]],
    AfterValidator(_check_place),
]
# A field that is not written where it is empty.
OMITTED = Field(exclude_if=operator.not_)


@dataclass(frozen=True)
class OneOf:
    """Marks a text as one of some keys, each with its name for people."""

    names: Mapping[str, str]


def parsed(text: Union[bytes, str], where: str, mend: str) -> Any:
    """Plain data from JSON text; FileRefused for what is none, with endless numbers, halves of letters, too deep or huge."""
    # Counted before anything is made of it. A comma inside a text counts too, but texts are few.
    commas = text.count(",") if isinstance(text, str) else text.count(b",")
    if commas > MOST_VALUES:
        raise FileRefused(f"This holds more than {MOST_VALUES:,} values.", where, "Share it out over several graphs.")
    try:
        return orjson.loads(text)
    except (orjson.JSONDecodeError, RecursionError) as error:
        raise FileRefused(f"This is not JSON: {error}.", where, mend) from error


def read(record: TypeAdapter[Record], data: Any, where: str, mended: Mended | None = None) -> Record:
    """The record in plain data; FileRefused names the first thing that is wrong and its place.

    With ``mended`` it forgives: a text too long is cut, a number too large is the largest, and what cannot be read at
    all is left out; what was wrong each time is put on that list. Refused is then only what is wrong as a whole.
    """
    try:
        return record.validate_python(data)
    except ValidationError as error:
        found = error.errors(include_url=False)
        if mended is None:
            raise _refused(found[0], data, where) from error
    data = copy.deepcopy(data)
    # Each round mends all that it finds. What is still wrong after two has no repair, and goes.
    for round_ in range(_MOST_ROUNDS):
        mended += [_refused(one, data, where) for one in found]
        if any(not path for path in (_path(data, one["loc"]) for one in found)):
            break
        _mend(data, found, repairs=_REPAIRS if round_ < 2 else {})
        try:
            return record.validate_python(data)
        except ValidationError as error:
            found = error.errors(include_url=False)
    raise _refused(found[0], data, where)


# What pydantic calls a text or number that is of the right type and beyond its limits.
LIMITS = {"string_too_long", "broken_text", "far_place", "less_than_equal", "greater_than_equal", "finite_number"}


def sentence(error: ErrorDetails) -> str:
    """What pydantic found wrong, in our own words."""
    known = _SENTENCES.get(error["type"])
    return known(error) if known else f"{error['msg'].removeprefix('Value error, ').rstrip('.')}."


def _refused(error: ErrorDetails, data: Any, where: str) -> FileRefused:
    place = "".join(f"[{key}]" if isinstance(key, int) else f"/{key[:40]}" for _, key in _path(data, error["loc"]))
    mend = "Update the program." if error["type"] == "union_tag_invalid" else MEND
    return FileRefused(sentence(error), f"{where}{place}", mend)


Step = tuple[Any, Union[str, int]]


def _path(data: Any, loc: tuple[Union[str, int], ...]) -> list[Step]:
    """The way to the place of an error: containers with the keys that lead on, the names of union members left out."""

    def steps() -> Iterator[Step]:
        here = data
        for key in loc:
            inside = key in here if isinstance(here, dict) else isinstance(here, list) and isinstance(key, int)
            if inside and (isinstance(here, dict) or int(key) < len(here)):
                yield here, key
                here = here[key]

    return list(steps())


def _mend(data: Any, errors: list[ErrorDetails], repairs: "Mapping[str, Repair]") -> None:
    """Repairs what can be, and takes the rest out of whatever holds it."""
    gone: dict[int, tuple[Any, set[Union[str, int]]]] = {}
    for error in errors:
        container, key = _path(data, error["loc"])[-1]
        repair = repairs.get(error["type"]) if error["loc"][-1] != "[key]" else None
        if repair:
            container[key] = repair(container[key], error.get("ctx"))
        else:
            gone.setdefault(id(container), (container, set()))[1].add(key)
    for container, keys in gone.values():
        for key in sorted(keys, reverse=True):
            del container[key]


_MOST_ROUNDS = 12
Repair = Callable[[Any, Any], Any]
_REPAIRS: Mapping[str, Repair] = {
    "string_type": lambda value, limits: "",
    "string_too_long": lambda value, limits: value[: limits["max_length"]],
    "broken_text": lambda value, limits: value.replace("\0", "").encode(errors="replace").decode(),
    "float_type": lambda value, limits: 0.0,
    "finite_number": lambda value, limits: 0.0 if math.isnan(value) else math.copysign(LARGEST_NUMBER, value),
    "less_than_equal": lambda value, limits: limits["le"],
    "greater_than_equal": lambda value, limits: limits["ge"],
    "bool_type": lambda value, limits: False,
}


def _missing(error: ErrorDetails) -> str:
    key = error["loc"][-1]
    return "More entries are needed here." if isinstance(key, int) else f"The field {key!r} is missing."


def _bound(words: str, key: str) -> Callable[[ErrorDetails], str]:
    return lambda error: f"A number of {words} {error['ctx'][key]:g} is needed here."


_OBJECT, _LIST = "An object with named fields is needed here.", "A list is needed here."
_SENTENCES: Mapping[str, Callable[[ErrorDetails], str]] = {
    "missing": _missing,
    "union_tag_not_found": lambda error: f"The field {error['ctx']['discriminator']} is missing.",
    "union_tag_invalid": lambda error: f"The kind {str(error['ctx']['tag'])[:40]!r} is not known.",
    "string_type": lambda error: "A text is needed here.",
    "string_too_long": lambda error: f"A text of at most {error['ctx']['max_length']} characters is needed here.",
    "float_type": lambda error: "A number is needed here.",
    "int_type": lambda error: "A whole number is needed here.",
    "finite_number": lambda error: "A finite number is needed here.",
    "less_than_equal": _bound("at most", "le"),
    "greater_than_equal": _bound("at least", "ge"),
    "bool_type": lambda error: "true or false is needed here.",
    "literal_error": lambda error: f"One of {error['ctx']['expected']} is needed here.",
    "too_long": lambda error: (
        f"At most {error['ctx']['max_length']} entries fit here; these are {error['ctx']['actual_length'] or 'more'}."
    ),
    "too_short": lambda error: f"At least {error['ctx']['min_length']} entries are needed here.",
    **dict.fromkeys(("tuple_type", "list_type"), lambda error: _LIST),
    **dict.fromkeys(
        ("dataclass_type", "dict_type", "mapping_type", "model_type", "model_attributes_type"), lambda error: _OBJECT
    ),
}
