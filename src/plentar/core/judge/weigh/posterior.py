"""The weights of all hypotheses after everything that was read: who is suspected, and how much."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plentar.core.events import Replaced
from plentar.core.evidence import Evidence
from plentar.core.judge.hypotheses.hypothesis import (
    NONE,
    Hypothesis,
    decision_of,
    pair_of,
    work_on,
)
from plentar.core.judge.shown.atlas import Atlas, Ensemble, atlas_of
from plentar.core.judge.shown.complaints import CHECK_UP, complaint_weights
from plentar.core.judge.shown.history import History, history_of
from plentar.core.judge.weigh.likelihood import SUPPLY, SUPPLY_CHANCE, SUPPLY_HALF_CELL, Item, weigh
from plentar.core.judge.weigh.pairing import together
from plentar.core.network import Real
from plentar.core.tables.assumptions import (
    BAD_DAYS,
    BEARS_ON,
    MISREAD,
    OTHER_WEIGHT,
    PAIRS_SHARE,
    REPLACED_SHARE,
)
from plentar.core.tables.faults import HEALTHY_ON_CHECK_UP

PAIRS_TRIED, PAIRS_KEPT = 24, 96
#: Nats below the likeliest so far at which a pair need not be tried, the guess being rather too
#: good, and how much better than by either fault alone it must explain what was read.
NEAR, LEAST_GAIN = 3.0, 1.0
#: How many stretches of a pair are weighed, those about as good as the best, in nats.
STRETCHES, TIED = 3, 2.0


@dataclass(frozen=True)
class Weighed:
    """Some hypotheses of one ensemble under all evidence.

    ``log`` is (hypotheses,), prior included; ``best`` the likeliest variant of each; ``of_item``
    (items, hypotheses) each item's log likelihood under that variant; ``log_variant`` (variants,)
    as ``log``; ``supply`` (variants, 2) the mean and the deviation of the supply, as a share of
    rated, if it is so; ``usual`` the largest ``log`` were no day a bad one, as pairs are guessed.
    """

    ensemble: Ensemble
    items: Sequence[Item]
    log: Real
    best: np.ndarray
    of_item: Real
    log_variant: Real
    supply: Real
    usual: float

    def explained(self, hypothesis: int) -> np.ndarray:
        """Which items this hypothesis explains without a misreading."""
        v = self.best[hypothesis]
        return np.array([bool(item.explained[v]) for item in self.items], dtype=bool)


@dataclass(frozen=True)
class Posterior:
    """Every hypothesis with its probability, and the evidence behind it.

    ``single`` is of the single hypotheses, ``pairs`` of those pairs that were tried.
    """

    evidence: Evidence
    atlas: Atlas
    singles: Weighed
    pairs: tuple[Weighed, ...]
    other_log: float

    @cached_property
    def told(self) -> History:
        """The visit's switches, as the runs know them."""
        return history_of(self.evidence.unit, self.evidence.visit.events)

    @cached_property
    def hypotheses(self) -> tuple[Hypothesis, ...]:
        """Singles, then pairs."""
        return self.singles.ensemble.hypotheses + tuple(
            pair.ensemble.hypotheses[0] for pair in self.pairs
        )

    @cached_property
    def probabilities(self) -> Real:
        """Of the hypotheses in order, and of what none of them covers last; they sum to 1."""
        logs = [*self.singles.log, *(pair.log[0] for pair in self.pairs), self.other_log]
        found = np.exp(np.array(logs) - max(logs))
        return np.asarray(found / found.sum())

    def variants(self) -> Iterator[tuple[float, Weighed, int]]:
        """Every variant with its probability, and where it was weighed."""
        top = max(float(self.singles.log.max()), *(float(p.log[0]) for p in self.pairs), -1e300)
        whole = float(np.exp(np.array([*self.singles.log, self.other_log]) - top).sum())
        whole += sum(float(np.exp(pair.log[0] - top)) for pair in self.pairs)
        for weighed in (self.singles, *self.pairs):
            for v, p in enumerate(np.exp(weighed.log_variant - top) / whole):
                yield float(p), weighed, v

    @cached_property
    def decisions(self) -> dict[str, float]:
        """What to work on, with its probability, the likeliest first."""
        found: dict[str, float] = {}
        for hypothesis, p in zip(self.hypotheses, self.probabilities, strict=False):
            name = decision_of(self.evidence.unit, hypothesis)
            found[name] = found.get(name, 0.0) + float(p)
        return dict(sorted(found.items(), key=lambda pair: -pair[1]))

    @cached_property
    def surest(self) -> float:
        """How sure it is that the parts of the leading decision are to be worked on."""
        parts = next(iter(self.decisions)).split("+")
        return min(
            sum(p for name, p in self.decisions.items() if part in name.split("+"))
            for part in parts
        )

    @cached_property
    def leader(self) -> int:
        """The likeliest hypothesis."""
        return int(np.argmax(self.probabilities[:-1]))

    def weighed(self, hypothesis: int) -> tuple[Weighed, int]:
        """Where a hypothesis was weighed, and its place there."""
        count = len(self.singles.log)
        if hypothesis < count:
            return self.singles, hypothesis
        return self.pairs[hypothesis - count], 0

    @property
    def items(self) -> Sequence[Item]:
        """The evidence, in order of time."""
        return self.singles.items


