"""Static files by content hash, so that browsers may keep them for good."""

from __future__ import annotations

from hashlib import sha256
from pathlib import Path

from flask import Flask, url_for

STATIC = Path(__file__).parent / "static"
A_YEAR_S = 31_536_000


def init_app(app: Flask) -> None:
    """Give templates ``asset``, and let browsers keep what carries a hash."""
    marks = {
        file.relative_to(STATIC).as_posix(): sha256(file.read_bytes()).hexdigest()[:10]
        for file in STATIC.rglob("*")
        if file.is_file()
    }

    def asset(name: str) -> str:
        return url_for("static", filename=name, v=marks[name])

    app.config["SEND_FILE_MAX_AGE_DEFAULT"] = A_YEAR_S
    app.jinja_env.globals["asset"] = asset
