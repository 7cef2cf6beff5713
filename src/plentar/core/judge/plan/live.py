"""Readings in one state with power on: clamp, volts, air, and watching for a limit that cycles."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plentar.core.air.airflow import air_factor
from plentar.core.circuit.network import Index, Real
from plentar.core.circuit.wiring import Mask
from plentar.core.judge.plan.known import spreads_in
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.readable import ReadableState
from plentar.core.judge.plan.survivors import (
    InformationGain,
    ReadingOutcome,
    Survivors,
    outcome_of,
    outcomes_of,
)
from plentar.core.judge.weigh.boxes import boxes
from plentar.core.judge.weigh.likelihood import TEMP, A, V
from plentar.core.judge.weigh.observation import Floats, anything, density, ghost_density
from plentar.core.judgement import Hazard
from plentar.core.quantity import Quantity
from plentar.core.tables.assumptions import (
    CYCLING_SEEN,
    EITHER,
    MISREAD,
    UNKNOWN_RETURN_ERROR_F,
    UNKNOWN_RETURN_F,
)
from plentar.core.tables.planning import (
    CONTROL_AMPS_MINUTES,
    CYCLING_MINUTES,
    DECISIVE_BITS,
    DEEPER,
    FAULT_SHARE,
    LESS_USUAL_MINUTES,
    MINUTES,
    NODES,
    PAIR_OF_NODES_MINUTES,
    POLE_MINUTES,
    WIRE_TURNS,
)
from plentar.core.unit.points import Point

BEST_OF_A_STATE = 8
#: A survivor's state that is less likely than this is not looked at.
LEAST_STATE = 0.02
#: How many deviations either way the supply is taken to be open.
SUPPLY_SPREADS = 1.5


@dataclass(frozen=True)
class SurvivorStates:
    """What every survivor may show in a state, at some probes: boxes (states, probes), each with
    its weight and its survivor, the likeliest state of each first."""

    probes: Index
    low: Real
    high: Real
    scale: Real
    ghost: Mask
    weights: Real
    owner: Index

    @cached_property
    def firsts(self) -> Index:
        """Where each survivor's states begin."""
        return np.flatnonzero(np.diff(self.owner, prepend=-1))


def live_readings(survivors: Survivors, readable: ReadableState) -> Iterator[Proposal]:
    """Live readings of one state, and whether anything cycles in it."""
    states = states_of(survivors, readable)
    low, high, scale = states.low, states.high, states.scale
    # Only what the model knows, and where some survivors can't be mistaken for others.
    known = ~np.isnan(low).any(axis=0)
    with np.errstate(invalid="ignore"):
        worth = np.flatnonzero(known & ((low - scale).max(axis=0) > (high + scale).min(axis=0)))
    if len(worth):
        gain = gains(survivors, states, worth)
        # The best of a state are enough: by what they tell, a minute of theirs taken as alike.
        best = np.argsort(-(gain[0] + FAULT_SHARE * gain[1] + DECISIVE_BITS * gain[2]))
        for k in (n for n in best[:BEST_OF_A_STATE] if gain[1][n] >= survivors.least_bits):
            tells = InformationGain(*(float(t[k]) for t in gain))
            yield live_proposal(survivors, readable, tells, states, int(worth[k]))
    yield from _cycling(survivors, readable)


def readings_at(
    survivors: Survivors, readable: ReadableState, asked: Sequence[tuple[Quantity, str]]
) -> Iterator[Proposal]:
    """The readings that are asked for, in one state, whatever they tell."""
    states = states_of(survivors, readable)
    index = survivors.posterior.workspace.rows.table.index
    where = {int(number): column for column, number in enumerate(states.probes)}
    found = (where.get(index.get(one, -1)) for one in asked)
    columns = [column for column in found if column is not None]
    if not columns:
        return
    told = np.transpose(gains(survivors, states, np.array(columns)))
    for column, bits in zip(columns, told.tolist(), strict=True):
        yield live_proposal(survivors, readable, InformationGain(*bits), states, column)


