"""A device's wiring as a small network: what lies on its terminals, what is joined inside, the loads
behind, with the contacts where calls and faults put them; solved, not looked up.

The motor's other lead is on L2; what is behind a switch returns to L2 through its own rung.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from plentar.core.circuit.network import Topology, solve
from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.core.tables.model import CONTACT_OHMS, DEFAULT_BLOWER_AMPS, WIRE_OHMS
from plentar.core.unit.parts import CALLS, Control, Element
from plentar.core.unit.terminals import ContactSet, PartKind
from plentar.core.unit.unit import Device, Unit
from plentar.core.visit.state import first_call

L1, L2, MOTOR, SECOND_SPEED, HEAT, C, R, NOWHERE = "L1", "L2", "blower", "blower-2", "heat", "C", "R", "none"
#: Ends that are at 24 V, and those at line volts.
CONTROL_ENDS = frozenset({*CALLS, C, R})
#: The tie's wire on the switch that it is tapped from; the far end of a strip.
TIE, OUT = "tie", ".out"
#: A wire to another terminal of the same part begins with this; the node of another device's coil with that.
JUMPER, COIL = "=", "24 "
#: A load runs from this share of its volts.
RUNS_SHARE = 0.5
LEAK_SIEMENS, STIFF_SIEMENS = 1e-9, 1e6


@dataclass(frozen=True, slots=True)
class ContactSetting:
    """What is called; where the heat switches stand (None: as they are called); and a contact that
    fails: its set, and how (``no-welded`` holds the armature over)."""

    calls: frozenset[str] = frozenset()
    heat_closed: bool | None = None
    fault: tuple[str, str] | None = None


@dataclass(frozen=True, slots=True)
class Case:
    """What comes of a setting: what runs, and the most that a contact carries, A. All None where L1
    meets L2. ``live`` are the ends at line volts."""

    calls: frozenset[str]
    blower: bool | None = None
    heat: bool | None = None
    through_relay_amps: float | None = None
    second_speed: bool | None = None
    live: frozenset[str] = frozenset()
    strips: frozenset[str] = frozenset()

    @property
    def short(self) -> bool:
        """L1 meets L2."""
        return self.blower is None


class WiredDevice:
    """A device of a kind, wired so: ``ends`` are where the wires of each terminal lead.

    ``heat`` is the load side of the switch that the blower's tie is tapped from, a switch's id that
    of another, an element's id what is left of its rung. Raises BadInput (path: the terminal) where
    nobody knows what an end is.
    """

    def __init__(
        self, unit: Unit, device: Device, kind: PartKind, ends: Mapping[str, tuple[str, ...]]
    ) -> None:
        self.unit, self.device, self.kind = unit, device, kind
        blower = unit.blower
        # Whichever it is: to the relay they are alike.
        self.tap = next(iter(unit.possible_taps), None)
        circuit = blower.circuit if blower else unit.circuits[0].id
        self.volts = unit.circuit_by_id[circuit].rated_volts
        self.motor_amps = (blower.running_amps if blower else None) or DEFAULT_BLOWER_AMPS
        self.ends = {
            terminal: tuple(self._node(terminal, end) for end in given if end != NOWHERE)
            for terminal, given in ends.items()
        }
        self.switches = [
            s for s in unit.switch_by_id if s in self._first and unit.control_of_switch[s].id != device.id
        ]

    @cached_property
    def _first(self) -> dict[str, list[Element]]:
        """Switches on the L1 side that come first in a rung, with what they feed."""
        found: dict[str, list[Element]] = {}
        for element in self.unit.elements:
            if switch := _head(self.unit, element):
                found.setdefault(switch, []).append(element)
        return found

    def _node(self, terminal: str, end: str) -> str:
        unit = self.unit
        if end in (HEAT, TIE):
            if self.tap is None:
                raise BadInput(terminal, say("relay-bench.no-tap"))
            return f"heat {self.tap}"
        if end in (L1, L2, MOTOR, SECOND_SPEED, *CONTROL_ENDS):
            return end
        if end.startswith(JUMPER) and self.kind.named(end[1:]) in self.kind.terminal_by_name:
            return f"at {self.kind.named(end[1:])}"
        switch = unit.switch_by_id.get(end)
        if switch is not None and switch.role == "auxiliary":
            return first_call(unit, unit.control_of_switch[end])
        if end.removesuffix(".coil") in unit.device_by_id:
            return f"{COIL}{end}"
        if end in self._first:
            return f"heat {end}"
        if end.removesuffix(OUT) in unit.element_by_id:
            strip = end.removesuffix(OUT)
            return f"return {strip}" if end.endswith(OUT) else f"strip {strip}"
        raise BadInput(terminal, say("relay-bench.unknown-end", end=end))

    @property
    def control_ends(self) -> frozenset[str]:
        """What is at 24 V: the board's terminals, and the coils that the device's own contacts feed."""
        on = {node for nodes in self.ends.values() for node in nodes}
        return CONTROL_ENDS | {node for node in on if node.startswith(COIL)}

    def head_of(self, element: Element) -> str | None:
        """The first switch of a rung on the L1 side of its strip, None where the strip comes first."""
        return _head(self.unit, element)

    @property
    def coil_call(self) -> str | None:
        """The terminal that feeds the coil; None where its two ends are not one call and C."""
        one, other = (set(self.ends.get(end, ())) for end in self.kind.coil)
        for fed, common in ((one, other), (other, one)):
            calls = fed & set(CALLS)
            if C in common and len(calls) == 1 and not fed - calls and not common - {C}:
                return next(iter(calls))
        return None

    def driven(self, calls: frozenset[str]) -> bool:
        """Whether its coil is driven: by its call, or by a board that raises the fan with heat."""
        fed_by = self.coil_call
        tie = self.unit.blower.interlock.kind if self.unit.blower else ""
        with_heat = tie == "g-with-w" and fed_by == "G" and "W1" in calls
        return fed_by in calls or with_heat

    def joined(self, setting: ContactSetting) -> list[tuple[str, str, str]]:
        """What is joined: two nodes, and by what."""
        found = [(f"at {t}", node, "wire") for t, nodes in self.ends.items() for node in nodes]
        found += [(f"at {a}", f"at {b}", "tie") for a, b in self.kind.tied]
        driven = self.driven(setting.calls)
        for one in self.kind.sets:
            found += [(f"at {a}", f"at {b}", one.name) for a, b in _closed(one, driven, setting)]
        for switch in self.switches:
            called = first_call(self.unit, self.unit.control_of_switch[switch]) in setting.calls
            if called if setting.heat_closed is None else setting.heat_closed:
                found.append((L1, f"heat {switch}", "switch"))
        return found

    def case(self, setting: ContactSetting) -> Case:
        joined = self.joined(setting)
        if path(joined, L1, L2):
            return Case(setting.calls)
        volts = self._solved(joined, setting)
        set_names = {one.name for one in self.kind.sets}
        through = [abs(volts[a] - volts[b]) / CONTACT_OHMS for a, b, by in joined if by in set_names]
        runs = RUNS_SHARE * self.volts
        live = frozenset(node for node, v in volts.items() if abs(v) >= runs)
        strips = frozenset(e.id for e in self.unit.elements if self._heats(e, volts, setting))
        return Case(
            setting.calls,
            MOTOR in live or SECOND_SPEED in live,
            bool(strips),
            max(through, default=0.0),
            SECOND_SPEED in live and MOTOR in live,
            live,
            strips,
        )

    def _heats(self, element: Element, volts: Mapping[str, float], setting: ContactSetting) -> bool:
        runs, back = RUNS_SHARE * self.volts, self._back(element)
        across = (abs(volts.get(n, 0.0) - volts.get(back, 0.0)) for n in self._fed_at(element))
        return self._returns(element, setting) and any(v >= runs for v in across)

    def _fed_at(self, element: Element) -> Iterator[str]:
        """Where a strip's rung can be fed: behind its first switch, or right at it."""
        head = _head(self.unit, element)
        if head in self.switches:
            yield f"heat {head}"
        if self._is_on(f"strip {element.id}"):
            yield f"strip {element.id}"

    def _back(self, element: Element) -> str:
        """Where a strip's rung leads to: L2, or the device where it breaks that leg too."""
        behind = element.rung[element.rung.index(element.id) :]
        return f"return {element.id}" if self.own_switches & set(behind) else L2

    @cached_property
    def own_switches(self) -> frozenset[str]:
        if not isinstance(self.device, Control):
            return frozenset()
        return frozenset(switch.id for switch in self.device.switches)

    @property
    def own_strips(self) -> frozenset[str]:
        return frozenset(e.id for e in self.unit.elements if self.own_switches & set(e.rung))

    def _is_on(self, node: str) -> bool:
        return any(node in nodes for nodes in self.ends.values())

    def _returns(self, element: Element, setting: ContactSetting) -> bool:
        """The parts of its rung behind where it is fed lead to L2."""
        head = _head(self.unit, element)
        behind = [p for p in element.rung if p in self.unit.switch_by_id and p != head]
        behind = [p for p in behind if p not in self.own_switches]
        controls = [self.unit.control_of_switch[p] for p in behind]
        return all(first_call(self.unit, control) in setting.calls for control in controls)

    def loads(self, setting: ContactSetting) -> Iterator[tuple[str, str, float]]:
        """What is behind: the motor's two speeds and the strips whose rung leads on, Ω."""
        yield from ((motor, L2, self.volts / self.motor_amps) for motor in (MOTOR, SECOND_SPEED))
        for element in self.unit.elements:
            if self._returns(element, setting):
                hot, back = element.rating.hot_ohms, self._back(element)
                yield from ((node, back, hot) for node in self._fed_at(element))

    def _solved(self, joined: list[tuple[str, str, str]], setting: ContactSetting) -> dict[str, float]:
        """Volts to L2 of every node; what nothing ties down is held by an open part's leak."""
        ohms = {"wire": WIRE_OHMS, "tie": WIRE_OHMS}
        branches = [(a, b, ohms.get(by, CONTACT_OHMS)) for a, b, by in joined]
        branches += self.loads(setting)
        nodes = tuple(sorted({n for a, b, _ in branches for n in (a, b)} - {L2} | {L1}))
        at = {node: n for n, node in enumerate((*nodes, L2))}
        rows = np.zeros((len(branches) + 1, len(at)))
        for row, (a, b, _) in zip(rows, [*branches, (L1, L2, 0.0)], strict=True):
            row[at[a]] += 1.0
            row[at[b]] -= 1.0
        # L2 is ground; behind the branches the supply, stiff, and a leak from each node.
        incidence = np.concatenate([rows[:, :-1], np.eye(len(nodes))])
        given = [1 / of for *_, of in branches], [STIFF_SIEMENS], [LEAK_SIEMENS] * len(nodes)
        emf = np.zeros(len(incidence), dtype=complex)
        emf[len(branches)] = -self.volts
        topology = Topology(nodes, tuple(map(str, range(len(incidence)))), incidence)
        found = solve(topology, np.concatenate(given), emf).volts
        return {L2: 0.0} | dict(zip(nodes, found.real.tolist(), strict=True))


