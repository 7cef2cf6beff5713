"""How a stop is made safe: what to do first, what must be true before going on, and by whom."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from plentar.core.judgement import Finding, FindingCode, Setting
from plentar.core.safety.ends import mends
from plentar.core.safety.latch import standing
from plentar.core.safety.reach import circuits_of, loads_of
from plentar.core.safety.table import STOPS, Act
from plentar.core.safety.wires_off import WiresOff, WiresOffStep, wires_off
from plentar.core.said import NOTHING, Said, clock, listed, plain, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import draws
from plentar.core.visit.events import ON, STAGE_OFF, Did, Power
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState, all_on_s

_BEFORE = {
    FindingCode.HEAT_WITHOUT_BLOWER: say("safety.acts.blower-was-seen-run"),
    FindingCode.HIGH_LEAVING_AIR: say("safety.acts.filter-coil-wheel-blower"),
    FindingCode.CONTROL_OVERLOAD: say("safety.acts.load-too-much-found"),
    FindingCode.DRAW_WITHOUT_CALL: say("safety.acts.what-welded-or-fed"),
    FindingCode.ELEMENT_TO_GROUND: say("safety.acts.element-reads-1-m"),
    FindingCode.GROUND_CURRENT: say("safety.acts.what-touches-frame-found"),
    FindingCode.LEG_UNBALANCE: say("safety.acts.frame-was-measured-known"),
    FindingCode.LIVE_WHEN_OFF: say("safety.acts.every-breaker-feeds-unit"),
    FindingCode.LIMIT_BRIDGED: say("safety.acts.bridge-off-recorded"),
    FindingCode.JOINT_HEAT: say("safety.acts.joint-remade-scorched-metal"),
    FindingCode.WHOLE_UNIT: say("safety.acts.what-scorched-or-melted"),
    FindingCode.NO_BLOWER_TIE: say("safety.acts.blower-has-tie-heat"),
    FindingCode.RUN_ON_SHORT: say("safety.acts.timed-off-test-shows"),
    FindingCode.RELAY_WIRING: say("safety.acts.terminals-wired-relay-bench"),
    FindingCode.BREAKER_OVER_PLATE: say("safety.acts.breaker-no-larger-than"),
    FindingCode.BREAKER_OVER_CONDUCTOR: say("safety.acts.breaker-fits-conductor"),
    FindingCode.CONDUCTOR_UNDER_LOAD: say("safety.acts.conductor-carries-load-or"),
}
_LICENSED = frozenset(
    {FindingCode.BREAKER_OVER_PLATE, FindingCode.BREAKER_OVER_CONDUCTOR, FindingCode.CONDUCTOR_UNDER_LOAD}
)
QUALIFIED = say("safety.acts.qualified-person-protective-equipment")
LICENSED = say("safety.acts.breakers-supply-wire-licensed")
#: So long after heat has ended amps may still be seen before the breaker is opened for them, s.
AMPS_STAY_S = 10.0
#: What reading takes beyond the longest window, s.
READ_S = 30.0


@dataclass(frozen=True, slots=True)
class FirstAct:
    """What is left to do first: calls to end, breakers to open, all to be proved dead."""

    ends: frozenset[str] = frozenset()
    opens: frozenset[str] = frozenset()
    proves: bool = False

    def __bool__(self) -> bool:
        return bool(self.ends or self.opens or self.proves)

    def done_by(self, setting: Setting) -> bool:
        """A setting that begins with it: what it asks for ends those calls, opens those breakers."""
        if self.proves:
            return False
        dead = setting.power is not None and setting.power != ON
        ends = setting.calls is not None and not setting.calls & self.ends
        return dead or (bool(self.ends) and not self.opens and ends)


def first_act(evidence: Evidence, state: PanelState, stop: Finding) -> FirstAct:
    """What a stop asks for before anything else and is not done by the record, as the unit stands."""
    unit = evidence.unit
    live = frozenset(cid for cid, power in state.power.items() if power == ON)
    feeds = frozenset(circuits_of(unit, stop.component)) & live
    match STOPS[stop.code].act:
        case Act.END_HEAT if live and state.calls & HEAT_CALLS:
            return FirstAct(ends=state.calls & HEAT_CALLS)
        case Act.END_HEAT:
            return FirstAct(opens=_still_drawing(evidence, state) & live)
        case Act.END_CALL if stop.code is FindingCode.CONTROL_OVERLOAD:
            on = unit.control_power.circuit in live
            return FirstAct(ends=state.calls if on else frozenset())
        case Act.END_CALL:
            called = state.calls & frozenset(loads_of(unit, stop))
            return FirstAct(ends=called if feeds else frozenset())
        case Act.OPEN_BREAKER:
            return FirstAct(opens=feeds)
        case Act.PROVE_DEAD:
            return FirstAct(proves=True)
        case _:
            return FirstAct()


def _still_drawing(evidence: Evidence, state: PanelState) -> frozenset[str]:
    """The circuits of what was seen to draw once the heat had been over for ten seconds."""
    ended = [s for call, s in state.ended_s.items() if call in HEAT_CALLS]
    over_s = max(ended) + AMPS_STAY_S if ended else 0.0
    return frozenset(
        e.circuit
        for draw in draws(evidence)
        if draw.taken.reading.t_s >= over_s and not draw.taken.state.calls & HEAT_CALLS
        for e in draw.elements
    )


def first_acts(evidence: Evidence, state: PanelState, stops: Sequence[Finding]) -> list[FirstAct]:
    """Those that are left to do, one a stop."""
    return [act for stop in stops if (act := first_act(evidence, state, stop))]


@dataclass(frozen=True, slots=True)
class MakeSafe:
    """One stop: the acts in order, what must be true before going on, who may do it."""

    stop: Finding
    acts: tuple[Said, ...]
    before: Said
    who: Said
    ends: frozenset[str]
    opens: tuple[str, ...]
    #: The one guarded step that a repair or an answer permits, in words.
    way_back: Said = NOTHING
    #: What was done about it by the record, in words: an answer that nobody has to type.
    done: Said = NOTHING
    #: It is repaired, no reading has shown it yet, and the one guarded step for that is permitted.
    mended: bool = False
    #: What comes next of the one test before a repair; none where it is not offered, or was made.
    wires_off: WiresOff | None = None


def make_safe(evidence: Evidence, state: PanelState, stop: Finding) -> MakeSafe:
    """What to do about an open stop as the unit stands now."""
    act = first_act(evidence, state, stop)
    who = LICENSED if stop.code in _LICENSED else QUALIFIED
    words = tuple(_words(evidence.unit, state, stop, act))
    back, done = _way_back(evidence.unit, stop), listed(_done(evidence, state, stop), ";")
    own = next((s for s in standing(evidence) if s.finding == stop and STOPS[stop.code].latched), None)
    mended = own is not None and own.mended and own.way_back
    if mended:
        words = (say("safety.acts.prove", back=back),)
    tried = wires_off(evidence, state, own) if own is not None else None
    if tried is not None and tried.step is WiresOffStep.OPEN:
        words, tried = (tried.words,), None
    return MakeSafe(
        stop, words, _BEFORE[stop.code], who, act.ends, tuple(sorted(act.opens)), back, done, mended, tried
    )


def _done(evidence: Evidence, state: PanelState, stop: Finding) -> Iterator[Said]:
    """The acts of the record that bear on a stop: breakers that are off, calls that ended, work since it
    was raised."""
    unit, events = evidence.unit, evidence.visit.events
    for circuit in sorted(circuits_of(unit, stop.component)):
        if state.power[circuit] != ON:
            yield say(
                "safety.acts.breaker-off-since",
                circuit=said_of(unit, circuit),
                off_since=clock(_off_since(evidence, circuit)),
            )
    for call, ended_s in sorted(state.ended_s.items()):
        if ended_s >= stop.t_s and STOPS[stop.code].act in (Act.END_HEAT, Act.END_CALL):
            yield say("safety.acts.ended", call=call, ended_s=clock(ended_s))
    for event in events:
        left_off = isinstance(event, Did) and event.verb == STAGE_OFF
        if event.t_s >= stop.t_s and (left_off or mends(unit, stop, event)):
            yield say("safety.acts.done-at", what=event.words(unit), time=clock(event.t_s))


def _off_since(evidence: Evidence, circuit: str) -> float:
    """When the breaker of a circuit that is off was opened, s of the visit."""
    since_s = None
    for event in evidence.visit.of_kind(Power):
        if event.circuit in (None, circuit):
            since_s = None if event.state == ON else event.t_s if since_s is None else since_s
    return since_s or 0.0


def _way_back(unit: Unit, stop: Finding) -> Said:
    """The setting that its proof needs, and for how long."""
    at_most_s = STOPS[stop.code].guarded_s
    within = say("safety.acts.most", how=clock(all_on_s(unit) + READ_S if at_most_s is None else at_most_s))
    match stop.code:
        case FindingCode.HEAT_WITHOUT_BLOWER:
            return say("safety.acts.heat-called-blower-watched", within=within)
        case FindingCode.DRAW_WITHOUT_CALL:
            code = "safety.acts.uncalled-with-fan" if unit.fan_call else "safety.acts.uncalled"
            return say(code, fan=unit.fan_call, within=within)
        case FindingCode.HIGH_LEAVING_AIR:
            code = "safety.acts.hot-air-with-fan" if unit.fan_call else "safety.acts.hot-air"
            return say(code, fan=unit.fan_call, within=within)
        case FindingCode.ELEMENT_TO_GROUND:
            return say("safety.acts.none-needed-ohms-ground")
        case FindingCode.LIVE_WHEN_OFF | FindingCode.LIMIT_BRIDGED | FindingCode.LEG_UNBALANCE:
            return say("safety.acts.none-before")
        case _:
            return say("safety.acts.setting-shows-read-once", within=within)


def _words(unit: Unit, state: PanelState, stop: Finding, act: FirstAct) -> list[Said]:
    fan, row = unit.fan_call, STOPS[stop.code].act
    if act.proves:
        return [say("safety.acts.touch-nothing-find-breaker"), say("safety.acts.prove-every-circuit-dead")]
    if act.ends:
        calls = listed(sorted(act.ends))
        kept = fan is not None and fan in state.calls - act.ends
        ended = [
            say("safety.acts.end-call-keep-fan" if kept else "safety.acts.end-call", calls=calls, fan=fan)
        ]
        if row is Act.END_HEAT:
            stay = say("safety.acts.if-amps-stay-after", amps_stay_s=plain(AMPS_STAY_S))
            return [*ended, stay]
        return ended
    if act.opens:
        first = []
        if stop.code in (FindingCode.LEG_UNBALANCE, FindingCode.GROUND_CURRENT):
            first = [say("safety.acts.touch-no-metal-measure")]
        circuits = listed(said_of(unit, circuit) for circuit in sorted(act.opens))
        one = len(act.opens) == 1
        return [
            *first,
            say("safety.acts.open-breaker" if one else "safety.acts.open-breakers", circuits=circuits),
        ]
    if row is Act.NONE and stop.code in (FindingCode.NO_BLOWER_TIE, FindingCode.RUN_ON_SHORT):
        if fan is None:
            return [say("safety.acts.leave-heat-off")]
        return [say("safety.acts.call-heat-only-heat", fan=fan)]
    if row is Act.NONE:
        return [say("safety.acts.leave-what-loads-off")]
    return [say("safety.acts.done-record-leave-so")]
