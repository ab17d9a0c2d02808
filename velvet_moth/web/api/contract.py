"""What an address of the JSON interface takes and gives: declared at its function, checked there, and described from it."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any

from flask import jsonify, request
from pydantic import BaseModel

View = Callable[..., Any]


@dataclass(frozen=True)
class Contract:
    """``query`` and ``body`` are what is sent, at most one of them; ``upload`` are the fields of a form with a file.

    ``gives`` is the type of the JSON that comes back, or the media type of another answer.
    """

    gives: Any
    query: type[BaseModel] | None = None
    body: type[BaseModel] | None = None
    upload: tuple[str, ...] = ()


def takes(
    gives: Any,
    query: type[BaseModel] | None = None,
    body: type[BaseModel] | None = None,
    upload: tuple[str, ...] = (),
) -> Callable[[View], View]:
    """Decorator: what was sent is checked and handed over as ``asked``; what is given back is sent as JSON."""
    contract = Contract(gives, query, body, upload)

    def decorate(view: View) -> View:
        @wraps(view)
        def called(**path: Any) -> Any:
            if query is not None:
                path["asked"] = query.model_validate(request.args.to_dict())
            if body is not None:
                path["asked"] = body.model_validate(request.get_json())
            given = view(**path)
            return jsonify(given) if not isinstance(gives, str) else given

        called.contract = contract  # type: ignore[attr-defined] # read by the description
        return called

    return decorate


def contract_of(view: View) -> Contract | None:
    found: Contract | None = getattr(view, "contract", None)
    return found
