"""The one room for what the program says: texts by code, in English and in Spanish.

The core yields codes and values; whoever shows something asks ``text`` for it, or ``str``.
"""

from __future__ import annotations

from plentar.core import said as _said
from plentar.core.said import Said, say
from plentar.words.language import LANGUAGES, PSEUDO, language, locale, speak, speaking
from plentar.words.spoken import capital, chosen, has, phrase, text, unfilled

__all__ = [
    "LANGUAGES",
    "PSEUDO",
    "Said",
    "capital",
    "chosen",
    "has",
    "language",
    "locale",
    "phrase",
    "say",
    "speak",
    "speaking",
    "text",
    "unfilled",
]
_said.speaker[0] = text
