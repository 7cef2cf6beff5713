"""What is unknown of a specimen is one draw for the visit, shared by all its readings.

The blower's amps, an element's ohms within its band, the transformer's volts, what a coil draws:
a second reading of it tells what its first has left open, and no more. An unknown is parted into
cells; readings that share one are weighed together in each, and each counts for what it adds to
those before it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.circuit.shown_by_meter import CONTROL_KINDS, spread_of
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.shown.history import history_of
from plentar.core.judge.weigh.boxes import SUPPLY, Narrowed
from plentar.core.judge.weigh.likelihood import ItemLikelihood, each_likelihood, in_order, narrowed_densities
from plentar.core.judge.weigh.observation import log_mixture
from plentar.core.quantity import Band, Quantity
from plentar.core.tables import thresholds as th
from plentar.core.tables.assumptions import BLOWER_AMPS_SPREAD, MISREAD_BADLY, UNKNOWN_CELLS
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Reading
from plentar.core.visit.evidence import Evidence, Taken

A, V, OHM, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TEMP_F


@dataclass(frozen=True, slots=True)
class Unknown:
    """What several readings share: its name, and the stretch that it lies in."""

    name: str
    low: float
    high: float

    @property
    def cells(self) -> tuple[Narrowed, ...]:
        edges = np.linspace(self.low, self.high, UNKNOWN_CELLS + 1).tolist()
        of_blower = self.name == "blower"
        return tuple(Narrowed(a, b, of_blower) for a, b in pairwise(edges))


def unknown_of(unit: Unit, taken: Taken) -> Unknown | None:
    """What of the specimen bears most on a reading; None for what is drawn anew each time."""
    return unknown_at(unit, taken.point, taken.reading.quantity, taken.state.calls)


def unknown_at(unit: Unit, point: Point, quantity: Quantity, calls: frozenset[str]) -> Unknown | None:
    """The same of a reading that may be taken while this is called."""
    spread = spread_of(point, quantity)
    name = _name(unit, point, quantity, calls)
    if name == "blower":
        spread = BLOWER_AMPS_SPREAD
    if name.startswith("strip"):
        spread = Band(th.PLATE_POWER_LOW, th.PLATE_POWER_HIGH)
    return Unknown(name, spread.low, spread.high) if name else None


def _name(unit: Unit, point: Point, quantity: Quantity, calls: frozenset[str]) -> str:
    if quantity is TEMP:
        return "air"
    if point.kind == "element" and quantity in (A, OHM):
        return f"strip {point.name}"
    if quantity is V:
        return "control volts" if point.kind in CONTROL_KINDS else ""
    if quantity is not A:
        return ""
    if point.kind in ("switch", "limit", "link"):
        through = list(unit.elements_through(point.component))
        return f"strip {through[0].id}" if len(through) == 1 else ""
    if point.kind in ("blower", "contact"):
        return "blower"
    if point.kind in ("circuit", "feed"):
        heats = bool(calls & HEAT_CALLS)
        carries = unit.blower is not None and unit.blower.circuit == point.component
        return "blower" if carries and not heats else f"feed {point.component} {heats}"
    return f"amps {point.name} {sorted(calls)}"


def likelihoods(ensemble: Ensemble, evidence: Evidence, taken: Sequence[Taken]) -> list[ItemLikelihood]:
    """Every item of evidence under every variant of an ensemble, in order of time."""
    items = in_order(each_likelihood(ensemble, evidence, taken))
    return share_unknowns(ensemble, evidence, items)


def share_unknowns(
    ensemble: Ensemble, evidence: Evidence, items: Sequence[ItemLikelihood]
) -> list[ItemLikelihood]:
    """The items, those that share an unknown with earlier ones by what they add to them."""
    found = list(items)
    groups: dict[Unknown, list[int]] = {}
    for n, item in enumerate(items):
        if isinstance(item.event, Reading):
            unknown = unknown_of(evidence.unit, evidence.take(item.event))
            if unknown is not None:
                groups.setdefault(unknown, []).append(n)
    for unknown, members in groups.items():
        if len(members) > 1:
            _share(ensemble, evidence, unknown, members, found)
    return found


def _share(
    ensemble: Ensemble,
    evidence: Evidence,
    unknown: Unknown,
    members: Sequence[int],
    found: list[ItemLikelihood],
) -> None:
    history = history_of(evidence.unit, evidence.visit.events)
    shape = (UNKNOWN_CELLS, len(ensemble.variants), len(SUPPLY))
    usual, bad = np.zeros(shape), np.zeros(shape)
    before_usual, before_bad = np.zeros(shape[1:]), np.zeros(shape[1:])
    for n in members:
        item = found[n]
        if not isinstance(item.event, Reading):
            continue
        taken = evidence.take(item.event)
        true = narrowed_densities(ensemble, evidence, history, taken, unknown.cells)
        if true is None:
            continue
        usual = usual + log_mixture(true, item.misread)
        bad = bad + log_mixture(true, item.misread, MISREAD_BADLY)
        now_usual, now_bad = _mean(usual), _mean(bad)
        found[n] = replace(item, log=now_usual - before_usual, bad_day=now_bad - before_bad)
        before_usual, before_bad = now_usual, now_bad


def _mean(log: Real) -> Real:
    """Of likelihoods over the cells, all alike likely before."""
    top = log.max(axis=0)
    return np.asarray(top + np.log(np.exp(log - top).mean(axis=0)))
