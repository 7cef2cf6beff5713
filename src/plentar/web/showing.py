"""How templates write numbers, times and verdicts."""

from __future__ import annotations

import json
import re
import uuid
from collections.abc import MutableMapping
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from flask import Flask, request
from flask.templating import Environment
from flask_login import current_user
from flask_wtf.csrf import generate_csrf
from jinja2 import Undefined
from jinja2.ext import Extension
from markupsafe import Markup, escape

from plentar.core.expected import Word
from plentar.core.said import listed
from plentar.drawing.glyphs import glyph, in_words, tone
from plentar.web.drawings import control_side, line_side
from plentar.web.people import me
from plentar.words import LANGUAGES, capital, chosen, language, measures, phrase, speak, unfilled
from plentar.words.dates import day_of_year
from plentar.words.heard import pieces
from plentar.words.measures import Measures, measure
from plentar.words.numbers import clock, show
from plentar.words.visits import action_in_words, finding_in_words

#: How htmx is set up: no code and no styles of its own, and which answers go where.
HTMX = {
    "includeIndicatorStyles": False,
    "allowEval": False,
    "selfRequestsOnly": True,
    "historyCacheSize": 0,
    "defaultSettleDelay": 0,
    "timeout": 20_000,
    "responseHandling": [
        {"code": "204", "swap": False},
        {"code": "[23]..", "swap": True},
        {"code": "422", "swap": True},
        {
            "code": "[45]..",
            "swap": True,
            "target": "#alert",
            "swapOverride": "innerHTML",
            "select": "#problem",
        },
    ],
}
THEMES = ("auto", "light", "dark")


def natural(name: str) -> list[tuple[int, str]]:
    """A key that sorts E2 before E10."""
    return [(int(part), "") if part.isdigit() else (-1, part) for part in re.split(r"(\d+)", name)]


def local(when: datetime) -> datetime:
    """A time as the clocks of the shop that is signed in show it."""
    somebody = current_user.is_authenticated
    return when.astimezone(ZoneInfo(current_user.account.timezone if somebody else "UTC"))


def day(when: datetime) -> str:
    """A date in plain order, by the shop's own clock."""
    there = local(when)
    return day_of_year(there)


def day_and_time(when: datetime) -> str:
    """The same with the time and its zone."""
    there = local(when)
    return f"{day(when)}, {there:%H:%M} {there.tzname()}"


def theme() -> str:
    chosen = request.cookies.get("theme", "auto")
    return chosen if chosen in THEMES else "auto"


def next_theme() -> str:
    return {"auto": "dark", "dark": "light", "light": "auto"}[theme()]


def token() -> Markup:
    """The hidden field that every form carries."""
    return Markup(f'<input type="hidden" name="csrf_token" value="{generate_csrf()}">')


def say_in_page(code: str, /, **values: Any) -> str | Markup:
    """The text of a code for a page; a value that is markup already stays so."""
    marked = {name: value for name, value in values.items() if hasattr(value, "__html__")}
    if not marked:
        return phrase(code, **{name: "" if isinstance(v, Undefined) else v for name, v in values.items()})
    places = {name: f"\ue000{number}\ue001" for number, name in enumerate(marked)}
    page = str(escape(phrase(code, **values | places)))
    for name, place in places.items():
        page = page.replace(place, str(marked[name].__html__()))
    return Markup(page)


def heard(seen: object) -> Markup:
    """A text whose figures stay on one line and are named as a screen reader is to say them; markup has names of
    its own."""
    if isinstance(seen, Markup):
        return seen
    shown = Markup('<span class="figure" role="img" aria-label="{}">{}</span>')
    return Markup("").join(
        seen if seen == said else shown.format(said, seen) for seen, said in pieces(str(seen))
    )


def verdict(word: Word, good: bool | None, provisional: bool = False) -> Markup:
    classes = f"verdict tone-{tone(word, good)}{' provisional' if provisional else ''}"
    return Markup(f'<span class="{classes}">{glyph(word)}{in_words(word, provisional)}</span>')


class Outdented(Extension):
    """Templates are indented for who writes them; what is sent is not."""

    def preprocess(self, source: str, name: str | None, filename: str | None = None) -> str:
        """The same lines without what they begin with."""
        return re.sub(r"\n[ \t]+", "\n", source)


class Templates(Environment):
    """Templates have no globals of their own: comparing maps of them at every import of a macro
    takes longer than the macro."""

    def make_globals(self, d: MutableMapping[str, Any] | None) -> MutableMapping[str, Any]:
        return super().make_globals(d) if d else self.globals


def _asked_for() -> str:
    """The language of a page: that of who is signed in, else of the browser."""
    if current_user.is_authenticated:
        return str(current_user.account.language)
    return request.accept_languages.best_match(list(LANGUAGES)) or "en"


#: What scripts say, by the last part of their codes.
_SCRIPT_WORDS = (
    "read-now",
    "not-sent",
    "no-answer",
    "kept",
    "in",
    "left",
    "over",
    "send-again",
    "unsent-at-leaving",
    "along",
)


def sentence(said: object) -> str:
    """A text as a sentence that ends: with its own full stop, or with one more."""
    text = str(said).rstrip()
    return text if text.endswith((".", "!", "?", "…")) else f"{text}."


def script_words() -> str:
    """The texts of the scripts as JSON, their places unfilled."""
    return json.dumps({name: unfilled(f"script.{name}") for name in _SCRIPT_WORDS}, ensure_ascii=False)


def init_app(app: Flask) -> None:
    @app.before_request
    def _speak() -> None:
        if request.endpoint != "static":
            speak(_asked_for())
            measure(me().measures if current_user.is_authenticated else Measures())

    @app.teardown_request
    def _speak_english(_: BaseException | None) -> None:
        speak("en")
        measure(Measures())

    app.jinja_environment = Templates
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.jinja_env.add_extension(Outdented)
    app.jinja_env.filters.update(
        word=chosen,
        sentence=sentence,
        action=action_in_words,
        finding=finding_in_words,
        heard=heard,
        sign=measures.sign,
        listed=lambda items: str(listed(items)),
        show=show,
        clock=clock,
        day=day,
        time=day_and_time,
        capital=lambda said: capital(str(said)),
    )
    # Functions, not macros: fragments use them often, and importing a macro costs each time.
    app.jinja_env.globals.update(
        htmx_config=json.dumps(HTMX),
        token=token,
        say=say_in_page,
        script_words=script_words,
        language=language,
        theme=theme,
        next_theme=next_theme,
        new_id=uuid.uuid4,
        line_side=line_side,
        control_side=control_side,
    )
