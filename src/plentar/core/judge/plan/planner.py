"""The next reading: which tells most of what to work on, for the least time and risk.

Every reading that the unit allows is weighed in every state that it can be brought into: how
much it is expected to narrow the decisions, in bits, over what it costs in minutes, with a
surcharge for what can hurt. Nothing is proposed that the gates forbid: ohms only after proving
dead, which costs its minutes.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from typing import Any

import numpy as np

from plentar.core.budget import OutOfTime, check_budget
from plentar.core.events import Observed, Reading
from plentar.core.faults import Fault
from plentar.core.judge.plan.at_part import is_at
from plentar.core.judge.plan.dead import cold_readings
from plentar.core.judge.plan.guard import Guard
from plentar.core.judge.plan.live import live_readings, readings_at
from plentar.core.judge.plan.proposal import Proposal, worth
from plentar.core.judge.plan.round import makes_round, round_readings
from plentar.core.judge.plan.stands import stands
from plentar.core.judge.plan.survivors import Survivors, survivors_of
from plentar.core.judge.shown.scenes import scenes_of
from plentar.core.judge.weigh.likelihood import TEMP, A
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.points import CONTROL_SIDE, resolve
from plentar.core.quantity import Quantity
from plentar.core.state import state_at
from plentar.core.tables.planning import (
    CLEAR,
    HELD_TRIED,
    HINGES,
    LEANS,
    LEAST_CONFIRMING_BITS,
    LEAST_RIGHTER,
    LEAST_STEP_BITS,
    MOST_REPEATS,
    NAMED,
    NEARLY,
    PATIENT_READINGS,
    PROPOSALS,
    SETTLING_SHARE,
    TWO_TAKE_LONGER,
    UNDECIDED_READINGS,
    WORTH_NAMING_BITS,
    WORTH_NAMING_MINUTES,
)
from plentar.core.unit import Unit

#: What is called, with the wires lifted or not, and how long it has been so, s.
Stood = tuple[frozenset[str], bool, float]
#: A reading that is held back, why, and the suspect under which it would do harm.
Held = tuple[Proposal, str, tuple[Fault, ...]]


def next_readings(posterior: Posterior) -> tuple[Proposal, ...]:
    """Readings worth taking, the best first; none when the decision is made or can't be moved."""
    if posterior.probabilities[:-1].max() >= CLEAR:
        return ()
    if decided(posterior) and posterior.probabilities[:-1].max() >= NAMED * posterior.surest:
        return ()
    survivors = survivors_of(posterior)
    if len(survivors.names) < 2:
        return ()
    often = read_often(posterior)
    if makes_round(posterior):
        return _safe(posterior, survivors, list(round_readings(posterior, survivors)), often)
    every = every_reading(posterior, survivors)
    found = [p for p in every if not often(p)]
    if decided(posterior):
        found = [p for p in found if _tells_the_fault(p)]
    elif _tired(posterior) and not any(_moves(p, _patience(posterior)) for p in found):
        # Close to a decision, a moment to say what failed in the part may show another part.
        nearly = [p for p in found if posterior.surest > NEARLY and _tells_the_fault(p)]
        again = read_often(posterior, MOST_REPEATS)
        doubt = doubt_of(survivors)
        settling = [p for p in found if p.gain.on_decision >= SETTLING_SHARE * doubt]
        leading = next(iter(posterior.decisions)).split("+")
        at_it = [p for p in telling_at(survivors, every, leading) if not again(p)]
        # Each rung is watched once, and asks of other suspects than the one before.
        watched = [p for p in found if p.observe and _moves(p, 1.0)]
        found = nearly or at_it or [*settling, *watched]
    found.sort(key=worth, reverse=True)
    chosen = _safe(posterior, survivors, found, often)
    if chosen or decided(posterior):
        return chosen
    twice, hinges = read_often(posterior, MOST_REPEATS), _hinges(posterior)
    hang = [p for p in every if (p.at, p.quantity) in hinges and not twice(p)]
    return _safe(posterior, survivors, sorted(hang, key=worth, reverse=True), twice)


def held_back(posterior: Posterior) -> Held | None:
    """The reading that would tell most and may not be proposed, and why: to be said where nothing
    else is left to read."""
    survivors, guard, often = survivors_of(posterior), Guard(posterior), read_often(posterior)
    if len(survivors.names) < 2:  # nothing to tell apart
        return None
    in_round = makes_round(posterior)
    every = (
        round_readings(posterior, survivors) if in_round else every_reading(posterior, survivors)
    )
    telling = [p for p in every if not often(p) and (in_round or _moves(p, _patience(posterior)))]
    for proposal in sorted(telling, key=worth, reverse=True)[:HELD_TRIED]:
        refusal, under = guard.why(proposal)
        if refusal:
            return proposal, refusal, under
    return None


def _hinges(posterior: Posterior) -> set[tuple[str, Quantity]]:
    """The readings that say so much for the leader that without one of them another would lead: each is
    worth a second look. Air that comes and goes with a limit is no such."""
    singles = posterior.singles
    leader = int(np.argmax(singles.log))
    found = set()
    for item, of_item in zip(singles.items, singles.of_item, strict=True):
        other = int(np.argmax(singles.log - of_item))
        says = of_item[leader] - of_item[other]
        if isinstance(item.event, Reading) and says >= HINGES and item.event.quantity is not TEMP:
            found.add((item.event.at, item.event.quantity))
    return found


def _safe(
    posterior: Posterior,
    survivors: Survivors,
    found: list[Proposal],
    often: Callable[[Proposal], bool],
) -> tuple[Proposal, ...]:
    """The first of them that may be proposed, no two alike."""
    chosen: list[Proposal] = []
    unit, guard = posterior.evidence.unit, Guard(posterior)
    for proposal in found:
        if any(_alike(proposal, other, unit) for other in chosen):
            continue
        if guard.allows(proposal):
            chosen.append(proposal)
        elif not chosen:
            chosen += _unlocking(guard, survivors, proposal, often)
        if len(chosen) == PROPOSALS:
            break
    return tuple(chosen)


