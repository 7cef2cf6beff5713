"""What a meter can read, bands of it, and numbers as people type and read them."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from enum import StrEnum

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.errors import BadInput

#: An ohmmeter shows open, and an overload, from here on.
OPEN_FROM_OHMS = 1e6


class Quantity(StrEnum):
    AMPS = "amps"
    VOLTS = "volts"
    VOLTS_DC = "volts_dc"
    OHMS = "ohms"
    TEMP_F = "temp_f"
    UF = "uf"
    #: Continuity by ear: 1 where the meter sounds, 0 where it does not.
    TONE = "tone"

    #: The text's own hash, as its equality is: readings are looked up by quantity all the time.
    __hash__ = str.__hash__

    @property
    def sign(self) -> str:
        return _SIGNS[self]

    @property
    def setting(self) -> str:
        return _SETTINGS[self]

    @property
    def dead_only(self) -> bool:
        """It is read with the unit proved dead, and never else."""
        return self in _DEAD_ONLY

    def shown(self, value: float, digits: int = 3) -> str:
        if self is Quantity.TONE:
            return "tone" if value else "no tone"
        return show(value, self.sign, digits)


_SIGNS = {
    Quantity.AMPS: "A",
    Quantity.VOLTS: "V",
    Quantity.VOLTS_DC: "V DC",
    Quantity.OHMS: "Ω",
    Quantity.TEMP_F: "°F",
    Quantity.UF: "µF",
    Quantity.TONE: "",
}
_DEAD_ONLY = frozenset({Quantity.OHMS, Quantity.UF, Quantity.TONE})
_SETTINGS = {
    Quantity.AMPS: "clamp, AC amps, one wire in the jaw",
    Quantity.VOLTS: "AC volts, probes on both ends",
    Quantity.VOLTS_DC: "DC volts, probes on both ends",
    Quantity.OHMS: "ohms, leads nulled, one wire lifted",
    Quantity.TEMP_F: "probe in the air stream",
    Quantity.UF: "capacitance, discharged, one wire lifted",
    Quantity.TONE: "continuity, leads tried on each other first, one wire lifted",
}


@dataclass(frozen=True, slots=True)
class Band:
    """A closed range of one quantity; an end may be infinite."""

    low: float
    high: float

    def __post_init__(self) -> None:
        if math.isnan(self.low) or math.isnan(self.high) or self.low > self.high:
            raise ValueError(f"a band needs low ≤ high, not {self.low} … {self.high}")

    def __contains__(self, value: float) -> bool:
        return self.low <= value <= self.high

    def times(self, factor: float) -> Band:
        """Both ends multiplied by a factor ≥ 0."""
        return Band(self.low * factor, self.high * factor)


_PREFIX = {"": 1.0, "µ": 1e-6, "u": 1e-6, "m": 1e-3, "k": 1e3, "K": 1e3, "M": 1e6}
_TYPED = re.compile(
    r"(?P<sign>[-+−]?)\s*(?P<digits>\d+(?:[.,]\d*)?|[.,]\d+)\s*(?P<prefix>[µumkKM]?)"
    r"\s*(?:A|V|Ω|ohms?|°?F|F)?"
)
_OVERLOAD = re.compile(r"o\.?l\.?|∞|open", re.IGNORECASE)


def parse_reading(typed: str) -> float:
    """The value that somebody typed off a meter; an overload (``OL``) is infinity.

    Raises BadInput when it is no number. A second comma or point is refused rather than
    guessed at, so ``1,234.5`` is an error and not 1.234.
    """
    text = typed.strip()
    if not text:
        raise BadInput("", "type the number that the meter shows")
    if _OVERLOAD.fullmatch(text):
        return math.inf
    found = _TYPED.fullmatch(text)
    if not found:
        raise BadInput("", f"“{text[:20]}” is not a number; write it like 20.6, 0,87k or OL")
    magnitude = float(found["digits"].replace(",", ".")) * _PREFIX[found["prefix"]]
    return -magnitude if found["sign"] in {"-", "−"} else magnitude


def show(value: float | None, unit: str = "", digits: int = 3) -> str:
    """A value at a meter's resolution: three figures, prefixes above a thousand."""
    return _SHOWN.get_or_make((value, unit, digits), lambda: _show(value, unit, digits))


_SHOWN: Cache[tuple[float | None, str, int], str] = Cache("numbers as shown", MEGABYTE, lambda _: 120)


def _show(value: float | None, unit: str, digits: int) -> str:
    if value is None:
        return "not measured"
    tail = f" {unit}" if unit else ""
    if math.isinf(value):
        return f"OL{tail}" if value > 0 else f"−OL{tail}"
    sign = "−" if value < 0 else ""
    size = abs(value)
    if unit in {"Ω", "W"} and size >= 1e6:
        return f"{sign}{_figures(size / 1e6, digits)} M{unit}"
    if unit in {"Ω", "W"} and size >= 1e3:
        return f"{sign}{_figures(size / 1e3, digits)} k{unit}"
    return f"{sign}{_figures(size, digits)}{tail}"


def _figures(size: float, digits: int) -> str:
    if size < 0.0005:  # under the last figure of any field meter
        return "0"
    whole = math.floor(math.log10(size)) + 1
    places = min(max(digits - whole, 0), 3)
    # 99.97 at three figures is 100, not 100.0
    if round(size, places) >= 10**whole and whole >= 0:
        places = max(places - 1, 0)
    return f"{size:.{places}f}"


def minutes(seconds: float) -> str:
    """Seconds as a watch shows them, m:ss or h:mm:ss; below zero with a sign."""
    sign = "−" if seconds < -0.5 else ""
    whole = round(abs(seconds))
    left_minutes, left = divmod(whole, 60)
    hours, left_minutes = divmod(left_minutes, 60)
    return f"{sign}{hours}:{left_minutes:02}:{left:02}" if hours else f"{sign}{left_minutes}:{left:02}"
