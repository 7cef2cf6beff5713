"""Errors mapped once: what the core and the store raise → a status and plain words."""

from __future__ import annotations

import math

from flask import Flask, render_template
from flask_wtf.csrf import CSRFError
from werkzeug.exceptions import HTTPException

from plentar.core.errors import BadInput
from plentar.store.errors import Conflict, NotFound, TooMany
from plentar.web.answer import Answer

_TITLES = {
    400: "That request did not fit",
    404: "Nothing here",
    405: "That request did not fit",
    409: "Something changed meanwhile",
    413: "That file is too large",
    422: "That value does not fit",
    429: "Too many tries",
}


def init_app(app: Flask) -> None:
    """Register the handlers."""

    @app.errorhandler(BadInput)
    def _bad_input(error: BadInput) -> Answer:
        page, code = _page(422, str(error))
        # Refused without a field to stand beside: said above the page, which stays as it is.
        above = {"HX-Retarget": "#alert", "HX-Reswap": "innerHTML", "HX-Reselect": "#problem"}
        return page, code, above

    @app.errorhandler(NotFound)
    def _not_found(error: NotFound) -> tuple[str, int]:
        return _page(404, str(error))

    @app.errorhandler(Conflict)
    def _conflict(error: Conflict) -> tuple[str, int]:
        return _page(409, str(error))

    @app.errorhandler(TooMany)
    def _too_many(error: TooMany) -> Answer:
        page, code = _page(429, str(error))
        return page, code, {"Retry-After": str(max(1, math.ceil(error.wait_s)))}

    @app.errorhandler(CSRFError)
    def _csrf(_error: CSRFError) -> tuple[str, int]:
        return _page(400, "The page was too old to be sent. Load it again; nothing was changed.")

    @app.errorhandler(HTTPException)
    def _http(error: HTTPException) -> tuple[str, int]:
        code = error.code or 500
        return _page(code, "No such page." if code == 404 else error.description or "")

    @app.errorhandler(500)
    def _crash(_error: Exception) -> tuple[str, int]:
        return _page(500, "Plentar made a mistake. What was acknowledged before is safe.")


def _page(code: int, text: str) -> tuple[str, int]:
    title = _TITLES.get(code, "Something went wrong")
    return render_template("error.html", title=title, text=text, code=code), code
