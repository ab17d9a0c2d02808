"""Every failure as a sentence: JSON for scripts, a page for people."""

from typing import Any

from flask import Flask, Response, current_app, jsonify, render_template, request
from flask_wtf.csrf import CSRFError
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from velvet_moth.core.errors import FileRefused, MothError, OperationRefused
from velvet_moth.store.errors import NotFound
from velvet_moth.store.graphs import MotifInUse, NothingToUndo, StaleRevision
from velvet_moth.store.recipes import StaleRecipe

STATUS: dict[type[MothError], int] = {
    NotFound: 404,
    StaleRevision: 409,
    NothingToUndo: 409,
    MotifInUse: 409,
    StaleRecipe: 409,
    OperationRefused: 422,
    FileRefused: 422,
}


def _answer(status: int, code: str, what: str, where: str = "", mend: str = "", **more: Any) -> Any:
    if request.path.startswith("/api/"):
        body = {"error": {"code": code, "what": what, "where": where, "mend": mend}, **more}
        response: Response = jsonify(body)
        response.status_code = status
        return response
    return render_template("error.html", what=what, mend=mend, status=status), status


def _moth_error(error: MothError) -> Any:
    more: dict[str, Any] = {}
    if isinstance(error, StaleRevision):
        more["revision"] = error.revision
        more["since"] = [{"number": c.number, "words": c.words, "operation": c.operation} for c in error.since]
    return _answer(STATUS.get(type(error), 400), error.code, error.what, error.where, error.mend, **more)


def _validation_error(error: ValidationError) -> Any:
    first = error.errors(include_url=False, include_context=False)[0]
    where = "/".join(str(part) for part in first["loc"])
    return _answer(400, "bad-request", f"The request is not in order: {first['msg']}.", where, "Reload the page.")


def _csrf_error(error: CSRFError) -> Any:
    return _answer(400, "stale-page", f"The page's key is out of date: {error.description}", "", "Reload the page.")


def _http_error(error: HTTPException) -> Any:
    words = {
        404: "There is nothing at this address.",
        405: "This address does not take that kind of request.",
        413: "That is more than is taken in one go.",
    }
    status = error.code or 500
    return _answer(status, error.name.lower().replace(" ", "-"), words.get(status, error.description or error.name))


def _unexpected(error: Exception) -> Any:
    current_app.logger.exception("unexpected error at %s", request.path, exc_info=error)
    return _answer(500, "internal", "Something went wrong on our side; nothing was changed.", "", "Try again.")


def install(app: Flask) -> None:
    app.register_error_handler(MothError, _moth_error)
    app.register_error_handler(ValidationError, _validation_error)
    app.register_error_handler(CSRFError, _csrf_error)
    app.register_error_handler(HTTPException, _http_error)
    app.register_error_handler(Exception, _unexpected)
