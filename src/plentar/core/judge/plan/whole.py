"""The plan of a moment: how sure it is, what comes next, and what no reading tells apart."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.judge.hypotheses.hypothesis import decision_of
from plentar.core.judge.plan.alike import alike
from plentar.core.judge.plan.confirm import Confirmation, confirmation
from plentar.core.judge.plan.planner import Held, held_back, next_readings
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.survivors import survivors_of
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judgement import NONE, Sureness
from plentar.core.tables.planning import CLEAR

_OPEN = Confirmation(Sureness.OPEN)


@dataclass(frozen=True, slots=True)
class Plan:
    """``proposals`` with the confirming one first; ``alike`` are groups of hypotheses, by number,
    asked for only where nothing is left to read."""

    sure: Confirmation = _OPEN
    proposals: tuple[Proposal, ...] = ()
    alike: tuple[tuple[int, ...], ...] = ()
    #: What would tell most and is not proposed, with the reason.
    held: Held | None = None


def whole_plan(posterior: Posterior) -> Plan:
    """What comes next; raises OutOfTime where the time does not suffice for it."""
    sure, proposals = confirmation(posterior), next_readings(posterior)
    if sure.reading is not None:
        first = sure.reading
        others = (p for p in proposals if (p.at, p.quantity) != (first.at, first.quantity))
        proposals = (first, *others)
    if proposals or posterior.left_out:
        return Plan(sure, proposals)
    groups = tuple(alike(posterior, survivors_of(posterior)))
    sure = _together(posterior, groups) or sure
    held = held_back(posterior) if sure.state is not Sureness.CLEAR else None
    return Plan(sure, (), groups, held)


def _together(posterior: Posterior, groups: tuple[tuple[int, ...], ...]) -> Confirmation | None:
    """Clear as it is, where those that no reading tells apart are sure enough together."""
    leading = next((group for group in groups if posterior.leader in group), None)
    if leading is None or posterior.probabilities[list(leading)].sum() < CLEAR:
        return None
    unit = posterior.evidence.unit
    names = (decision_of(unit, posterior.hypotheses[n]) for n in leading)
    parts = dict.fromkeys(name.removesuffix(".supply") for name in names if name != NONE)
    return Confirmation(Sureness.CLEAR, tuple(parts))
