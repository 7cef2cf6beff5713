"""Ohms and microfarads: read proved dead, each with the proving that goes before."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from plentar.core.budget import check_budget
from plentar.core.circuit.network import Real
from plentar.core.circuit.wiring import Mask
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.survivors import InformationGain, Survivors, outcomes_of
from plentar.core.judge.shown.cold import dead_bands
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.weigh.likelihood import OHM, UF
from plentar.core.judge.weigh.observation import Floats, dead_density, is_wide, misread_density
from plentar.core.judgement import Hazard, Setting
from plentar.core.quantity import OPEN_FROM_OHMS, Quantity
from plentar.core.tables.assumptions import MISREAD, WORST_CASE_SCALES
from plentar.core.tables.planning import DRIVING_MINUTES, MINUTES, MORE_CIRCUITS_MINUTES, PROVE_DEAD_MINUTES
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.points import Point, points, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import PROVED_DEAD
from plentar.core.visit.state import state_at
from plentar.core.visit.windows import wait_s

MOST_OHMS = 1e9


Asked = tuple[Point, Quantity, bool]


@dataclass(frozen=True)
class Cold:
    """Readings to be taken proved dead, and what every member shows of them: (readings, members).

    ``asked`` is point, quantity, and whether the coil is driven; ``known`` where the model tells.
    """

    asked: Sequence[Asked]
    low: Real
    high: Real
    open_: Mask
    known: Mask
    scale: Real
    #: From how many ohms on what reads open does.
    open_from: Real

    @property
    def middle(self) -> Real:
        """The reading that stands for each stretch: of one of any order, the middle of the orders."""
        ohms = np.array([quantity is OHM for _, quantity, _ in self.asked])[:, None]
        wide = ohms & is_wide(self.low, self.high)
        even = (self.low + self.high) / 2
        middle = np.where(wide, np.sqrt(np.where(wide, self.low * self.high, 1.0)), even)
        return np.asarray(np.where(self.open_, MOST_OHMS, middle))

    def __getitem__(self, some: np.ndarray) -> Cold:
        """Some of the readings."""
        return Cold(
            [self.asked[n] for n in some.tolist()],
            self.low[some],
            self.high[some],
            self.open_[some],
            self.known[some],
            self.scale[some],
            self.open_from[some],
        )


def cold_readings(
    survivors: Survivors, wanted: frozenset[tuple[str, bool]] = frozenset()
) -> Iterator[Proposal]:
    """Ohms and microfarads, each with the proving that goes before: those that tell something, or
    those of the wanted points however little they tell by themselves."""
    cold = colds(survivors, alike=bool(wanted))
    cold = cold[np.flatnonzero(cold.known.all(axis=1))]
    if not cold.asked:
        return
    every = survivors.gain(_likelihood(survivors, cold))
    setting, minutes = proving(survivors)
    for n, tells in enumerate(zip(*every, strict=True)):
        gain = InformationGain(*map(float, tells))
        point, _, driven = cold.asked[n]
        if (point.name, driven) in wanted if wanted else gain.on_fault >= survivors.least_bits:
            yield cold_proposal(survivors, cold, n, gain, setting, minutes)


def _likelihood(survivors: Survivors, cold: Cold) -> Floats:
    """Of what each sample would read under each member: (readings, samples, members)."""
    found = np.empty((len(cold.asked), len(survivors.samples), len(survivors.members)))
    low, high = (np.where(cold.open_, cold.open_from, cold.low), np.where(cold.open_, np.inf, cold.high))
    for quantity in (OHM, UF):  # each read at points of one kind, as far as a misreading goes
        some = [n for n, (_, asked, _) in enumerate(cold.asked) if asked is quantity]
        if some:
            x = cold.middle[some][:, survivors.samples, None]
            true = dead_density(quantity, x, low[some, None], high[some, None])
            misread = misread_density(cold.asked[some[0]][0], quantity, x)
            found[some] = (1 - MISREAD) * true + MISREAD * misread
    return found


def colds(survivors: Survivors, *, alike: bool = False) -> Cold:
    """The readings that the survivors do not all show alike; or also those that they do."""
    asked = list(cold_points(survivors.posterior.evidence.unit))
    shape = (len(asked), len(survivors.members))
    low, high = np.empty(shape), np.empty(shape)
    for ensemble, members, variants in survivors.by_ensemble:
        table = _table(ensemble, asked)
        low[:, members], high[:, members] = table.low[:, variants], table.high[:, variants]
    open_ = np.isinf(high)
    known, open_from = ~np.isnan(low), low
    low, high = np.where(open_, 0.0, low), np.where(open_, 0.0, high)
    shares, fixed = (
        np.array([getattr(ACCURACY[quantity], name) for _, quantity, _ in asked])[:, None]
        for name in ("share", "fixed")
    )
    scale = ((low + high) / 2 * shares + fixed) / WORST_CASE_SCALES
    closed = known & ~open_
    some_open = (known & open_).any(axis=1)
    apart = np.where(closed, low, -np.inf).max(axis=1) > np.where(closed, high, np.inf).min(axis=1)
    tells = alike | (closed.any(axis=1) & (some_open | apart))
    return Cold(asked, low, high, open_, known, scale, open_from)[np.flatnonzero(tells)]


@dataclass(slots=True)
class _Table:
    """What every variant of an ensemble shows proved dead: least and most (readings, variants)."""

    low: Real
    high: Real

    @property
    def held_bytes(self) -> int:
        return self.low.nbytes + self.high.nbytes

    def clear(self) -> None:
        """It stays with its ensemble."""


def _table(ensemble: Ensemble, asked: Sequence[Asked]) -> _Table:
    def stack() -> _Table:
        check_budget()
        bands = [dead_bands(ensemble, *one) for one in asked]
        return _Table(np.array([b.low for b in bands]), np.array([b.high for b in bands]))

    return ensemble.shelves.of(_Table, stack)


def proving(survivors: Survivors) -> tuple[Setting, float]:
    """What goes before a reading proved dead, and how long it takes."""
    unit, events = survivors.posterior.evidence.unit, survivors.posterior.evidence.visit.events
    if state_at(unit, events, events[-1].t_s if events else 0.0).proved_dead:
        return Setting(), 0.0
    more = MORE_CIRCUITS_MINUTES * (len(unit.circuits) - 1)
    return Setting(power=PROVED_DEAD), PROVE_DEAD_MINUTES + more


def cold_proposal(
    survivors: Survivors, cold: Cold, number: int, gain: InformationGain, setting: Setting, before: float
) -> Proposal:
    """One of the readings as it is proposed; ``setting`` and ``before`` from ``proving``."""
    point, quantity, driven = cold.asked[number]
    open_, count = cold.open_[number], cold.low.shape[1]
    evidence = survivors.posterior.evidence
    events = evidence.visit.events
    now = evidence.state_at(events[-1].t_s if events else 0.0)
    waits_s = wait_s(evidence.unit, point, events, now, driven=driven)
    return Proposal(
        quantity,
        point.name,
        replace(
            setting,
            driven=driven,
            # A bench supply on a coil that is still called and wired makes line volts of the transformer.
            calls=frozenset() if driven else setting.calls,
            after_s=math.ceil(waits_s) if waits_s else setting.after_s,
        ),
        gain,
        before + MINUTES[quantity] + (DRIVING_MINUTES if driven else 0.0),
        Hazard.DEAD,
        lambda: outcomes_of(
            survivors,
            np.where(open_, OPEN_FROM_OHMS, cold.low[number]),
            np.where(open_, MOST_OHMS, cold.high[number]),
            np.where(open_, 0.0, cold.scale[number]),
            np.ones(count),
            np.arange(count),
        ),
    )


def cold_points(unit: Unit) -> Iterator[Asked]:
    """What may be read proved dead, the last being whether the coil is driven for it."""
    for point in points(unit):
        if OHM in point.quantities:
            yield point, OHM, False
            if point.kind in ("switch", "contact"):
                yield point, OHM, True
        if UF in point.quantities:
            yield point, UF, False
    for name in (*(f"{e.id}.in:ground" for e in unit.elements), "R:ground"):
        yield resolve(unit, name), OHM, False
    for call in sorted(unit.calls):
        yield resolve(unit, f"{call}:ground"), OHM, False
