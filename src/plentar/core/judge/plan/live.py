"""Readings in one state with power on: clamp, volts, air, and watching for a limit that cycles."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.stands import Stand
from plentar.core.judge.plan.survivors import (
    InformationGain,
    Outcome,
    Survivors,
    outcome_of,
    outcomes_of,
)
from plentar.core.judge.weigh.likelihood import TEMP, A, V, boxes, density
from plentar.core.judgement import Hazard
from plentar.core.network import Index, Real
from plentar.core.quantity import Quantity
from plentar.core.tables.assumptions import (
    CYCLING_SEEN,
    MISREAD,
    UNKNOWN_RETURN_ERROR_F,
    UNKNOWN_RETURN_F,
)
from plentar.core.tables.planning import (
    CONTROL_AMPS_MINUTES,
    CYCLING_MINUTES,
    FAULT_SHARE,
    LESS_USUAL_MINUTES,
    MINUTES,
    PAIR_OF_NODES_MINUTES,
    RIGHTER_BITS,
)

BEST_OF_A_STATE = 8
#: A survivor's state that is less likely than this is not looked at.
LEAST_STATE = 0.02
#: How many deviations either way the supply is taken to be open.
SUPPLY_SPREADS = 1.5


@dataclass(frozen=True)
class States:
    """What every survivor may show in a state, at some probes: boxes (states, probes), each with
    its weight and its survivor, the likeliest state of each first."""

    probes: Index
    low: Real
    high: Real
    scale: Real
    weights: Real
    owner: Index

    @cached_property
    def firsts(self) -> Index:
        """Where each survivor's states begin."""
        return np.flatnonzero(np.diff(self.owner, prepend=-1))


def live_readings(survivors: Survivors, stand: Stand) -> Iterator[Proposal]:
    """Live readings of one state, and whether anything cycles in it."""
    states = states_of(survivors, stand)
    low, high, scale = states.low, states.high, states.scale
    # Only what the model knows, and where some survivors can't be mistaken for others.
    known = ~np.isnan(low).any(axis=0)
    with np.errstate(invalid="ignore"):
        worth = np.flatnonzero(known & ((low - scale).max(axis=0) > (high + scale).min(axis=0)))
    if len(worth):
        table = survivors.posterior.atlas.rows.table
        misread = MISREAD * table.misread[states.probes[worth]].astype(np.float32)
        # Single precision is plenty for what may be read next, and twice as quick.
        lo, hi, sc = (one[:, worth].T.astype(np.float32, order="C") for one in (low, high, scale))
        x = ((lo + hi) / 2)[:, states.firsts[survivors.atoms]]  # likeliest state of each atom
        dens = density(x[:, :, None], lo[:, None], hi[:, None], sc[:, None])
        of_members = np.zeros((len(states.owner), len(survivors.members)), dtype=np.float32)
        of_members[np.arange(len(states.owner)), states.owner] = (1 - MISREAD) * states.weights
        like = np.asarray(dens @ of_members + misread[:, None, None])  # probes, atoms, members
        gain = survivors.gain(like)
        # The best of a state are enough: by what they tell, a minute of theirs taken as alike.
        best = np.argsort(-(gain[0] + FAULT_SHARE * gain[1] + RIGHTER_BITS * gain[2]))
        for k in (n for n in best[:BEST_OF_A_STATE] if gain[1][n] >= survivors.least_bits):
            tells = InformationGain(*(float(t[k]) for t in gain))
            yield live_proposal(survivors, stand, tells, states, int(worth[k]))
    yield from _cycling(survivors, stand)


def states_of(survivors: Survivors, stand: Stand) -> States:
    """The likelier states of every survivor at the probes that are worth a look."""
    likely = stand.weights > LEAST_STATE
    likely[:, 0] = True
    of, state = np.nonzero(likely)
    share = stand.weights[of, state]
    share /= np.bincount(of, share)[of]
    numbers = stand.rows[of, state]
    probes, lugs = _probes(survivors, stand.heats_long)
    supply = survivors.supply[of][:, None, :]
    # The first volts at a circuit's lugs tell of the supply, and with it of all that is read
    # later: they are weighed as if the supply were known.
    doubt = SUPPLY_SPREADS * supply[..., 1] * ~lugs
    low, high, scale = boxes(
        survivors.posterior.atlas.rows, numbers, probes,
        (supply[..., 0] - doubt, supply[..., 0] + doubt),
    )  # fmt: skip
    return States(probes, low, high, scale, share, of)


