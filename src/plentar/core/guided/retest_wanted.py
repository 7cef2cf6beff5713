"""What is read again after a repair: by what it touched, what the complaint was, and what was bad."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property

from plentar.core.checks.registry import outcomes
from plentar.core.expected.rules import expected_of
from plentar.core.guided.asking import TestStage
from plentar.core.judgement import Finding, GuardedStep, Level
from plentar.core.quantity import Quantity
from plentar.core.relay_bench.contacts import device_verdict, readings_of, rows_of, set_verdicts
from plentar.core.relay_bench.fitted import fitted
from plentar.core.safety.harm import WITHOUT_AIR_S
from plentar.core.said import Said, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import Element, Switch
from plentar.core.visit.events import MOVED, Did, Event, Observed
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import PanelState, longest_on_s

A, V, OHM, TEMP, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TEMP_F, Quantity.UF
#: After a window at most so much is waited before what should have moved is read, s; the air settles in
#: five minutes.
GRACE_S, AIR_S = 10.0, 300.0
#: A relay that holds the blower for longer than this hides whether the tie does, s.
HOLDS_S = 3.0
#: More than this across a part is no joint's: it is open, V.
GHOST_V = 60.0
#: Complaints that every strip's amps answer, that the end of the call answers, and that ten minutes do.
_HEAT = frozenset({"no-heat", "not-enough-heat", "slow-to-start"})
_NO_END = frozenset({"heat-will-not-stop", "heat-in-cooling", "blower-will-not-stop"})
_CLICKS = "clicking"
_CONTROL = frozenset({"control-fuse-blows", "no-power"})
_BURNS = "breaker-trips-or-burnt"
_CURRENT = frozenset({"element", "switch", "limit", "link"})


@dataclass(frozen=True, slots=True)
class Wanted:
    """One reading that is wanted: its stage, where, of what, its title, and why."""

    stage: TestStage
    at: str
    quantity: Quantity
    title: Said
    because: Said


def touched_by(event: Event) -> str:
    """The part whose work is to be proved: mended, or a wire of it moved; empty where there is none."""
    return event.part if isinstance(event, Did) and event.verb == MOVED else event.mended


class Touched:
    """What a repair touched, and what that asks for."""

    def __init__(self, evidence: Evidence) -> None:
        self.evidence, self.unit, self.visit = evidence, evidence.unit, evidence.visit
        work = [event for event in self.visit.events if touched_by(event)]
        self.parts = frozenset(map(touched_by, work))
        self.since_s = max(event.t_s for event in work)
        self.strips = [e for e in self.unit.elements if self._in_rung(e)]
        self.complaint = self.visit.complaint or ""

    def _in_rung(self, element: Element) -> bool:
        """The repair was in its rung, or on what closes it."""
        unit = self.unit
        own = {*element.rung, f"{element.id}.wire"}
        for switch in unit.rung_switches(element):
            control = unit.control_of_switch[switch.id]
            own |= {control.id, control.call or "", control.through or ""}
            while control.through is not None:
                control = unit.control_of_switch[control.through]
                own |= {control.id, control.call or "", control.through or ""}
        return bool(self.parts & own)

    @cached_property
    def relay(self) -> bool:
        """The blower's relay or its wires."""
        relay = self.unit.relay
        return relay is not None and relay.id in {part.partition(".")[0] for part in self.parts}

    @cached_property
    def tie(self) -> bool:
        """What runs the blower with the heat: the relay, or the device that the tie's wire lies on."""
        unit = self.unit
        tie = unit.blower.interlock if unit.blower else None
        taps = {tap for tap in ((tie.tap, tie.switch) if tie else ()) if tap}
        own = taps | {unit.control_of_switch[tap].id for tap in taps}
        return self.relay or bool(self.parts & own)

    @cached_property
    def circuits(self) -> list[str]:
        """The circuits whose breaker, lugs or line side were worked on, or that burnt by the complaint."""
        own = [c.id for c in self.unit.circuits if {c.id, *_ends(c.id)} & self.parts]
        if own or self.complaint != _BURNS:
            return own
        return list(dict.fromkeys(e.circuit for e in self.strips))

    @cached_property
    def air(self) -> bool:
        """What moves the air, or a limit, was worked on or in question."""
        moves = {"airflow", "blower", "capacitor", *(limit.id for limit in self.unit.limits)}
        cycled = any(e.action == "cycling" for e in self.visit.of_kind(Observed))
        return bool(self.parts & moves) or cycled or self.complaint == _CLICKS

    @cached_property
    def control(self) -> bool:
        return bool(self.parts & {"R", "transformer", "control-fuse", *self.unit.calls}) or (
            self.complaint in _CONTROL
        )

    def proved_in_the_hand(self, relay: str) -> bool:
        """Every set of the new relay was tested on the bench, at rest and driven, and is good."""
        device = self.unit.device_by_id[relay]
        kind, read = fitted(self.unit, device), readings_of(self.unit, device, self.visit.events, new=True)
        return bool(read) and device_verdict(set_verdicts(kind, rows_of(kind, read))).state == "good"

    # The settings.

    @cached_property
    def fan(self) -> frozenset[str]:
        return frozenset({self.unit.fan_call} if self.unit.fan_call else ())

    @cached_property
    def heat(self) -> TestStage:
        """All heat with the fan, which changes nothing of a strip's amps."""
        return TestStage(frozenset(self.unit.heat_calls) | self.fan, self.on_s, with_or_without=self.fan)

    @property
    def with_fan(self) -> TestStage:
        return TestStage(self.fan, self.fan_s)

    @cached_property
    def heat_alone(self) -> TestStage:
        """Heat without the fan's call, gone to under guard where nothing else holds the blower."""
        unit, heat = self.unit, frozenset(self.unit.heat_calls)
        holds = unit.relay is not None and unit.relay.off_s.high > HOLDS_S
        if holds or not self.fan:
            return TestStage(heat, self.on_s)
        return TestStage(heat, self.on_s, guard=GuardedStep(heat | self.fan, WITHOUT_AIR_S, self.fan))

    @property
    def rest(self) -> TestStage:
        return TestStage(frozenset(), self.off_s)

    @property
    def on_s(self) -> float:
        """By then every strip that is called must draw."""
        unit = self.unit
        longest = [
            longest_on_s(unit, unit.control_of_switch[s.id], s.id)
            for e in unit.elements
            for s in unit.rung_switches(e)
        ]
        return _with_grace(max([*longest, self._relay_s]))

    @property
    def off_s(self) -> float:
        """By then everything must be off."""
        longest = [s.off_s.high for c in self.unit.controls for s in c.switches]
        relay = self.unit.relay
        return _with_grace(max([*longest, relay.off_s.high if relay else 0.0]))

    @property
    def fan_s(self) -> float:
        return _with_grace(self._relay_s)

    @property
    def _relay_s(self) -> float:
        return self.unit.relay.on_s.high if self.unit.relay else 1.0

    # What is wanted.

    def wanted(self) -> Iterator[Wanted]:
        """Every reading that is wanted, what was bad first; one may come twice."""
        yield from self._bad()
        yield from self._cold()
        unit = self.unit
        for load in unit.other_loads:
            if {load.id, load.call} & self.parts and load.call in unit.calls:
                stage = TestStage(frozenset({load.call}), GRACE_S)
                yield Wanted(
                    stage,
                    "R",
                    A,
                    say("guided.retest-wanted.wire-r-alone", call=load.call),
                    say("guided.retest-wanted.coil"),
                )
        yield from self._crossed()
        yield from self._air_and_tie()
        if unit.heat_calls and unit.elements:
            yield from self._under_heat()
        yield from self._at_rest()

    def _cold(self) -> Iterator[Wanted]:
        """Proved dead: poles that amps don't show, a new strip to the cabinet, a new capacitor."""
        unit, dead = self.unit, TestStage(dead=True)
        for switch in unit.switch_by_id.values():
            if self._is_new(switch) and self._hides_at_rest(switch):
                yield Wanted(
                    dead,
                    switch.id,
                    OHM,
                    say("guided.retest-wanted.rest", switch=said_of(unit, switch.id)),
                    say("guided.retest-wanted.open-nothing-driven"),
                )
        for element in unit.elements:
            if element.id in self.parts:
                at = f"{element.id}.in:ground"
                yield Wanted(
                    dead,
                    at,
                    OHM,
                    say("guided.retest-wanted.cabinet", element=said_of(unit, element.id)),
                    say("guided.retest-wanted.new"),
                )
        if unit.blower and unit.blower.capacitor_uf and self.parts & {"capacitor", "blower"}:
            yield Wanted(
                dead,
                "capacitor",
                UF,
                say("guided.retest-wanted.run-capacitor"),
                say("guided.retest-wanted.new"),
            )

    def _crossed(self) -> Iterator[Wanted]:
        """After work on the thermostat's wires: no strip draws on any call but its own."""
        unit = self.unit
        if not (self.parts & set(unit.calls) and unit.elements):
            return
        strip = unit.elements[0].id
        for call in [c for c in unit.calls if c in ("G", "Y")]:
            stage = TestStage(frozenset({call}) | self.fan, self.on_s)
            yield Wanted(
                stage,
                strip,
                A,
                say("guided.retest-wanted.with", strip=said_of(unit, strip), stage=stage.words),
                say("guided.retest-wanted.thermostats-wires"),
            )

    def _air_and_tie(self) -> Iterator[Wanted]:
        unit, blower = self.unit, self.unit.blower
        if blower is None:
            return
        in_hand = self.relay and unit.relay is not None and self.proved_in_the_hand(unit.relay.id)
        runs = self.relay and not in_hand
        asked = runs or self.air or self.complaint == "blower-will-not-run" or "G" in self.parts
        if self.fan and asked:
            yield Wanted(
                self.with_fan,
                "blower",
                A,
                say("guided.retest-wanted.blower-g-alone"),
                say("guided.retest-wanted.each-function-once-more"),
            )
        if in_hand or not (self.tie and unit.heat_calls and unit.elements):
            return
        if blower.interlock.kind == "g-with-w":
            stage = self.heat
            yield Wanted(
                stage, "blower", A, say("guided.retest-wanted.blower-heat"), say("guided.retest-wanted.tie")
            )
        elif blower.tied is not False:
            yield Wanted(
                self.heat_alone,
                "blower",
                A,
                say("guided.retest-wanted.blower-heat-alone"),
                say("guided.retest-wanted.tie"),
            )

    def _under_heat(self) -> Iterator[Wanted]:
        unit, heat = self.unit, self.heat
        strips = list(unit.elements) if self.complaint in _HEAT else self.strips
        if self.tie and not strips:
            taps = {tap for tap in unit.possible_taps if tap}
            strips = [e for e in unit.elements if taps & set(e.rung)] or list(unit.elements)[:1]
        for element in strips:
            yield Wanted(
                heat,
                element.id,
                A,
                say("guided.retest-wanted.amps", element=said_of(unit, element.id)),
                say("guided.retest-wanted.strip"),
            )
            for switch in unit.rung_switches(element) if self.complaint == _BURNS else ():
                if self._is_new(switch):
                    title = say("guided.retest-wanted.joints-under-load", switch=said_of(unit, switch.id))
                    yield Wanted(heat, switch.id, V, title, say("guided.retest-wanted.contacts-spades"))
        for circuit in dict.fromkeys([*self.circuits, *(e.circuit for e in strips)]):
            joints = circuit in self.circuits
            because = (
                say("guided.retest-wanted.joints") if joints else say("guided.retest-wanted.strips-volts")
            )
            if joints:
                line = f"{circuit}.line"
                yield Wanted(
                    heat,
                    line,
                    V,
                    say("guided.retest-wanted.line-side-full-load", circuit=said_of(unit, circuit)),
                    because,
                )
            yield Wanted(
                heat,
                circuit,
                V,
                say("guided.retest-wanted.lugs-under-full-load", circuit=said_of(unit, circuit)),
                because,
            )
            if joints:
                yield Wanted(
                    heat,
                    circuit,
                    A,
                    say("guided.retest-wanted.feed-full-load", circuit=said_of(unit, circuit)),
                    because,
                )
        if self.control:
            yield Wanted(
                heat,
                "R",
                V,
                say("guided.retest-wanted.r-c-all-them"),
                say("guided.retest-wanted.control-power"),
            )
        if self.air and unit.blower is not None and unit.blower.air_cfm:
            settled = replace(heat, after_s=max(self.on_s, AIR_S), with_or_without=frozenset())
            yield Wanted(
                settled,
                "return-air",
                TEMP,
                say("guided.retest-wanted.return-air"),
                say("guided.retest-wanted.rise"),
            )
            yield Wanted(
                settled,
                "supply-air",
                TEMP,
                say("guided.retest-wanted.supply-air-out-sight"),
                say("guided.retest-wanted.rise"),
            )

    def _at_rest(self) -> Iterator[Wanted]:
        """The call off: every strip at zero, and the blower after its run-on."""
        unit = self.unit
        ends = self.complaint in _NO_END or self.tie or bool(self.strips)
        if not ends:
            return
        fed = dict.fromkeys(e.circuit for e in (self.strips or unit.elements))
        for circuit in fed:
            yield Wanted(
                self.rest,
                circuit,
                A,
                say("guided.retest-wanted.feed-nothing-called", circuit=said_of(unit, circuit)),
                say("guided.retest-wanted.call-off"),
            )
        alone = unit.blower is not None and unit.blower.circuit not in fed
        if alone and (self.tie or self.complaint in _NO_END):
            yield Wanted(
                self.rest,
                "blower",
                A,
                say("guided.retest-wanted.blower-nothing-called"),
                say("guided.retest-wanted.call-off"),
            )

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

    # What was bad.

    def _bad(self) -> Iterator[Wanted]:
        """Every point that read wrong before the repair, in the setting in which it did."""
        newest: dict[tuple[str, Quantity, bool, frozenset[str]], Taken] = {}
        for taken in self.evidence.taken:
            reading = taken.reading
            if reading.t_s <= self.since_s and taken.point.quantities and not taken.state.bridged:
                newest[reading.at, reading.quantity, reading.driven, taken.state.calls] = taken
        for taken in newest.values():
            if self._is_ghostly(taken) or self._tells_again(taken):
                continue
            said = expected_of(self.evidence, taken).judge(taken.reading.value)
            if said.good is False or taken.point.component in self._found_before:
                point, quantity = taken.point, taken.reading.quantity
                clamped = point.kind == "element" and quantity is A
                title = say("guided.retest-wanted.amps-2", point=point.title) if clamped else point.title
                yield Wanted(
                    self._as_then(taken),
                    taken.reading.at,
                    quantity,
                    title,
                    say("guided.retest-wanted.was-bad"),
                )

    @cached_property
    def _found_before(self) -> frozenset[str]:
        """The components of which a check found something before the repair."""
        events = tuple(e for e in self.visit.events if e.t_s <= self.since_s and not e.mended)
        before = Evidence(self.unit, replace(self.visit, events=events))
        return frozenset(f.component for f in found_in(before))

    def _is_ghostly(self, taken: Taken) -> bool:
        """Volts across a part without heat, and between nodes: what floats there proves nothing."""
        kind = taken.point.kind
        across = kind in ("switch", "limit", "link", "contact")
        heats = bool(taken.state.calls & self.unit.heat_calls)
        return taken.reading.quantity is V and (kind.startswith("node-") or (across and not heats))

    def _tells_again(self, taken: Taken) -> bool:
        """What other lines tell: a new relay's contacts show in what they run; what a circuit draws under
        heat is what its strips draw; a switch or a limit that was open in a rung shows in the strip's amps."""
        point, quantity = taken.point, taken.reading.quantity
        heats = bool(taken.state.calls & self.unit.heat_calls)
        if point.kind == "contact":
            return point.component in self.parts
        if point.kind == "circuit" and quantity is A and heats:
            return all(e in self.strips for e in self.unit.elements_on(point.name))
        if point.kind in ("switch", "limit", "link") and taken.reading.value > GHOST_V:
            return quantity is V and bool(list(self.unit.elements_through(point.component)))
        return False

    def _as_then(self, taken: Taken) -> TestStage:
        reading, state = taken.reading, taken.state
        if reading.quantity.dead_only or state.proved_dead:
            return TestStage(dead=True, driven=reading.driven)
        return self.stage_of(state, of_current=taken.point.kind in _CURRENT | {"circuit", "feed", "line"})

    def stage_of(self, state: PanelState, *, of_current: bool) -> TestStage:
        """The stage of a state in which something was read."""
        calls, heats = state.calls, bool(state.calls & self.unit.heat_calls)
        if not calls and of_current:  # if it draws still, there is air for it
            return TestStage(self.fan, self.off_s, with_or_without=self.fan)
        if not calls:
            return self.rest
        if not heats:
            return TestStage(calls, self.fan_s)
        if of_current:
            return TestStage(calls | self.fan, self.on_s, with_or_without=self.fan)
        if not self.fan & calls and calls == frozenset(self.unit.heat_calls):
            return self.heat_alone
        return TestStage(calls, self.on_s)


def _with_grace(window_s: float) -> float:
    """A window and a little: what acts at once is not waited for."""
    return window_s + min(GRACE_S, 2.0 + 0.1 * window_s)


def _ends(circuit: str) -> Iterable[str]:
    return (f"{circuit}.{end}" for end in ("l1", "l2", "line"))


def found_in(evidence: Evidence) -> list[Finding]:
    """What the checks find at repair level and above."""
    found = (finding for outcome in outcomes(evidence) for finding in outcome.found)
    return [f for f in found if f.level in (Level.REPAIR, Level.STOP_NOW)]
