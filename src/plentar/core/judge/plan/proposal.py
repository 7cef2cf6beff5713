"""One reading worth taking: what it costs, and what it is worth."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from plentar.core.judge.plan.survivors import InformationGain, ReadingOutcome
from plentar.core.judgement import Hazard, Setting
from plentar.core.quantity import Quantity
from plentar.core.tables.planning import DECISIVE_BITS, EACH_MINUTES, FAULT_SHARE, SURCHARGE


@dataclass(frozen=True)
class Proposal:
    """One reading (or observation) worth taking.

    ``minutes`` counts everything that goes before it.
    """

    quantity: Quantity | None
    at: str
    setting: Setting
    gain: InformationGain
    minutes: float
    hazard: Hazard
    find_outcomes: Callable[[], tuple[ReadingOutcome, ...]]
    observe: str = ""
    #: How much later than others the trade reads this, as a divisor of its worth.
    late: float = 1.0

    @cached_property
    def outcomes(self) -> tuple[ReadingOutcome, ...]:
        """What it may read and what that leaves; worked out when asked."""
        return self.find_outcomes()


def worth(proposal: Proposal) -> float:
    """Bits by the minute of hazard: (I(decision) + 0.1 · I(fault) + 4 · Δ right) / ((minutes + 6) · surcharge · late).

    A rate, as a searcher maximises it who pays in time; the weights are of ``tables/planning``.
    """
    gain = proposal.gain
    bits = gain.on_decision + FAULT_SHARE * gain.on_fault + DECISIVE_BITS * gain.decisive
    return bits / ((proposal.minutes + EACH_MINUTES) * SURCHARGE[proposal.hazard] * proposal.late)
