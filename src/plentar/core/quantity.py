"""What a meter can read, bands of it, and numbers as people type them."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from enum import StrEnum

from plentar.core.errors import BadInput
from plentar.core.said import Said, figure, say

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
    def setting(self) -> Said:
        """How the meter is set for it, and where its probes go."""
        return say(f"meter.{self}")

    @property
    def dead_only(self) -> bool:
        """It is read with the unit proved dead, and never else."""
        return self in _DEAD_ONLY

    def shown(self, value: float, digits: int = 3) -> Said:
        if self is Quantity.TONE:
            return say("tone.heard" if value else "tone.silent")
        return figure(value, self.sign, digits)


#: The unit of a difference of temperatures.
DEGREES = "Δ°F"
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
        raise BadInput("", say("number.missing"))
    if _OVERLOAD.fullmatch(text):
        return math.inf
    found = _TYPED.fullmatch(text)
    if not found:
        raise BadInput("", say("number.unreadable", typed=text[:20]))
    magnitude = float(found["digits"].replace(",", ".")) * _PREFIX[found["prefix"]]
    return -magnitude if found["sign"] in {"-", "−"} else magnitude
