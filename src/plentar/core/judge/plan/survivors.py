"""The hypotheses that are still likely, and what a reading would tell of them, in bits."""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from plentar.core.circuit.network import Index, Real
from plentar.core.judge.hypotheses.hypothesis import decision_of
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.shown.shelf import Shelves
from plentar.core.judge.weigh.ensemble import EnsemblePosterior
from plentar.core.judge.weigh.observation import Floats
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.tables.planning import LEAST_BITS

#: How many are looked at, how many readings are tried as outcomes, and the least likely of them.
SURVIVORS, SAMPLES = 44, 14
LEAST_PROBABILITY = 2e-4


@dataclass(frozen=True, slots=True)
class InformationGain:
    """What a reading is expected to tell: bits on the decision and on the fault, and how much
    more often the decision would be right after it."""

    on_decision: float
    on_fault: float
    decisive: float


@dataclass(frozen=True, slots=True)
class ReadingOutcome:
    """A stretch of readings and the decisions that it leaves, likeliest first."""

    low: float
    high: float
    probability: float
    decisions: tuple[tuple[str, float], ...]


@dataclass(frozen=True)
class Survivors:
    """The surviving hypotheses: where they stand, how likely, and what each decides."""

    posterior: Posterior
    members: list[tuple[EnsemblePosterior, int]]
    p: Real
    of_decision: Real
    of_fault: Real
    names: list[str]
    samples: Index
    #: A reading that tells less than this many bits is not looked at.
    least_bits: float = LEAST_BITS
    #: What the steps after this keep of it.
    shelves: Shelves = field(default_factory=Shelves)

    @cached_property
    def by_ensemble(self) -> list[tuple[Ensemble, Index, Index]]:
        """The members of each ensemble: where they stand here, and which variants they are."""
        found: dict[int, tuple[Ensemble, list[int], list[int]]] = {}
        for row, (part, v) in enumerate(self.members):
            _, rows, variants = found.setdefault(id(part), (part.ensemble, [], []))
            rows.append(row)
            variants.append(v)
        return [(e, np.array(rows), np.array(vs)) for e, rows, vs in found.values()]

    @cached_property
    def supply(self) -> Real:
        """Mean and deviation of the supply, if each member is so: (members, 2)."""
        return np.array([part.supply[v] for part, v in self.members])

    def gain(self, likelihood: Floats) -> tuple[Floats, Floats, Floats]:
        """What readings would tell, of likelihoods (…, samples, members) of what each sample would read:
        bits on the decision, bits on the fault, and how much more often the decision would be right.

        The expected information of an experiment (Lindley, 1956), I(D; X) = Σ p(m) log2 p(d | x) / p(d),
        over the samples' own readings x in the place of the integral over X; d is the decision of m.
        """
        weights = self.p[self.samples]
        joint = likelihood * self.share.astype(likelihood.dtype)
        total = joint.sum(axis=-1)
        by_decision = joint @ self.of_decision.astype(likelihood.dtype)
        on_decision = (weights * self._bits(joint, total, self._alike_decided)).sum(axis=-1)
        on_fault = (weights * self._bits(joint, total, self._alike_in_fault)).sum(axis=-1)
        best_now = int(np.argmax(self.share @ self.of_decision))
        gained = by_decision.max(axis=-1) - by_decision[..., best_now]
        decisive = (weights * (gained / total)).sum(axis=-1)
        return on_decision, on_fault, decisive

    @cached_property
    def share(self) -> Real:
        """Of each member, together 1."""
        return np.asarray(self.p / self.p.sum())

    @cached_property
    def _alike_decided(self) -> Real:
        """Which members decide the same as each sample: (samples, members)."""
        return np.asarray(self.of_decision[self.samples] @ self.of_decision.T)

    @cached_property
    def _alike_in_fault(self) -> Real:
        """Which members are of the same hypothesis as each sample: (samples, members)."""
        return np.asarray(self.of_fault[self.samples] @ self.of_fault.T)

    def _bits(self, joint: Floats, total: Floats, alike: Real) -> Floats:
        """How much each sample's reading speaks for the sample's own group, in bits: (…, samples)."""
        own = np.einsum("...am,am->...a", joint, alike.astype(joint.dtype))
        return np.asarray(np.log2(own / (alike @ self.share * total)))


def survivors_of(
    posterior: Posterior,
    least: float = LEAST_PROBABILITY,
    least_bits: float = LEAST_BITS,
    without_more_than: frozenset[str] = frozenset(),
) -> Survivors:
    """The likeliest variants of all hypotheses, singles and pairs, as many as are looked at; but those that
    decide some parts and another beside them."""
    unit = posterior.evidence.unit
    found, decisions, hypotheses = [], [], []
    for one in sorted((v for v in posterior.variants() if v[0] > least), key=lambda one: -one[0]):
        _, part, v = one
        hypothesis = part.ensemble.hypotheses[part.ensemble.owner[v]]
        decision = decision_of(unit, hypothesis)
        if without_more_than and set(decision.split("+")) > without_more_than:
            continue
        found.append(one)
        decisions.append(decision)
        hypotheses.append(hypothesis)
        if len(found) == SURVIVORS:
            break
    names = list(dict.fromkeys(decisions))
    ids = list(dict.fromkeys(hypothesis.id for hypothesis in hypotheses))
    of_decision = np.zeros((len(found), len(names)))
    of_fault = np.zeros((len(found), len(ids)))
    for row, (name, hypothesis) in enumerate(zip(decisions, hypotheses, strict=True)):
        of_decision[row, names.index(name)] = 1.0
        of_fault[row, ids.index(hypothesis.id)] = 1.0
    members = [(part, v) for _, part, v in found]
    weights = np.array([p for p, _, _ in found])
    samples = np.arange(min(SAMPLES, len(found)))
    return Survivors(posterior, members, weights, of_decision, of_fault, names, samples, least_bits)


def outcomes_of(
    survivors: Survivors, low: Real, high: Real, scale: Real, weights: Real, owner: Index
) -> tuple[ReadingOutcome, ...]:
    """Readings that can't be told apart are one outcome; all arrays (states,)."""
    ends = [
        (low[n] - 2 * scale[n], high[n] + 2 * scale[n], int(m), float(weights[n]))
        for n, m in enumerate(owner)
        if weights[n] * survivors.p[m] > LEAST_PROBABILITY
    ]
    ends.sort(key=lambda end: end[0])
    groups: list[tuple[float, float, list[tuple[int, float]]]] = []
    for lo, hi, m, w in ends:
        if groups and lo <= groups[-1][1]:
            first, last, members = groups[-1]
            groups[-1] = (first, max(last, hi), [*members, (m, w)])
        else:
            groups.append((lo, hi, [(m, w)]))
    return tuple(outcome_of(survivors, max(0.0, lo), max(0.0, hi), members) for lo, hi, members in groups)


def outcome_of(
    survivors: Survivors, low: float, high: float, members: list[tuple[int, float]]
) -> ReadingOutcome:
    """The decisions that some members leave: ``members`` are (member, weight there)."""
    p = np.zeros(len(survivors.p))
    for m, w in members:
        p[m] += survivors.p[m] * w
    decided = p @ survivors.of_decision
    total = float(decided.sum())
    order = np.argsort(-decided)[:3]
    named = tuple((survivors.names[n], float(decided[n] / total)) for n in order if decided[n] > 0.02 * total)
    return ReadingOutcome(low, high, total / float(survivors.p.sum()), named)
