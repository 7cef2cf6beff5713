"""One reading worth taking: what it costs, and what it is worth."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from plentar.core.judge.plan.survivors import Outcome, Told
from plentar.core.judge.weigh.likelihood import OHM, TEMP, UF, A, V
from plentar.core.quantity import Quantity

#: Minutes of a reading, and what a minute of its hazard counts.
MINUTES = {A: 0.5, V: 1.0, Quantity.VOLTS_DC: 1.0, OHM: 2.0, TEMP: 1.5, UF: 2.5}
SURCHARGE = {"clamp": 1.0, "live": 1.4, "lifting": 1.6, "dead": 1.5}
#: What every reading costs, however quick: walking the probes over, and keying it in.
EACH_MINUTES = 6.0
#: A reading that is expected to tell less than this many bits would change nothing.
LEAST_BITS = 0.02
#: What telling faults of one part apart is worth beside telling parts apart.
FAULT_SHARE = 0.1
#: What a decision that is right for certain is worth, in bits.
RIGHTER_BITS = 4.0


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
