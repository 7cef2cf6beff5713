"""What a meter can read, and bands of it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum


class Quantity(StrEnum):
    """A meter's range. Values are the words of the visit file."""

    AMPS = "amps"
    VOLTS = "volts"
    VOLTS_DC = "volts_dc"
    OHMS = "ohms"
    TEMP_F = "temp_f"
    UF = "uf"

    @property
    def sign(self) -> str:
        """The unit's sign beside a number."""
        return _SIGNS[self]

    @property
    def setting(self) -> str:
        """How to set the meter, in words."""
        return _SETTINGS[self]


_SIGNS = {
    Quantity.AMPS: "A",
    Quantity.VOLTS: "V",
    Quantity.VOLTS_DC: "V DC",
    Quantity.OHMS: "Ω",
    Quantity.TEMP_F: "°F",
    Quantity.UF: "µF",
}
_SETTINGS = {
    Quantity.AMPS: "clamp, AC amps, one wire in the jaw",
    Quantity.VOLTS: "AC volts, probes on both ends",
    Quantity.VOLTS_DC: "DC volts, probes on both ends",
    Quantity.OHMS: "ohms, leads nulled, one wire lifted",
    Quantity.TEMP_F: "probe in the air stream",
    Quantity.UF: "capacitance, discharged, one wire lifted",
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