def posterior(evidence: Evidence, atlas: Atlas | None = None) -> Posterior:
    """Weigh every single fault; pairs too, where they come near."""
    atlas = atlas or atlas_of(evidence.unit)
    taken = [one for one in evidence.taken if one.counts]
    items = weigh(atlas.singles, evidence, taken)
    counts = _counting(evidence, atlas, items)
    items = [item for item, use in zip(items, counts, strict=True) if use]
    told = complaint_weights(atlas, evidence.visit.complaint)
    priors = _priors(evidence, atlas) * told
    singles = weighed_of(atlas.singles, items, np.log(priors))
    other = sum(item.misread_log - np.log(MISREAD) for item in items) + np.log(OTHER_WEIGHT)
    pairs = tuple(_pairs(evidence, atlas, singles, told, counts)) if items else ()
    return Posterior(evidence, atlas, singles, pairs, float(other))


def _priors(evidence: Evidence, atlas: Atlas) -> Real:
    found = np.array([h.weight for h in atlas.singles.hypotheses])
    if evidence.visit.complaint == CHECK_UP:
        found[0] = HEALTHY_ON_CHECK_UP
    replaced = {event.component for event in evidence.visit.of_kind(Replaced)}
    if replaced:
        found[0] += HEALTHY_ON_CHECK_UP  # what was wrong may be mended
    for n, hypothesis in enumerate(atlas.singles.hypotheses):
        if any(_is_of(evidence, fault.component, replaced) for fault in hypothesis.faults):
            found[n] *= REPLACED_SHARE
    return found


def _is_of(evidence: Evidence, component: str, replaced: set[str]) -> bool:
    control = evidence.unit.control_of_switch.get(component)
    return component in replaced or (control is not None and control.id in replaced)


def _counting(evidence: Evidence, atlas: Atlas, items: Sequence[Item]) -> list[bool]:
    """Which items count: one from before a repair does not, where the old part bore on it."""
    counts = [True] * len(items)
    for event in evidence.visit.of_kind(Replaced):
        old = [
            v
            for v, variant in enumerate(atlas.singles.variants)
            if any(_is_of(evidence, f.component, {event.component}) for f in variant.clock)
        ]
        for n, item in enumerate(items):
            if item.t_s < event.t_s and old:
                moved = np.abs(item.log[old] - item.log[:1])
                counts[n] &= not bool((moved > BEARS_ON).any())
    return counts


def weighed_of(ensemble: Ensemble, items: Sequence[Item], log_priors: Real) -> Weighed:
    """The hypotheses of an ensemble under some items, each with its prior: (hypotheses,)."""
    chance = np.broadcast_to(np.log(SUPPLY_CHANCE), (len(ensemble.variants), len(SUPPLY_CHANCE)))
    usual = chance + sum(item.log for item in items)
    bad_day = chance + sum(item.bad_day for item in items)
    total = np.logaddexp(np.log(1 - BAD_DAYS) + usual, np.log(BAD_DAYS) + bad_day)
    top = total.max(axis=1)
    log_variant = top + np.log(np.exp(total - top[:, None]).sum(axis=1)) + np.log(ensemble.shares)
    count = len(ensemble.hypotheses)
    best = ensemble.likeliest(log_variant)
    sums = np.zeros(count)
    np.add.at(sums, ensemble.owner, np.exp(log_variant - log_variant[best][ensemble.owner]))
    likeliest = total[best].argmax(axis=1)
    of_item = np.array([item.log[best, likeliest] for item in items]).reshape(len(items), count)
    log = log_variant[best] + np.log(sums) + log_priors
    log_variant = log_variant + log_priors[ensemble.owner]
    likeliest = int(log.argmax())
    gained = total[best[likeliest]].max() - usual[best[likeliest]].max()
    return Weighed(
        ensemble, items, log, best, of_item, log_variant, _supply(total), float(log.max() - gained)
    )


