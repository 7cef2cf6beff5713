"""One database session a request."""

from __future__ import annotations

from flask import current_app, g
from sqlalchemy import event
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session


def database() -> Session:
    """This request's session; what is not committed is rolled back at its end."""
    if "database" not in g:
        g.database = current_app.extensions["plentar_sessions"]()
        event.listen(g.database, "before_commit", _committing)
    session: Session = g.database
    return session


def _committing(session: Session) -> None:
    session.info["committing"] = True


def was_committing() -> bool:
    """A commit was begun in this request, so that what it stored may be stored."""
    session: Session | None = g.get("database")
    return session is not None and bool(session.info.get("committing"))


def close_session(_error: BaseException | None) -> None:
    """Give the session back."""
    session: Session | None = g.pop("database", None)
    if session is None:
        return
    try:
        session.close()
    except SQLAlchemyError:
        session.invalidate()  # the server has gone: there is nothing to give back
