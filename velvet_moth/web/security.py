"""What every request and answer must obey: loopback names only, no NUL bytes, strict headers, CSRF."""

import hashlib
from typing import Any

from flask import Flask, Response, abort, jsonify, request
from flask_wtf.csrf import CSRFProtect, generate_csrf
from werkzeug.routing import IntegerConverter, Map

from velvet_moth.store.edits import LARGEST_ID
from velvet_moth.web.api.contract import MOST_BYTES, contract_of
from velvet_moth.web.assets import Assets

LOCAL_NAMES = ("127.0.0.1", "localhost", "[::1]")
# What any request may send: the largest file that is taken anywhere, and what a form has around it.
MOST_OF_ANY = 264 << 20


class RowId(IntegerConverter):
    """A number in an address: none that no row can have."""

    def __init__(self, url_map: Map, **kwargs: Any) -> None:
        super().__init__(url_map, max=LARGEST_ID, **kwargs)


def own_name(secret: str) -> str:
    """The cookie of this installation. Browsers share cookies between all ports of a machine."""
    return f"moth_{hashlib.sha256(secret.encode()).hexdigest()[:10]}"


def install(app: Flask, shipped: Assets) -> None:
    app.url_map.converters["int"] = RowId
    app.config.update(
        SESSION_COOKIE_NAME=own_name(app.config["SECRET_KEY"]),
        MAX_CONTENT_LENGTH=MOST_BYTES,
        MAX_FORM_MEMORY_SIZE=MOST_BYTES,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_SSL_STRICT=False,
    )

    @app.before_request
    def limit() -> None:
        # The check below is the first to read the form.
        view = app.view_functions.get(request.endpoint or "")
        contract = contract_of(view) if view else None
        request.max_content_length = contract.most_bytes if contract else MOST_BYTES

    CSRFProtect(app)

    @app.get("/api/key")
    def key() -> Response:
        """A fresh key for a page whose own is no longer taken: after a cookie was lost or the clock was set."""
        return jsonify(key=generate_csrf())

    @app.before_request
    def check() -> None:
        # A page elsewhere could point a name of its own at this machine.
        if request.host.rsplit(":", 1)[0] not in LOCAL_NAMES:
            abort(400, "This server answers to local names only.")
        # PostgreSQL keeps no NUL in text; no honest request holds one.
        if request.is_json and (b"\\u0000" in request.get_data() or b"\0" in request.get_data()):
            abort(400, "A text holds a NUL character.")
        if "\0" in request.full_path or "%00" in request.full_path:
            abort(400, "The address holds a NUL character.")

    @app.after_request
    def headers(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = shipped.content_policy
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "same-origin"
        response.headers.setdefault("Cache-Control", "no-store")
        return response
