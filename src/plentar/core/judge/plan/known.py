"""What the readings so far leave open of each unknown of the specimen, survivor by survivor.

A second reading of the same current tells only what the first has left open: without this, what it
would tell is overrated.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from plentar.core.circuit.network import Index, Real
from plentar.core.circuit.shown_by_meter import accuracy_of
from plentar.core.judge.plan.survivors import Survivors
from plentar.core.judge.weigh.boxes import Spreads
from plentar.core.judge.weigh.unknowns import Unknown, unknown_at, unknown_of
from plentar.core.quantity import Quantity
from plentar.core.tables.planning import KNOWN_SHARE
from plentar.core.visit.evidence import Taken

A, V = Quantity.AMPS, Quantity.VOLTS


@dataclass(frozen=True, slots=True)
class _Known:
    """What is left of each unknown, for as long as the survivors are."""

    left: dict[Unknown, tuple[Real, Real]]
    held_bytes: int = 0

    def clear(self) -> None:
        """It goes with the survivors."""


def known_of(survivors: Survivors) -> dict[Unknown, tuple[Real, Real]]:
    """Each unknown that was read: what is left of it for each survivor, least and most (members,).

    All of its stretch, where the reading can't be of this survivor.
    """
    return survivors.shelves.of(_Known, lambda: _Known(dict(_each(survivors)))).left


def _each(survivors: Survivors) -> Iterator[tuple[Unknown, tuple[Real, Real]]]:
    evidence = survivors.posterior.evidence
    last: dict[Unknown, Taken] = {}
    for taken in evidence.taken:
        if taken.counts and taken.reading.quantity in (A, V):
            unknown = unknown_of(evidence.unit, taken)
            if unknown is not None:
                last[unknown] = taken
    for unknown, taken in last.items():
        left = _left(survivors, unknown, taken)
        if left is not None:
            yield unknown, left


def _left(survivors: Survivors, unknown: Unknown, taken: Taken) -> tuple[Real, Real] | None:
    reading, rows = taken.reading, survivors.posterior.workspace.rows
    probe = rows.probe(reading.quantity, reading.at)
    if probe is None:
        return None
    history = survivors.posterior.history
    t_s = history.time(reading.t_s + reading.lead_s)
    count = len(survivors.members)
    low, high = np.zeros(count), np.zeros(count)
    blower = int(rows.table.blower_of[probe])
    rest = np.zeros((count, 2))
    for ensemble, members, variants in survivors.by_ensemble:
        numbers = ensemble.run(history.before(t_s), t_s).at(t_s).rows[variants, 0]
        values = rows.values[numbers, probe]
        if unknown.name == "blower" and blower >= 0:
            own = np.minimum(rows.values[numbers, blower], values)
            rest[members, 0] = (values - own).min(axis=1)
            rest[members, 1] = (values - own).max(axis=1)
            values = own
        low[members], high[members] = values.min(axis=1), values.max(axis=1)
    error = KNOWN_SHARE * accuracy_of(taken.point, reading.quantity).error(reading.value)
    supply = survivors.supply[:, 0]
    least = ((reading.value - error) / supply - rest[:, 1]) / np.maximum(high, 1e-9)
    most = ((reading.value + error) / supply - rest[:, 0]) / np.maximum(low, 1e-9)
    least, most = (np.clip(least, unknown.low, unknown.high), np.clip(most, unknown.low, unknown.high))
    void = (most <= least) | (low <= 0)
    return np.where(void, unknown.low, least), np.where(void, unknown.high, most)


def spreads_in(survivors: Survivors, calls: frozenset[str], probes: Index, of: Index) -> Spreads | None:
    """What is left of the parts' spreads while this is called, at some probes, for the survivors
    ``of`` (states,); None where nothing was read of any."""
    known = known_of(survivors)
    if not known:
        return None
    unit, table = survivors.posterior.evidence.unit, survivors.posterior.workspace.rows.table
    shape = (len(of), len(probes))
    low = np.broadcast_to(table.spread_low[probes], shape).copy()
    high = np.broadcast_to(table.spread_high[probes], shape).copy()
    least, most = table.blower_spread
    blower_low, blower_high = np.full(len(of), least), np.full(len(of), most)
    for unknown, (left_low, left_high) in known.items():
        if unknown.name == "blower":
            blower_low, blower_high = left_low[of], left_high[of]
    for column, number in enumerate(probes.tolist()):
        probe = table.probes[number]
        unknown_here = unknown_at(unit, probe.point, probe.quantity, calls)
        if unknown_here not in known:
            continue
        if unknown_here.name == "blower" and table.blower_of[number] >= 0:
            continue  # a feed: the blower's share of it is narrowed, not the rest
        low[:, column], high[:, column] = (one[of] for one in known[unknown_here])
    return Spreads(low, high, blower_low, blower_high)
