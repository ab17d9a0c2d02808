"""What a record refers to, found by the types of its fields: textures of the project, other graphs."""

from collections.abc import Iterator, Mapping
from dataclasses import fields, is_dataclass, replace
from functools import lru_cache
from typing import Annotated, Any, get_args, get_origin, get_type_hints

from velvet_moth.core.document.values import RefersTo


def _refers(hint: Any, what: str) -> bool:
    return get_origin(hint) is Annotated and RefersTo(what) in hint.__metadata__


def _plain(hint: Any) -> Any:
    return get_args(hint)[0] if get_origin(hint) is Annotated else hint


@lru_cache(maxsize=64)
def _parts_of(record: type) -> tuple[tuple[str, Any], ...]:
    hints = get_type_hints(record, include_extras=True)
    return tuple((f.name, hints[f.name]) for f in fields(record))


def references(value: Any, hint: Any, what: str) -> Iterator[str]:
    """Every id in a value whose type says that it refers to such a thing."""
    if _refers(hint, what):
        yield value
    elif is_dataclass(value) and not isinstance(value, type):
        for name, inner in _parts_of(type(value)):
            yield from references(getattr(value, name), inner, what)
    elif isinstance(value, tuple):
        for one in value:
            yield from references(one, get_args(_plain(hint))[0], what)


def rebound(value: Any, hint: Any, what: str, ids: Mapping[str, str]) -> Any:
    """The same value with other ids of such things; an id that is not among ``ids`` stays."""
    if _refers(hint, what):
        return ids.get(value, value)
    if is_dataclass(value) and not isinstance(value, type):
        changed = {name: rebound(getattr(value, name), inner, what, ids) for name, inner in _parts_of(type(value))}
        return replace(value, **changed)
    if isinstance(value, tuple):
        return tuple(rebound(one, get_args(_plain(hint))[0], what, ids) for one in value)
    return value
