"""One reading worth taking: what it costs, and what it is worth."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from plentar.core.judge.plan.survivors import Outcome, Told
from plentar.core.quantity import Quantity
from plentar.core.tables.planning import EACH_MINUTES, FAULT_SHARE, RIGHTER_BITS, SURCHARGE


@dataclass(frozen=True)
class Proposal:
    """One reading (or observation) worth taking.

    ``setting`` is what to do before, in the contract's terms; ``minutes`` with everything that goes before it.
    """

    quantity: Quantity | None
    at: str
    setting: dict[str, object]
    told: Told
    minutes: float
    hazard: str
    find_outcomes: Callable[[], tuple[Outcome, ...]]
    driven: bool = False
    observe: str = ""

    @cached_property
    def outcomes(self) -> tuple[Outcome, ...]:
        """What it may read and what that leaves; worked out when asked."""
        return self.find_outcomes()


def worth(proposal: Proposal) -> float:
    """Bits by the minute of hazard: on the decision most, on the fault a little."""
    told = proposal.told
    bits = told.on_decision + FAULT_SHARE * told.on_fault + RIGHTER_BITS * told.righter
    return bits / ((proposal.minutes + EACH_MINUTES) * SURCHARGE[proposal.hazard])
