"""Events → what is powered, called for and proved dead at a time."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace

from plentar.core.said import Said, clock, listed, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.parts import Control
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import without_proof
from plentar.core.visit.events import ON, PROVED_DEAD, Calls, Event, Switches

#: A call whose lead would reach into the one before began this long after it, s.
APART_S = 0.1
#: What is waited beyond the longest window.
SETTLED_S = 5.0


@dataclass(frozen=True, slots=True)
class PanelState:
    """How the unit stands at ``t_s``: switches that people set, not what follows from them.

    ``since_s`` holds, for every call now asked for, when it began; ``ended_s``, for every call
    that was asked for and is not now, when it ended. Power off counts as no call. ``stages_off``
    are elements that were left off on purpose, ``coils_off`` coils whose own two wires are off,
    ``bridged`` parts with a test bridge across them.
    """

    t_s: float
    power: dict[str, str]
    calls: frozenset[str] = frozenset()
    lifted: bool = False
    since_s: dict[str, float] = field(default_factory=dict)
    ended_s: dict[str, float] = field(default_factory=dict)
    stages_off: frozenset[str] = frozenset()
    coils_off: frozenset[str] = frozenset()
    bridged: frozenset[str] = frozenset()

    def at(self, t_s: float) -> PanelState:
        """The same switches at another time."""
        return PanelState(
            t_s,
            self.power,
            self.calls,
            self.lifted,
            self.since_s,
            self.ended_s,
            self.stages_off,
            self.coils_off,
            self.bridged,
        )

    @property
    def proved_dead(self) -> bool:
        """Every supply circuit is proved dead: the gate for ohms."""
        return all(state == PROVED_DEAD for state in self.power.values())

    @property
    def live(self) -> bool:
        return ON in self.power.values()


def state_in_words(state: PanelState, *, driven: bool = False) -> Said:
    """What stood when something was read: power, calls and how long, wires, stages, a driven coil."""
    bridged = [say("state.bridged", parts=listed(sorted(state.bridged), ","))] if state.bridged else []
    lifted = [say("state.lifted")] if state.lifted else []
    if state.proved_dead:
        return listed(
            [say("state.proved-dead-driven" if driven else "state.proved-dead"), *lifted, *bridged], ","
        )
    said = [*_power_in_words(state), _calls_in_words(state)]
    if not state.since_s:
        said += lifted
    if state.stages_off:
        said.append(say("state.left-off", parts=listed(sorted(state.stages_off), ",")))
    return listed([*said, *bridged], ",")


def _power_in_words(state: PanelState) -> list[Said]:
    off = sorted(circuit for circuit, power in state.power.items() if power != ON)
    if not off:
        return []
    return [
        say("state.all-off") if len(off) == len(state.power) else say("state.off", circuits=listed(off, ","))
    ]


def _calls_in_words(state: PanelState) -> Said:
    if state.since_s:
        time = clock(state.t_s - max(state.since_s.values()))
        code = "state.jumper-calls" if state.lifted else "state.calls"
        return say(code, calls=listed(sorted(state.since_s), "+"), time=time)
    if state.ended_s:
        return say("state.nothing-called-for", time=clock(state.t_s - max(state.ended_s.values())))
    return say("state.nothing-called")


def as_it_was(events: Iterable[Event]) -> Iterator[Event]:
    """The events with each call at the time when it really began: its lead before the watch."""
    before_s = 0.0
    for event in events:
        if isinstance(event, Calls) and event.lead_s:
            moved = replace(event, t_s=max(before_s, event.t_s - event.lead_s), lead_s=0.0)
            before_s = moved.t_s
            yield moved
        else:
            before_s = event.t_s
            yield event


def state_at(unit: Unit, events: Iterable[Event], t_s: float) -> PanelState:
    """The state at ``t_s``, the events at that moment included."""
    last = PanelState(t_s, {circuit.id: ON for circuit in unit.circuits})
    for state in changes(unit, events):
        if state.t_s > t_s:
            break
        last = state
    return last.at(t_s)


def changes(unit: Unit, events: Iterable[Event]) -> Iterator[PanelState]:
    """The state after each event that changes it, in order of time."""
    switches = Switches({circuit.id: ON for circuit in unit.circuits})
    since: dict[str, float] = {}
    ended: dict[str, float] = {}
    for event in events:
        before = switches
        switches = event.moves(without_proof(unit, switches, event))
        if switches is before and not event.is_switch:
            continue
        live = switches.power[unit.control_power.circuit] == ON
        asked = switches.calls if live else frozenset()
        for call in set(since) - asked:
            ended = ended | {call: event.t_s}
        since = {call: s for call, s in since.items() if call in asked}
        # A lead reaches back to the call's own beginning, never into a call that was over before.
        over_s = max((s for s in ended.values() if s < event.t_s), default=-math.inf)
        began_s = max(event.began_s, min(event.t_s, over_s + APART_S))
        for call in asked - set(since):
            since = since | {call: began_s}
            ended = {c: s for c, s in ended.items() if c != call}
        power = dict(switches.power)
        yield PanelState(
            event.t_s,
            power,
            switches.calls,
            switches.lifted,
            since,
            ended,
            left_off(unit, switches.stages_off),
            switches.coils_off,
        )


def left_off(unit: Unit, named: frozenset[str]) -> frozenset[str]:
    """The elements that are left off: by name, or because the call wire of what closes them is."""
    if named <= unit.element_by_id.keys():
        return named
    found = set(named & unit.element_by_id.keys())
    for element in unit.elements:
        controls = [unit.control_of_switch[switch.id] for switch in unit.rung_switches(element)]
        if any(control.id in named or first_call(unit, control) in named for control in controls):
            found.add(element.id)
    return frozenset(found)


def called_since(unit: Unit, state: PanelState, control: Control) -> float | None:
    """When the thermostat's call that leads to this device began, s; None if there is none."""
    return state.since_s.get(first_call(unit, control))


