"""Ohms and microfarads: read proved dead, each with the proving that goes before."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from plentar.core.judge.likelihood import MISREAD, OHM, UF, cold_arrays, density
from plentar.core.judge.proposal import LEAST_BITS, MINUTES, Proposal
from plentar.core.judge.survivors import Survivors, Told, outcomes_of
from plentar.core.meter import ACCURACY
from plentar.core.network import Real
from plentar.core.points import Point, points, resolve
from plentar.core.quantity import Quantity
from plentar.core.state import PROVED_DEAD, state_at
from plentar.core.unit import Unit

PROVE_DEAD_MINUTES, MORE_CIRCUITS_MINUTES = 4.0, 1.5


def cold_readings(survivors: Survivors) -> Iterator[Proposal]:
    """Ohms and microfarads, each with the proving that goes before."""
    unit, events = survivors.posterior.evidence.unit, survivors.posterior.evidence.visit.events
    state = state_at(unit, events, events[-1].t_s if events else 0.0)
    setting: dict[str, object] = {}
    before = 0.0
    if not state.proved_dead:
        setting = {"power": PROVED_DEAD}
        before = PROVE_DEAD_MINUTES + MORE_CIRCUITS_MINUTES * (len(unit.circuits) - 1)
    asked: list[tuple[Point, Quantity, bool, Real, Real, np.ndarray, Real]] = []
    likes: list[Real] = []
    for point, quantity, driven in cold_points(unit):
        bands = _bands(survivors, point, quantity, driven)
        if bands is None:
            continue
        low, high, open_ = bands
        if open_.all() or (not open_.any() and float(low.max()) <= float(high.min())):
            continue
        accuracy = ACCURACY[quantity]
        scale = ((low + high) / 2 * accuracy.share + accuracy.fixed) / 3.6
        x = ((low + high) / 2)[survivors.atoms]
        dens = density(x[:, None], low[None], high[None], scale[None])
        same = open_[survivors.atoms][:, None] == open_[None, :]
        like = np.where(open_[None, :] & same, 1.0, np.where(same, dens, 0.0))
        likes.append((1 - MISREAD) * like + MISREAD * 0.01)
        asked.append((point, quantity, driven, low, high, open_, scale))
    if not asked:
        return
    every = zip(*survivors.told(np.array(likes)), strict=True)
    for (point, quantity, driven, low, high, open_, scale), tells in zip(asked, every, strict=True):
        told = Told(*map(float, tells))
        if told.on_fault < LEAST_BITS:
            continue
        shown_low = np.where(open_, 1e6, low)
        shown_high = np.where(open_, 1e9, high)
        yield Proposal(
            quantity,
            point.name,
            {**setting, **({"driven": True} if driven else {})},
            told,
            before + MINUTES[quantity] + (1.0 if driven else 0.0),
            "dead",
            partial(
                outcomes_of, survivors, shown_low, shown_high, np.where(open_, 0.0, scale),
                np.ones(len(low)), np.arange(len(low)),
            ),
            driven,
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
) -> tuple[Real, Real, np.ndarray] | None:
    """Least and most of every survivor, and which of them read open; None where unknown."""
    low = np.empty(len(survivors.members))
    high, open_ = np.empty_like(low), np.empty(len(low), dtype=bool)
    for ensemble, rows, variants in survivors.by_ensemble:
        lows, highs, opens = cold_arrays(ensemble, point, quantity, driven)
        low[rows], high[rows], open_[rows] = lows[variants], highs[variants], opens[variants]
    if np.isnan(low).any():
        return None
    return np.where(open_, 0.0, low), np.where(open_, 0.0, high), open_
