"""Which suspects no legal reading tells apart: they read alike everywhere, in every state."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from plentar.core.circuit.network import Real
from plentar.core.circuit.wiring import Mask
from plentar.core.judge.plan.dead import colds
from plentar.core.judge.plan.live import cycling_of, states_of
from plentar.core.judge.plan.readable import readable_states
from plentar.core.judge.plan.survivors import Survivors
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.tables.assumptions import EITHER
from plentar.core.tables.planning import LEAST_ALIKE


def alike(posterior: Posterior, survivors: Survivors) -> list[tuple[int, ...]]:
    """Groups of two single hypotheses or more, each as it is likeliest, the likeliest first."""
    first: dict[int, int] = {}
    for member, (part, variant) in enumerate(survivors.members):
        if part is posterior.singles:
            first.setdefault(int(part.ensemble.owner[variant]), member)
    chances = posterior.probabilities
    asked = {h: m for h, m in first.items() if h and chances[h] >= LEAST_ALIKE}
    if len(asked) < 2:
        return []
    members = np.array(list(asked.values()))
    apart = np.zeros((len(members), len(members)), dtype=bool)
    for table in _tables(posterior, survivors):
        apart |= table[np.ix_(members, members)]
    groups: dict[int, list[int]] = {}
    for n, hypothesis in enumerate(asked):
        # The first that it reads as, itself if no other.
        groups.setdefault(int(np.flatnonzero(~apart[n])[0]), []).append(hypothesis)
    return [tuple(group) for group in groups.values() if len(group) > 1]


def _tables(posterior: Posterior, survivors: Survivors) -> Iterator[Mask]:
    """Which members some reading tells apart, state by state: (members, members)."""
    for readable in readable_states(posterior, survivors):
        states = states_of(survivors, readable)
        owned = [np.flatnonzero(states.owner == m) for m in range(len(survivors.members))]
        counts = np.array([len(own) for own in owned])
        yield counts[:, None] != counts
        for rank in range(counts.max()):  # a limit may be open, or closed
            at = np.array([own[min(rank, len(own) - 1)] for own in owned])
            low, high, scale = states.low[at], states.high[at], states.scale[at]
            yield _apart(low, high, scale, states.ghost[at])
        for _, chance in cycling_of(survivors, readable):
            yield np.abs(chance[:, None] - chance) > EITHER
    cold = colds(survivors)
    yield _apart(cold.low.T, cold.high.T, cold.scale.T, ~cold.known.T)
    yield (cold.open_.T[:, None] != cold.open_.T).any(axis=2)


def _apart(low: Real, high: Real, scale: Real, unknown: Mask) -> Mask:
    """Which members show other stretches somewhere: of (members, readings)."""
    count = len(low)
    found = np.zeros((count, count), dtype=bool)
    with np.errstate(invalid="ignore"):
        for one in range(count):
            moved = np.maximum(np.abs(low - low[one]), np.abs(high - high[one])) > scale
            found[one] = (moved & ~unknown & ~unknown[one]).any(axis=1)
    return found | found.T
