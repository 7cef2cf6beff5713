"""The retest: what was found bad, and what the repair could have disturbed, read once more.

Proved dead first, what a meter tells without power; then the fan, the heat with the fan, and the end of
the call. A line is through once its reading since the last repair is as it should be. Heat is called
with the fan: whether heat alone brings it on, the relay's sets tell by ohms.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import cached_property

from plentar.core.checks.registry import outcomes
from plentar.core.expected import Expected
from plentar.core.expected.rules import expected_of
from plentar.core.guided import Guided, Step, lines
from plentar.core.guided.asking import Asking, TestStage
from plentar.core.guided.retest_due import Dues
from plentar.core.guided.retest_line import Line, as_shown
from plentar.core.judgement import Finding, Level
from plentar.core.quantity import Quantity
from plentar.core.unit.parts import Element, Switch
from plentar.core.unit.points import resolve
from plentar.core.visit.events import Observed
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import longest_on_s

A, V, OHM, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TEMP_F
UF = Quantity.UF
#: A window is given so long before what should have moved is read, s; the air settles in five minutes.
GRACE_S, AIR_S = 10.0, 300.0


#: A reading that is wanted: its stage, where, of what, its title, and why.
_Wanted = tuple[TestStage, str, Quantity, str, str]


def _key(stage: TestStage, at: str, what: str) -> str:
    calls = f" with {' '.join(sorted(stage.calls))}" if stage.calls else ""
    return f"{what} {at}{calls}{' driven' if stage.driven else ''}"


def retest_lines(evidence: Evidence, now_s: float) -> tuple[Line, ...]:
    """The list, in the order in which it is read; empty where nothing was mended."""
    if not any(event.mended for event in evidence.visit.events):
        return ()
    return tuple(_List(evidence, now_s).lines())


def retest(evidence: Evidence, now_s: float) -> Guided:
    """The list as a test that is gone through; its result is before and after."""
    every = retest_lines(evidence, now_s)
    steps = tuple(replace(line.step, note=line.because) for line in every)
    told = [
        (line.step.title, f"{as_shown(line.before)} → {as_shown(line.step.taken)}")
        for line in every
        if line.step.taken is not None
    ]
    failed = [line for line in every if line.state == "fail"]
    stop = f"{failed[0].step.title} is not as it should be: the repair is not done" if failed else ""
    if evidence.state_at(now_s).lifted:
        stop = "put the thermostat’s wires back first: what runs by a jumper proves nothing of them"
    return Guided(steps, lines(*told), stop)


class _List:
    def __init__(self, evidence: Evidence, now_s: float) -> None:
        self.evidence, self.unit = evidence, evidence.unit
        mended = [event for event in evidence.visit.events if event.mended]
        self.parts = {event.mended for event in mended}
        self.since_s = max(event.t_s for event in mended)
        self.asking = Asking(evidence, now_s, self.since_s)
        self.dues = Dues(self.asking, frozenset(self.parts))
        self.strips = [e for e in self.unit.elements if self._touched(e)]

    def _touched(self, element: Element) -> bool:
        """The repair was in its rung, on what drives or feeds it, or on what all of them share."""
        unit, rung = self.unit, set(element.rung)
        own = rung | {element.circuit, f"{element.id}.wire"}
        for switch in unit.rung_switches(element):
            control = unit.control_of_switch[switch.id]
            while True:
                own |= {control.id, control.call or "", control.through or ""}
                if control.through is None:
                    break
                control = unit.control_of_switch[control.through]
        shared = {"R", "transformer", "control-fuse", "airflow", "blower", "capacitor"}
        shared |= {unit.relay.id} if unit.relay else set()
        return bool(self.parts & (own | shared))

    @property
    def moves_air(self) -> bool:
        relay = self.unit.relay
        own = {"airflow", "blower", "capacitor", "G", *(p.id for p in self.unit.limits)}
        return bool(self.parts & (own | ({relay.id} if relay else set())))

    def lines(self) -> Iterator[Line]:
        """Every line once, each setting's lines together; the heat is watched before it is ended."""
        every = list(self._read())
        yield from (line for stage, line in every if stage.dead or stage.calls)
        yield from self._watched()
        yield from (line for stage, line in every if not (stage.dead or stage.calls))

    def _read(self) -> Iterator[tuple[TestStage, Line]]:
        seen: set[tuple[str, Quantity, frozenset[str], bool, bool]] = set()
        wanted = _once([*self._bad(), *self._disturbed()])
        for stage, at, quantity, title, because in sorted(wanted, key=lambda one: _order(one[0])):
            key = (at, quantity, stage.calls, stage.dead, stage.driven)
            if key in seen:
                continue
            seen.add(key)
            step = self.dues.of(self.asking.step(stage, at, quantity, title), stage)
            line_key = _key(stage, at, quantity)
            step = self._answered(step, line_key)
            owner = resolve(self.unit, at).component
            found = self.found_since.get(owner, "") if step.taken and stage.calls else ""
            yield stage, Line(step, because, line_key, self._before(at, quantity, stage), found)

    def _watched(self) -> Iterator[Line]:
        """Ten minutes of heat where a limit opened, or what moves the air was mended."""
        unit = self.unit
        heat = frozenset({*unit.heat_calls, *([unit.fan_call] if unit.fan_call else [])})
        cycled = [e for e in self.evidence.visit.of_kind(Observed) if e.action == "cycling"]
        limits = {limit.id for limit in unit.limits}
        if not self.strips or not (self.moves_air or self.parts & limits or cycled):
            return
        watch = self.strips[0]
        for element in self.strips:
            if self.parts & limits & set(element.rung):
                watch = element
        after = [
            e
            for e in self.evidence.visit.of_kind(Observed)
            if e.t_s > self.since_s and e.action in ("cycling", "steady") and e.part == watch.id
        ]
        stage = TestStage(heat, self.on_s)
        setting = self.asking.setting(stage)
        due = Expected(resolve(unit, watch.id), A, absent="steady for ten minutes of heat")
        seen = after[-1].action if after else ""
        title = f"{watch.id} for ten minutes: its current stays"
        step = Step(title, watch.id, A, setting, due, watched=True, seen=seen)
        key = _key(stage, watch.id, "watched")
        yield Line(self._answered(step, key), "limits hold", key)

    def _answered(self, step: Step, key: str) -> Step:
        """With the newest answer since the repair, if it is no older than the line's reading."""
        read_s = step.taken.reading.t_s if step.taken else self.since_s
        said = [
            one
            for one in self.evidence.visit.left_out
            if one.line == key and one.t_s >= max(read_s, self.since_s)
        ]
        return replace(step, left_out=said[-1].reason) if said else step

    @cached_property
    def found_since(self) -> dict[str, str]:
        """What the checks find by what was read since the repair, by component."""
        found = _found(self.evidence)
        return {f.component: f.text for f in found if f.t_s > self.since_s}

    @cached_property
    def found_before(self) -> frozenset[str]:
        """The components of which a check found something before the repair."""
        visit = self.evidence.visit
        events = tuple(e for e in visit.events if e.t_s <= self.since_s and not e.mended)
        return frozenset(f.component for f in _found(Evidence(self.unit, replace(visit, events=events))))

    def _before(self, at: str, quantity: Quantity, stage: TestStage) -> Taken | None:
        old = [
            t
            for t in self.evidence.taken
            if t.reading.at == at
            and t.reading.quantity is quantity
            and t.reading.t_s <= self.since_s
            and t.reading.driven == stage.driven
        ]
        same = [t for t in old if bool(t.state.calls) == bool(stage.calls)]
        return next(iter([*reversed(same), *reversed(old)]), None)

    def _bad(self) -> Iterator[tuple[TestStage, str, Quantity, str, str]]:
        """Every point that read wrong before the repair, in the setting in which it did."""
        newest: dict[tuple[str, Quantity, bool, frozenset[str]], Taken] = {}
        for taken in self.evidence.taken:
            reading = taken.reading
            if reading.t_s <= self.since_s and taken.point.quantities:
                newest[reading.at, reading.quantity, reading.driven, taken.state.calls] = taken
        for (at, quantity, driven, _), taken in newest.items():
            if self._is_ghostly(taken) or self._tells_again(taken):
                continue
            said = expected_of(self.evidence, taken).judge(taken.reading.value)
            if said.good is False or taken.point.component in self.found_before:
                point = taken.point
                clamped = point.kind == "element" and quantity is A
                title = f"Amps of {at}" if clamped else point.title
                yield self._as_then(taken, driven), at, quantity, title, "it was bad"

    def _is_ghostly(self, taken: Taken) -> bool:
        """Volts across what is not mended, without heat: what floats there proves nothing."""
        point = taken.point
        across = point.kind in ("switch", "limit", "link", "contact", "node-node", "node-ground")
        heats = bool(taken.state.calls & self.unit.heat_calls)
        new = bool({point.component, point.component.removesuffix(".line")} & self._new)
        between = point.kind.startswith("node-")
        return taken.reading.quantity is V and (between or (across and not heats and not new))

    def _tells_again(self, taken: Taken) -> bool:
        """What other lines tell: a new relay's contacts are read in ohms, both ways; what a circuit
        draws under heat is what its strips draw, which are all on the list."""
        point, quantity = taken.point, taken.reading.quantity
        if point.kind == "contact":
            return quantity is V and point.component in self.parts
        if point.kind == "circuit" and quantity is A and taken.state.calls & self.unit.heat_calls:
            return all(e in self.strips for e in self.unit.elements_on(point.name))
        return False

    @cached_property
    def _new(self) -> frozenset[str]:
        """What was mended, with the switches of a device that was."""
        switches = {s.id for s in self.unit.switch_by_id.values() if self._is_new(s)}
        return frozenset(self.parts | switches)

    def _as_then(self, taken: Taken, driven: bool) -> TestStage:
        if taken.reading.quantity.dead_only or taken.state.proved_dead:
            return TestStage(dead=True, driven=driven)
        calls, fan = taken.state.calls, self.unit.fan_call
        heats = bool(calls & self.unit.heat_calls)
        calls = calls | {fan} if heats and fan else calls
        wait_s = self.on_s if heats else self.off_s if not calls else self.fan_s
        return TestStage(calls, wait_s)

    @property
    def on_s(self) -> float:
        """By then every strip that is called must draw."""
        unit = self.unit
        longest = [
            longest_on_s(unit, unit.control_of_switch[s.id], s.id)
            for e in unit.elements
            for s in unit.rung_switches(e)
        ]
        return max([*longest, self.fan_s]) + GRACE_S

    @property
    def off_s(self) -> float:
        """By then everything must be off."""
        longest = [s.off_s.high for c in self.unit.controls for s in c.switches]
        relay = self.unit.relay
        return max([*longest, relay.off_s.high if relay else 0.0]) + GRACE_S

    @property
    def fan_s(self) -> float:
        return (self.unit.relay.on_s.high if self.unit.relay else 1.0) + GRACE_S

    def _cold(self) -> Iterator[tuple[TestStage, str, Quantity, str, str]]:
        """Proved dead: new strips, poles that amps don't show, a new relay's coil and sets."""
        unit, relay = self.unit, self.unit.relay
        for switch in unit.switch_by_id.values():
            if self._is_new(switch) and self._hides_at_rest(switch):
                yield (
                    TestStage(dead=True),
                    switch.id,
                    OHM,
                    f"{switch.id} at rest",
                    "open with nothing driven",
                )
        for element in unit.elements:
            if element.id in self.parts:
                yield TestStage(dead=True), element.id, OHM, f"Ohms of {element.id}", "it is new"
                at = f"{element.id}.in:ground"
                yield TestStage(dead=True), at, OHM, f"{element.id} to the cabinet", "it is new"
        if unit.blower and unit.blower.capacitor_uf and self.parts & {"capacitor", "blower"}:
            yield TestStage(dead=True), "capacitor", UF, "Run capacitor", "it is new"
        if relay is not None and relay.id in self.parts:
            yield TestStage(dead=True), f"{relay.id}.coil", OHM, f"Coil of {relay.id}", "it is new"
        if relay is not None and relay.id in self.parts:
            sides = ["no"]
            if relay.kind.normally_closed and unit.blower and unit.blower.interlock.kind == "nc-contact":
                sides.append("nc")
            for side in sides:
                for driven in (False, True):
                    how = "driven" if driven else "at rest"
                    title = f"{relay.id}.{side} {how}"
                    yield (TestStage(dead=True, driven=driven), f"{relay.id}.{side}", OHM, title, "both sets")

    def _disturbed(self) -> Iterator[tuple[TestStage, str, Quantity, str, str]]:
        unit, fan = self.unit, self.unit.fan_call
        yield from self._cold()
        for load in unit.other_loads:
            if {load.id, load.call} & self.parts and load.call in unit.calls:
                stage = TestStage(frozenset({load.call}), GRACE_S)
                yield stage, "R", A, f"Wire to R, {load.call} alone", "its coil"
        if fan is not None and (self.moves_air or not self.strips):
            stage = TestStage(frozenset({fan}), self.fan_s)
            yield stage, "blower", A, f"Blower on {fan} alone", "each function once more"
        if self.strips and unit.heat_calls:
            yield from self._under_heat()
        yield from self._at_rest()

    def _is_new(self, switch: Switch) -> bool:
        return bool({switch.id, self.unit.control_of_switch[switch.id].id} & self.parts)

    def _hides_at_rest(self, switch: Switch) -> bool:
        """Stuck closed it would not show in amps: another pole breaks the rung, or it carries a call."""
        if switch.id in self.unit.idle_switches:
            return False
        if switch.role == "auxiliary":
            return True
        rungs = self.unit.elements_through(switch.id)
        return any(len(list(self.unit.rung_switches(e))) > 1 for e in rungs)

    def _under_heat(self) -> Iterator[tuple[TestStage, str, Quantity, str, str]]:
        unit = self.unit
        heat = frozenset({*unit.heat_calls, *([unit.fan_call] if unit.fan_call else [])})
        for element in self.strips:
            yield TestStage(heat, self.on_s), element.id, A, f"Amps of {element.id}", "its strip"
            for switch in unit.rung_switches(element):
                if self._is_new(switch):
                    title = f"Joints of {switch.id} under load"
                    yield TestStage(heat, self.on_s), switch.id, V, title, "its contacts and spades"
        for name in sorted(self.parts & set(unit.circuit_by_id)):
            yield (
                TestStage(heat, self.on_s),
                f"{name}.line",
                V,
                f"Line side of {name}, full load",
                "its joints",
            )
        for circuit in dict.fromkeys(element.circuit for element in self.strips):
            yield (TestStage(heat, self.on_s), circuit, V, f"Lugs of {circuit} under full load", "its feed")
        if self.parts & {"R", "transformer", "control-fuse", *unit.calls}:
            yield TestStage(heat, self.on_s), "R", V, "R to C, all of them called", "control power"
        if unit.blower is not None and unit.blower.air_cfm:
            settled = TestStage(heat, max(self.on_s, AIR_S))
            yield settled, "return-air", TEMP, "Return air", "the rise"
            yield settled, "supply-air", TEMP, "Supply air, out of sight of the strips", "the rise"

    def _at_rest(self) -> Iterator[tuple[TestStage, str, Quantity, str, str]]:
        """The call off: every strip at zero, and the blower after its run-on."""
        unit, rest = self.unit, TestStage(frozenset(), self.off_s)
        fed = dict.fromkeys(e.circuit for e in self.strips)
        for circuit in fed:
            yield rest, circuit, A, f"Feed of {circuit}, nothing called", "the call off"
        if unit.blower is not None and unit.blower.circuit not in fed:
            yield rest, "blower", A, "Blower, nothing called", "the call off"


def _once(wanted: Sequence[_Wanted]) -> list[_Wanted]:
    """Volts at one point tell most with most called: what stays there with less is not asked too."""
    most: dict[str, int] = {}
    for stage, at, quantity, _, _ in wanted:
        if quantity is V and not stage.dead:
            most[at] = max(most.get(at, 0), len(stage.calls))
    return [one for one in wanted if one[2] is not V or one[0].dead or len(one[0].calls) == most[one[1]]]


def _found(evidence: Evidence) -> list[Finding]:
    found = (finding for outcome in outcomes(evidence) for finding in outcome.found)
    return [f for f in found if f.level in (Level.REPAIR, Level.STOP_NOW)]


def _order(stage: TestStage) -> tuple[bool, bool, bool, int, float]:
    """Dead before live, the fan before heat, and the call off last."""
    return (not stage.dead, stage.driven, not (stage.dead or stage.calls), len(stage.calls), stage.after_s)
