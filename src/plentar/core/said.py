"""What the core says: a code and the values that go with it, never a sentence.

A part's name, a number with its unit and a whole sentence are all of this one kind, one inside the
other. ``plentar.words`` puts them into a language.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from typing import SupportsInt

#: What may stand in a place of a text. A plain text is data: an id, a mark, what somebody typed.
Value = "Said | str | int | float | tuple[Value, ...]"


@dataclass(frozen=True, slots=True)
class Said:
    """A text by its code. Without a code it says nothing, and is false."""

    code: str = ""
    values: tuple[tuple[str, Said | str | int | float | tuple[Said | str, ...]], ...] = ()

    def __bool__(self) -> bool:
        return bool(self.code)

    def __add__(self, more: Said | str) -> Said:
        """This with another text right behind it."""
        if not more:
            return self
        return Said("joined", (("items", (self, more)),)) if self else say("joined", items=(more,))

    def __radd__(self, before: str) -> Said:
        return Said("joined", (("items", (before, self)),)) if before else self

    def __str__(self) -> str:
        """In the language that is being spoken, once ``plentar.words`` is loaded; its code before."""
        return speaker[0](self)


NOTHING = Said()


def _by_code(said: Said) -> str:
    return said.code


#: Who puts a text into a language.
speaker: list[Callable[[Said], str]] = [_by_code]


def say(code: str, /, **values: Said | str | float | Iterable[Said | str] | None) -> Said:
    """The text of this code with these values in its places."""
    return Said(code, tuple((name, _plain(value)) for name, value in values.items()))


def _plain(
    value: Said | str | float | Iterable[Said | str] | None,
) -> Said | str | int | float | tuple[Said | str, ...]:
    if value is None:
        return ""
    if isinstance(value, str):
        return str(value)  # a word of an enumeration is a text like any other
    if isinstance(value, Said | int):
        return value
    if isinstance(value, float):
        return float(value)
    if isinstance(value, Iterable):
        return tuple(value)
    # numpy's integers are no int; a date of a page stands as it is written
    return int(value) if isinstance(value, SupportsInt) else str(value)


def figure(value: float | None, unit: str = "", digits: int = 3) -> Said:
    """A value at a meter's resolution, as a number with its unit."""
    if value is None:
        return Said("not-measured")
    if math.isinf(value):
        return Said("overload", (("sign", "" if value > 0 else "−"), ("unit", unit)))
    return Said("figure", (("value", float(value)), ("unit", unit), ("digits", digits)))


def span(low: float, high: float, unit: str = "", digits: int = 3) -> Said:
    """A range: from a value to a value, up to one, one or more, or any, as its ends say."""
    ends = (("low", float(low)), ("high", float(high)))
    return Said("span", (*ends, ("unit", unit), ("digits", digits)))


def plain(value: float, unit: str = "") -> Said:
    """A value as it is printed on a part: 5 kW, not 5.00 kW."""
    return Said("plain", (("value", float(value)), ("unit", unit)))


def rounded(value: float, places: int = 0) -> Said:
    """A value to so many places behind the point."""
    return Said("rounded", (("value", float(value)), ("places", places)))


def clock(seconds: float) -> Said:
    """A time as a watch shows it, m:ss or h:mm:ss."""
    return Said("clock", (("s", float(seconds)),))


def listed(items: Iterable[Said | str], by: str = "and") -> Said:
    """Several things in a row: the last joined by ``and`` or ``or``, or all by ``,``, ``+``, ``;``, ``–``
    or nothing but a space."""
    found = tuple(items)
    if len(found) == 1 and isinstance(found[0], Said):
        return found[0]
    return Said("list", (("by", by), ("items", found)))
