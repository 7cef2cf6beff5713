"""Ohms and microfarads: read proved dead, each with the proving that goes before."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from plentar.core.budget import check_budget
from plentar.core.events import PROVED_DEAD
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.survivors import InformationGain, Survivors, outcomes_of
from plentar.core.judge.shown.atlas import Ensemble
from plentar.core.judge.weigh.boxes import density
from plentar.core.judge.weigh.likelihood import OHM, UF, cold_arrays
from plentar.core.judgement import Hazard, Setting
from plentar.core.meter import ACCURACY
from plentar.core.network import Real
from plentar.core.points import Point, points, resolve
from plentar.core.quantity import OPEN_FROM_OHMS, Quantity
from plentar.core.state import state_at
from plentar.core.tables.assumptions import MISREAD, WORST_CASE_SCALES
from plentar.core.tables.planning import (
    DRIVING_MINUTES,
    MINUTES,
    MORE_CIRCUITS_MINUTES,
    PROVE_DEAD_MINUTES,
)
from plentar.core.unit import Unit
from plentar.core.wiring import Mask

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

    def __getitem__(self, some: np.ndarray) -> Cold:
        """Some of the readings."""
        return Cold(
            [self.asked[n] for n in some.tolist()], self.low[some], self.high[some],
            self.open_[some], self.known[some], self.scale[some],
        )  # fmt: skip


def cold_readings(
    survivors: Survivors, wanted: frozenset[tuple[str, bool]] = frozenset()
) -> Iterator[Proposal]:
    """Ohms and microfarads, each with the proving that goes before: those that tell something, or
    those of the wanted points however little they tell by themselves."""
    cold = colds(survivors, alike=bool(wanted))
    cold = cold[np.flatnonzero(cold.known.all(axis=1))]
    if not cold.asked:
        return
    atoms = survivors.atoms
    x = ((cold.low + cold.high) / 2)[:, atoms]
    dens = density(x[..., None], cold.low[:, None], cold.high[:, None], cold.scale[:, None])
    both_open = cold.open_[:, atoms, None] & cold.open_[:, None]
    alike = cold.open_[:, atoms, None] == cold.open_[:, None]
    like = np.where(both_open, 1.0, np.where(alike, dens, 0.0))
    every = survivors.gain((1 - MISREAD) * like + MISREAD * 0.01)
    setting, minutes = proving(survivors)
    for n, tells in enumerate(zip(*every, strict=True)):
        gain = InformationGain(*map(float, tells))
        point, _, driven = cold.asked[n]
        if (point.name, driven) in wanted if wanted else gain.on_fault >= survivors.least_bits:
            yield cold_proposal(survivors, cold, n, gain, setting, minutes)


def colds(survivors: Survivors, *, alike: bool = False) -> Cold:
    """The readings that the survivors do not all show alike; or also those that they do."""
    asked = list(cold_points(survivors.posterior.evidence.unit))
    shape = (len(asked), len(survivors.members))
    low, high, open_ = np.empty(shape), np.empty(shape), np.empty(shape, dtype=bool)
    for ensemble, members, variants in survivors.by_ensemble:
        lows, highs, opens = _table(ensemble, asked)
        low[:, members], high[:, members] = lows[:, variants], highs[:, variants]
        open_[:, members] = opens[:, variants]
    known = ~np.isnan(low)
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
    return Cold(asked, low, high, open_, known, scale)[np.flatnonzero(tells)]


def _table(ensemble: Ensemble, asked: Sequence[Asked]) -> tuple[Real, Real, Mask]:
    """What every variant shows proved dead: least, most, and whether open (readings, variants)."""
    kept: tuple[Real, Real, Mask] | None = ensemble.once.get("cold")
    if kept is None:
        check_budget()
        bands = [cold_arrays(ensemble, *one) for one in asked]
        low, high, open_ = (np.array(part) for part in zip(*bands, strict=True))
        kept = ensemble.once["cold"] = (low, high, open_)
    return kept


def proving(survivors: Survivors) -> tuple[Setting, float]:
    """What goes before a reading proved dead, and how long it takes."""
    unit, events = survivors.posterior.evidence.unit, survivors.posterior.evidence.visit.events
    if state_at(unit, events, events[-1].t_s if events else 0.0).proved_dead:
        return Setting(), 0.0
    more = MORE_CIRCUITS_MINUTES * (len(unit.circuits) - 1)
    return Setting(power=PROVED_DEAD), PROVE_DEAD_MINUTES + more


def cold_proposal(
    survivors: Survivors,
    cold: Cold,
    number: int,
    gain: InformationGain,
    setting: Setting,
    before: float,
) -> Proposal:
    """One of the readings as it is proposed; ``setting`` and ``before`` from ``proving``."""
    point, quantity, driven = cold.asked[number]
    open_, count = cold.open_[number], cold.low.shape[1]
    return Proposal(
        quantity,
        point.name,
        replace(setting, driven=driven),
        gain,
        before + MINUTES[quantity] + (DRIVING_MINUTES if driven else 0.0),
        Hazard.DEAD,
        lambda: outcomes_of(
            survivors, np.where(open_, OPEN_FROM_OHMS, cold.low[number]),
            np.where(open_, MOST_OHMS, cold.high[number]),
            np.where(open_, 0.0, cold.scale[number]), np.ones(count), np.arange(count),
        ),
    )  # fmt: skip


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
