"""What ends a stop: the work that is no more than work, and the reading that is as expected."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from plentar.core.checks.registry import CHECKS
from plentar.core.judgement import Clear, Finding, FindingCode, Outcome
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import (
    asked_for,
    dead_blower_amps,
    draws,
    floor_of,
    may_linger,
    motor_amps,
    same_setting,
)
from plentar.core.visit.events import MOVED, ON, STAGE_OFF, UNBRIDGED, Did, Event, Observed
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import PanelState

#: What a blower whose amps nobody knows draws at most, A.
MOST_MOTOR_AMPS = 5.0
A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS
_ENDED_BY_STAGE_OFF = frozenset(
    {FindingCode.DRAW_WITHOUT_CALL, FindingCode.ELEMENT_TO_GROUND, FindingCode.JOINT_HEAT}
)


def ends_by_work(unit: Unit, stop: Finding, event: Did) -> bool:
    """The bridge is off, or the stage that it is about hangs on nothing."""
    if stop.code is FindingCode.LIMIT_BRIDGED:
        return event.verb == UNBRIDGED and event.part == stop.component
    if event.verb != STAGE_OFF or stop.code not in _ENDED_BY_STAGE_OFF:
        return False
    return [e.id for e in unit.elements_through(stop.component)] == [event.part]


def mends(unit: Unit, stop: Finding, event: Event) -> bool:
    """Work that may have mended what the stop is about: a part as new, a wire moved."""
    moved = event.part if isinstance(event, Did) and event.verb == MOVED else ""
    done, part = event.mended or moved, stop.component
    if not done or stop.code in (FindingCode.LIVE_WHEN_OFF, FindingCode.LIMIT_BRIDGED):
        return False
    if stop.code is FindingCode.ELEMENT_TO_GROUND:
        return done in (part, f"{part}.wire")
    if stop.code is FindingCode.JOINT_HEAT:
        control = unit.control_of_switch.get(part)
        return done in (part, control.id if control else part)
    return True


@dataclass(frozen=True, slots=True)
class Tried:
    """A stop with the state that it was raised in, and an event that may show it to be over, the newest
    of ``stood``; ``taken`` is that event where it is a reading."""

    stop: Finding
    raised_in: PanelState
    stood: Evidence
    event: Event
    taken: Taken | None

    @property
    def state(self) -> PanelState:
        return self.stood.state_at(self.event.t_s)

    @property
    def heats(self) -> bool:
        return bool(self.state.calls & HEAT_CALLS)


def as_expected(tried: Tried) -> bool:
    """Whether it is a reading at what the stop is about that is as expected, in a state in which it would
    have shown."""
    code, taken = tried.stop.code, tried.taken
    if code is FindingCode.HEAT_WITHOUT_BLOWER:
        return _blower_runs_with_heat(tried)
    rule = _RULES.get(code)
    return rule is not None and taken is not None and taken.counts and rule(tried, taken)


def _rests(tried: Tried, taken: Taken) -> bool:
    """No amps where they were seen, on, with nothing asked for and past every window."""
    unit, state, part = tried.stood.unit, taken.state, tried.stop.component
    if taken.reading.quantity is not A:
        return False
    if part in unit.circuit_by_id:
        there = taken.point.kind in ("circuit", "feed") and taken.point.component == part
        concerned = list(unit.elements_on(part))
    else:
        concerned = [unit.element_by_id[part]]
        there = [e.id for e in unit.elements_through(taken.point.component)] == [part]
    if not there or state.power[concerned[0].circuit] != ON:
        return False
    if any(asked_for(unit, state, e) or may_linger(unit, state, e) for e in concerned):
        return False
    most = min(map(floor_of, concerned))
    if part in unit.circuit_by_id and unit.fan_call in state.calls:
        most += motor_amps(unit, part) or MOST_MOTOR_AMPS
    return taken.reading.value < most


def _clear_of_frame(tried: Tried, taken: Taken) -> bool:
    point, ohms = taken.point, taken.reading.value
    at_it = point.kind == "node-ground" and point.component == tried.stop.component
    good = ohms + ACCURACY[OHM].error(ohms) >= th.GROUND_GOOD_OHMS
    return taken.reading.quantity is OHM and at_it and good


def _cool_enough(tried: Tried, taken: Taken) -> bool:
    """The air that leaves is as it should be once heat has run steadily."""
    began = [s for call, s in tried.state.since_s.items() if call in HEAT_CALLS]
    steady = bool(began) and tried.event.t_s - max(began) >= th.STEADY_AIR_S
    return taken.point.name == "supply-air" and steady and taken.reading.value <= th.LEAVING_AIR_REPAIR_F


def _within_fuse(tried: Tried, taken: Taken) -> bool:
    """With all called that overloaded it."""
    return tried.raised_in.calls <= taken.state.calls and _found_clear(tried, taken)


def _joint_under_load(tried: Tried, taken: Taken) -> bool:
    """Volts or amps of a feed under heat, and no joint of any feed is warm by them."""
    if not tried.heats or taken.reading.quantity not in (A, V):
        return False
    outcome = _outcome(FindingCode.JOINT_HEAT, tried.stood)
    feeds = {circuit.id for circuit in tried.stood.unit.circuits}
    warm = feeds & {found.component for found in outcome.found}
    return bool(feeds & {clear.component for clear in outcome.clear}) and not warm


def _found_clear(tried: Tried, taken: Taken) -> bool:
    """The check that found it finds nothing now, and this reading is one of those that it goes by."""
    stop, unit = tried.stop, tried.stood.unit
    own = {stop.component}
    if stop.code is FindingCode.JOINT_HEAT:
        own |= {e.id for e in unit.elements_through(stop.component)}
    if stop.code is FindingCode.CONTROL_OVERLOAD:
        own |= {"R", "transformer"}
    if taken.point.component not in own or (tried.raised_in.calls & HEAT_CALLS and not tried.heats):
        return False
    outcome = _outcome(stop.code, tried.stood)
    if any(found.component == stop.component for found in outcome.found):
        return False
    return Clear(stop.component) in outcome.clear


def _outcome(code: FindingCode, stood: Evidence) -> Outcome:
    return next(check for check in CHECKS if code in check.codes).outcome(stood)


def _blower_runs_with_heat(tried: Tried) -> bool:
    """The blower is read or seen to run with the heat seen on, within a minute of each other, without a
    fan's call that was not there when it stood."""
    stood, state, event = tried.stood, tried.state, tried.event
    seen = isinstance(event, Observed) and event.part == "blower"
    if not (tried.taken or seen) or not (state.calls - HEAT_CALLS) <= tried.raised_in.calls:
        return False
    runs_s = [
        t.reading.t_s
        for t in stood.at("blower", A)
        if t.reading.value >= dead_blower_amps(stood.unit) and same_setting(t.state, state)
    ]
    runs_s += [e.t_s for e in stood.visit.of_kind(Observed) if e.part == "blower" and e.action == ON]
    heat_s = [d.taken.reading.t_s for d in draws(stood) if same_setting(d.taken.state, state)]
    return any(
        abs(ran - heat) <= th.TYPED_WITHIN_S and max(ran, heat) == event.t_s
        for ran in runs_s
        for heat in heat_s
    )


_RULES: dict[FindingCode, Callable[[Tried, Taken], bool]] = {
    FindingCode.DRAW_WITHOUT_CALL: _rests,
    FindingCode.ELEMENT_TO_GROUND: _clear_of_frame,
    FindingCode.HIGH_LEAVING_AIR: _cool_enough,
    FindingCode.CONTROL_OVERLOAD: _within_fuse,
    FindingCode.GROUND_CURRENT: _found_clear,
    FindingCode.LEG_UNBALANCE: _found_clear,
    FindingCode.JOINT_HEAT: _found_clear,
    FindingCode.WHOLE_UNIT: _joint_under_load,
}
