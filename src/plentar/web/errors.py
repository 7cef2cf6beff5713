"""Errors mapped once: what the core and the store raise → a status and plain words."""

from __future__ import annotations

import math

from flask import Flask, current_app, g, render_template, request
from flask_wtf.csrf import CSRFError
from sqlalchemy.exc import InterfaceError, InternalError, OperationalError, PendingRollbackError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from werkzeug.exceptions import HTTPException

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.store.errors import Conflict, NotFound, TooMany
from plentar.store.photo_room import NoRoom
from plentar.web.answer import Answer, wants_fragment
from plentar.web.database import was_committing
from plentar.web.refused import page_again
from plentar.words import phrase

SERVER_ERROR = 500
_TITLES = {
    400: say("errors.request-did-not-fit"),
    404: say("errors.nothing-here"),
    405: say("errors.request-did-not-fit"),
    409: say("errors.something-changed-meanwhile"),
    413: say("errors.file-too-large"),
    422: say("errors.value-does-not-fit"),
    429: say("errors.not-just-now"),
}


def init_app(app: Flask) -> None:
    @app.errorhandler(BadInput)
    def _bad_input(error: BadInput) -> Answer:
        return _refused(422, str(error), error)

    @app.errorhandler(NotFound)
    def _not_found(error: NotFound) -> tuple[str, int]:
        return _page(404, str(error))

    @app.errorhandler(Conflict)
    def _conflict(error: Conflict) -> Answer:
        return _refused(409, str(error))

    @app.errorhandler(TooMany)
    def _too_many(error: TooMany) -> Answer:
        page, code, headers = _refused(429, str(error))
        return page, code, headers | {"Retry-After": str(max(1, math.ceil(error.wait_s)))}

    @app.errorhandler(CSRFError)
    def _csrf(_error: CSRFError) -> Answer:
        return _refused(400, phrase("errors.page-was-too-old"))

    @app.errorhandler(HTTPException)
    def _http(error: HTTPException) -> tuple[str, int]:
        code = error.code or 500
        return _page(code, phrase("errors.no-such-page") if code == 404 else error.description or "")

    @app.errorhandler(500)
    def _crash(_error: Exception) -> tuple[str, int]:
        return _page(500, phrase("errors.plentar-made-mistake-what"))

    @app.errorhandler(NoRoom)
    def _no_room(error: NoRoom) -> tuple[str, int]:
        return _page(503, str(error))

    for gone in (OperationalError, InterfaceError, InternalError, PendingRollbackError, PoolTimeout):
        app.register_error_handler(gone, _no_database)


def _no_database(_error: Exception) -> Answer:
    """The database is gone, frozen or too busy: said by a page that needs none."""
    if request.method in ("GET", "HEAD"):
        text = phrase("errors.database-does-not-answer")
    elif was_committing():
        text = phrase("errors.database-stopped-answering-while")
    else:
        text = phrase("errors.not-stored-database-does")
    g.refusal = text
    # Not with what every other page is told: who is signed in stands in the database.
    page = current_app.jinja_env.get_template("down.html").render(text=text)
    return page, 503, {"Retry-After": "5"}


def _refused(code: int, text: str, bad: BadInput | None = None) -> tuple[str, int, dict[str, str]]:
    """A refusal that leaves the page as it is: with script, put in at the field that it names; without,
    the page itself again, with what was typed."""
    reason, field = (bad.reason, bad.path) if bad else (text, "")
    if not wants_fragment() and (again := page_again(str(reason), field)) is not None:
        return again, code, {}
    page, code = _page(code, text, field=field, reason=str(reason))
    # A field's own complaint is no page: it goes above, and from there to its field.
    return page, code, {"HX-Retarget": "#alert", "HX-Reswap": "innerHTML", "HX-Reselect": "#problem"}


def _page(code: int, text: str, **said: str) -> tuple[str, int]:
    """What a refused request says. It is refused before anything is stored, a crash may not be."""
    g.refusal = text
    title = _TITLES.get(code, phrase("errors.something-went-wrong"))
    page = render_template(
        "error.html", title=title, text=text, code=code, unchanged=code < SERVER_ERROR, **said
    )
    return page, code
