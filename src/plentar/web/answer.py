"""What a route answers: a page, or the fragment of it that htmx asked for."""

from __future__ import annotations

from typing import Any

from flask import render_template, request
from werkzeug import Response

Answer = str | Response | tuple[str, int] | tuple[str, int, dict[str, str]]


def wants_fragment() -> bool:
    return "HX-Request" in request.headers


def render(page: str, fragment: str, status: int = 200, **values: Any) -> tuple[str, int]:
    """The page, or with htmx the fragment of it, with the same values."""
    return render_template(fragment if wants_fragment() else page, **values), status
