"""One database session a request."""

from __future__ import annotations

from flask import Flask, current_app, g
from sqlalchemy import event
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from plentar.store.database import connect
from plentar.store.photo_room import room_at
from plentar.store.photos import ROOM
from plentar.web.watch.requests import watch_engine


def init_app(app: Flask, url: str, photo_room: str) -> None:
    """Sessions on a database, which say when they begin to commit."""
    sessions = app.extensions["plentar_sessions"] = connect(url, {ROOM: room_at(photo_room)})
    watch_engine(sessions.kw["bind"])
    event.listen(sessions, "before_commit", _committing)
    app.teardown_appcontext(_close)


def database() -> Session:
    """This request's session; what is not committed is rolled back at its end."""
    if "database" not in g:
        g.database = current_app.extensions["plentar_sessions"]()
    session: Session = g.database
    return session


def another_session() -> Session:
    """One beside this request's, for what is stored whatever becomes of the request; the caller closes it."""
    session: Session = current_app.extensions["plentar_sessions"]()
    return session


def _committing(session: Session) -> None:
    session.info["committing"] = True


def was_committing() -> bool:
    """A commit was begun in this request, so that what it stored may be stored."""
    session: Session | None = g.get("database")
    return session is not None and bool(session.info.get("committing"))


def _close(_error: BaseException | None) -> None:
    """Give the session back."""
    session: Session | None = g.pop("database", None)
    if session is None:
        return
    try:
        session.close()
    except SQLAlchemyError:
        session.invalidate()  # the server has gone: there is nothing to give back
