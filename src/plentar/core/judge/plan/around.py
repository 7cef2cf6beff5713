"""What else may be wrong beside what was found: every second fault, the readings that would show
one, and those that nothing shows until the first is mended.

A blown fuse hides most of the unit from every reading with power on, and an open limit hides its
own rung: what is hidden is computed from the model, never listed.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice, product

import numpy as np

from plentar.core.budget import check_budget
from plentar.core.circuit.faults import Fault
from plentar.core.circuit.network import Real
from plentar.core.judge.hypotheses.hypothesis import Hypothesis, Variant, work_on
from plentar.core.judge.plan.dead import Cold, cold_proposal, colds, proving
from plentar.core.judge.plan.guard import Guard
from plentar.core.judge.plan.live import (
    SurvivorStates,
    cycling_of,
    cycling_proposal,
    live_proposal,
    states_of,
)
from plentar.core.judge.plan.often import read_often
from plentar.core.judge.plan.proposal import Proposal, worth
from plentar.core.judge.plan.readable import readable_states
from plentar.core.judge.plan.survivors import InformationGain, Survivors
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.shown.workspace import Workspace
from plentar.core.judge.weigh.ensemble import EnsemblePosterior, ensemble_posterior
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judge.weigh.priors import beside_old, with_old_parts
from plentar.core.judge.weigh.unknowns import likelihoods
from plentar.core.judgement import NONE
from plentar.core.tables.assumptions import CYCLING_SEEN, PAIRS_SHARE
from plentar.core.tables.planning import APART_SCALES, LEAST_CHANCE, LEAST_OPEN, SHOWN_SHARE, SPOKEN
from plentar.core.unit.unit import Unit

READINGS = 4
NOTHING_MORE = "nothing more"


@dataclass(frozen=True, slots=True)
class Around:
    """What is left to look at. ``chance`` is that of a second fault that some reading can show;
    ``hidden`` are those that none can while the first is there; ``full`` says that two faults are
    found, as many as are weighed."""

    readings: tuple[Proposal, ...]
    chance: float
    hidden: tuple[Fault, ...]
    full: bool = False


def look_around(posterior: Posterior) -> Around:
    """What else to read with the leading fault taken as found (or with none, on a check-up).

    The judge weighs two faults at most: with a pair found there is nothing more to say.
    """
    leader = posterior.hypotheses[posterior.leader]
    if len(leader.faults) > 1:
        return Around((), 0.0, (), full=True)
    part = _with_a_second(posterior, leader)
    survivors = _survivors(posterior, part)
    often = read_often(posterior)
    shown = np.zeros(len(survivors.members))
    found: list[Proposal] = []
    for apart, proposal in _looks(survivors):
        check_budget()
        shown = np.maximum(shown, apart)
        if proposal.gain.decisive >= LEAST_CHANCE and not often(proposal):
            found.append(proposal)
    found.sort(key=worth, reverse=True)
    hidden, guard = _hidden(survivors, shown), Guard(posterior)
    safe = tuple(islice((p for p in found if guard.allows(p)), READINGS))
    return Around(safe, float(survivors.p[1:] @ shown[1:]), hidden)


def _with_a_second(posterior: Posterior, leader: Hypothesis) -> EnsemblePosterior:
    """The leading fault alone, and with every other one, under all evidence."""
    workspace, singles = posterior.workspace, posterior.singles
    if leader.id == NONE:
        return singles
    ensemble = _ensemble(workspace, posterior.leader, int(singles.best[posterior.leader]))
    taken = [one for one in posterior.evidence.taken if one.counts]
    items = likelihoods(ensemble, posterior.evidence, taken)
    items = beside_old(items, with_old_parts(posterior.evidence, workspace, posterior.items))
    weights = np.array([h.weight for h in ensemble.hypotheses[1:]])
    priors = np.array([1.0, *(PAIRS_SHARE * weights / weights.sum())])
    return ensemble_posterior(ensemble, items, np.log(priors))


def _ensemble(workspace: Workspace, leader: int, variant: int) -> Ensemble:
    """A fault as it was found, alone and with every other one; the last few are kept."""
    kept = workspace.seconds.get((leader, variant))
    if kept is None:
        found = workspace.singles.hypotheses[leader]
        alone = Hypothesis(found.faults, found.weight, (workspace.singles.variants[variant],))
        pairs = [_both(alone, h) for h in workspace.singles.hypotheses if _beside(found, h)]
        kept = Ensemble(workspace.rows, [alone, *pairs])
    return workspace.keep_second((leader, variant), kept)


def _beside(leader: Hypothesis, other: Hypothesis) -> bool:
    return bool(other.faults) and other.faults[0].component != leader.faults[0].component


def _both(one: Hypothesis, other: Hypothesis) -> Hypothesis:
    """A fault as it was found, with another of any size."""
    first = one.variants[0]
    variants = tuple(
        Variant(first.clock + v.clock, tuple(a + b for a, b in product(first.corners, v.corners)), v.share)
        for v in other.variants
    )
    return Hypothesis(one.faults + other.faults, other.weight, variants)


def _survivors(posterior: Posterior, part: EnsemblePosterior) -> Survivors:
    """Those still open; first the one with nothing more."""
    chance = np.exp(part.log_variant - part.log_variant.max())
    chance /= chance.sum()
    first = int(np.flatnonzero(part.ensemble.owner == 0)[0])
    others = [v for v in np.flatnonzero(chance > LEAST_OPEN).tolist() if v != first]
    members = [first, *others]
    unit, known = posterior.evidence.unit, part.ensemble.hypotheses[0].faults
    hypotheses = [part.ensemble.hypotheses[part.ensemble.owner[v]] for v in members]
    decided = [_second(unit, hypothesis, len(known)) for hypothesis in hypotheses]
    names = list(dict.fromkeys(decided))
    of_decision = np.zeros((len(members), len(names)))
    of_decision[np.arange(len(members)), [names.index(name) for name in decided]] = 1.0
    return Survivors(
        posterior,
        [(part, v) for v in members],
        chance[members],
        of_decision,
        of_decision,
        names,
        np.arange(1),
    )


def _second(unit: Unit, hypothesis: Hypothesis, known: int) -> str:
    """What to work on besides."""
    more = hypothesis.faults[known:]
    return work_on(unit, more[0]) if more else NOTHING_MORE


def _hidden(survivors: Survivors, shown: Real) -> tuple[Fault, ...]:
    """The second faults that no reading shows, and that none so far has spoken against."""
    part = survivors.members[0][0]
    ensemble = part.ensemble
    owner = ensemble.owner[[v for _, v in survivors.members]]
    weights = np.bincount(owner, survivors.p, len(ensemble.hypotheses))
    seen = np.bincount(owner, survivors.p * shown, len(ensemble.hypotheses))
    against = (part.of_item - part.of_item[:, :1]).sum(axis=0)
    return tuple(
        hypothesis.faults[-1]
        for n, hypothesis in enumerate(ensemble.hypotheses)
        if n and weights[n] and seen[n] < SHOWN_SHARE * weights[n] and against[n] > -SPOKEN
    )


def _looks(survivors: Survivors) -> Iterator[tuple[Real, Proposal]]:
    """Every reading there is: how far it shows each member (members,), and the reading."""
    for readable in readable_states(survivors.posterior, survivors):
        states = states_of(survivors, readable)
        apart = _apart(states, len(survivors.members))
        for column in np.flatnonzero(apart.any(axis=0)).tolist():
            gain = _gain(survivors, apart[:, column])
            yield apart[:, column], live_proposal(survivors, readable, gain, states, column)
        for part, chance in cycling_of(survivors, readable):
            shows = CYCLING_SEEN * np.abs(chance - chance[0])
            if shows.any():
                gain = _gain(survivors, shows)
                yield shows, cycling_proposal(survivors, readable, gain, part, chance)
    setting, minutes = proving(survivors)
    cold = colds(survivors)
    for number, shows in enumerate(_cold_apart(cold)):
        if shows.any():
            gain = _gain(survivors, shows)
            yield shows, cold_proposal(survivors, cold, number, gain, setting, minutes)


def _gain(survivors: Survivors, shows: Real) -> InformationGain:
    """Of a reading that shows a second fault or does not: the chance of it, and its bits."""
    chance = float(survivors.p @ shows)
    rest = 1.0 - chance
    bits = -sum(p * math.log2(p) for p in (chance, rest) if p > 0)
    return InformationGain(bits, bits, chance)


def _apart(states: SurvivorStates, count: int) -> Real:
    """How much of each member reads as the first never would: (members, probes)."""
    outside = np.ones(states.low.shape)
    for first in np.flatnonzero(states.owner == 0):
        margin = APART_SCALES * (states.scale + states.scale[first])
        beside = _outside(states.low, states.high, states.low[first] - margin, states.high[first] + margin)
        outside = np.minimum(outside, beside)
    of_members = np.zeros((count, len(states.owner)))
    of_members[states.owner, np.arange(len(states.owner))] = states.weights
    return np.asarray(of_members @ outside)


def _cold_apart(cold: Cold) -> Real:
    """How much of each member reads as the first never would, proved dead: (readings, members)."""
    first = np.s_[:, :1]
    margin = APART_SCALES * (cold.scale + cold.scale[first])
    found = _outside(cold.low, cold.high, cold.low[first] - margin, cold.high[first] + margin)
    found = np.where(cold.open_ == cold.open_[first], found * ~cold.open_, 1.0)
    return np.asarray(np.where(cold.known & cold.known[first], found, 0.0))


def _outside(low: Real, high: Real, least: Real, most: Real) -> Real:
    """How much of each stretch lies outside of another; none of what is not known."""
    width = np.maximum(high - low, 1e-9)
    with np.errstate(invalid="ignore"):
        below = np.clip(least - low, 0.0, width)
        above = np.clip(high - most, 0.0, width)
        far = (high < least) | (low > most)
    return np.asarray(np.nan_to_num(np.where(far, 1.0, (below + above) / width)))
