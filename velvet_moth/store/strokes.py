"""Strokes kept once by their content, beside the documents that hold them: an edit rewrites none of those there are."""

from collections.abc import Callable, Mapping
from typing import Any

import orjson
from pydantic import TypeAdapter
from sqlalchemy.orm import Session

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.stacks.stack import Stack
from velvet_moth.core.stacks.step import Family
from velvet_moth.core.stacks.stroke import Stroke
from velvet_moth.store import blobs

_STROKE: TypeAdapter[Stroke] = TypeAdapter(Stroke)
_strokes: BoundedCache[Stroke] = BoundedCache("strokes", 50_000)


def _remembered(stroke: Stroke) -> Stroke:
    return _strokes.get(stroke.mark, lambda: stroke)


def _changed(document: Mapping[str, Any], family: Family, change: Callable[[list[Any]], list[Any]]) -> dict[str, Any]:
    """A stack in plain data with another list in the place of every list of strokes; what is no stack is left as it is."""

    def of(use: Any) -> Any:
        values = use.get("values") if isinstance(use, dict) else None
        kind = family.steps.get(str(use.get("step"))) if isinstance(values, dict) else None
        if kind is None or values is None:
            return use
        drawn = [key for key, one in kind.settings.items() if one.kind == "strokes"]
        lists = {key: change(values[key]) for key in drawn if isinstance(values.get(key), list)}
        return {**use, "values": {**values, **lists}} if lists else use

    steps = document.get("steps")
    return {**document, "steps": [of(use) for use in steps]} if isinstance(steps, list) else dict(document)


def all_of(stack: Stack) -> dict[str, Stroke]:
    """The strokes of a stack by their marks."""
    return {
        stroke.mark: stroke
        for use in stack.steps
        for setting in use.kind.settings.values()
        if setting.kind == "strokes"
        for stroke in use.strokes(setting.key)
    }


def keep(session: Session, document: Mapping[str, Any], before: Stack, after: Stack) -> dict[str, Any]:
    """The plain data of a stack ``after`` a change with marks in the place of its strokes, of which the new ones are kept."""
    known, now = all_of(before), all_of(after)
    for mark, stroke in now.items():
        if mark not in known:
            blobs.put(session, _remembered(stroke).packed)
    drawn = iter([s.mark for use in after.steps for key in use.kind.settings for s in use.strokes(key)])
    return _changed(document, after.family, lambda held: [next(drawn) for _ in held])


def put_back(session: Session, document: Mapping[str, Any], family: Family) -> dict[str, Any]:
    """The plain data of a stack with its strokes in the place of their marks; OperationRefused where one is not kept."""
    marks: set[str] = set()

    def note(held: list[Any]) -> list[Any]:
        marks.update(one for one in held if isinstance(one, str))
        return held

    _changed(document, family, note)
    found = {mark: one for mark in marks if (one := _strokes.find(mark)) is not None}
    for mark, data in blobs.some(session, marks - found.keys()).items():
        found[mark] = _remembered(_STROKE.validate_python(orjson.loads(data)))
    if marks - found.keys():
        raise OperationRefused("A stroke is no longer kept.", "stack", "Load the page again.")
    return _changed(document, family, lambda held: [found[one] if isinstance(one, str) else one for one in held])