def gains(survivors: Survivors, states: SurvivorStates, columns: Index) -> tuple[Floats, Floats, Floats]:
    """What the readings of some columns would tell: as ``Survivors.gain``, (columns,) each."""
    table = survivors.posterior.workspace.rows.table
    # Single precision is plenty for what may be read next, and twice as quick.
    parts = (states.low, states.high, states.scale)
    lo, hi, sc = (one[:, columns].T.astype(np.float32, order="C") for one in parts)
    ghost = states.ghost[:, columns].T
    # The likeliest state of each sample; a dead wire shows nothing as often as not.
    x = np.where(ghost, 0.0, (lo + hi) / 2)[:, states.firsts[survivors.samples], None]
    dens = density(x, lo[:, None], hi[:, None], sc[:, None])
    if ghost.any():
        dens = np.where(ghost[:, None], ghost_density(x, sc[:, None]), dens)
    of_members = np.zeros((len(states.owner), len(survivors.members)), dtype=np.float32)
    of_members[np.arange(len(states.owner)), states.owner] = (1 - MISREAD) * states.weights
    at = states.probes[columns], None, None
    misread = anything(x, table.misread[at], table.accuracy_fixed[at]).astype(np.float32)
    like = np.asarray(dens @ of_members + MISREAD * misread)  # columns, samples, members
    return survivors.gain(like)


def states_of(survivors: Survivors, readable: ReadableState) -> SurvivorStates:
    """The likelier states of every survivor at the probes that are worth a look."""
    likely = readable.weights > LEAST_STATE
    likely[:, 0] = True
    of, state = np.nonzero(likely)
    share = readable.weights[of, state]
    share /= np.bincount(of, share)[of]
    numbers = readable.rows[of, state]
    probes, lugs = _probes(survivors, readable.heats_long)
    supply = survivors.supply[of][:, None, :]
    # The first volts at a circuit's lugs tell of the supply, and with it of all that is read
    # later: they are weighed as if the supply were known.
    doubt = SUPPLY_SPREADS * supply[..., 1] * ~lugs
    found = boxes(
        survivors.posterior.workspace.rows,
        numbers,
        probes,
        (supply[..., 0] - doubt, supply[..., 0] + doubt),
        spreads=spreads_in(survivors, readable.calls, probes, of),
    )
    return SurvivorStates(probes, found.low, found.high, found.scale, found.ghost, share, of)


def _probes(survivors: Survivors, heats_long: bool) -> tuple[Index, np.ndarray]:
    """The probes to look at, and which of them are volts at lugs nobody has read yet.

    The current of a rung is sought at its element and its switches; limits and links show no
    other. Air tells only once it is steady.
    """
    evidence = survivors.posterior.evidence
    every = survivors.posterior.workspace.rows.table
    table, slips = every.probes, every.slips
    chosen = [
        n
        for n, probe in enumerate(table)
        if n not in slips
        and not (probe.quantity is A and probe.point.kind in ("limit", "link"))
        and (heats_long or probe.quantity is not TEMP)
    ]
    lugs = [
        table[n].quantity is V
        and table[n].point.kind == "circuit"
        and evidence.latest(table[n].point.name, V) is None
        for n in chosen
    ]
    return np.array(chosen, dtype=np.intp), np.array(lugs)


def live_proposal(
    survivors: Survivors, readable: ReadableState, gain: InformationGain, states: SurvivorStates, column: int
) -> Proposal:
    """The reading of one column of the states, as it is proposed."""
    table = survivors.posterior.workspace.rows.table
    probe = table.probes[states.probes[column]]
    quantity, point = probe.quantity, probe.point
    minutes, late = _access(quantity, point)
    return Proposal(
        quantity,
        point.name,
        readable.setting,
        gain,
        readable.minutes + minutes,
        Hazard.CLAMP if quantity in (A, TEMP) else Hazard.LIVE,
        lambda: _live_outcomes(survivors, quantity, states, column),
        late=late,
    )


