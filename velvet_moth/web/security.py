"""What every request and answer must obey: loopback names only, no NUL bytes, strict headers, CSRF."""

from flask import Flask, Response, abort, request
from flask_wtf.csrf import CSRFProtect

from velvet_moth.web.assets import Assets

LOCAL_NAMES = ("127.0.0.1", "localhost", "[::1]")
MOST_BYTES = 72 * 1024 * 1024


def install(app: Flask, shipped: Assets) -> None:
    app.config.update(
        MAX_CONTENT_LENGTH=MOST_BYTES,
        MAX_FORM_MEMORY_SIZE=MOST_BYTES,
        SESSION_COOKIE_SAMESITE="Strict",
        SESSION_COOKIE_HTTPONLY=True,
        WTF_CSRF_TIME_LIMIT=None,
        WTF_CSRF_SSL_STRICT=False,
    )
    CSRFProtect(app)

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