def _probes(survivors: Survivors, heats_long: bool) -> tuple[Index, np.ndarray]:
    """The probes to look at, and which of them are volts at lugs nobody has read yet.

    The current of a rung is sought at its element and its switches; limits and links show no
    other. Air tells only once it is steady.
    """
    evidence = survivors.posterior.evidence
    table = survivors.posterior.atlas.rows.table.probes
    chosen = [
        n for n, probe in enumerate(table)
        if not (probe.quantity is A and probe.point.kind in ("limit", "link"))
        and (heats_long or probe.quantity is not TEMP)
    ]  # fmt: skip
    lugs = [
        table[n].quantity is V and table[n].point.kind == "circuit"
        and evidence.latest(table[n].point.name, V) is None
        for n in chosen
    ]  # fmt: skip
    return np.array(chosen, dtype=np.intp), np.array(lugs)


def live_proposal(
    survivors: Survivors, stand: Stand, gain: InformationGain, states: States, column: int
) -> Proposal:
    """The reading of one column of the states, as it is proposed."""
    table = survivors.posterior.atlas.rows.table
    probe = table.probes[states.probes[column]]
    quantity, point = probe.quantity, probe.point
    minutes = MINUTES[quantity]
    if quantity is A and point.kind not in ("element", "circuit", "blower"):
        minutes += LESS_USUAL_MINUTES
    if ":" in point.name:
        minutes = PAIR_OF_NODES_MINUTES
    elif quantity is A and point.kind in ("coil", "terminal", "secondary", "primary"):
        minutes = CONTROL_AMPS_MINUTES
    return Proposal(
        quantity,
        point.name,
        stand.setting,
        gain,
        stand.minutes + minutes,
        Hazard.CLAMP if quantity in (A, TEMP) else Hazard.LIVE,
        lambda: _live_outcomes(survivors, quantity, states, column),
    )


def _live_outcomes(
    survivors: Survivors, quantity: Quantity, states: States, column: int
) -> tuple[Outcome, ...]:
    """What one live reading may show; air is gain as the thermometer shows it."""
    low, high = states.low[:, column], states.high[:, column]
    scale = states.scale[:, column]
    if quantity is TEMP:
        low, high = low + UNKNOWN_RETURN_F, high + UNKNOWN_RETURN_F
        scale = scale + UNKNOWN_RETURN_ERROR_F / 4
    return outcomes_of(survivors, low, high, scale, states.weights, states.owner)


def _cycling(survivors: Survivors, stand: Stand) -> Iterator[Proposal]:
    """Watching one rung for ten minutes."""
    for element, cycles in cycling_of(survivors, stand):
        share = float(survivors.p[cycles].sum() / survivors.p.sum())
        if not 0.01 < share < 0.99:
            continue
        like = np.where((cycles[:, None] == cycles[None, :]), CYCLING_SEEN, 1 - CYCLING_SEEN)
        like = like[survivors.atoms]
        gain = InformationGain(*map(float, survivors.gain(like)))
        yield cycling_proposal(survivors, stand, gain, element, cycles)


def cycling_of(survivors: Survivors, stand: Stand) -> Iterator[tuple[str, np.ndarray]]:
    """The elements whose rung may cycle in a state, and with which survivors: (members,)."""
    if not stand.heats or not any(stand.cycling):
        return
    for element in survivors.posterior.evidence.unit.elements:
        yield element.id, np.array([not some.isdisjoint(element.rung) for some in stand.cycling])


def cycling_proposal(
    survivors: Survivors, stand: Stand, gain: InformationGain, element: str, cycles: np.ndarray
) -> Proposal:
    """Watching the rung of an element, as it is proposed."""
    ones = [(int(m), 1.0) for m in np.flatnonzero(cycles)]
    zeros = [(int(m), 1.0) for m in np.flatnonzero(~cycles)]
    return Proposal(
        None,
        element,
        stand.setting,
        gain,
        stand.minutes + CYCLING_MINUTES,
        Hazard.CLAMP,
        lambda: (outcome_of(survivors, 1, 1, ones), outcome_of(survivors, 0, 0, zeros)),
        observe="cycling",
    )
