"""Every failure as a sentence: JSON for scripts, a page for people."""

from typing import Any

from flask import Flask, Response, current_app, jsonify, make_response, render_template, request
from flask_wtf.csrf import CSRFError
from psycopg import errors as postgres
from pydantic import ValidationError
from sqlalchemy.exc import DataError, DBAPIError, InterfaceError, OperationalError
from sqlalchemy.exc import TimeoutError as NoConnection
from werkzeug.exceptions import HTTPException

from velvet_moth.core.base.errors import FileRefused, MothError, OperationRefused
from velvet_moth.core.base.records import LIMITS, sentence
from velvet_moth.store.edits import NothingToUndo, StaleRevision
from velvet_moth.store.errors import NotFound, no_database
from velvet_moth.store.graphs import MotifInUse
from velvet_moth.web.lanes import Busy

STATUS: dict[type[MothError], int] = {
    NotFound: 404,
    StaleRevision: 409,
    NothingToUndo: 409,
    MotifInUse: 409,
    OperationRefused: 422,
    FileRefused: 422,
    Busy: 503,
}
# When to ask again what could not be answered just now, in seconds.
RETRY_AFTER = "2"


def _answer(status: int, code: str, what: str, where: str = "", mend: str = "", **more: Any) -> Response:
    if request.path.startswith("/api/"):
        body = {"error": {"code": code, "what": what, "where": where, "mend": mend}, **more}
        response: Response = jsonify(body)
        response.status_code = status
    else:
        response = make_response(render_template("error.html", what=what, mend=mend, status=status), status)
    if status == 503:
        response.headers["Retry-After"] = RETRY_AFTER
    return response


def _moth_error(error: MothError) -> Response:
    more: dict[str, Any] = {}
    if isinstance(error, StaleRevision):
        more["revision"] = error.revision
        more["since"] = [{"number": c.number, "words": c.words, "operation": c.operation} for c in error.since]
    return _answer(STATUS.get(type(error), 400), error.code, error.what, error.where, error.mend, **more)


def _validation_error(error: ValidationError) -> Response:
    first = error.errors(include_url=False)[0]
    where = "/".join(str(part) for part in first["loc"])
    if first["type"] in LIMITS and first["loc"][0] in ("operation", "craft"):
        return _answer(422, OperationRefused.code, sentence(first), where, "Choose a shorter text or a nearer number.")
    return _answer(400, "bad-request", f"The request is not in order. {sentence(first)}", where, "Reload the page.")


def _csrf_error(error: CSRFError) -> Response:
    return _answer(400, "stale-page", f"The page's key is out of date: {error.description}", "", "Reload the page.")


def _http_error(error: HTTPException) -> Response:
    words = {
        404: "There is nothing at this address.",
        405: "This address does not take that kind of request.",
        413: "That is more than is taken in one go.",
    }
    status = error.code or 500
    return _answer(status, error.name.lower().replace(" ", "-"), words.get(status, error.description or error.name))


def _no_database(error: Exception) -> Response:
    """The database is away, starting again, full, or asked by too many: nothing was changed, and asking again may help."""
    current_app.logger.warning("the database did not answer at %s: %s", request.path, error)
    refusal = no_database(error)
    return _answer(503, refusal.code, refusal.what, "", refusal.mend)


def _database_error(error: DBAPIError) -> Response:
    return _no_database(error) if error.connection_invalidated else _unexpected(error)


def _no_data(_: DataError) -> Response:
    return _answer(400, "bad-request", "A text or number is none that can be kept.", "", "Reload the page.")


def _too_deep(_: RecursionError) -> Response:
    return _answer(400, "bad-request", "The request is nested too deep.", "", "Send it with fewer levels.")


def _unexpected(error: Exception) -> Response:
    current_app.logger.exception("unexpected error at %s", request.path, exc_info=error)
    return _answer(500, "internal", "Something went wrong on our side; nothing was changed.", "", "Try again.")


def install(app: Flask) -> None:
    app.register_error_handler(MothError, _moth_error)
    app.register_error_handler(ValidationError, _validation_error)
    app.register_error_handler(CSRFError, _csrf_error)
    app.register_error_handler(HTTPException, _http_error)
    for away in (OperationalError, InterfaceError, NoConnection, postgres.OperationalError):
        app.register_error_handler(away, _no_database)
    app.register_error_handler(DBAPIError, _database_error)
    app.register_error_handler(DataError, _no_data)
    app.register_error_handler(RecursionError, _too_deep)
    app.register_error_handler(Exception, _unexpected)
