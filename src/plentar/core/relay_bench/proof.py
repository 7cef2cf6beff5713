"""A wiring proved by running it, with every switch where calls and faults put it; what comes of it is
called by its name, and the way that does the harm is shown.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from plentar.core.errors import BadInput
from plentar.core.relay_bench.circuit import (
    CONTROL_ENDS,
    HEAT,
    L1,
    L2,
    MOTOR,
    SECOND_SPEED,
    Case,
    ContactSetting,
    WiredDevice,
    path,
    with_fault,
)
from plentar.core.relay_bench.fitted import fitted
from plentar.core.said import say
from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.parts import RELAY_ENDS, BlowerRelay, RelayWires
from plentar.core.unit.terminals import ContactSet, PartKind
from plentar.core.unit.unit import Device, Unit

CASES = (frozenset[str](), frozenset({"G"}), frozenset({"W1"}), frozenset({"G", "W1"}))
#: More than the motor's amps and this much is a strip's.
MORE_THAN_MOTOR_A = 0.5


class Wrong(StrEnum):
    SHORT = "short"
    HEAT_ALWAYS = "heat-always"
    HEAT_WITH_G = "heat-with-g"
    NO_HEAT = "no-heat"
    NO_BLOWER_ON_G = "no-blower-on-g"
    NO_BLOWER_ON_HEAT = "no-blower-on-heat"
    BLOWER_ALWAYS = "blower-always"
    RELAY_CARRIES_ELEMENT = "relay-carries-element"
    COIL_NOT_FED = "coil-not-fed"
    LINE_ON_COIL = "line-on-coil"
    TWO_SPEEDS = "two-speeds"
    BACK_FEED = "back-feed"
    OVER_RATING = "over-rating"


#: Of these, none is told by the three wires of the set alone: they are said beside.
BESIDE = (
    Wrong.COIL_NOT_FED,
    Wrong.LINE_ON_COIL,
    Wrong.TWO_SPEEDS,
    Wrong.BACK_FEED,
    Wrong.OVER_RATING,
    Wrong.NO_HEAT,
)


@dataclass(frozen=True, slots=True)
class Failing:
    set_name: str
    fault: str
    wrong: tuple[Wrong, ...]


@dataclass(frozen=True, slots=True)
class Proof:
    """Every case; what is wrong, and beside it what the set's three wires alone do not tell; the
    way of each harm, terminal by terminal; and what becomes of it when a contact fails. ``after``:
    the call has ended and the heat switch is still closed."""

    cases: tuple[Case, ...]
    wrong: tuple[Wrong, ...]
    beside: tuple[Wrong, ...] = ()
    after: Case | None = None
    #: Heat is called and its switch does not close.
    stuck: Case | None = None
    ways: Mapping[Wrong, tuple[str, ...]] | None = None
    failing: tuple[Failing, ...] = ()

    @property
    def right(self) -> bool:
        return not self.wrong and not self.beside


def prove(unit: Unit) -> Proof:
    """Run the set in use of a unit's relay, by its three wires; raises BadInput where it has no
    relay, or no switch is tapped."""
    blower, relay = unit.blower, unit.relay
    if blower is None or relay is None:
        raise BadInput("unit.blower.relay", say("relay-bench.no-relay"))
    if not unit.possible_taps:
        raise BadInput("unit.blower.interlock.tap", say("relay-bench.no-tap"))
    wires = relay.wires or _of_set(unit, relay) or RelayWires(common=MOTOR, no=L1, nc=HEAT)
    kind = PART_KINDS["relay-spdt"]
    one = kind.sets[0]
    assert one.no
    assert one.nc
    ends = {
        one.common: wires.common,
        one.no: wires.no,
        one.nc: wires.nc,
        kind.coil[0]: relay.call,
        kind.coil[1]: "C",
    }
    proved = prove_wiring(unit, relay, kind, {at: (end,) for at, end in ends.items()})
    return Proof(proved.cases, proved.wrong)


def _of_set(unit: Unit, relay: BlowerRelay) -> RelayWires | None:
    """The three wires of the set in use, where somebody wrote down what is on each terminal."""
    if not relay.wired:
        return None
    kind = fitted(unit, relay)
    one = kind.sets[0]
    on = {kind.named(wire.terminal): wire.to for wire in relay.wired if wire.to in RELAY_ENDS}
    return RelayWires(*(on.get(end or "", "none") for end in (one.common, one.no, one.nc)))


def prove_wiring(unit: Unit, device: Device, kind: PartKind, ends: Mapping[str, tuple[str, ...]]) -> Proof:
    """Run a whole wiring of a device: every terminal, jumpers and ties inside among them.

    Raises BadInput (path: the terminal) where an end is not known.
    """
    wired = WiredDevice(unit, device, kind, ends)
    found = _Found(wired)
    return Proof(
        found.cases,
        found.wrong,
        found.beside,
        found.after,
        found.stuck,
        dict(found.ways()),
        () if found.short else tuple(_failing(wired, kind)),
    )


def _failing(wired: WiredDevice, kind: PartKind) -> Iterator[Failing]:
    for one in kind.sets:
        if len([end for end in one.ends if wired.ends.get(end)]) < 2:
            continue
        for fault in _faults(one, wired):
            found = _Found(wired, (one, fault))
            yield Failing(one.name, fault, found.wrong)


def _faults(one: ContactSet, wired: WiredDevice) -> Iterator[str]:
    if one.no and wired.ends.get(one.no):
        yield from ("no-stuck-open", "no-welded")
    if one.nc and wired.ends.get(one.nc):
        yield from ("nc-stuck-open", "nc-welded")


class _Found:
    """The four cases of a wiring, with at most one contact that fails, and what they amount to."""

    def __init__(self, wired: WiredDevice, fault: tuple[ContactSet, str] | None = None) -> None:
        self.wired, self.fault = wired, fault
        self.of_blower = isinstance(wired.device, BlowerRelay)
        self.cases = tuple(wired.case(self.setting(calls)) for calls in CASES)
        closed = ContactSetting(heat_closed=True)
        self.after = wired.case(closed if fault is None else with_fault(closed, *fault))
        self.stuck = wired.case(replace(self.setting(CASES[2]), heat_closed=False))

    def setting(self, calls: frozenset[str]) -> ContactSetting:
        return ContactSetting(calls) if self.fault is None else with_fault(ContactSetting(calls), *self.fault)

    @property
    def short(self) -> bool:
        """L1 meets L2 in a case."""
        return any(case.short for case in self.cases)

    @property
    def wrong(self) -> tuple[Wrong, ...]:
        if self.short:
            return (Wrong.SHORT,)
        nothing, fan, heat, both = self.cases
        own = self._called()
        named = {
            Wrong.HEAT_ALWAYS: nothing.heat,
            Wrong.HEAT_WITH_G: fan.heat and "G" not in own,
            Wrong.NO_HEAT: not self.of_blower and not self._all_heat(own),
            Wrong.NO_BLOWER_ON_G: self.of_blower and not fan.blower,
            Wrong.NO_BLOWER_ON_HEAT: self.of_blower and not heat.blower,
            Wrong.BLOWER_ALWAYS: self.of_blower and nothing.blower,
            Wrong.RELAY_CARRIES_ELEMENT: self.of_blower
            and any(
                (case.through_relay_amps or 0.0) > self.wired.motor_amps + MORE_THAN_MOTOR_A
                for case in (nothing, fan, heat, both)
            ),
        }
        return tuple(code for code, so in named.items() if so)

    def _called(self) -> frozenset[str]:
        """The call that is to bring a heat device on; nothing of a blower relay."""
        call = self.wired.coil_call
        return frozenset({call}) if call and not self.of_blower else frozenset()

    def _all_heat(self, own: frozenset[str]) -> bool:
        """Every strip of the device heats on its call, with all other heat called too."""
        calls = own | self.wired.unit.heat_calls if own else frozenset[str]()
        return self.wired.own_strips <= self.wired.case(self.setting(calls)).strips

    @property
    def beside(self) -> tuple[Wrong, ...]:
        """What the coil, the speeds and the ratings say; nothing beside a short."""
        if self.short:
            return ()
        wired, kind = self.wired, self.wired.kind
        coil = {node for end in kind.coil for node in wired.ends.get(end, ())}
        settings = [self.setting(calls) for calls in CASES]
        through = [self._through_loads(setting) for setting in settings]
        heats = [f"heat {switch}" for switch in wired.switches]
        most = max((case.through_relay_amps or 0.0) for case in (*self.cases, self.after))
        rated = kind.motor_amps if self.of_blower else kind.resistive_amps
        named = {
            Wrong.COIL_NOT_FED: wired.coil_call is None,
            Wrong.LINE_ON_COIL: bool(coil - CONTROL_ENDS)
            or any(
                path(pairs, line, end) for pairs in through for line in (L1, L2) for end in wired.control_ends
            ),
            Wrong.TWO_SPEEDS: any(case.second_speed for case in (*self.cases, self.after)),
            Wrong.BACK_FEED: any(
                not case.heat and any(node in case.live for node in heats) for case in self.cases[:2]
            ),
            Wrong.OVER_RATING: rated is not None and most > rated,
        }
        return tuple(code for code, so in named.items() if so)

    def _through_loads(self, setting: ContactSetting) -> list[tuple[str, str, str]]:
        """What is joined, loads among it: a wire on the far side of a motor is at line volts too, and so is one on
        the far side of a strip that no switch stands before."""
        wired = self.wired
        loads = [(a, b, "load") for a, b, _ in wired.loads(setting)]
        loads += [(L1, f"return {e.id}", "load") for e in wired.unit.elements if wired.head_of(e) is None]
        return [*wired.joined(setting), *loads]

    def ways(self) -> Iterator[tuple[Wrong, tuple[str, ...]]]:
        """The way of each harm: from L1 to what it reaches."""
        heats = [f"heat {s}" for s in self.wired.switches]
        strips = [f"strip {e.id}" for e in self.wired.unit.elements]
        goals = {
            Wrong.SHORT: ([L2], CASES),
            Wrong.HEAT_ALWAYS: ([*heats, *strips], CASES[:1]),
            Wrong.HEAT_WITH_G: ([*heats, *strips], CASES[1:2]),
            Wrong.BLOWER_ALWAYS: ([MOTOR, SECOND_SPEED], CASES[:1]),
            Wrong.RELAY_CARRIES_ELEMENT: ([*heats, *strips], CASES),
            Wrong.BACK_FEED: (heats, CASES[:2]),
            Wrong.LINE_ON_COIL: (sorted(self.wired.control_ends), CASES),
            Wrong.TWO_SPEEDS: ([SECOND_SPEED], CASES),
        }
        for wrong in (*self.wrong, *self.beside):
            ends, cases = goals.get(wrong, ([], ()))
            found = self._ways(
                ends, cases, by_switch=wrong is Wrong.TWO_SPEEDS, loads=wrong is Wrong.LINE_ON_COIL
            )
            if way := next(found, ()):
                yield wrong, way

    def _ways(
        self, ends: Iterable[str], cases: Iterable[frozenset[str]], *, by_switch: bool, loads: bool
    ) -> Iterator[tuple[str, ...]]:
        for calls in cases:
            setting = self.setting(calls)
            pairs = self._through_loads(setting) if loads else self.wired.joined(setting)
            pairs = pairs if by_switch else [pair for pair in pairs if pair[2] != "switch"]
            yield from filter(None, (path(pairs, L1, end) for end in ends))
