"""What a technician would read at a home in a given condition: computed, never typed in.

Each element is a resistance within its tolerance; the feed has a source impedance, so that
volts sag with the load; every reading passes through a meter with a seeded error.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from random import Random

from plentar.core.events import Calls, Event, Power, Reading
from plentar.core.meter import ACCURACY
from plentar.core.quantity import Quantity
from plentar.core.unit import Unit

A, V, OHM, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.UF
#: What a reading may be off by, as a share of the meter's worst case.
METER_SPREAD = 0.4
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
            e.id: Random(f"{unit.id}/{e.id}").uniform(0.97, 1.06) for e in unit.elements
        }

    def element_ohms(self, element_id: str) -> float:
        """The element's true hot resistance, Ω."""
        factor = self.condition.ohms_factor.get(element_id, 1.0) * self._spread[element_id]
        return self.unit.element_by_id[element_id].rating.hot_ohms * factor

    def loaded_volts(self, circuit_id: str) -> float:
        """Volts at the lugs with every sound element of the circuit on."""
        siemens = sum(
            1 / self.element_ohms(e.id)
            for e in self.unit.elements_on(circuit_id)
            if e.id not in self.condition.open_rungs
        )
        return self.condition.idle_volts / (1 + self.condition.source_ohms * siemens)

    def read(self, quantity: Quantity, true: float) -> float:
        """A true value through the meter."""
        spread = METER_SPREAD * ACCURACY[quantity].error(true) if true else 0.0
        return round(max(0.0, true + self._noise.uniform(-spread, spread)), RESOLUTION[quantity])

    def check_up(self, *, upto: int | None = None) -> list[Event]:
        """The events of a yearly check; ``upto`` stops after that many for one in progress."""
        unit, events = self.unit, []
        events.append(Power(t_s=0, state="on"))
        t_s = 40.0
        for circuit in unit.circuits:
            events.append(self._reading(t_s, V, circuit.id, self.condition.idle_volts))
            t_s += 25
        calls = {c.call for c in unit.controls if c.call} & {"W1", "W2"}
        events.append(Calls(t_s=t_s, calls=frozenset(calls)))
        t_s += 320
        for circuit in unit.circuits:
            events.append(self._reading(t_s, V, circuit.id, self.loaded_volts(circuit.id)))
            t_s += 20
        for element in unit.elements:
            dead = element.id in self.condition.open_rungs
            amps = (
                0.0 if dead else self.loaded_volts(element.circuit) / self.element_ohms(element.id)
            )
            events.append(self._reading(t_s, A, element.id, amps))
            t_s += 25
        for element_id, part in self.condition.open_rungs.items():
            circuit = unit.element_by_id[element_id].circuit
            events.append(self._reading(t_s, V, part, self.loaded_volts(circuit)))
            t_s += 30
        if unit.blower and unit.blower.typical_amps:
            events.append(self._reading(t_s, A, "blower", unit.blower.typical_amps))
        events.append(Calls(t_s=t_s + 30, calls=frozenset()))
        events.append(Power(t_s=t_s + 200, state="off"))
        events.append(Power(t_s=t_s + 280, state="proved-dead"))
        t_s += 320
        for element in unit.elements:
            cold = COLD_RATIO * self.element_ohms(element.id)
            events.append(self._reading(t_s, OHM, element.id, cold))
            t_s += 30
        for control_id, ohms in self.condition.coil_ohms.items():
            events.append(self._reading(t_s, OHM, f"{control_id}.coil", ohms))
            t_s += 30
        if unit.blower and unit.blower.capacitor_uf:
            farads = self.condition.capacitor_share * unit.blower.capacitor_uf
            events.append(self._reading(t_s, UF, "capacitor", farads))
        return events[:upto]

    def _reading(self, t_s: float, quantity: Quantity, at: str, true: float) -> Reading:
        return Reading(t_s=t_s, quantity=quantity, at=at, value=self.read(quantity, true))
