"""How likely each single fault is before anything was read, and what a repair does to that."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from plentar.core.evidence import Evidence
from plentar.core.judge.shown.atlas import Atlas
from plentar.core.judge.shown.complaints import CHECK_UP
from plentar.core.judge.weigh.likelihood import ItemLikelihood
from plentar.core.network import Real
from plentar.core.tables.assumptions import BEARS_ON, REPLACED_SHARE
from plentar.core.tables.faults import HEALTHY_ON_CHECK_UP


def priors_of(evidence: Evidence, atlas: Atlas) -> Real:
    """Of every single hypothesis, as relative frequencies, before complaint and readings."""
    priors = np.array([h.weight for h in atlas.singles.hypotheses])
    if evidence.visit.complaint == CHECK_UP:
        priors[0] = HEALTHY_ON_CHECK_UP
    replaced = {event.mended for event in evidence.visit.events if event.mended}
    if replaced:
        priors[0] += HEALTHY_ON_CHECK_UP  # what was wrong may be mended
    for n, hypothesis in enumerate(atlas.singles.hypotheses):
        if any(_is_of(evidence, fault.component, replaced) for fault in hypothesis.faults):
            priors[n] *= REPLACED_SHARE
    return priors


def _is_of(evidence: Evidence, component: str, replaced: set[str]) -> bool:
    control = evidence.unit.control_of_switch.get(component)
    return component in replaced or (control is not None and control.id in replaced)


def still_counting(evidence: Evidence, atlas: Atlas, items: Sequence[ItemLikelihood]) -> list[bool]:
    """Which items count: one from before a repair does not, where the old part bore on it."""
    counts = [True] * len(items)
    for event in evidence.visit.events:
        if not event.mended:
            continue
        old = [
            v
            for v, variant in enumerate(atlas.singles.variants)
            if any(_is_of(evidence, f.component, {event.mended}) for f in variant.clock)
        ]
        for n, item in enumerate(items):
            if item.t_s < event.t_s and old:
                moved = np.abs(item.log[old] - item.log[:1])
                counts[n] &= not bool((moved > BEARS_ON).any())
    return counts
