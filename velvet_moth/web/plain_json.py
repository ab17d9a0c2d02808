"""JSON in and out. Infinities and NaN, which JSON does not have, leave as null."""

from typing import Any

import orjson
from flask.json.provider import JSONProvider


class PlainJson(JSONProvider):
    """Takes in no endless numbers, no halves of letters, and nothing nested more than about a thousand deep."""

    def dumps(self, obj: Any, **_: Any) -> str:
        return orjson.dumps(obj, option=orjson.OPT_NON_STR_KEYS).decode()

    def loads(self, s: str | bytes, **_: Any) -> Any:
        return orjson.loads(s)


def embedded(data: Any) -> str:
    """Data as JSON for a script element of a page, which no text in it can end."""
    return orjson.dumps(data, option=orjson.OPT_NON_STR_KEYS).decode().replace("<", "\\u003c")
