"""What a technician would read at a home in a given condition: computed, never typed in.

Each element is a resistance within its tolerance, the feed has its ohms, and what is broken is
open; the circuit model does the rest. Every reading passes through a meter with a seeded error.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from random import Random

from plentar.core.clockwork import run
from plentar.core.events import Calls, Event, Power, Reading
from plentar.core.faults import Harm
from plentar.core.meter import ACCURACY
from plentar.core.predict import readings_of
from plentar.core.quantity import Quantity
from plentar.core.unit import Unit
from plentar.core.wiring import Effects, wire_up

A, V, OHM, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.UF
#: What a reading may be off by, as a share of the meter's worst case.
METER_SPREAD = 0.4
#: Leakage that no meter shows.
NOTHING = 0.01
RESOLUTION = {A: 1, V: 0, OHM: 2, UF: 2}
COLD_RATIO = 0.95
#: Where real elements lie inside the plate band, as a share of nominal ohms.
ELEMENT_SPREAD = (0.97, 1.06)


@dataclass(frozen=True)
class Condition:
    """How a home really stands. ``open_rungs`` names elements whose rung is broken, with the
    part that is open; ``ohms_factor`` scales the resistance of single elements."""

    idle_volts: float = 240.0
    source_ohms: float = 0.04
    open_rungs: dict[str, str] = field(default_factory=dict)
    ohms_factor: dict[str, float] = field(default_factory=dict)
    coil_ohms: dict[str, float] = field(default_factory=dict)
    capacitor_share: float = 0.98


class Bench:
    """One home under the meter: reads what its condition gives, with this visit's noise."""

    def __init__(self, unit: Unit, condition: Condition, seed: int) -> None:
        self.unit, self.condition = unit, condition
        self._noise = Random(seed)
        self._spread = {
            e.id: Random(f"{unit.id}/{e.id}").uniform(*ELEMENT_SPREAD) for e in unit.elements
        }

    def element_ohms(self, element_id: str) -> float:
        """The element's true hot resistance, Ω."""
        factor = self.condition.ohms_factor.get(element_id, 1.0) * self._spread[element_id]
        return self.unit.element_by_id[element_id].rating.hot_ohms * factor

    @cached_property
    def harm(self) -> Harm:
        """The home's condition as the circuit model takes it."""
        wiring, ohms = wire_up(self.unit), {}
        for element in self.unit.elements:
            scale = self.element_ohms(element.id) / element.rating.hot_ohms
            for piece in (element.id, f"{element.id}.rest"):
                ohms[piece] = scale * float(wiring.ohms[wiring.topology.branch_index[piece]])
        for circuit in self.unit.circuits:
            for leg in ("l1", "l2"):
                ohms[f"{circuit.id}.feed.{leg}"] = self.condition.source_ohms / 2
        share = {c.id: self.condition.idle_volts / c.rated_volts for c in self.unit.circuits}
        opened = frozenset(self.condition.open_rungs.values())
        return Harm(Effects(ohms, always_open=opened, emf_share=share))

    def seen(self, quantity: Quantity, at: str, events: Sequence[Event], t_s: float) -> float:
        """What the model shows at a point of this home at a time."""
        wiring = wire_up(self.unit)
        moment = run(wiring, self.harm, events, t_s)
        for reading in readings_of(wiring, self.harm, moment):
            if reading.at == at and reading.quantity is quantity:
                return reading.value
        raise LookupError(f"the model has no {quantity} at {at}")

    def read(self, quantity: Quantity, true: float) -> float:
        """A true value through the meter."""
        spread = METER_SPREAD * ACCURACY[quantity].error(true) if true > NOTHING else 0.0
        return round(max(0.0, true + self._noise.uniform(-spread, spread)), RESOLUTION[quantity])

    def check_up(self, *, upto: int | None = None) -> list[Event]:
        """The events of a yearly check; ``upto`` stops after that many for one in progress."""
        unit = self.unit
        events: list[Event] = [Power(t_s=0, state="on")]
        t_s = 40.0
        for circuit in unit.circuits:
            events.append(self._live(t_s, V, circuit.id, events))
            t_s += 25
        calls = {c.call for c in unit.controls if c.call} & {"W1", "W2"}
        events.append(Calls(t_s=t_s, calls=frozenset(calls)))
        t_s += 320
        spots = [(V, circuit.id) for circuit in unit.circuits]
        spots += [(A, element.id) for element in unit.elements]
        spots += [(V, part) for part in self.condition.open_rungs.values()]
        if self.unit.blower and self.unit.blower.interlock.kind != "none":
            spots.append((A, "blower"))
        for quantity, at in spots:
            events.append(self._live(t_s, quantity, at, events))
            t_s += 25
        events.append(Calls(t_s=t_s + 30, calls=frozenset()))
        events.append(Power(t_s=t_s + 200, state="off"))
        events.append(Power(t_s=t_s + 280, state="proved-dead"))
        return [*events, *self._cold(t_s + 320)][:upto]

    def _cold(self, t_s: float) -> Iterator[Event]:
        """Ohms and microfarads, proved dead."""
        true = [(OHM, e.id, COLD_RATIO * self.element_ohms(e.id)) for e in self.unit.elements]
        true += [(OHM, f"{c}.coil", ohms) for c, ohms in self.condition.coil_ohms.items()]
        if self.unit.blower and self.unit.blower.capacitor_uf:
            share = self.condition.capacitor_share
            true.append((UF, "capacitor", share * self.unit.blower.capacitor_uf))
        for quantity, at, value in true:
            yield self._reading(t_s, quantity, at, value)
            t_s += 30

    def _live(self, t_s: float, quantity: Quantity, at: str, events: Sequence[Event]) -> Reading:
        return self._reading(t_s, quantity, at, self.seen(quantity, at, events, t_s))

    def _reading(self, t_s: float, quantity: Quantity, at: str, true: float) -> Reading:
        return Reading(t_s=t_s, quantity=quantity, at=at, value=self.read(quantity, true))
