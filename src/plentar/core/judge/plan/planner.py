"""The next reading: which tells most of what to work on, for the least time and risk.

Every reading that the unit allows is weighed in every state that it can be brought into: how
much it is expected to narrow the decisions, in bits, over what it costs in minutes, with a
surcharge for what can hurt. Nothing is proposed that the gates forbid: ohms only after proving
dead, which costs its minutes.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from typing import Any

from plentar.core.budget import OutOfTime, check_budget
from plentar.core.events import Observed
from plentar.core.judge.plan.dead import cold_readings
from plentar.core.judge.plan.guard import Guard
from plentar.core.judge.plan.live import live_readings
from plentar.core.judge.plan.proposal import Proposal, worth
from plentar.core.judge.plan.stands import stands
from plentar.core.judge.plan.survivors import Survivors, survivors_of
from plentar.core.judge.weigh.likelihood import A
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.points import CONTROL_SIDE, resolve
from plentar.core.quantity import Quantity
from plentar.core.state import state_at
from plentar.core.tables.planning import (
    CLEAR,
    LEANS,
    LEAST_RIGHTER,
    LEAST_STEP_BITS,
    MOST_REPEATS,
    NAMED,
    NEARLY,
    PATIENT_READINGS,
    PROPOSALS,
    TWO_TAKE_LONGER,
    WORTH_NAMING_BITS,
    WORTH_NAMING_MINUTES,
)
from plentar.core.unit import Unit


def next_readings(posterior: Posterior) -> tuple[Proposal, ...]:
    """Readings worth taking, the best first; none when the decision is made or can't be moved."""
    if posterior.probabilities[:-1].max() >= CLEAR:
        return ()
    if decided(posterior) and posterior.probabilities[:-1].max() >= NAMED * posterior.surest:
        return ()
    survivors = survivors_of(posterior)
    if len(survivors.names) < 2:
        return ()
    found = every_reading(posterior, survivors)
    often = read_often(posterior)
    found = [p for p in found if not often(p)]
    if decided(posterior):
        found = [p for p in found if _tells_the_fault(p)]
    elif posterior.surest > LEANS and not any(_moves(p, _patience(posterior)) for p in found):
        # Close to a decision, a moment to say what failed in the part may show another part.
        found = [p for p in found if posterior.surest > NEARLY and _tells_the_fault(p)]
    found.sort(key=worth, reverse=True)
    chosen: list[Proposal] = []
    unit, guard = posterior.evidence.unit, Guard(posterior)
    for proposal in found:
        if any(_alike(proposal, other, unit) for other in chosen):
            continue
        if guard.allows(proposal):
            chosen.append(proposal)
        elif not chosen:
            chosen += _unlocking(guard, survivors, proposal, found, often)
        if len(chosen) == PROPOSALS:
            break
    return tuple(chosen)


def every_reading(posterior: Posterior, survivors: Survivors) -> list[Proposal]:
    """What could be read in every state that can be reached; what was found, once time is up."""
    found: list[Proposal] = []
    try:
        for stand in stands(posterior, survivors):
            found += live_readings(survivors, stand)
            check_budget()
        found += cold_readings(survivors)
    except OutOfTime:
        pass
    return found


def _unlocking(
    guard: Guard,
    survivors: Survivors,
    barred: Proposal,
    found: list[Proposal],
    often: Callable[[Proposal], bool],
) -> list[Proposal]:
    """The best reading would do harm under a suspect: what clears that suspect before, the fan
    alone for the blower's own, ohms proved dead for the others."""
    if guard.doubts_air(barred):
        fan = frozenset({survivors.posterior.evidence.unit.fan_call})
        with_fan = [p for p in found if p.setting.calls == fan and guard.allows(p)]
        if with_fan:
            return [next((p for p in with_fan if p.at == "blower"), with_fan[0])]
    wanted = guard.clears(barred)
    if not wanted:
        return []
    cold = [p for p in cold_readings(survivors, wanted) if not often(p) and guard.allows(p)]
    return sorted(cold, key=worth, reverse=True)[:1]


def read_often(posterior: Posterior) -> Callable[[Proposal], bool]:
    """Whether a proposal has been read often enough in the state that it asks for."""
    unit, events = posterior.evidence.unit, posterior.evidence.visit.events
    state = state_at(unit, events, events[-1].t_s if events else 0.0)

    def key(at: str, quantity: Quantity, driven: bool, calls: frozenset[str], lifted: bool) -> Any:
        """What makes a reading another one; cooling is nothing to what carries heat."""
        cooling = resolve(unit, at).kind in CONTROL_SIDE
        return at, quantity, driven, calls if cooling else calls - {"Y"}, lifted

    seen = Counter(
        key(t.reading.at, t.reading.quantity, t.reading.driven, t.state.calls, t.state.lifted)
        for t in posterior.evidence.taken
        if t.counts
    )

    def often(proposal: Proposal) -> bool:
        if proposal.quantity is None:
            return any(e.part == proposal.at for e in posterior.evidence.visit.of_kind(Observed))
        setting = proposal.setting
        calls = state.calls if setting.calls is None else setting.calls
        lifted = state.lifted if setting.calls is None else bool(setting.lifted)
        one = key(proposal.at, proposal.quantity, setting.driven, calls, lifted)
        return seen[one] >= MOST_REPEATS

    return often


def _alike(one: Proposal, other: Proposal, unit: Unit) -> bool:
    """The same reading, or one of the same current in the same state: no second offer."""
    if (one.at, one.quantity) == (other.at, other.quantity):
        return True
    if not one.quantity == other.quantity == A or one.setting != other.setting:
        return False
    return bool(_carriers(one.at, unit) & _carriers(other.at, unit))


def _carriers(at: str, unit: Unit) -> set[str]:
    """The rungs, or the feed, that a clamp here takes in."""
    rungs = {element.id for element in unit.elements if at in element.rung}
    return rungs or {resolve(unit, at).component}


def decided(posterior: Posterior) -> bool:
    """What to work on is clear; what else may be wrong beside it shows once that is mended."""
    return posterior.surest >= CLEAR


def _patience(posterior: Posterior) -> float:
    """The longer it has taken, the more one reading more must promise; two faults take longer."""
    faults = len(posterior.hypotheses[posterior.leader].faults)
    patient = PATIENT_READINGS * (TWO_TAKE_LONGER if faults > 1 else 1)
    return max(1.0, len(posterior.items) / patient) ** 2


def _moves(proposal: Proposal, times: float) -> bool:
    """It may change the decision, or is a step on the way to what may."""
    gain = proposal.gain
    return gain.righter >= times * LEAST_RIGHTER or gain.on_decision >= times * LEAST_STEP_BITS


def _tells_the_fault(proposal: Proposal) -> bool:
    """With the part known: worth a moment to say what failed in it."""
    return proposal.gain.on_fault >= WORTH_NAMING_BITS and proposal.minutes <= WORTH_NAMING_MINUTES
