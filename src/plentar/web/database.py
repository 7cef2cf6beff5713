"""One database session a request."""

from __future__ import annotations

from flask import current_app, g
from sqlalchemy.orm import Session


def database() -> Session:
    """This request's session; what is not committed is rolled back at its end."""
    if "database" not in g:
        g.database = current_app.extensions["plentar_sessions"]()
    session: Session = g.database
    return session


def close_session(_error: BaseException | None) -> None:
    """Give the session back."""
    session: Session | None = g.pop("database", None)
    if session is not None:
        session.close()
