"""One stream of news for each browser: which graphs have changed, as server-sent events."""

import json
from collections.abc import Iterator
from dataclasses import asdict

from flask import Blueprint, Response, current_app

from velvet_moth.web.news import Newsroom

api = Blueprint("events", __name__, url_prefix="/api")


@api.get("/events")
def events() -> Response:
    newsroom: Newsroom = current_app.extensions["newsroom"]

    def lines() -> Iterator[str]:
        yield "retry: 1000\n: hello\n\n"
        for news in newsroom.stream():
            yield f"data: {json.dumps(asdict(news))}\n\n" if news else ": still here\n\n"

    return Response(lines(), mimetype="text/event-stream", headers={"Cache-Control": "no-store"})
