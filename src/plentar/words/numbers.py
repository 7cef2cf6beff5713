"""Numbers as a meter shows them, with their units; times as a watch shows them."""

from __future__ import annotations

import math

from plentar.core.cache import MEGABYTE, Cache
from plentar.words import measures

#: Between a number and its unit, narrow and never broken.
NARROW = "\u202f"
#: Units that nobody reads to a tenth.
_WHOLE = frozenset({"CFM", "L/s"})
_SHOWN: Cache[tuple[float, str, int], str] = Cache("numbers", MEGABYTE, lambda _: 120)


def show(value: float, unit: str = "", digits: int = 3) -> str:
    """A value at a meter's resolution: three figures, prefixes above a thousand."""
    value, unit = measures.shown(value, unit)
    return _SHOWN.get_or_make((value, unit, digits), lambda: _show(value, unit, digits))


def _show(value: float, unit: str, digits: int) -> str:
    if math.isinf(value):
        return with_unit("OL" if value > 0 else "−OL", unit)
    sign = "−" if value < 0 else ""
    size = abs(value)
    for least, prefix in ((1e6, "M"), (1e3, "k")):
        if unit in {"Ω", "W"} and size >= least:
            return f"{sign}{_figures(size / least, digits)}{NARROW}{prefix}{unit}"
    number = f"{size:.0f}" if unit in _WHOLE else _figures(size, digits)
    return with_unit(f"{sign}{number}", unit)


def with_unit(number: str, unit: str) -> str:
    return f"{number}{NARROW}{unit}" if unit else number


def show_span(low: float, high: float, unit: str, digits: int = 3) -> str:
    """From a value to a value, with one unit; one value where both show alike."""
    (low, _), (high, unit) = measures.shown(low, unit), measures.shown(high, unit)
    one, two = show(low, "", digits), show(high, unit, digits)
    prefixed = unit in {"Ω", "W"} and abs(high) >= 1e3
    if prefixed:
        one = show(low, unit, digits)
    return two if show(low, unit, digits) == two else f"{one}–{two}"


def plain(value: float, unit: str = "") -> str:
    """As it is printed: no zeros behind the point; to a tenth in another measure than it was printed in."""
    said, sign = measures.shown(value, unit)
    value = value if said == value else round(said, 1)
    return with_unit(f"{value:g}".replace("-", "−"), sign)


def _figures(size: float, digits: int) -> str:
    if size < 0.0005:  # under the last figure of any field meter
        return "0"
    whole = math.floor(math.log10(size)) + 1
    places = min(max(digits - whole, 0), 3)
    # 99.97 at three figures is 100, not 100.0
    if round(size, places) >= 10**whole and whole >= 0:
        places = max(places - 1, 0)
    return f"{size:.{places}f}"


def clock(seconds: float) -> str:
    """Seconds as a watch shows them, m:ss or h:mm:ss; below zero with a sign."""
    sign = "−" if seconds < -0.5 else ""
    whole = round(abs(seconds))
    minutes, left = divmod(whole, 60)
    hours, minutes = divmod(minutes, 60)
    return f"{sign}{hours}:{minutes:02}:{left:02}" if hours else f"{sign}{minutes}:{left:02}"
