"""Two faults at once: a search with a bound.

Weighing a pair takes its own runs and networks. Which of some two thousand are worth that is told
by a guess that is rather too good than too bad; they are weighed in the order of their guess until
the next could not come near the best so far.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from plentar.core.budget import check_budget
from plentar.core.circuit.network import Real
from plentar.core.judge.hypotheses.hypothesis import Hypothesis, pair_of
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.shown.history import SwitchHistory, history_of
from plentar.core.judge.shown.workspace import Workspace
from plentar.core.judge.weigh.ensemble import EnsemblePosterior, ensemble_posterior
from plentar.core.judge.weigh.guess import Guess, GuessShelf, ReadingKey, either
from plentar.core.judge.weigh.likelihood import ItemLikelihood
from plentar.core.judge.weigh.observation import Floats
from plentar.core.judge.weigh.one_act import told_once
from plentar.core.judge.weigh.priors import OldPart, beside_old, priors_of
from plentar.core.judge.weigh.unknowns import likelihoods
from plentar.core.judgement import NONE
from plentar.core.tables.assumptions import PAIRS_SHARE
from plentar.core.visit.events import Reading
from plentar.core.visit.evidence import Evidence

PAIRS_TRIED = 24
#: Nats below the likeliest so far at which a pair need not be tried, the guess being rather too
#: good, and how much better than by either fault alone it must explain what was read.
NEAR, LEAST_GAIN = 3.0, 1.0
#: How many stretches of a pair are weighed, those about as good as the best, in nats.
STRETCHES, TIED = 3, 2.0


def pairs_near(
    evidence: Evidence,
    workspace: Workspace,
    singles: EnsemblePosterior,
    complaint: Real,
    old: Sequence[OldPart | None],
) -> Iterator[EnsemblePosterior]:
    """The pairs that may come near the likeliest single fault, ``complaint`` being the likelihood
    of the complaint under each single one (hypotheses,).

    How near is guessed from what each explains alone; where one fault explains everything, no pair
    comes near.
    """
    hypotheses = workspace.singles.hypotheses
    priors = priors_of(evidence, workspace)
    # (items, variants): how each variant alone explains each item, at its best supply
    alone = np.array([item.log.max(axis=1) for item in singles.items])
    alone_sums = np.sum([workspace.singles.most(one) for one in alone], axis=0)
    switches = history_of(evidence.unit, evidence.visit.events)
    log = together(workspace, switches, singles.items)
    gain = log - np.maximum(alone_sums[:, None], alone_sums)
    log += np.log(priors)[:, None] + np.log(priors)[None, :]
    log += np.log(np.maximum(complaint[:, None], complaint[None, :]))
    log += np.log(PAIRS_SHARE / priors.sum())
    ones, twos = np.triu_indices(len(hypotheses), 1)
    score = np.where(gain[ones, twos] > LEAST_GAIN, log[ones, twos], -np.inf)
    likeliest = singles.usual
    for n in np.argsort(-score)[:PAIRS_TRIED]:
        if score[n] < likeliest - NEAR:
            return
        check_budget()
        a, b = int(ones[n]), int(twos[n])
        if not _may_be_both(hypotheses[a], hypotheses[b]):
            continue
        weight = PAIRS_SHARE * priors[a] * priors[b] / priors.sum() * max(complaint[a], complaint[b])
        ensemble = _pair(workspace, a, b, alone)
        taken = told_once(evidence.unit, [one for one in evidence.taken if one.counts])
        items = likelihoods(ensemble, evidence, taken)
        items = beside_old(items, old)
        pair = ensemble_posterior(ensemble, items, np.log(np.array([weight])))
        likeliest = max(likeliest, pair.usual)
        yield pair


def _may_be_both(one: Hypothesis, two: Hypothesis) -> bool:
    """Two faults of two components; not of none."""
    if NONE in (one.id, two.id):
        return False
    return one.faults[0].component != two.faults[0].component


def _pair(workspace: Workspace, a: int, b: int, alone: Real) -> Ensemble:
    """The pair, in the stretches of both faults that explain best beside each other."""
    singles = workspace.singles
    va, vb = np.flatnonzero(singles.owner == a), np.flatnonzero(singles.owner == b)
    both = np.maximum(alone[:, va][:, :, None], alone[:, vb][:, None, :]).sum(axis=0)
    best = [n for n in np.argsort(-both, axis=None)[:STRETCHES] if both.flat[n] > both.max() - TIED]
    stretches = [(int(n) // len(vb), int(n) % len(vb)) for n in best]
    key = (a, b, tuple(sorted(stretches)))
    found = workspace.pairs.get(key)
    if found is None:
        ha, hb = singles.hypotheses[a], singles.hypotheses[b]
        hypothesis = pair_of(ha, hb, sorted(stretches))
        found = Ensemble(workspace.rows, [hypothesis])
    return workspace.keep_pair(key, found)


def together(workspace: Workspace, history: SwitchHistory, items: Sequence[ItemLikelihood]) -> Real:
    """Log likelihood of all items under every two hypotheses: (hypotheses, hypotheses)."""
    count = len(workspace.singles.hypotheses)
    found = np.zeros((count, count))
    for item in items:
        check_budget()
        found += either(workspace.singles.most(item.log.max(axis=1)))
        if isinstance(item.event, Reading):
            found += _gain(workspace, history, item, item.event)
    return found


def _gain(
    workspace: Workspace, history: SwitchHistory, item: ItemLikelihood, reading: Reading
) -> Floats | float:
    """How much better than by either alone what is guessed explains a reading, nats."""
    probe = workspace.rows.probe(reading.quantity, reading.at)
    if probe is None:
        return 0.0
    t_s = history.time(reading.t_s + reading.lead_s)
    shelf = workspace.singles.shelves.of(GuessShelf)
    alone = workspace.singles.most(item.log.max(axis=1))
    what = reading.quantity, reading.at, reading.value
    key = ReadingKey(history.before(t_s), t_s, *what, alone.tobytes())
    kept = shelf.gains.get(key)
    if kept is None:
        gain = Guess(workspace, history, t_s, item, reading, probe).best(alone) - either(alone)
        kept = shelf.gains.keep(key, gain.astype(np.float32))
    return kept