def longest_on_s(unit: Unit, control: Control, switch_id: str) -> float:
    """The longest time from the call until this switch must have closed, s, chain included."""
    total = unit.switch_by_id[switch_id].on_s.high
    while control.through is not None:
        total += unit.switch_by_id[control.through].on_s.high
        control = unit.control_of_switch[control.through]
    return total


def typical_grace_s(unit: Unit, control: Control, switch_id: str) -> float:
    """How much longer than its window nothing is said against a switch, s: a minute where nobody has read
    the window, or one ahead of it in the chain, off a part that takes its time."""
    while True:
        typical = "on_s" in unit.switch_by_id[switch_id].typical
        if typical and control.kind.thermal:
            return th.TYPED_WITHIN_S
        if control.through is None:
            return 0.0
        switch_id = control.through
        control = unit.control_of_switch[switch_id]


def all_on_s(unit: Unit) -> float:
    """By then every stage must be on, chains and the blower relay included, s after the call."""
    longest = [longest_on_s(unit, c, s.id) for c in unit.controls for s in c.switches]
    return max([*longest, _relay_s(unit, "on_s")]) + SETTLED_S


def all_off_s(unit: Unit) -> float:
    """By then every stage must be off, the blower relay included, s after the call.

    A chain's coils die together: the 24 V of each comes from the first coil's own terminal.
    """
    longest = [s.off_s.high for c in unit.controls for s in c.switches]
    return max([*longest, _relay_s(unit, "off_s")]) + SETTLED_S


def _relay_s(unit: Unit, window: str) -> float:
    return float(getattr(unit.relay, window).high) if unit.relay else 0.0


def first_call(unit: Unit, control: Control) -> str:
    """The thermostat's call that leads to this device, through those before it."""
    while control.through is not None:
        control = unit.control_of_switch[control.through]
    return control.call or ""
