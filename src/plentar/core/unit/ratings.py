"""Rated kilowatts → due amps, ohms, watts and heat of an element.

Hot resistance ``R = Vr²/Pr``; current ``I = V/R``; power ``P = V²/R``; heat 3.41214 BTU/h per
watt. The plate band follows IEC 60335-1 §10.1 (power −10 … +5 % at rated volts), so current
lies in 0.90 … 1.05 and resistance in 1/1.05 … 1/0.90 of nominal.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from plentar.core.quantity import Band, Quantity
from plentar.core.tables import thresholds as th
from plentar.core.unit.accuracy import ACCURACY

BTUH_PER_WATT = 3.41214


class Tolerance(StrEnum):
    """Which school judges a current: the plate's tolerance or the shop's habit."""

    PLATE = "plate"
    HOUSE = "house"


def part_share(tolerance: Tolerance) -> Band:
    """The element's current as a share of nominal."""
    if tolerance is Tolerance.HOUSE:
        return Band(1 - th.HOUSE_BAND, 1 + th.HOUSE_BAND)
    return Band(th.PLATE_POWER_LOW, th.PLATE_POWER_HIGH)


@dataclass(frozen=True, slots=True)
class Rating:
    """What is stamped on an element: watts at volts."""

    rated_watts: float
    rated_volts: float

    @property
    def hot_ohms(self) -> float:
        """Resistance when it glows, Ω."""
        return self.rated_volts**2 / self.rated_watts

    def amps(self, volts: float) -> float:
        """Current at ``volts``, A."""
        return volts / self.hot_ohms

    def watts(self, volts: float) -> float:
        """Power at ``volts``, W."""
        return volts**2 / self.hot_ohms

    def heat_btuh(self, volts: float) -> float:
        """Heat at ``volts``, BTU/h."""
        return BTUH_PER_WATT * self.watts(volts)

    def part_amps(self, volts: Band, tolerance: Tolerance = Tolerance.PLATE) -> Band:
        """Currents that a good element may draw over a band of volts, before the meter, A."""
        share = part_share(tolerance)
        return Band(self.amps(volts.low) * share.low, self.amps(volts.high) * share.high)

    def expected_amps(self, volts: Band, tolerance: Tolerance = Tolerance.PLATE) -> Band:
        """Clamp readings that a good element may give over a band of volts, A."""
        return ACCURACY[Quantity.AMPS].widen(self.part_amps(volts, tolerance))

    @property
    def part_cold_ohms(self) -> Band:
        """Cold resistances of a good element, before the meter, Ω."""
        return Band(
            th.COLD_RATIO_LOW * self.hot_ohms / th.PLATE_POWER_HIGH, self.hot_ohms / th.PLATE_POWER_LOW
        )

    @property
    def expected_cold_ohms(self) -> Band:
        """Ohmmeter readings that a good cold element may give, Ω."""
        return ACCURACY[Quantity.OHMS].widen(self.part_cold_ohms)

    def dead_below_amps(self, volts: float) -> float:
        """A smaller reading at ``volts`` means that the element does not draw, A."""
        return max(th.DEAD_AMPS, th.DEAD_SHARE * self.amps(volts))
