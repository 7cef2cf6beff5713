"""Files to keep."""

from __future__ import annotations

from flask import Response


def download(text: str, name: str, kind: str) -> Response:
    """A text as a file of this name."""
    response = Response(text, mimetype=kind)
    response.headers.set("Content-Disposition", "attachment", filename=name)
    return response
