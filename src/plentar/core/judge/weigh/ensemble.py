"""The hypotheses of one ensemble under all evidence: prior × likelihood, not yet shared out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.judge.shown.ensemble import Ensemble
from plentar.core.judge.weigh.boxes import SUPPLY, SUPPLY_CHANCE, SUPPLY_HALF_CELL
from plentar.core.judge.weigh.likelihood import ItemLikelihood, least_explained
from plentar.core.tables.assumptions import BAD_DAYS


@dataclass(frozen=True)
class EnsemblePosterior:
    """Some hypotheses of one ensemble under all evidence.

    ``log`` is (hypotheses,), prior included; ``best`` the likeliest variant of each; ``of_item``
    (items, hypotheses) each item's log likelihood under that variant; ``log_variant`` (variants,)
    as ``log``; ``supply`` (variants, 2) the mean and the deviation of the supply, as a share of
    rated, if it is so; ``usual`` the largest ``log`` were no day a bad one, as pairs are guessed.
    """

    ensemble: Ensemble
    items: Sequence[ItemLikelihood]
    log: Real
    best: np.ndarray
    of_item: Real
    log_variant: Real
    supply: Real
    usual: float

    def explained(self, hypothesis: int) -> np.ndarray:
        """Which items this hypothesis explains without a misreading, at the supply that all of them say."""
        least = [least_explained(item.misread) for item in self.items]
        return np.asarray(self.of_item[:, hypothesis] > np.log(least))


def ensemble_posterior(
    ensemble: Ensemble, items: Sequence[ItemLikelihood], log_priors: Real
) -> EnsemblePosterior:
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
    return EnsemblePosterior(
        ensemble, items, log, best, of_item, log_variant, _supply(total), float(log.max() - gained)
    )


def _supply(log: Real) -> Real:
    chance = np.exp(log - log.max(axis=1, keepdims=True))
    chance /= chance.sum(axis=1, keepdims=True)
    mean = chance @ SUPPLY
    spread = np.sqrt(np.maximum(chance @ SUPPLY**2 - mean**2, 0.0) + SUPPLY_HALF_CELL**2 / 3)
    return np.stack([mean, spread], axis=1)
