"""How large what is sent here may be: small, a few routes apart that take files. To be asked before
the form is read, so before the protection against forged posts."""

from __future__ import annotations

import time
from collections.abc import Iterable
from typing import Any

from flask import Flask, request

from plentar.files.handover_json import MOST_BASE64, MOST_PHOTOS
from plentar.files.log_csv import MAX_BYTES as MOST_LOG
from plentar.files.photos import MOST_BYTES as MOST_PHOTO
from plentar.web.guard import App

#: What everything else may take, and what a form around a file adds to it.
MOST_UPLOAD_BYTES, FORM_BYTES = 2_100_000, 20_000
#: An archive of a shop; a larger one is taken in unit by unit, or by whoever runs the installation.
MOST_ARCHIVE = 200_000_000
_VISIT_FILE = MOST_UPLOAD_BYTES + MOST_PHOTOS * MOST_BASE64
_MOST = {
    "logs.add": MOST_LOG + FORM_BYTES,
    "photos.add": MOST_PHOTO + FORM_BYTES,
    "units.take_in": _VISIT_FILE,
    "units.take_onto": _VISIT_FILE,
    "shop.take_in": MOST_ARCHIVE + FORM_BYTES,
}


#: What is read of a post that the application did not want, and for how long, s.
MOST_UNREAD, UNREAD_S = 1_000_000_000, 60.0
_CHUNK = 1 << 16


class ReadToTheEnd:
    """Around the application. A browser that still sends does not read: what the application left of a post is
    read and thrown away before the answer goes, else the browser would only see a connection that was cut."""

    def __init__(self, app: App) -> None:
        self._app = app

    def __call__(self, environ: dict[str, Any], start: Any) -> Iterable[bytes]:
        """The application's answer."""
        answer = self._app(environ, start)
        if environ["REQUEST_METHOD"] == "POST":
            _throw_away(environ["wsgi.input"])
        return answer


def _throw_away(body: Any) -> None:
    until_s, left = time.monotonic() + UNREAD_S, MOST_UNREAD
    while left > 0 and time.monotonic() < until_s:
        try:
            read = len(body.read(_CHUNK))
        except (OSError, ValueError):  # the sender has gone
            return
        if not read:
            return
        left -= read


def init_app(app: Flask) -> None:
    app.config["MAX_CONTENT_LENGTH"] = MOST_UPLOAD_BYTES
    app.wsgi_app = ReadToTheEnd(app.wsgi_app)  # type: ignore[assignment, method-assign]

    @app.before_request
    def _allow_files() -> None:
        if request.endpoint in _MOST:
            request.max_content_length = _MOST[request.endpoint]
