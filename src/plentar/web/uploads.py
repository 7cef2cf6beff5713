"""How large what is sent here may be: small, a few routes apart that take files. To be asked before
the form is read, so before the protection against forged posts."""

from __future__ import annotations

from flask import Flask, request

from plentar.files.handover_json import MOST_BASE64, MOST_PHOTOS
from plentar.files.log_csv import MAX_BYTES as MOST_LOG
from plentar.files.photos import MOST_BYTES as MOST_PHOTO

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


def init_app(app: Flask) -> None:
    app.config["MAX_CONTENT_LENGTH"] = MOST_UPLOAD_BYTES

    @app.before_request
    def _allow_files() -> None:
        if request.endpoint in _MOST:
            request.max_content_length = _MOST[request.endpoint]
