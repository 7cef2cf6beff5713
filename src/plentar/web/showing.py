"""How templates write numbers, times and verdicts."""

from __future__ import annotations

import uuid
from datetime import datetime

from flask import Flask, request
from markupsafe import Markup

from plentar.core.due import Word
from plentar.core.numerals import show
from plentar.drawing.glyphs import glyph, in_words, tone

THEMES = ("auto", "light", "dark")


def clock(seconds: float) -> str:
    """Seconds as m:ss or h:mm:ss."""
    minutes, left = divmod(int(seconds), 60)
    hours, minutes = divmod(minutes, 60)
    return f"{hours}:{minutes:02}:{left:02}" if hours else f"{minutes}:{left:02}"


def day(when: datetime) -> str:
    """A date in plain order."""
    return f"{when.day} {when:%B %Y}"


def theme() -> str:
    """The theme that this browser chose."""
    chosen = request.cookies.get("theme", "auto")
    return chosen if chosen in THEMES else "auto"


def init_app(app: Flask) -> None:
    """Give templates the filters."""
    app.jinja_env.filters.update(show=show, clock=clock, day=day, words=in_words)
    app.jinja_env.globals.update(
        glyph=lambda word: Markup(glyph(Word(word))), tone=tone, theme=theme, new_id=uuid.uuid4
    )
