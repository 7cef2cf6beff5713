"""Static files by content hash, so that browsers may keep them for good."""

from __future__ import annotations

from hashlib import sha256
from pathlib import Path

from flask import Flask, current_app, url_for

STATIC = Path(__file__).parent / "static"
A_YEAR_S = 31_536_000
#: What the bench without signal is made of, beside the fonts.
ON_PHONES = (
    "plentar.css",
    "mark.svg",
    "vendor/htmx-2.0.11.min.js",
    "vendor/idb-8.0.4.js",
    "plentar.js",
    "outbox.js",
    "pocket/judge.js",
    "pocket/stops.js",
    "pocket/together.js",
    "pocket/windows.js",
    "pocket/pad.js",
    "pocket/hands.js",
    "pocket/next.js",
    "pocket/bench.js",
)


def asset(name: str) -> str:
    """The address of a static file, by its content."""
    return url_for("static", filename=name, v=current_app.extensions["plentar_assets"][name])


def kept_on_phones() -> list[str]:
    """The addresses that the service worker keeps; the fonts as the style sheet names them."""
    fonts = [url_for("static", filename=f"fonts/{file.name}") for file in (STATIC / "fonts").glob("*.woff2")]
    return [*map(asset, ON_PHONES), *sorted(fonts)]


def init_app(app: Flask) -> None:
    """Give templates ``asset``, and let browsers keep what carries a hash."""
    app.extensions["plentar_assets"] = {
        file.relative_to(STATIC).as_posix(): sha256(file.read_bytes()).hexdigest()[:10]
        for file in STATIC.rglob("*")
        if file.is_file()
    }
    app.config["SEND_FILE_MAX_AGE_DEFAULT"] = A_YEAR_S
    app.jinja_env.globals["asset"] = asset
