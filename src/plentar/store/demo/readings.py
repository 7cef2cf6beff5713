"""What a technician would read at a home in a given condition: computed, never typed in.

Each element is a resistance within its tolerance, the feed has its ohms, and what is broken is
open; the circuit model does the rest. Every reading passes through a meter with a seeded error.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import pairwise
from random import Random

from plentar.core.circuit.faults import Effects
from plentar.core.circuit.moments import moments_until, run
from plentar.core.circuit.predict import readings_of
from plentar.core.circuit.wiring import NetworkEffects, wire_up
from plentar.core.quantity import Quantity
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Observed, Power, Reading, Replaced

A, V, OHM, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.UF
#: What a reading may be off by, as a share of the meter's worst case.
METER_SPREAD = 0.4
CYCLE_AT_MOST_S = 600.0
#: Leakage that no meter shows.
NOTHING = 0.01
RESOLUTION = {A: 1, V: 0, OHM: 2, UF: 2}
COLD_RATIO = 0.95
#: Where real elements lie inside the plate band, as a share of nominal ohms.
ELEMENT_SPREAD = (0.97, 1.06)


@dataclass(frozen=True)
class Condition:
    """How a home really stands. ``open_rungs`` names elements whose rung is broken, with the
    part that is open; ``ohms_factor`` scales the resistance of single elements; ``acts`` says
    where in its window a switch closes, 0 to 1, or beyond; ``closed`` are welded contacts."""

    idle_volts: float = 240.0
    source_ohms: float = 0.04
    open_rungs: dict[str, str] = field(default_factory=dict)
    ohms_factor: dict[str, float] = field(default_factory=dict)
    coil_ohms: dict[str, float] = field(default_factory=dict)
    capacitor_share: float = 0.98
    acts: dict[str, float] = field(default_factory=dict)
    closed: frozenset[str] = frozenset()
    #: Volts across one pole of C1's breaker and its lug under full heat, where somebody read them.
    pole_volts: float | None = None


class Bench:
    """One home under the meter: reads what its condition gives, with this visit's noise."""

    def __init__(self, unit: Unit, condition: Condition, seed: int) -> None:
        self.unit, self.condition, self._seed = unit, condition, seed
        self._noise = Random(seed)
        self._spread = {e.id: Random(f"{unit.id}/{e.id}").uniform(*ELEMENT_SPREAD) for e in unit.elements}

    def element_ohms(self, element_id: str) -> float:
        """The element's true hot resistance, Ω."""
        factor = self.condition.ohms_factor.get(element_id, 1.0) * self._spread[element_id]
        return self.unit.element_by_id[element_id].rating.hot_ohms * factor

    @cached_property
    def effects(self) -> Effects:
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
        return Effects(NetworkEffects(ohms, opened, self.condition.closed, share))

    def seen(self, quantity: Quantity, at: str, events: Sequence[Event], t_s: float) -> float:
        wiring = wire_up(self.unit)
        moment = run(wiring, self.effects, events, t_s, self._draw)
        for reading in readings_of(wiring, self.effects, moment):
            if reading.at == at and reading.quantity is quantity:
                return reading.value
        raise LookupError(f"the model has no {quantity} at {at}")

    def read(self, quantity: Quantity, true: float) -> float:
        spread = METER_SPREAD * ACCURACY[quantity].error(true) if true > NOTHING else 0.0
        return round(max(0.0, true + self._noise.uniform(-spread, spread)), RESOLUTION[quantity])

    def _draw(self, contact: str, closes: bool) -> float:
        """Where in its window a contact acts: each home's own, the same every year."""
        if closes and contact in self.condition.acts:
            return self.condition.acts[contact]
        return Random(f"{self.unit.id}/{contact}/{closes}").uniform(0.25, 0.6)

    def check_up(
        self, *, readings: int | None = None, welded: Sequence[str] = (), replaced: Sequence[str] = ()
    ) -> list[Event]:
        """The events of a yearly check. ``readings`` stops after so many, for one in progress;
        with ``welded`` contacts it begins with what these show, and with new parts."""
        unit = self.unit
        events: list[Event] = [Power(t_s=0, state="on")]
        t_s = 40.0
        if welded:
            events += self._found_welded(t_s, welded, replaced, events)
            t_s = events[-1].t_s + 60
        for circuit in unit.circuits:
            events.append(self._live(t_s, V, circuit.id, events))
            t_s += 25
        events.append(Calls(t_s=t_s, calls=unit.heat_calls))
        called_s = t_s
        t_s += 320
        spots = [(V, circuit.id) for circuit in unit.circuits]
        spots += [(A, element.id) for element in unit.elements]
        spots += [(V, part) for part in self.condition.open_rungs.values()]
        if self.unit.blower and self.unit.blower.interlock.kind != "none":
            spots.append((A, "blower"))
        for quantity, at in spots:
            events.append(self._live(t_s, quantity, at, events))
            t_s += 25
        if self.condition.pole_volts is not None:
            at = "C1.line.l1:C1.l1"
            events.append(Reading(t_s=t_s, quantity=V, at=at, value=self.condition.pole_volts))
            t_s += 25
        events.append(Calls(t_s=t_s + 30, calls=frozenset()))
        events += self._watched(events, called_s, t_s + 200)
        events.append(Power(t_s=t_s + 200, state="off"))
        events.append(Power(t_s=t_s + 280, state="proved-dead"))
        events = sorted([*events, *self._cold(t_s + 320)], key=lambda event: event.t_s)
        if readings is None:
            return events
        last = [n for n, e in enumerate(events) if isinstance(e, Reading)][readings - 1]
        return events[: last + 1]

    def _watched(self, events: Sequence[Event], from_s: float, to_s: float) -> Iterator[Event]:
        """What a technician with a watch notes: each sequencer's switches, and the blower."""
        unit, broken = self.unit, self.effects.network.always_open
        timed = {
            switch.id for control in unit.controls if control.kind.thermal for switch in control.switches
        }
        timed -= {*unit.idle_switches, *broken}
        moments = list(moments_until(wire_up(unit), self.effects, events, to_s, self._draw))
        for before, after in pairwise(moments):
            if after.t_s < from_s:
                continue
            for part in sorted(timed):
                if (part in before.closed) != (part in after.closed):
                    yield self._noted(after.t_s, part, part in after.closed)
            if timed and before.blower_runs != after.blower_runs:
                yield self._noted(after.t_s, "blower", after.blower_runs)

    def _noted(self, t_s: float, part: str, on: bool) -> Observed:
        late_s = self._noise.uniform(0.0, 1.0)
        return Observed(t_s=round(t_s + late_s, 1), action="on" if on else "off", part=part)

    def _found_welded(
        self, t_s: float, welded: Sequence[str], replaced: Sequence[str], events: Sequence[Event]
    ) -> list[Event]:
        """Current with nothing called for; power off; new parts; power on."""
        as_found = replace(self.condition, closed=frozenset(welded))
        before = Bench(self.unit, as_found, self._seed)
        found: list[Event] = []
        # Without the blower its limit cycles: the clamp waits for the current to come back.
        hot = next(e.id for e in self.unit.elements if set(welded) & set(e.rung))
        while before.seen(A, hot, events, t_s + 25.0) < 1.0 and t_s < CYCLE_AT_MOST_S:
            t_s += 5
        spots = [(V, c.id) for c in self.unit.circuits] + [(A, e.id) for e in self.unit.elements]
        for quantity, at in spots:
            found.append(before._live(t_s, quantity, at, events))
            t_s += 25
        found.append(Power(t_s=t_s, state="off"))
        found.append(Power(t_s=t_s + 90, state="proved-dead"))
        found += [Replaced(t_s=t_s + 1800, component=component) for component in replaced]
        rests = Reading(t_s=t_s + 1872, quantity=A, at=hot, value=0.0)
        return [*found, Power(t_s=t_s + 1860, state="on"), rests]

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
