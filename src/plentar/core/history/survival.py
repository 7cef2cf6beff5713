"""How long parts last, from a shop's own repairs: the product-limit estimate of Kaplan and Meier (1958),
with Greenwood's variance on the log-log scale, so that an interval stays between none and all.

A part is watched from the first visit that knew it, or from its replacement, to its own replacement or
to the last visit, where it was still in. How old a part was when it was first seen is not known: the
years are years on record.
"""

from __future__ import annotations

import math
from bisect import bisect_left
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

#: With fewer replacements nothing is said.
LEAST_FAILURES = 8
#: 95 % of the normal distribution.
Z = 1.959963984540054


@dataclass(frozen=True, slots=True)
class Watched:
    """One part: for how many years it was watched, and whether it was replaced at their end."""

    years: float
    replaced: bool


@dataclass(frozen=True, slots=True)
class SurvivalStep:
    """After a time at which parts were replaced: how many were at risk just before and how many of them
    were replaced, the share that is still in, and its interval, 95 %."""

    years: float
    at_risk: int
    replaced: int
    still_in: float
    low: float
    high: float


def kaplan_meier(watched: Iterable[Watched]) -> tuple[SurvivalStep, ...]:
    """The steps in order of time. A part whose watch ends at a time at which others are replaced was at
    risk then."""
    parts = list(watched)
    ends = sorted(part.years for part in parts)
    steps: list[SurvivalStep] = []
    share, greenwood = 1.0, 0.0
    for years, replaced in sorted(Counter(p.years for p in parts if p.replaced).items()):
        at_risk = len(ends) - bisect_left(ends, years)
        share *= 1 - replaced / at_risk
        left = at_risk - replaced
        greenwood += replaced / (at_risk * left) if left else math.inf
        steps.append(SurvivalStep(years, at_risk, replaced, share, *_interval(share, greenwood)))
    return tuple(steps)


def _interval(share: float, greenwood: float) -> tuple[float, float]:
    if not 0 < share < 1 or math.isinf(greenwood):
        return (0.0, share) if share < 1 else (share, share)
    spread = Z * math.sqrt(greenwood) / abs(math.log(share))
    return share ** math.exp(spread), share ** math.exp(-spread)


def still_in_at(steps: Sequence[SurvivalStep], years: float) -> SurvivalStep | None:
    """The step that holds at a time; None before the first."""
    before = [step for step in steps if step.years <= years]
    return before[-1] if before else None


def enough(watched: Sequence[Watched]) -> bool:
    return sum(part.replaced for part in watched) >= LEAST_FAILURES