def _access(quantity: Quantity, point: Point) -> tuple[float, float]:
    """What it takes to read there, minutes, and how much later than others the trade does."""
    if point.kind == "node-node" and ".line." in point.name:
        return POLE_MINUTES, DEEPER
    if ":" in point.name:
        return PAIR_OF_NODES_MINUTES, NODES
    if quantity is A and point.kind in ("coil", "terminal", "secondary", "primary"):
        return CONTROL_AMPS_MINUTES, WIRE_TURNS
    if quantity is A and point.kind not in ("element", "circuit", "blower"):
        return MINUTES[quantity] + LESS_USUAL_MINUTES, DEEPER
    return MINUTES[quantity], DEEPER if point.kind in ("limit", "link") else 1.0


def _live_outcomes(
    survivors: Survivors, quantity: Quantity, states: SurvivorStates, column: int
) -> tuple[ReadingOutcome, ...]:
    """What one live reading may show; air is gain as the thermometer shows it."""
    low, high = states.low[:, column], states.high[:, column]
    scale = states.scale[:, column]
    if quantity is TEMP:
        share = air_factor(survivors.posterior.evidence.visit.settings.altitude_ft)
        low, high = low / share + UNKNOWN_RETURN_F, high / share + UNKNOWN_RETURN_F
        scale = scale + UNKNOWN_RETURN_ERROR_F / 4
    return outcomes_of(survivors, low, high, scale, states.weights, states.owner)


def _cycling(survivors: Survivors, readable: ReadableState) -> Iterator[Proposal]:
    """Watching one rung for ten minutes, or one limit of several in a rung."""
    for part, chance in cycling_of(survivors, readable):
        share = float((survivors.p * chance).sum() / survivors.p.sum())
        if not 0.01 < share < 0.99:
            continue
        seen = CYCLING_SEEN * chance + (1 - CYCLING_SEEN) * (1 - chance)
        cycles = chance[survivors.samples] >= EITHER
        like = np.where(cycles[:, None], seen[None, :], 1 - seen[None, :])
        gain = InformationGain(*map(float, survivors.gain(like)))
        yield cycling_proposal(survivors, readable, gain, part, chance)


def cycling_of(survivors: Survivors, readable: ReadableState) -> Iterator[tuple[str, Real]]:
    """What may cycle in a state, and how likely it does with each survivor: the rung of an element,
    (members,); of a rung with several limits each of these too, by the volts across it. Where all of
    them are hot, the first that opens saves the others: either may be the one."""
    if not readable.heats or not any(readable.cycling):
        return
    unit = survivors.posterior.evidence.unit
    limits = {limit.id for limit in unit.limits}
    for element in unit.elements:
        rung = [not some.isdisjoint(element.rung) for some in readable.cycling]
        yield element.id, np.array(rung, dtype=float)
        own = limits.intersection(element.rung)
        for limit in sorted(own) if len(own) > 1 else ():
            of_limit = [EITHER if own <= some else float(limit in some) for some in readable.cycling]
            yield limit, np.array(of_limit)


def cycling_proposal(
    survivors: Survivors, readable: ReadableState, gain: InformationGain, part: str, chance: Real
) -> Proposal:
    """Watching the rung of an element with the clamp, or a limit with the probes across it."""
    ones = [(int(m), float(chance[m])) for m in np.flatnonzero(chance > 0)]
    zeros = [(int(m), float(1 - chance[m])) for m in np.flatnonzero(chance < 1)]
    return Proposal(
        None,
        part,
        readable.setting,
        gain,
        readable.minutes + CYCLING_MINUTES,
        Hazard.CLAMP if part in survivors.posterior.evidence.unit.element_by_id else Hazard.LIVE,
        lambda: (outcome_of(survivors, 1, 1, ones), outcome_of(survivors, 0, 0, zeros)),
        observe="cycling",
    )
