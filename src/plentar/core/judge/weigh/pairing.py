"""How well two faults at once may explain what was read.

Weighing a pair takes its own runs and networks; this tells which of some two thousand are worth
that, by a guess that is rather too good than too bad.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from plentar.core.events import Reading
from plentar.core.judge.shown.atlas import Atlas
from plentar.core.judge.shown.history import History
from plentar.core.judge.weigh.guess import Guess, either
from plentar.core.judge.weigh.likelihood import Item
from plentar.core.network import Real


def together(atlas: Atlas, told: History, items: Sequence[Item]) -> Real:
    """Log likelihood of all items under every two hypotheses: (hypotheses, hypotheses)."""
    count = len(atlas.singles.hypotheses)
    found = np.zeros((count, count))
    for item in items:
        found += either(atlas.singles.most(item.log.max(axis=1)))
        if isinstance(item.event, Reading):
            found += _gain(atlas, told, item, item.event)
    return found


def _gain(atlas: Atlas, told: History, item: Item, reading: Reading) -> Real | float:
    """How much better than by either alone what is guessed explains a reading, nats."""
    probe = atlas.rows.probe(reading.quantity, reading.at)
    if probe is None:
        return 0.0
    t_s = told.time(reading.t_s + reading.lead_s)
    key = ("together", told.before(t_s), t_s, reading.quantity, reading.at, reading.value)
    kept: Real | None = atlas.singles.kept.get(key)
    if kept is None:
        alone = atlas.singles.most(item.log.max(axis=1))
        gain = Guess(atlas, told, t_s, item, reading, probe).best(alone) - either(alone)
        kept = atlas.singles.keep(key, gain.astype(np.float32))
    return kept
