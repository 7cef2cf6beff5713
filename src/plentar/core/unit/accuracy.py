"""How far a meter may be off, and what that does to a due band."""

from __future__ import annotations

import math
from dataclasses import dataclass

from plentar.core.quantity import Band, Quantity


@dataclass(frozen=True, slots=True)
class Accuracy:
    """±(share of reading + fixed part), the fixed part in the quantity's unit."""

    share: float
    fixed: float

    def error(self, value: float) -> float:
        """The worst-case error at ``value``, in its unit."""
        return abs(value) * self.share + self.fixed if math.isfinite(value) else 0.0

    def widen(self, band: Band) -> Band:
        """The readings that true values inside ``band`` may give, never below zero."""
        low = band.low - self.error(band.low)
        return Band(max(low, min(0.0, band.low)), band.high + self.error(band.high))


#: Typical field meters. Ten turns in the jaw make a clamp fit for control wires.
ACCURACY = {
    Quantity.AMPS: Accuracy(0.02, 0.3),
    Quantity.VOLTS: Accuracy(0.01, 0.3),
    Quantity.VOLTS_DC: Accuracy(0.005, 0.1),
    Quantity.OHMS: Accuracy(0.01, 0.2),
    Quantity.TEMP_F: Accuracy(0.0, 1.0),
    Quantity.UF: Accuracy(0.03, 0.1),
}
CONTROL_WIRE_AMPS = Accuracy(0.02, 0.03)
