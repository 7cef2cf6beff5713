"""How a stop is made safe: what to do first, what must be true before going on, and by whom."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from plentar.core.judgement import Finding, FindingCode, Setting
from plentar.core.quantity import minutes
from plentar.core.safety.ends import mends
from plentar.core.safety.latch import standing
from plentar.core.safety.reach import circuits_of, loads_of
from plentar.core.safety.table import STOPS, Act
from plentar.core.safety.wires_off import WiresOff, WiresOffStep, wires_off
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.draws import draws
from plentar.core.visit.events import ON, STAGE_OFF, Did, Power
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState, all_on_s

_BEFORE = {
    FindingCode.HEAT_WITHOUT_BLOWER: "the blower was seen to run with the fan called, and what"
    " brings it on with the heat is mended",
    FindingCode.HIGH_LEAVING_AIR: "the filter, the coil, the wheel and the blower were looked at, and"
    " the air is what the heat needs",
    FindingCode.CONTROL_OVERLOAD: "the load that is too much is found and taken off, or the transformer and"
    " its fuse are of the size for it",
    FindingCode.DRAW_WITHOUT_CALL: "what is welded or fed without a call is found and replaced",
    FindingCode.ELEMENT_TO_GROUND: "the element reads 1 MΩ or more to ground, cold and dry",
    FindingCode.GROUND_CURRENT: "what touches the frame is found by ohms, proved dead, and mended",
    FindingCode.LEG_UNBALANCE: "the frame was measured to a known earth, and the neutral and the frame’s ground"
    " are whole",
    FindingCode.LIVE_WHEN_OFF: "every breaker that feeds the unit is found, open and locked, and every circuit"
    " is proved dead again",
    FindingCode.LIMIT_BRIDGED: "the bridge is off, and that is recorded",
    FindingCode.JOINT_HEAT: "the joint is remade, scorched metal and wire gone",
    FindingCode.WHOLE_UNIT: "what is scorched or melted is cut back and replaced, and looked at again",
    FindingCode.NO_BLOWER_TIE: "the blower has a tie to the heat, or the heat stays disabled",
    FindingCode.RUN_ON_SHORT: "a timed off test shows that the blower stops last",
    FindingCode.RELAY_WIRING: "its terminals are wired as the relay bench shows, and the wiring is proved",
    FindingCode.BREAKER_OVER_PLATE: "the breaker is no larger than the plate's maximum (MOP)",
    FindingCode.BREAKER_OVER_CONDUCTOR: "the breaker fits its conductor",
    FindingCode.CONDUCTOR_UNDER_LOAD: "the conductor carries its load, or a stage is left off",
}
_LICENSED = frozenset(
    {FindingCode.BREAKER_OVER_PLATE, FindingCode.BREAKER_OVER_CONDUCTOR, FindingCode.CONDUCTOR_UNDER_LOAD}
)
QUALIFIED = "By a qualified person with the protective equipment for it."
LICENSED = "Breakers and supply wire: a licensed electrician, with a permit where asked."
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
    acts: tuple[str, ...]
    before: str
    who: str
    ends: frozenset[str]
    opens: tuple[str, ...]
    #: The one guarded step that a repair or an answer permits, in words.
    way_back: str = ""
    #: What was done about it by the record, in words: an answer that nobody has to type.
    done: str = ""
    #: It is repaired, no reading has shown it yet, and the one guarded step for that is permitted.
    mended: bool = False
    #: What comes next of the one test before a repair; none where it is not offered, or was made.
    wires_off: WiresOff | None = None


def make_safe(evidence: Evidence, state: PanelState, stop: Finding) -> MakeSafe:
    """What to do about an open stop as the unit stands now."""
    act = first_act(evidence, state, stop)
    who = LICENSED if stop.code in _LICENSED else QUALIFIED
    words = tuple(_words(evidence.unit, state, stop, act))
    back, done = _way_back(evidence.unit, stop), "; ".join(_done(evidence, state, stop))
    own = next((s for s in standing(evidence) if s.finding == stop and STOPS[stop.code].latched), None)
    mended = own is not None and own.mended and own.way_back
    if mended:
        words = (f"Prove it: {back}.",)
    tried = wires_off(evidence, state, own) if own is not None else None
    if tried is not None and tried.step is WiresOffStep.OPEN:
        words, tried = (tried.words,), None
    return MakeSafe(
        stop, words, _BEFORE[stop.code], who, act.ends, tuple(sorted(act.opens)), back, done, mended, tried
    )


def _done(evidence: Evidence, state: PanelState, stop: Finding) -> Iterator[str]:
    """The acts of the record that bear on a stop: breakers that are off, calls that ended, work since it
    was raised."""
    unit, events = evidence.unit, evidence.visit.events
    for circuit in sorted(circuits_of(unit, stop.component)):
        if state.power[circuit] != ON:
            yield f"breaker of {circuit} off since {minutes(_off_since(evidence, circuit))}"
    for call, ended_s in sorted(state.ended_s.items()):
        if ended_s >= stop.t_s and STOPS[stop.code].act in (Act.END_HEAT, Act.END_CALL):
            yield f"{call} ended at {minutes(ended_s)}"
    for event in events:
        left_off = isinstance(event, Did) and event.verb == STAGE_OFF
        if event.t_s >= stop.t_s and (left_off or mends(unit, stop, event)):
            yield f"{event.words(unit)}, {minutes(event.t_s)}"


def _off_since(evidence: Evidence, circuit: str) -> float:
    """When the breaker of a circuit that is off was opened, s of the visit."""
    since_s = None
    for event in evidence.visit.of_kind(Power):
        if event.circuit in (None, circuit):
            since_s = None if event.state == ON else event.t_s if since_s is None else since_s
    return since_s or 0.0


def _way_back(unit: Unit, stop: Finding) -> str:
    """The setting that its proof needs, and for how long."""
    at_most_s = STOPS[stop.code].guarded_s
    within = f"at most {minutes(all_on_s(unit) + READ_S if at_most_s is None else at_most_s)}"
    match stop.code:
        case FindingCode.HEAT_WITHOUT_BLOWER:
            return f"heat called and the blower watched, {within} from the first amps"
        case FindingCode.DRAW_WITHOUT_CALL:
            fan = f", {unit.fan_call} called for air" if unit.fan_call else ""
            return f"power on with no heat called{fan}, its amps read, {within}"
        case FindingCode.HIGH_LEAVING_AIR:
            fan = f" with {unit.fan_call}" if unit.fan_call else ""
            return f"heat{fan}, return and supply air read, {within}"
        case FindingCode.ELEMENT_TO_GROUND:
            return "none is needed: ohms to ground, proved dead"
        case FindingCode.LIVE_WHEN_OFF | FindingCode.LIMIT_BRIDGED | FindingCode.LEG_UNBALANCE:
            return "none before that"
        case _:
            return f"the setting that shows it, read at once, {within}"


def _words(unit: Unit, state: PanelState, stop: Finding, act: FirstAct) -> list[str]:
    fan, row = unit.fan_call, STOPS[stop.code].act
    if act.proves:
        return [
            "Touch nothing. Find the breaker or the feed that is still on, open it, lock and tag it.",
            "Prove every circuit dead again, the frame to a known earth first.",
        ]
    if act.ends:
        kept = f", {fan} stays for two minutes" if fan in state.calls - act.ends else ""
        ended = [f"End the call: {' and '.join(sorted(act.ends))}{kept}."]
        if row is Act.END_HEAT:
            stay = f"If amps stay after {AMPS_STAY_S:g} s, open the strips’ breaker; lock and tag it."
            return [*ended, stay]
        return ended
    if act.opens:
        first = []
        if stop.code in (FindingCode.LEG_UNBALANCE, FindingCode.GROUND_CURRENT):
            first = ["Touch no metal. Measure the frame to a known earth first."]
        which = sorted(act.opens)
        if len(which) == 1:
            return [*first, f"Open the breaker of {which[0]}; lock and tag it."]
        return [*first, f"Open the breakers of {', '.join(which[:-1])} and {which[-1]}; lock and tag them."]
    if row is Act.NONE and stop.code in (FindingCode.NO_BLOWER_TIE, FindingCode.RUN_ON_SHORT):
        if fan is None:
            return ["Leave the heat off."]
        return [f"Call heat only with {fan}: heat ends first, {fan} two minutes later."]
    if row is Act.NONE:
        return ["Leave what loads it off until it is put right."]
    return ["Done by the record. Leave it so."]
