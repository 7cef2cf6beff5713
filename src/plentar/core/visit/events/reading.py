"""A number off a meter."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.said import Said, say
from plentar.core.unit.points import resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events.event import Event

#: Contacts, whose ohms and tone are read at rest and with the coil driven.
DRIVEN = frozenset({Quantity.OHMS, Quantity.TONE})
DRIVEN_KINDS = frozenset({"switch", "contact"})
#: More than any meter shows, so that nothing spoils the arithmetic; an ohmmeter shows OL before.
MOST_VALUE = {
    Quantity.AMPS: 1e5,
    Quantity.VOLTS: 1e5,
    Quantity.VOLTS_DC: 1e5,
    Quantity.OHMS: 1e12,
    Quantity.TEMP_F: 1e4,
    Quantity.UF: 1e6,
    Quantity.TONE: 1.0,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Reading(Event):
    """One value at one point. An overload is infinity.

    ``driven``: its coil fed from a bench, for ``driven_s`` when it was read (s; None: nobody timed it, and
    inside its window it proves nothing). ``low_z``: read at low impedance, which shows no ghost.
    """

    name: ClassVar[str] = "read"
    may_be_struck: ClassVar[bool] = True

    quantity: Quantity
    at: str
    value: float
    meter: str = ""
    note: str = ""
    driven: bool = False
    #: Turns of the wire in the clamp; the value is divided by them already.
    turns: int = 1
    driven_s: float | None = None
    low_z: bool = False

    def check(self, unit: Unit) -> None:
        """The point is one of the unit's, the quantity is read there, the value can be."""
        point = resolve(unit, self.at)
        if self.quantity not in point.quantities:
            may = ", ".join(point.quantities)
            raise BadInput(
                "read",
                say(
                    "visit.events.reading.not-read-only",
                    quantity=say(f"quantity.{self.quantity}"),
                    at=self.at,
                    may=may,
                ),
            )
        if self.value == math.inf and self.quantity is not Quantity.OHMS:
            raise BadInput("value", say("visit.events.reading.ol-reading-ohms-only"))
        if self.driven and (self.quantity not in DRIVEN or point.kind not in DRIVEN_KINDS):
            raise BadInput("driven", say("visit.events.reading.only-ohms-tone-switch"))
        if self.driven_s is not None and not self.driven:
            raise BadInput("driven_s", say("visit.events.reading.only-what-driven-has"))
        if self.low_z and self.quantity not in (Quantity.VOLTS, Quantity.VOLTS_DC):
            raise BadInput("low_z", say("visit.events.reading.only-volts-read-low"))
        if self.quantity is Quantity.TONE and self.value not in (0.0, 1.0):
            raise BadInput("value", say("visit.events.reading.meter-sounds-or-does"))
        if self.turns != 1 and self.quantity is not Quantity.AMPS:
            raise BadInput("turns", say("visit.events.reading.only-amps-read-turns"))
        if math.isfinite(self.value) and abs(self.value) > MOST_VALUE[self.quantity]:
            raise BadInput(
                "value",
                say("visit.events.reading.no-meter-shows-so", quantity=say(f"quantity.{self.quantity}")),
            )
        if self.value < 0 and self.quantity is not Quantity.TEMP_F:
            raise BadInput(
                "value",
                say("visit.events.reading.reading-not-below-zero", quantity=say(f"quantity.{self.quantity}")),
            )

    def words(self, unit: Unit) -> Said:
        return resolve(unit, self.at).title
