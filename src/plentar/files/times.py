"""Times and days as the visit file writes them, within a span that every clock and database can hold."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated, Any

from pydantic import AfterValidator, AwareDatetime, BeforeValidator, PlainSerializer

from plentar.words import phrase

FIRST_YEAR, LAST_YEAR = 1970, 2200


def _as_time(value: Any) -> Any:
    """ISO text to a time, in strict mode too."""
    if isinstance(value, str):
        try:
            return datetime.fromisoformat(value)
        except ValueError:
            raise ValueError(phrase("files.times.iso-8601-time-zone")) from None
    return value


def _as_day(value: Any) -> Any:
    if isinstance(value, str):
        try:
            return date.fromisoformat(value)
        except ValueError:
            raise ValueError(phrase("files.times.day-like-2026-10")) from None
    return value


def _of_our_time(value: Any) -> Any:
    if not FIRST_YEAR <= value.year <= LAST_YEAR:
        raise ValueError(phrase("files.times.time-from", first_year=FIRST_YEAR, last_year=LAST_YEAR))
    return value


#: Both are written as text again, which the store keeps as JSON.
TimeOfDay = Annotated[
    AwareDatetime,
    BeforeValidator(_as_time),
    AfterValidator(_of_our_time),
    PlainSerializer(lambda time: time.isoformat(), return_type=str),
]
Day = Annotated[
    date,
    BeforeValidator(_as_day),
    AfterValidator(_of_our_time),
    PlainSerializer(lambda day: day.isoformat(), return_type=str),
]
