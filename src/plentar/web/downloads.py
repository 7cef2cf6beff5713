"""Files to keep."""

from __future__ import annotations

import io
import re

from flask import Response, send_file

#: What some file system or header can't have in a name.
_NOT_IN_NAMES = re.compile(r'[\x00-\x1f\x7f/\\:*?"<>|]+')
MOST_NAME = 120


def download(whole: str | bytes, name: str, kind: str) -> Response:
    """A text, or bytes, as a file of this name, in whatever script it is written."""
    raw = whole.encode() if isinstance(whole, str) else whole
    stem, dot, end = _NOT_IN_NAMES.sub("-", name).rpartition(".")
    short = f"{stem[:MOST_NAME]}{dot}{end}"
    answer: Response = send_file(
        io.BytesIO(raw), mimetype=kind, as_attachment=True, download_name=short, etag=False, max_age=0
    )
    if kind.startswith("text/"):
        answer.mimetype_params["charset"] = "utf-8"
    return answer
