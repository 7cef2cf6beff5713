"""Dates as the language that is spoken writes them."""

from __future__ import annotations

from datetime import date

from babel.dates import format_date, format_skeleton

from plentar.words.language import locale


def day_of_year(when: date) -> str:
    """Such as “December 1, 2026”."""
    return str(format_date(when, "long", locale=locale()))


def day_of_month(when: date) -> str:
    """Such as “Dec 1”."""
    return str(format_skeleton("MMMd", when, locale=locale()))


def month(when: date) -> str:
    """Such as “Dec 2026”."""
    return str(format_skeleton("yMMM", when, locale=locale()))
