"""Static files by content hash, so that browsers may keep them for good."""

from __future__ import annotations

from functools import cache
from hashlib import sha256
from pathlib import Path

from flask import Flask, url_for

STATIC = Path(__file__).parent / "static"
A_YEAR_S = 31_536_000


@cache
def _mark(name: str) -> str:
    return sha256((STATIC / name).read_bytes()).hexdigest()[:10]


def asset(name: str) -> str:
    return url_for("static", filename=name, v=_mark(name))


def init_app(app: Flask) -> None:
    """Give templates ``asset``, and let browsers keep what carries a hash."""
    app.config["SEND_FILE_MAX_AGE_DEFAULT"] = A_YEAR_S
    app.jinja_env.globals["asset"] = asset
