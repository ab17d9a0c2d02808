"""What an address of the JSON interface takes and gives: declared at its function, checked there, and described from it."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any, ParamSpec, TypeVar, get_type_hints

from flask import jsonify, request
from pydantic import BaseModel, TypeAdapter
from werkzeug.wrappers import Response

P = ParamSpec("P")
Given = TypeVar("Given")
View = Callable[..., Any]
# What a request may send where its view takes no more.
MOST_BYTES = 72 << 20


@dataclass(frozen=True)
class Contract:
    """``query`` and ``body`` are what is sent, at most one of them; ``upload`` are the fields of a form with a file.

    ``gives`` is the type of the JSON that comes back, or the media type of another answer. ``most_bytes`` may be sent.
    """

    gives: Any
    query: type[BaseModel] | None = None
    body: Any = None
    upload: tuple[str, ...] = ()
    most_bytes: int = MOST_BYTES


def takes(
    query: type[BaseModel] | None = None, body: Any = None, upload: tuple[str, ...] = (), most_bytes: int = MOST_BYTES
) -> Callable[[Callable[P, Given]], View]:
    """Decorator: what was sent is checked and handed over as ``asked``; what is given back is sent as JSON.

    The type of the answer is the one the function is annotated with. ``most_bytes`` is how much may be sent.
    """

    def decorate(view: Callable[P, Given]) -> View:
        contract = Contract(get_type_hints(view, include_extras=True)["return"], query, body, upload, most_bytes)
        return _checked(view, contract, jsonify)

    return decorate


def sends(
    media_type: str, query: type[BaseModel] | None = None, body: Any = None
) -> Callable[[Callable[P, Response]], View]:
    """Decorator: as ``takes``, for an answer that is no JSON of ours but a response of such a media type."""
    return lambda view: _checked(view, Contract(media_type, query, body), lambda response: response)


def _checked(view: Callable[..., Any], contract: Contract, answer: Callable[[Any], Response]) -> View:
    body = TypeAdapter(contract.body) if contract.body is not None else None

    @wraps(view)
    def called(**path: Any) -> Response:
        if contract.query is not None:
            path["asked"] = contract.query.model_validate(request.args.to_dict())
        if body is not None:
            path["asked"] = body.validate_python(request.get_json())
        return answer(view(**path))

    called.contract = contract  # type: ignore[attr-defined] # read by the description
    return called


def contract_of(view: View) -> Contract | None:
    found: Contract | None = getattr(view, "contract", None)
    return found