def _head(unit: Unit, element: Element) -> str | None:
    """The first switch of a rung on the L1 side of its strip."""
    ahead = element.rung[: element.rung.index(element.id)]
    return next((part for part in ahead if part in unit.switch_by_id), None)


def _closed(one: ContactSet, driven: bool, setting: ContactSetting) -> Iterator[tuple[str, str]]:
    """Which of a set's pairs are closed, by its coil and by what has failed of it."""
    fault = setting.fault[1] if setting.fault and setting.fault[0] == one.name else ""
    over = driven or fault == "no-welded"
    if one.no and (over and fault != "no-stuck-open"):
        yield one.common, one.no
    if one.nc and (not over or fault == "nc-welded") and fault != "nc-stuck-open":
        yield one.common, one.nc


def path(joined: Iterable[tuple[str, str, str]], start: str, end: str) -> tuple[str, ...]:
    """The shortest way from one node to another with no load between; empty where there is none."""
    came: dict[str, str] = {start: start}
    edge, pairs = [start], list(joined)
    while edge and end not in came:
        following = []
        for node in edge:
            for a, b, _ in pairs:
                for here, there in ((a, b), (b, a)):
                    if here == node and there not in came:
                        came[there] = node
                        following.append(there)
        edge = following
    if end not in came:
        return ()
    way = [end]
    while way[-1] != start:
        way.append(came[way[-1]])
    return tuple(reversed(way))


def with_fault(setting: ContactSetting, one: ContactSet, fault: str) -> ContactSetting:
    """The same setting with a contact that fails."""
    return replace(setting, fault=(one.name, fault))
