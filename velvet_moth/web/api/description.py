"""The description of the JSON interface in OpenAPI, made from what each address declares."""

import inspect
import re
from typing import Any

from flask import Blueprint, Flask, Response, current_app, jsonify
from pydantic import TypeAdapter
from werkzeug.routing import Rule

from velvet_moth.store.edits import LARGEST_ID
from velvet_moth.web.api import answers
from velvet_moth.web.api.contract import Contract, contract_of

api = Blueprint("description", __name__, url_prefix="/api")

_PART = re.compile(r"<(?:(\w+):)?(\w+)>")
_REF = "#/components/schemas/{model}"
REFUSED = ("400", "404", "409", "413", "422", "503")


@api.get("")
def described() -> Response:
    return jsonify(description(current_app))


def description(app: Flask) -> dict[str, Any]:
    """All addresses below /api that declare what they take and give."""
    parts = _Parts()
    paths: dict[str, dict[str, Any]] = {}
    for rule in app.url_map.iter_rules():
        view = app.view_functions[rule.endpoint]
        contract = contract_of(view)
        if contract is not None:
            methods = paths.setdefault(_PART.sub(r"{\2}", rule.rule), {})
            for method in (rule.methods or set()) - {"HEAD", "OPTIONS"}:
                methods[method.lower()] = _operation(rule, contract, inspect.getdoc(view) or "", parts)
    return {
        "openapi": "3.1.0",
        "info": {"title": "Velvet Moth", "version": "1"},
        "paths": dict(sorted(paths.items())),
        "components": {"schemas": parts.schemas},
    }


class _Parts:
    """The schemas that others refer to."""

    def __init__(self) -> None:
        self.schemas: dict[str, Any] = {}

    def of(self, type_: Any) -> dict[str, Any]:
        schema: dict[str, Any] = TypeAdapter(type_).json_schema(ref_template=_REF)
        self.schemas |= schema.pop("$defs", {})
        return schema


def _operation(rule: Rule, contract: Contract, words: str, parts: _Parts) -> dict[str, Any]:
    parameters = [
        {"name": name, "in": "path", "required": True, "schema": _path_schema(kind)}
        for kind, name in _PART.findall(rule.rule)
    ]
    found: dict[str, Any] = {
        "operationId": rule.endpoint,
        "summary": words.split("\n", maxsplit=1)[0],
        "parameters": parameters,
    }
    if contract.query is not None:
        asked = parts.of(contract.query)
        required = asked.get("required", [])
        for name, schema in asked.get("properties", {}).items():
            parameters.append({"name": name, "in": "query", "required": name in required, "schema": schema})
    if contract.body is not None:
        content = {"application/json": {"schema": parts.of(contract.body)}}
        found["requestBody"] = {"required": True, "content": content}
    if contract.upload:
        fields = {name: {"type": "string"} for name in contract.upload}
        schema = {"type": "object", "properties": {"file": {"type": "string", "format": "binary"}, **fields}}
        found["requestBody"] = {"required": True, "content": {"multipart/form-data": {"schema": schema}}}
    refusal = {"description": "Refused", "content": {"application/json": {"schema": parts.of(answers.Refusal)}}}
    found["responses"] = {"200": _answer(contract.gives, parts), **dict.fromkeys(REFUSED, refusal)}
    return found


def _path_schema(kind: str) -> dict[str, Any]:
    if kind == "int":
        return {"type": "integer", "minimum": 0, "maximum": LARGEST_ID}
    return {"type": "string", "minLength": 1, "pattern": "^[^/]+$"}


def _answer(gives: Any, parts: _Parts) -> dict[str, Any]:
    if isinstance(gives, str):
        return {"description": "Done", "content": {gives: {"schema": {"type": "string", "format": "binary"}}}}
    return {"description": "Done", "content": {"application/json": {"schema": parts.of(gives)}}}
