"""The next reading: which tells most of what to work on, for the least time and risk.

Every reading that the unit allows is weighed in every state that it can be brought into: how
much it is expected to narrow the decisions, in bits, over what it costs in minutes, with a
surcharge for what can hurt. Nothing is proposed that the gates forbid: ohms only after proving
dead, which costs its minutes.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from plentar.core.circuit.faults import Fault
from plentar.core.judge.plan.dead import cold_readings
from plentar.core.judge.plan.guard import Guard
from plentar.core.judge.plan.live import readings_at
from plentar.core.judge.plan.often import read_often
from plentar.core.judge.plan.proposal import Proposal, worth
from plentar.core.judge.plan.readable import readable_states
from plentar.core.judge.plan.round import makes_round, sound_leads
from plentar.core.judge.plan.rules import RULES, Situation, decided, second_look, the_round
from plentar.core.judge.plan.survivors import Survivors, survivors_of
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.quantity import Quantity
from plentar.core.said import Said
from plentar.core.tables.planning import EACH_MINUTES, HELD_TRIED, MOST_REPEATS, PROPOSALS
from plentar.core.unit.points import resolve
from plentar.core.unit.unit import Unit

A = Quantity.AMPS
#: A reading that is held back, why, and the suspect under which it would do harm.
Held = tuple[Proposal, Said, tuple[Fault, ...]]


def next_readings(posterior: Posterior) -> tuple[Proposal, ...]:
    """Readings worth taking, the best first; none when the decision is made or can't be moved."""
    in_round = makes_round(posterior)
    if decided(posterior) and not (in_round and sound_leads(posterior)):
        return ()
    situation = Situation(posterior, survivors_of(posterior))
    if len(situation.survivors.names) < 2:
        return ()
    if in_round:
        return _safe(situation, the_round(situation))
    by_rule = (_safe(situation, _by_worth(rule(situation))) for rule in RULES)
    found = next(filter(None, by_rule), ())
    return found or _safe(situation, _by_worth(second_look(situation)), situation.twice)


def _by_worth(found: Iterable[Proposal]) -> list[Proposal]:
    return sorted(found, key=worth, reverse=True)


def held_back(posterior: Posterior) -> Held | None:
    """The reading that would tell most and may not be proposed, and why: to be said where nothing
    else is left to read."""
    situation, guard = Situation(posterior, survivors_of(posterior)), Guard(posterior)
    if len(situation.survivors.names) < 2:  # nothing to tell apart
        return None
    in_round = makes_round(posterior)
    telling = [p for p in the_round(situation) if not situation.often(p)] if in_round else situation.telling
    for proposal in _by_worth(telling)[:HELD_TRIED]:
        refusal, under = guard.why(proposal)
        if refusal:
            return proposal, refusal, under
    return None


def _safe(
    situation: Situation, found: Iterable[Proposal], often: Callable[[Proposal], bool] | None = None
) -> tuple[Proposal, ...]:
    """The first of them that may be proposed, no two alike."""
    chosen: list[Proposal] = []
    unit = situation.posterior.evidence.unit
    for proposal in _allowed(situation, found, often or situation.often):
        if not any(_alike(proposal, other, unit) for other in chosen):
            chosen.append(proposal)
        if len(chosen) == PROPOSALS:
            break
    return tuple(chosen)


def _allowed(
    situation: Situation, found: Iterable[Proposal], often: Callable[[Proposal], bool]
) -> Iterator[Proposal]:
    """Those that may be proposed, the best first; among them what unlocks the best, where that is barred: in
    the place of what both together are worth."""
    guard, any_yet = Guard(situation.posterior), False
    unlocking: list[Proposal] = []
    unlocked = 0.0  # what the barred one is worth behind its unlocking
    for proposal in found:
        if guard.allows(proposal):
            if worth(proposal) <= unlocked:
                yield from unlocking
                unlocking, unlocked = [], 0.0
            yield proposal
            any_yet = True
        elif not any_yet and not unlocking:
            unlocking = _unlocking(guard, situation.survivors, proposal, often)
            unlocked = worth_behind(proposal, unlocking[0]) if unlocking else 0.0
    yield from unlocking


def worth_behind(proposal: Proposal, first: Proposal) -> float:
    """What a reading is worth where another is taken before it: its bits over the minutes of both."""
    minutes = proposal.minutes + EACH_MINUTES
    return worth(proposal) * minutes / (minutes + first.minutes + EACH_MINUTES)


def _unlocking(
    guard: Guard, survivors: Survivors, barred: Proposal, often: Callable[[Proposal], bool]
) -> list[Proposal]:
    """The best reading would do harm under a suspect: what clears that suspect before, the fan
    alone for the blower's own, ohms proved dead for the others."""
    if guard.doubts_air(barred):
        fan = frozenset({survivors.posterior.evidence.unit.fan_call})
        for readable in readable_states(survivors.posterior, survivors):
            if readable.calls == fan:
                asked = readings_at(survivors, readable, [(A, "blower")])
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
    return _by_worth([p for p in cold if not often(p)] or [p for p in cold if not again(p)])[:1]


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
