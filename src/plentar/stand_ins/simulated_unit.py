"""A unit that exists only as numbers: drawn within its parts' spread, with hidden faults.

It is read by a simulated meter in the state that a visit's events have produced. Nothing in it
is shared with the judge but the circuit itself.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from random import Random

import numpy as np

from plentar.core.circuit.clockwork import Clock
from plentar.core.circuit.faults import Effects, Fault, effects_of
from plentar.core.circuit.movers import Moment
from plentar.core.circuit.shown_by_meter import Probe, ProbeTable, accuracy_of
from plentar.core.circuit.wiring import NetworkEffects, wire_up
from plentar.core.judge.hypotheses.hypothesis import single_hypotheses, work_on
from plentar.core.judge.shown.cold import cold_band
from plentar.core.quantity import Band, Quantity
from plentar.core.tables.model import REST_BEFORE_S
from plentar.core.unit.points import resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON, Event
from plentar.core.visit.state import PanelState, changes

#: How far real parts lie from nominal, and a meter from the truth as a share of its worst case.
POWER = Band(0.90, 1.05)
SUPPLY = Band(0.96, 1.04)
COIL_OHMS = Band(0.9, 1.1)
BLOWER = Band(0.85, 1.15)
AIR = Band(0.9, 1.1)
CAPACITOR = Band(0.95, 1.05)
COLD = Band(0.90, 1.0)
METER_SHARE = 0.5
RETURN_F = Band(63.0, 71.0)
RESOLUTION = {
    Quantity.AMPS: 2,
    Quantity.VOLTS: 1,
    Quantity.VOLTS_DC: 1,
    Quantity.OHMS: 2,
    Quantity.TEMP_F: 1,
    Quantity.UF: 2,
}


@dataclass(frozen=True)
class Drawn:
    """What was drawn for one unit: faults with their sizes and places, and every part's share."""

    faults: tuple[Fault, ...]
    #: The faults alone, and with every part's share beside them.
    broken: Effects
    effects: Effects
    supply: float
    times: dict[tuple[str, bool], float]
    air: float
    capacitor: float
    return_f: float


