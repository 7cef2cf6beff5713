"""Which language is being spoken: one at a time, for as long as a block lasts."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import cache
from pathlib import Path

from babel import Locale
from babel.support import NullTranslations, Translations

TRANSLATIONS = Path(__file__).parent / "translations"
DOMAIN = "plentar"
#: The languages of the catalogues, each by its own name, and the locale of its numbers and dates.
LANGUAGES = {"en": "English", "es": "Español"}
_LOCALES = {"en": "en_US", "es": "es_US"}
#: Every text in brackets: a test sees by it what is no text of the catalogue.
PSEUDO = "xx"
_spoken: ContextVar[str] = ContextVar("language", default="en")


@contextmanager
def speaking(language: str) -> Iterator[None]:
    """Speak a language within the block; one that is not known is English."""
    token = _spoken.set(language if language in LANGUAGES or language == PSEUDO else "en")
    try:
        yield
    finally:
        _spoken.reset(token)


def speak(language: str) -> None:
    """Speak a language from now on, in this context."""
    _spoken.set(language if language in LANGUAGES or language == PSEUDO else "en")


def language() -> str:
    return _spoken.get()


def locale() -> Locale:
    """How numbers and dates are written in the language that is spoken."""
    return Locale.parse(_LOCALES.get(language(), "en_US"))


@cache
def translations(of: str) -> NullTranslations:
    """The catalogue of a language; English is the texts themselves."""
    return Translations.load(TRANSLATIONS, [of], DOMAIN)
