"""Ohms and microfarads: read proved dead, each with the proving that goes before."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import partial

import numpy as np

from plentar.core.judge.likelihood import (
    MISREAD,
    OHM,
    OPEN_FROM_OHMS,
    UF,
    WORST_CASE_SCALES,
    cold_arrays,
    density,
)
from plentar.core.judge.proposal import LEAST_BITS, MINUTES, Proposal
from plentar.core.judge.survivors import Survivors, Told, outcomes_of
from plentar.core.meter import ACCURACY
from plentar.core.network import Real
from plentar.core.points import Point, points, resolve
from plentar.core.quantity import Quantity
from plentar.core.state import PROVED_DEAD, state_at
from plentar.core.unit import Unit

PROVE_DEAD_MINUTES, MORE_CIRCUITS_MINUTES = 4.0, 1.5
#: What feeding a coil from the bench takes.
DRIVING_MINUTES = 1.0
MOST_OHMS = 1e9


@dataclass(frozen=True)
class Cold:
    """One reading to be taken proved dead, and what every survivor shows of it: (members,).

    ``known`` where the model tells it.
    """

    point: Point
    quantity: Quantity
    driven: bool
    low: Real
    high: Real
    open_: np.ndarray
    known: np.ndarray
    scale: Real


def cold_readings(survivors: Survivors) -> Iterator[Proposal]:
    """Ohms and microfarads, each with the proving that goes before."""
    asked = [cold for cold in colds(survivors) if cold.known.all()]
    if not asked:
        return
    likes: list[Real] = []
    for cold in asked:
        x = ((cold.low + cold.high) / 2)[survivors.atoms]
        dens = density(x[:, None], cold.low[None], cold.high[None], cold.scale[None])
        same = cold.open_[survivors.atoms][:, None] == cold.open_[None, :]
        like = np.where(cold.open_[None, :] & same, 1.0, np.where(same, dens, 0.0))
        likes.append((1 - MISREAD) * like + MISREAD * 0.01)
    setting, minutes = proving(survivors)
    every = zip(*survivors.told(np.array(likes)), strict=True)
    for cold, tells in zip(asked, every, strict=True):
        told = Told(*map(float, tells))
        if told.on_fault >= LEAST_BITS:
            yield cold_proposal(survivors, cold, told, setting, minutes)


def colds(survivors: Survivors) -> Iterator[Cold]:
    """The readings that the survivors do not all show alike."""
    for point, quantity, driven in cold_points(survivors.posterior.evidence.unit):
        low, high, open_ = _bands(survivors, point, quantity, driven)
        known = ~np.isnan(low)
        some = known & ~open_
        if not known.any() or (known & open_).sum() == known.sum() or (
            not (known & open_).any() and float(low[some].max()) <= float(high[some].min())
        ):  # fmt: skip
            continue
        accuracy = ACCURACY[quantity]
        scale = ((low + high) / 2 * accuracy.share + accuracy.fixed) / WORST_CASE_SCALES
        yield Cold(point, quantity, driven, low, high, open_, known, scale)


def proving(survivors: Survivors) -> tuple[dict[str, object], float]:
    """What goes before a reading proved dead, and how long it takes."""
    unit, events = survivors.posterior.evidence.unit, survivors.posterior.evidence.visit.events
    if state_at(unit, events, events[-1].t_s if events else 0.0).proved_dead:
        return {}, 0.0
    more = MORE_CIRCUITS_MINUTES * (len(unit.circuits) - 1)
    return {"power": PROVED_DEAD}, PROVE_DEAD_MINUTES + more


def cold_proposal(
    survivors: Survivors, cold: Cold, told: Told, setting: dict[str, object], before: float
) -> Proposal:
    """The reading as it is proposed; ``setting`` and ``before`` from ``proving``."""
    count = len(cold.low)
    return Proposal(
        cold.quantity,
        cold.point.name,
        {**setting, **({"driven": True} if cold.driven else {})},
        told,
        before + MINUTES[cold.quantity] + (DRIVING_MINUTES if cold.driven else 0.0),
        "dead",
        partial(
            outcomes_of, survivors, np.where(cold.open_, OPEN_FROM_OHMS, cold.low),
            np.where(cold.open_, MOST_OHMS, cold.high), np.where(cold.open_, 0.0, cold.scale),
            np.ones(count), np.arange(count),
        ),
        cold.driven,
    )  # fmt: skip


def cold_points(unit: Unit) -> Iterator[tuple[Point, Quantity, bool]]:
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
    used = {c.call for c in unit.controls if c.call} | {load.call for load in unit.other_loads}
    relay = unit.blower.relay if unit.blower else None
    for call in sorted(used | ({relay.call} if relay else set())):
        yield resolve(unit, f"{call}:ground"), OHM, False


def _bands(
    survivors: Survivors, point: Point, quantity: Quantity, driven: bool
) -> tuple[Real, Real, np.ndarray]:
    """Least and most of every survivor (NaN where unknown), and which of them read open."""
    low = np.empty(len(survivors.members))
    high, open_ = np.empty_like(low), np.empty(len(low), dtype=bool)
    for ensemble, rows, variants in survivors.by_ensemble:
        lows, highs, opens = cold_arrays(ensemble, point, quantity, driven)
        low[rows], high[rows], open_[rows] = lows[variants], highs[variants], opens[variants]
    return np.where(open_, 0.0, low), np.where(open_, 0.0, high), open_
