"""The weights of all hypotheses after everything that was read: who is suspected, and how much."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from plentar.core.budget import OutOfTime
from plentar.core.circuit.network import Real
from plentar.core.judge.hypotheses.hypothesis import Hypothesis, decision_of
from plentar.core.judge.shown.complaints import complaint_likelihood
from plentar.core.judge.shown.history import SwitchHistory, history_of
from plentar.core.judge.shown.workspace import Workspace, workspace_of
from plentar.core.judge.weigh.ensemble import EnsemblePosterior, ensemble_posterior
from plentar.core.judge.weigh.likelihood import ItemLikelihood, each_likelihood, in_order
from plentar.core.judge.weigh.one_act import told_once
from plentar.core.judge.weigh.pairs import pairs_near
from plentar.core.judge.weigh.priors import beside_old, priors_of, with_old_parts
from plentar.core.judge.weigh.seen import seen_in
from plentar.core.judge.weigh.unknowns import share_unknowns
from plentar.core.judgement import PAIRS_LEFT_OUT
from plentar.core.said import Said, say
from plentar.core.tables.assumptions import OTHER_WEIGHT
from plentar.core.visit.evidence import Evidence


@dataclass(frozen=True)
class Posterior:
    """Every hypothesis with its probability, and the evidence behind it.

    ``singles`` is of the single hypotheses, ``pairs`` of those pairs that were tried.
    """

    evidence: Evidence
    workspace: Workspace
    singles: EnsemblePosterior
    pairs: tuple[EnsemblePosterior, ...]
    other_log: float
    left_out: tuple[Said, ...] = ()

    @cached_property
    def history(self) -> SwitchHistory:
        return history_of(self.evidence.unit, self.evidence.visit.events)

    @cached_property
    def hypotheses(self) -> tuple[Hypothesis, ...]:
        return self.singles.ensemble.hypotheses + tuple(pair.ensemble.hypotheses[0] for pair in self.pairs)

    @cached_property
    def probabilities(self) -> Real:
        """Of the hypotheses in order, and of what none of them covers last; they sum to 1."""
        logs = [*self.singles.log, *(pair.log[0] for pair in self.pairs), self.other_log]
        found = np.exp(np.array(logs) - max(logs))
        return np.asarray(found / found.sum())

    def variants(self) -> Iterator[tuple[float, EnsemblePosterior, int]]:
        """Every variant with its probability, and where it stands."""
        top = max(float(self.singles.log.max()), *(float(p.log[0]) for p in self.pairs), -1e300)
        whole = float(np.exp(np.array([*self.singles.log, self.other_log]) - top).sum())
        whole += sum(float(np.exp(pair.log[0] - top)) for pair in self.pairs)
        for part in (self.singles, *self.pairs):
            for v, p in enumerate(np.exp(part.log_variant - top) / whole):
                yield float(p), part, v

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
        return min(sum(p for name, p in self.decisions.items() if part in name.split("+")) for part in parts)

    @cached_property
    def leader(self) -> int:
        """The likeliest hypothesis."""
        return int(np.argmax(self.probabilities[:-1]))

    def place_of(self, hypothesis: int) -> tuple[EnsemblePosterior, int]:
        count = len(self.singles.log)
        if hypothesis < count:
            return self.singles, hypothesis
        return self.pairs[hypothesis - count], 0

    @property
    def items(self) -> Sequence[ItemLikelihood]:
        """The evidence, in order of time."""
        return self.singles.items


def posterior(evidence: Evidence, workspace: Workspace | None = None) -> Posterior:
    """Weigh every single fault; pairs too, where they come near.

    Where time is up, what was weighed by then counts, and ``left_out`` says what was not.
    """
    workspace = workspace or workspace_of(evidence.unit)
    taken = told_once(evidence.unit, [one for one in evidence.taken if one.counts])
    left_out: list[Said] = []
    found: list[ItemLikelihood | None] = []
    try:
        found.extend(each_likelihood(workspace.singles, evidence, taken))
    except OutOfTime:
        every = len(taken) + len(seen_in(evidence.visit))
        left_out.append(say("left-out.readings", n=every - len(found), every=every))
    items = in_order(found)
    try:
        items = share_unknowns(workspace.singles, evidence, items)
    except OutOfTime:
        left_out.append(say("left-out.shared"))
    old = with_old_parts(evidence, workspace, items)
    items = beside_old(items, old)
    complaint = np.ones(len(workspace.singles.hypotheses))
    try:
        complaint = complaint_likelihood(workspace, evidence.complaint)
    except OutOfTime:
        left_out.append(say("left-out.complaint"))
    priors = priors_of(evidence, workspace) * complaint
    singles = ensemble_posterior(workspace.singles, items, np.log(priors))
    other = sum(np.log(item.misread) for item in items) + np.log(OTHER_WEIGHT)
    pairs: list[EnsemblePosterior] = []
    try:
        if items and not left_out:
            pairs.extend(pairs_near(evidence, workspace, singles, complaint, old))
    except OutOfTime:
        left_out.append(PAIRS_LEFT_OUT)
    return Posterior(evidence, workspace, singles, tuple(pairs), float(other), tuple(left_out))
