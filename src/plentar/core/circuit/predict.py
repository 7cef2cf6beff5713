"""What every meter would read on a nominal unit, with any faults, at any time of a visit."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.circuit.faults import Effects, Fault, effects_of
from plentar.core.circuit.moments import run
from plentar.core.circuit.movers import Moment
from plentar.core.circuit.shown_by_meter import ProbeTable, point_probes
from plentar.core.circuit.wiring import Wiring, wire_up
from plentar.core.quantity import Quantity
from plentar.core.tables.model import GHOST_OHMS, LIVE_V
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event


@dataclass(frozen=True, slots=True)
class Predicted:
    """One reading. ``cycling``: the rung comes and goes, and the other phase may be met."""

    quantity: Quantity
    at: str
    value: float
    cycling: bool = False


@dataclass(frozen=True)
class Prediction:
    """The unit at one moment: node volts to ground, and every point's reading."""

    moment: Moment
    readings: tuple[Predicted, ...]

    @property
    def nodes(self) -> dict[str, complex]:
        """Node volts to ground, without a meter."""
        topology = self.moment.solution.topology
        return dict(zip(topology.nodes, map(complex, self.moment.solution.volts), strict=True))

    @cached_property
    def _by_point(self) -> dict[tuple[Quantity, str], Predicted]:
        return {(reading.quantity, reading.at): reading for reading in self.readings}

    def read(self, quantity: Quantity, at: str) -> Predicted | None:
        return self._by_point.get((quantity, at))

    @cached_property
    def live_nodes(self) -> frozenset[str]:
        """Nodes that are held at volts to ground. What floats there through the leakage of open
        parts (a source of megohms) is a ghost and not among them."""
        solution = self.moment.solution
        source_ohms = np.diagonal(np.linalg.inv(solution.topology.nodal(solution.siemens)))
        live = (np.abs(solution.volts) > LIVE_V) & (source_ohms < GHOST_OHMS)
        return frozenset(node for node, on in zip(solution.topology.nodes, live, strict=True) if on)

    def between(self, one: str, two: str) -> float:
        """Volts between two nodes, without a meter."""
        solution = self.moment.solution
        return abs(solution.volt(one) - solution.volt(two))


def predict(unit: Unit, faults: Sequence[Fault], events: Sequence[Event], t_s: float) -> Prediction:
    """Every reading of the nominal unit with these faults at ``t_s``."""
    wiring = wire_up(unit)
    effects = effects_of(wiring, faults)
    moment = run(wiring, effects, events, t_s)
    return Prediction(moment, tuple(readings_of(wiring, effects, moment)))


def readings_of(wiring: Wiring, effects: Effects, moment: Moment) -> Iterator[Predicted]:
    """Every live reading at one moment, air apart: one row of what a meter shows."""
    table = _TABLES.get_or_make(wiring.unit, lambda: ProbeTable(wiring, point_probes(wiring.unit)))
    solution = moment.solution
    shown, _ = table.read(solution.topology, solution.siemens[None], solution.emf[None], [effects])
    comes_and_goes = _cycling_parts(wiring.unit, moment)
    for probe, value in zip(table.probes, shown[0].tolist(), strict=True):
        if probe.quantity is not Quantity.TEMP_F:
            at = probe.point.name
            yield Predicted(probe.quantity, at, value, at in comes_and_goes)


_TABLES: Cache[Unit, ProbeTable] = Cache("probes", 16 * MEGABYTE, lambda table: 2000 * len(table.probes))


def _cycling_parts(unit: Unit, moment: Moment) -> set[str]:
    """Every part of a rung whose limit cycles, and what carries its current besides."""
    parts: set[str] = set()
    for element in unit.elements:
        if moment.cycling & set(element.rung):
            circuit = element.circuit
            parts |= {*element.rung, circuit, f"{circuit}.l1", f"{circuit}.l2"}
    return parts
