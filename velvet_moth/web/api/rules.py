"""Rules of placing: listed, made, changed by operations, exported and brought in."""

import json
from typing import Any

from flask import Blueprint, Response, request

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.base.plain_names import identifier
from velvet_moth.core.base.records import parsed
from velvet_moth.core.throwing.rule import FIRST_RULE, PARTS, rule_from_json, rule_to_json
from velvet_moth.store import projects, rules
from velvet_moth.store.models import RuleRow
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.rule_answers import RuleList, RulePartState, RuleState
from velvet_moth.web.api.schemas import RuleEdit, RuleRequest, StackStep
from velvet_moth.web.database import db

api = Blueprint("rules", __name__, url_prefix="/api/rules")


def described_parts() -> dict[str, RulePartState]:
    """The parts of every rule as the page needs them."""
    return {
        key: {
            "name": part.name,
            "words": part.words,
            "across": part.across,
            "up": part.up,
            "first": part.first,
            "fixed": bool(part.fixed),
        }
        for key, part in PARTS.items()
    }


def _state(row: RuleRow) -> RuleState:
    rule = rules.rule_of(row)
    undo, redo = rules.HISTORY.newest(db(), row)
    return {
        "id": row.id,
        "revision": row.revision,
        "name": rule.name,
        "curves": {part: rule.curve(part) for part in PARTS},
        "changed_parts": sorted(rule.curves),
        "undo": undo.words,
        "redo": redo.words,
    }


@api.get("")
@takes()
def listed() -> RuleList:
    rows = rules.listed(db(), projects.first(db()).id)
    return {"rules": [{"id": row.id, "name": row.name} for row in rows]}


@api.post("")
@takes(body=RuleRequest)
def create(asked: RuleRequest) -> RuleState:
    """Keeps a rule: the one that is sent, or the first there is."""
    rule: Any = rule_from_json(asked.rule, "rule") if asked.rule is not None else FIRST_RULE
    return _state(rules.create(db(), projects.first(db()).id, rule))


@api.post("/import")
@takes(upload=("file",), most_bytes=1 << 20)
def bring_in() -> RuleState:
    """Keeps the rule of a file; one that is there already, the same, is that one."""
    sent = request.files.get("file")
    if sent is None:
        raise FileRefused("No file came with the request.", "file", "Choose a rule file.")
    where = f"file {sent.filename!r}"
    rule = rule_from_json(parsed(sent.read(), where, "Choose a file that was exported as a rule."), where)
    return _state(rules.keep(db(), projects.first(db()).id, rule))


@api.get("/<int:key>")
@takes()
def read(key: int) -> RuleState:
    return _state(rules.HISTORY.load(db(), key))


@api.post("/<int:key>/operations")
@takes(body=RuleEdit)
def edit(key: int, asked: RuleEdit) -> RuleState:
    return _state(rules.HISTORY.change(db(), key, asked.revision, asked.operation))


@api.post("/<int:key>/undo")
@takes(body=StackStep)
def undo(key: int, asked: StackStep) -> RuleState:
    return _state(rules.HISTORY.undo(db(), key, asked.revision))


@api.post("/<int:key>/redo")
@takes(body=StackStep)
def redo(key: int, asked: StackStep) -> RuleState:
    return _state(rules.HISTORY.redo(db(), key, asked.revision))


@api.post("/<int:key>/copy")
@takes()
def copy(key: int) -> RuleState:
    """Keeps a copy with a history of its own."""
    rule = rules.rule_of(rules.HISTORY.load(db(), key))
    return _state(rules.create(db(), projects.first(db()).id, rule))


@api.delete("/<int:key>")
@takes()
def delete(key: int) -> RuleList:
    rules.delete(db(), key)
    rows = rules.listed(db(), projects.first(db()).id)
    return {"rules": [{"id": row.id, "name": row.name} for row in rows]}


@api.post("/<int:key>/restore")
@takes()
def restore(key: int) -> RuleState:
    return _state(rules.restore(db(), key))


@api.get("/<int:key>/export.json")
@sends("application/json")
def export(key: int) -> Response:
    rule = rules.rule_of(rules.HISTORY.load(db(), key))
    text = json.dumps(rule_to_json(rule), indent=1, ensure_ascii=False) + "\n"
    name = identifier(rule.name) or "rule"
    return Response(
        text,
        mimetype="application/json",
        headers={"Content-Disposition": f'attachment; filename="{name}.rule.json"'},
    )
