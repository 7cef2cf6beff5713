"""The next readings as a tree: what is proposed now, and what would be after each of its likely outcomes, so that
the next card stands without the program."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from plentar.core.judge.diagnosis import diagnose
from plentar.core.judgement import Meaning, NextReading, Setting
from plentar.core.quantity import Quantity
from plentar.core.said import Said
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import OFF, PROVED_DEAD, Calls, Event, Power, Reading
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import all_off_s

#: So many readings deep, over so many outcomes each.
DEEP, OUTCOMES = 2, 3
#: From here on a reading of ohms is an overload.
_OVERLOAD_OHMS = 1e6
#: What setting up takes, s.
_SET_S = 5.0


@dataclass(frozen=True, slots=True)
class Step:
    """A reading that is proposed, and how far the decision is where nothing is; what comes after each outcome."""

    reading: NextReading | None
    advice: tuple[Said, ...]
    then: tuple[tuple[Meaning, Step], ...] = ()


def pocket_plan(evidence: Evidence, deep: int = DEEP) -> Step:
    """What to read next, and after that. The time that the budget gives ends it early: what is not worked out is
    not there."""
    found = diagnose(evidence)
    reading = found.next[0] if found.next else None
    if reading is None or deep <= 1 or found.left_out or not _can_be_followed(reading):
        return Step(reading, found.advice)
    likely = sorted(reading.outcomes, key=lambda one: -one.probability)[:OUTCOMES]
    then = []
    for outcome in likely:
        after = pocket_plan(_after(evidence, reading, outcome), deep - 1)
        then.append((outcome, after))
    return Step(reading, found.advice, tuple(then))


def _can_be_followed(reading: NextReading) -> bool:
    """It is a number off a meter, taken in a setting that is plainly set."""
    setting = reading.setting
    odd = setting.guard is not None or setting.lifted is not None or setting.driven or setting.circuit
    return reading.quantity is not None and not odd


def _after(evidence: Evidence, reading: NextReading, outcome: Meaning) -> Evidence:
    """The visit with this outcome read: set up as asked, the reading in the middle of it."""
    visit = evidence.visit
    before_s = visit.events[-1].t_s if visit.events else 0.0
    assert reading.quantity is not None
    events = [*visit.events, *_set_up(evidence.unit, reading.setting, before_s)]
    t_s = max(events[-1].t_s if events else 0.0, before_s) + max(_SET_S, reading.setting.after_s or 0.0)
    value = _middle(reading.quantity, outcome)
    events.append(Reading(t_s=t_s, quantity=reading.quantity, at=reading.at, value=value))
    return Evidence(evidence.unit, replace(visit, events=tuple(events)))


def _set_up(unit: Unit, setting: Setting, before_s: float) -> Iterator[Event]:
    t_s = before_s + _SET_S
    if setting.power is not None:
        off = [OFF] if setting.power == PROVED_DEAD else []
        for state in [*off, setting.power]:
            yield Power(t_s=t_s, state=state)
    if setting.fresh:
        yield Calls(t_s=t_s, calls=frozenset())
        t_s += all_off_s(unit)
    if setting.calls is not None:
        yield Calls(t_s=t_s, calls=setting.calls)


def _middle(quantity: Quantity, outcome: Meaning) -> float:
    """A reading of an outcome: its middle, nothing where it begins at nothing, OL where it has no end."""
    if quantity is Quantity.OHMS and (outcome.low >= _OVERLOAD_OHMS or math.isinf(outcome.high)):
        return math.inf
    if outcome.low <= 0:
        return 0.0
    return outcome.low if math.isinf(outcome.high) else (outcome.low + outcome.high) / 2