def _supply(log: Real) -> Real:
    chance = np.exp(log - log.max(axis=1, keepdims=True))
    chance /= chance.sum(axis=1, keepdims=True)
    mean = chance @ SUPPLY
    spread = np.sqrt(np.maximum(chance @ SUPPLY**2 - mean**2, 0.0) + SUPPLY_HALF_CELL**2 / 3)
    return np.stack([mean, spread], axis=1)


def _pairs(
    evidence: Evidence, atlas: Atlas, singles: Weighed, told: Real, counts: list[bool]
) -> Iterator[Weighed]:
    """The pairs that may come near the likeliest single fault.

    How near is guessed from what each explains alone; where one fault explains everything, no pair
    comes near.
    """
    hypotheses = atlas.singles.hypotheses
    priors = _priors(evidence, atlas)
    # (items, variants): how each variant alone explains each item, at its best supply
    alone = np.array([item.log.max(axis=1) for item in singles.items])
    alone_sums = np.sum([atlas.singles.most(one) for one in alone], axis=0)
    switches = history_of(evidence.unit, evidence.visit.events)
    log = together(atlas, switches, singles.items)
    gain = log - np.maximum(alone_sums[:, None], alone_sums)
    log += np.log(priors)[:, None] + np.log(priors)[None, :]
    log += np.log(np.maximum(told[:, None], told[None, :]))
    log += np.log(PAIRS_SHARE / priors.sum())
    ones, twos = np.triu_indices(len(hypotheses), 1)
    score = np.where(gain[ones, twos] > LEAST_GAIN, log[ones, twos], -np.inf)
    likeliest = singles.usual
    for n in np.argsort(-score)[:PAIRS_TRIED]:
        if score[n] < likeliest - NEAR:
            return
        a, b = int(ones[n]), int(twos[n])
        if not _may_be_both(evidence, hypotheses[a], hypotheses[b]):
            continue
        weight = PAIRS_SHARE * priors[a] * priors[b] / priors.sum() * max(told[a], told[b])
        ensemble = _pair(atlas, a, b, alone)
        taken = [one for one in evidence.taken if one.counts]
        items = weigh(ensemble, evidence, taken)
        items = [item for item, use in zip(items, counts, strict=True) if use]
        weighed = weighed_of(ensemble, items, np.log(np.array([weight])))
        likeliest = max(likeliest, weighed.usual)
        yield weighed


def _may_be_both(evidence: Evidence, one: Hypothesis, two: Hypothesis) -> bool:
    """Two faults of two components; not of none."""
    if NONE in (one.id, two.id):
        return False
    return one.faults[0].component != two.faults[0].component


def _pair(atlas: Atlas, a: int, b: int, alone: Real) -> Ensemble:
    """The pair, in the stretches of both faults that explain best beside each other."""
    singles = atlas.singles
    va, vb = np.flatnonzero(singles.owner == a), np.flatnonzero(singles.owner == b)
    both = np.maximum(alone[:, va][:, :, None], alone[:, vb][:, None, :]).sum(axis=0)
    best = [n for n in np.argsort(-both, axis=None)[:STRETCHES] if both.flat[n] > both.max() - TIED]
    stretches = [(int(n) // len(vb), int(n) % len(vb)) for n in best]
    key = (a, b, tuple(sorted(stretches)))
    found = atlas.pairs.get(key)
    if found is None:
        ha, hb = singles.hypotheses[a], singles.hypotheses[b]
        hypothesis = pair_of(ha, hb, sorted(stretches))
        found = atlas.pairs[key] = Ensemble(atlas.rows, [hypothesis])
        if len(atlas.pairs) > PAIRS_KEPT:
            atlas.pairs.popitem(last=False)
    else:
        atlas.pairs.move_to_end(key)
    return found


def parts_of(evidence: Evidence, hypothesis: Hypothesis) -> frozenset[str]:
    """The parts to work on if this is so."""
    return frozenset(work_on(evidence.unit, fault) for fault in hypothesis.faults)
