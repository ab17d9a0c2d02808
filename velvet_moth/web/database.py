"""One transaction a request: committed where the answer is no error, rolled back otherwise."""

from flask import Flask, Response, current_app, g
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session


def engine() -> Engine:
    found: Engine = current_app.extensions["engine"]
    return found


def db() -> Session:
    """The session of the current request."""
    if "db" not in g:
        g.db = Session(engine(), expire_on_commit=False)
    found: Session = g.db
    return found


def release() -> None:
    """Ends the transaction of a request that only reads, so that none holds a connection while it computes."""
    if "db" in g:
        g.db.commit()


def install(app: Flask, to: Engine) -> None:
    app.extensions["engine"] = to

    @app.after_request
    def finish(response: Response) -> Response:
        if "db" not in g or response.status_code >= 400:
            return response
        try:
            g.db.commit()
        except SQLAlchemyError as error:
            # Nothing is kept: the answer is that of the failure, not the one that was ready.
            g.db.rollback()
            return app.make_response(app.handle_user_exception(error))
        return response

    @app.teardown_request
    def close(_: BaseException | None) -> None:
        if "db" in g:
            g.pop("db").close()