def telling_at(
    survivors: Survivors, every: Sequence[Proposal], parts: Sequence[str]
) -> Iterator[Proposal]:
    """The readings at one of some parts that tell a good share of the doubt left."""
    unit = survivors.posterior.evidence.unit
    least_bits = LEAST_CONFIRMING_BITS * doubt_of(survivors)
    for proposal in every:
        if proposal.gain.on_decision >= least_bits and any(
            is_at(unit, resolve(unit, proposal.at), part) for part in parts
        ):
            yield proposal


def doubt_of(survivors: Survivors) -> float:
    """What is open of the decision, bits."""
    share = survivors.share @ survivors.of_decision
    return -float(sum(p * math.log2(p) for p in share if p > 0))


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
    often: Callable[[Proposal], bool],
) -> list[Proposal]:
    """The best reading would do harm under a suspect: what clears that suspect before, the fan
    alone for the blower's own, ohms proved dead for the others."""
    if guard.doubts_air(barred):
        fan = frozenset({survivors.posterior.evidence.unit.fan_call})
        for stand in stands(survivors.posterior, survivors):
            if stand.calls == fan:
                asked = readings_at(survivors, stand, [(A, "blower")])
                return [p for p in asked if not often(p) and guard.allows(p)] or _cleared(
                    guard, survivors, barred, often
                )
    return _cleared(guard, survivors, barred, often)


def _cleared(
    guard: Guard, survivors: Survivors, barred: Proposal, often: Callable[[Proposal], bool]
) -> list[Proposal]:
    """The best of the ohms that clear the suspect under which a reading is barred."""
    wanted = guard.clears(barred)
    if not wanted:
        return []
    cold = [p for p in cold_readings(survivors, wanted) if guard.allows(p)]
    # What all else waits for is read a second time, where once did not clear it.
    again = read_often(survivors.posterior, MOST_REPEATS)
    ready = [p for p in cold if not often(p)] or [p for p in cold if not again(p)]
    return sorted(ready, key=worth, reverse=True)[:1]


def read_often(posterior: Posterior, most: int = 1) -> Callable[[Proposal], bool]:
    """Whether a proposal has been read so often in the state that it asks for; one time more where
    what was read fits nothing else."""
    unit, events = posterior.evidence.unit, posterior.evidence.visit.events
    state = state_at(unit, events, events[-1].t_s if events else 0.0)
    late_s = scenes_of(posterior.workspace).heat_s

    def key(quantity: Quantity, at: str, driven: bool, setting: Stood) -> Any:
        """What makes a reading another one; cooling is nothing to what carries heat."""
        if quantity.dead_only:
            return quantity, at, driven
        calls, lifted, since_s = setting
        cooling = resolve(unit, at).kind in CONTROL_SIDE
        at = _current(at, unit) if quantity is A else at
        return quantity, at, driven, calls if cooling else calls - {"Y"}, lifted, since_s >= late_s

    part, leader = posterior.place_of(posterior.leader)
    fits = part.explained(leader)
    odd = {id(item.event) for item, fit in zip(part.items, fits, strict=True) if not fit}
    seen: Counter[Any] = Counter()
    doubted = set()
    for t in posterior.evidence.taken:
        if t.counts:
            since_s = t.state.t_s - min(t.state.since_s.values(), default=t.state.t_s)
            stood = (t.state.calls, t.state.lifted, since_s)
            one = key(t.reading.quantity, t.reading.at, t.reading.driven, stood)
            seen[one] += 1
            if id(t.reading) in odd:
                doubted.add(one)

    def often(proposal: Proposal) -> bool:
        if proposal.quantity is None:
            return any(e.part == proposal.at for e in posterior.evidence.visit.of_kind(Observed))
        setting = proposal.setting
        calls = state.calls if setting.calls is None else setting.calls
        lifted = state.lifted if setting.calls is None else bool(setting.lifted)
        stood = (calls, lifted, setting.after_s or 0.0)
        one = key(proposal.quantity, proposal.at, setting.driven, stood)
        return seen[one] >= (max(most, MOST_REPEATS) if one in doubted else most)

    return often


def _current(at: str, unit: Unit) -> str:
    """The current that a clamp here shows, by one name wherever on its way it is read."""
    through = [e.id for e in unit.elements if at in e.rung]
    return through[0] if len(through) == 1 else at.removesuffix(".l1")


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


def _tired(posterior: Posterior) -> bool:
    """Some part is leant to, or it has taken long: a reading must promise something now."""
    return posterior.surest > LEANS or len(posterior.items) >= UNDECIDED_READINGS


def _patience(posterior: Posterior) -> float:
    """The longer it has taken, the more one reading more must promise; two faults take longer."""
    faults = len(posterior.hypotheses[posterior.leader].faults)
    patient = float(PATIENT_READINGS * (TWO_TAKE_LONGER if faults > 1 else 1))
    return max(1.0, len(posterior.items) / patient) ** 2


def _moves(proposal: Proposal, times: float) -> bool:
    """It may change the decision, or is a step on the way to what may."""
    gain = proposal.gain
    return gain.righter >= times * LEAST_RIGHTER or gain.on_decision >= times * LEAST_STEP_BITS


def _tells_the_fault(proposal: Proposal) -> bool:
    """With the part known: worth a moment to say what failed in it."""
    return proposal.gain.on_fault >= WORTH_NAMING_BITS and proposal.minutes <= WORTH_NAMING_MINUTES