class SimulatedUnit:
    """One unit with hidden faults, given by their ids; everything else comes from the seed."""

    def __init__(self, unit: Unit, fault_ids: Sequence[str], seed: int | str) -> None:
        self.unit, self.wiring, self._seed = unit, wire_up(unit), seed
        self._random = Random(f"{unit.id}/{seed}")
        self.drawn = self._draw(fault_ids)

    def read(
        self, quantity: Quantity, at: str, events: Sequence[Event], t_s: float, *, driven: bool = False
    ) -> float:
        """What the meter shows; infinity for an overload. Ohms are of the part alone, cold."""
        point = resolve(self.unit, at)
        true = self._true(quantity, at, events, t_s, driven)
        if math.isinf(true):
            return math.inf
        spread = METER_SHARE * accuracy_of(point, quantity).error(true)
        if true < accuracy_of(point, quantity).fixed / 10:
            spread = 0.0  # a clamp around nothing shows nothing
        noisy = true + self._random.uniform(-spread, spread)
        return round(max(0.0, noisy), RESOLUTION[quantity])

    def mended(self, parts: Collection[str]) -> SimulatedUnit:
        """The same unit with some of its parts put right."""
        left = [f.id for f in self.drawn.faults if work_on(self.unit, f) not in parts]
        return SimulatedUnit(self.unit, left, self._seed)

    def cycles(self, part: str, events: Sequence[Event], t_s: float) -> bool:
        """Whether an element's current comes and goes with the call steady, or a limit opens."""
        element = self.unit.element_by_id.get(part)
        watched = set(element.rung) if element else {part}
        return bool(self.moment(events, t_s).cycling & watched)

    def moment(self, events: Sequence[Event], t_s: float) -> Moment:
        *_, last = self.moments(events, t_s)
        return last

    def moments(self, events: Sequence[Event], t_s: float) -> Iterator[Moment]:
        """Every settled moment up to a time; the last is that of the time."""
        clock = Clock(self.wiring, self.drawn.effects, self._position)
        switched = [e for e in events if e.is_switch and e.t_s <= t_s]
        start = PanelState(-REST_BEFORE_S, {circuit.id: ON for circuit in self.unit.circuits})
        panels = [start, *changes(self.unit, switched)]
        for now, after in zip(panels, [*panels[1:], None], strict=True):
            clock.set_panel(now)
            yield from clock.until(t_s if after is None else after.t_s)
        yield clock.moment()

    def _position(self, contact: str, closes: bool) -> float:
        return self.drawn.times.setdefault((contact, closes), self._random.random())

    def _true(self, quantity: Quantity, at: str, events: Sequence[Event], t_s: float, driven: bool) -> float:
        if quantity is Quantity.OHMS and at == "control-fuse":  # by what was called until then
            blown = "control-fuse" not in self.moment(events, t_s).closed
            return math.inf if blown or self.drawn.effects.network.always_open & {at} else 0.1
        if quantity in (Quantity.OHMS, Quantity.UF):
            return self.cold(quantity, at, driven=driven)
        if at == "return-air":
            return self.drawn.return_f
        moment = self.moment(events, t_s)
        probe = Probe(quantity, resolve(self.unit, at))
        table = ProbeTable(self.wiring, [probe])
        topology = moment.solution.topology
        found, _ = table.read(
            topology, moment.solution.siemens[None], moment.solution.emf[None], [self.drawn.effects]
        )
        value = float(found[0, 0])
        if quantity is not Quantity.TEMP_F:
            return value
        rise = 0.0 if math.isnan(value) else value / self.drawn.air
        return self.drawn.return_f + rise

    def cold(self, quantity: Quantity, at: str, *, driven: bool = False) -> float:
        """Ohms or µF of a part alone, proved dead, before the meter."""
        band = cold_band(self.wiring, self.drawn.broken, resolve(self.unit, at), quantity, driven) or Band(
            math.inf, math.inf
        )
        if math.isinf(band.high):
            return math.inf
        if quantity is Quantity.UF:
            rated = (self.unit.blower.capacitor_uf or 0.0) if self.unit.blower else 0.0
            return self.drawn.effects.capacitor * self.drawn.capacitor * rated
        element = self.unit.element_by_id.get(at)
        if element is not None:
            ohms = self.drawn.effects.network.ohms
            return Random(f"{at}/cold").uniform(COLD.low, COLD.high) * sum(
                ohms[piece] for piece in (at, f"{at}.rest")
            )
        return Random(f"{self.unit.id}/{at}").uniform(band.low, band.high)

    def _draw(self, fault_ids: Sequence[str]) -> Drawn:
        # Each fault by a draw of its own: mending one leaves everything else as it is.
        faults = tuple(
            self._drawn_fault(fault_id, Random(f"{self.unit.id}/{fault_id}/{self._seed}"))
            for fault_id in fault_ids
        )
        effects = effects_of(self.wiring, faults)
        ohms = dict(effects.network.ohms)
        index = self.wiring.topology.branch_index

        def spread(branch: str, factor: float) -> None:
            ohms[branch] = factor * ohms.get(branch, float(self.wiring.ohms[index[branch]]))

        for element in self.unit.elements:
            factor = 1 / self._random.uniform(POWER.low, POWER.high)
            for piece in (element.id, f"{element.id}.rest"):
                spread(piece, factor)
        for branch in self.wiring.topology.branches:
            if branch.endswith(".coil"):
                spread(branch, self._random.uniform(COIL_OHMS.low, COIL_OHMS.high))
        if "blower" in index:
            spread("blower", 1 / self._random.uniform(BLOWER.low, BLOWER.high))
        supply = self._random.uniform(SUPPLY.low, SUPPLY.high)
        share = dict(effects.network.emf_share)
        for circuit in self.unit.circuits:
            share.setdefault(circuit.id, supply)
        network = NetworkEffects(ohms, effects.network.always_open, effects.network.always_closed, share)
        return Drawn(
            faults,
            effects,
            replace(effects, network=network),
            supply,
            {},
            self._random.uniform(AIR.low, AIR.high),
            self._random.uniform(CAPACITOR.low, CAPACITOR.high),
            self._random.uniform(RETURN_F.low, RETURN_F.high),
        )

    def _drawn_fault(self, fault_id: str, random: Random) -> Fault:
        """A fault with a size from its range and a place."""
        hypothesis = next(h for h in single_hypotheses(self.wiring) if h.id == fault_id)
        shares = [variant.share for variant in hypothesis.variants]
        variant = random.choices(hypothesis.variants, shares)[0]
        corners = [corner[0] for corner in variant.corners]
        middle = variant.clock[0]
        if middle.size is None:
            return middle
        sizes = [corner.size or 0.0 for corner in corners]
        low, high = min(sizes), max(sizes)
        log = middle.size < 0.499 * (low + high)
        u = random.random()
        size = low * (high / low) ** u if log else low + u * (high - low)
        places = sorted({corner.place for corner in corners})
        place = places[0]
        if len(places) > 1:  # two ends of an element: anywhere between
            place = str(round(np.interp(random.random(), [0, 1], [*map(float, places)]), 3))
        return replace(middle, size=size, place=place)
