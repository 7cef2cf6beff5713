"""The blower relay's wiring proved by running it: the loads of its set, with every switch where the
calls put it, are solved as a network; what comes of it is called by its name.

The motor's other lead is on L2; the tap's rung returns to L2 through the parts behind the tap.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from plentar.core.errors import BadInput
from plentar.core.parts import BlowerRelay, Control, Element, RelayWires
from plentar.core.state import first_call
from plentar.core.tables.model import CONTACT_OHMS, DEFAULT_BLOWER_AMPS, WIRE_OHMS
from plentar.core.unit import Unit

CASES = (frozenset[str](), frozenset({"G"}), frozenset({"W1"}), frozenset({"G", "W1"}))
L1, L2, MOTOR, HEAT, NOWHERE = "L1", "L2", "blower", "heat", "none"
#: A load runs from this share of its volts; more than the motor's amps and this much is a strip's.
RUNS_SHARE, MORE_THAN_MOTOR_A = 0.5, 0.5


class Wrong(StrEnum):
    """What is wrong with a wiring, by its consequence."""

    SHORT = "short"
    HEAT_ALWAYS = "heat-always"
    HEAT_WITH_G = "heat-with-g"
    NO_BLOWER_ON_G = "no-blower-on-g"
    NO_BLOWER_ON_HEAT = "no-blower-on-heat"
    BLOWER_ALWAYS = "blower-always"
    RELAY_CARRIES_ELEMENT = "relay-carries-element"


@dataclass(frozen=True, slots=True)
class Case:
    """One set of calls: what runs, and the most that a contact of the set carries, A. All None
    where L1 meets L2."""

    calls: frozenset[str]
    blower: bool | None = None
    heat: bool | None = None
    through_relay_amps: float | None = None


@dataclass(frozen=True, slots=True)
class Proof:
    """Every case, and what is wrong; right where nothing is."""

    cases: tuple[Case, ...]
    wrong: tuple[Wrong, ...]


def prove(unit: Unit) -> Proof:
    """Run a unit's relay wiring; raises BadInput where it has no relay, or no switch is tapped."""
    blower, relay = unit.blower, unit.relay
    if blower is None or relay is None:
        raise BadInput("unit.blower.relay", "there is no blower relay to prove")
    if blower.interlock.tap is None:
        raise BadInput("unit.blower.interlock.tap", "no switch is tapped for the heat side")
    run = _Run(unit, relay, blower.interlock.tap)
    cases = tuple(run.case(calls) for calls in CASES)
    return Proof(cases, tuple(_wrong(cases, run.motor_amps)))


def _wrong(cases: tuple[Case, ...], motor_amps: float) -> Iterator[Wrong]:
    if any(case.blower is None for case in cases):
        yield Wrong.SHORT
        return
    nothing, fan, heat, _ = cases
    named = {
        Wrong.HEAT_ALWAYS: nothing.heat, Wrong.HEAT_WITH_G: fan.heat,
        Wrong.NO_BLOWER_ON_G: not fan.blower, Wrong.NO_BLOWER_ON_HEAT: not heat.blower,
        Wrong.BLOWER_ALWAYS: nothing.blower,
        Wrong.RELAY_CARRIES_ELEMENT: any(
            (case.through_relay_amps or 0.0) > motor_amps + MORE_THAN_MOTOR_A for case in cases
        ),
    }  # fmt: skip
    yield from (code for code, so in named.items() if so)


class _Run:
    def __init__(self, unit: Unit, relay: BlowerRelay, tap: str) -> None:
        self.unit, self.relay, self.tap = unit, relay, tap
        blower = unit.blower
        assert blower is not None
        self.volts = unit.circuit_by_id[blower.circuit].rated_volts
        self.motor_amps = blower.running_amps or DEFAULT_BLOWER_AMPS
        self.wires = relay.wires or RelayWires(common=MOTOR, no=L1, nc=HEAT)
        self.ends = {"common": self.wires.common, "no": self.wires.no, "nc": self.wires.nc}
        self.fed = list(unit.elements_through(tap))

    def case(self, calls: frozenset[str]) -> Case:
        """What comes of these calls."""
        joined = list(self._joined(calls))
        if _meet([(a, b) for a, b, _ in joined], L1, L2):
            return Case(calls)
        volts = self._solved(joined, calls)
        contact = next(ends for *ends, name in joined if name == "relay")
        through = abs(volts[contact[0]] - volts[contact[1]]) / CONTACT_OHMS
        runs = RUNS_SHARE * self.volts
        heat = abs(volts[HEAT]) >= runs and any(self._returns(e, calls) for e in self.fed)
        return Case(calls, abs(volts[MOTOR]) >= runs, heat, through)

    def _joined(self, calls: frozenset[str]) -> Iterator[tuple[str, str, str]]:
        """What is closed: wires, the relay's contact, the heat switch, a blower switch."""
        yield from ((f"relay.{name}", end, "wire") for name, end in self.ends.items()
                    if end != NOWHERE)  # fmt: skip
        tie = self.unit.blower.interlock.kind if self.unit.blower else ""
        driven = self.relay.call in calls or (tie == "g-with-w" and "W1" in calls)
        yield "relay.common", "relay.no" if driven else "relay.nc", "relay"
        if self._is_called(self.unit.control_of_switch[self.tap], calls):
            yield L1, HEAT, "switch"

    def _is_called(self, control: Control, calls: frozenset[str]) -> bool:
        return first_call(self.unit, control) in calls

    def _returns(self, element: Element, calls: frozenset[str]) -> bool:
        """The parts of its rung behind the tap lead to L2."""
        behind = element.rung[element.rung.index(self.tap) + 1 :]
        switches = (self.unit.control_of_switch[p] for p in behind if p in self.unit.switch_by_id)
        return all(self._is_called(control, calls) for control in switches)

    def _solved(
        self, joined: list[tuple[str, str, str]], calls: frozenset[str]
    ) -> dict[str, float]:
        """Volts to L2 of every node; what nothing ties down is held by an open part's leak."""
        nodes = [L1, MOTOR, HEAT, *(f"relay.{name}" for name in self.ends)]
        at = {node: n for n, node in enumerate(nodes)}
        ohms = {"wire": WIRE_OHMS, "relay": CONTACT_OHMS, "switch": CONTACT_OHMS}
        branches = [(a, b, ohms[kind]) for a, b, kind in joined]
        branches.append((MOTOR, L2, self.volts / self.motor_amps))
        for element in self.fed:
            if self._returns(element, calls):
                branches.append((HEAT, L2, element.rating.hot_ohms))
        matrix, given = 1e-9 * np.eye(len(nodes)), np.zeros(len(nodes))
        for a, b, of in branches:
            for one, other in ((a, b), (b, a)):
                if one in at:
                    matrix[at[one], at[one]] += 1 / of
                    if other in at:
                        matrix[at[one], at[other]] -= 1 / of
        matrix[at[L1]], given[at[L1]] = np.eye(len(nodes))[at[L1]], self.volts
        found = np.linalg.solve(matrix, given)
        return {L2: 0.0} | {node: float(found[n]) for node, n in at.items()}


def _meet(joined: Iterable[tuple[str, str]], one: str, other: str) -> bool:
    """Whether two nodes are joined with no load between."""
    reached, pairs = {one}, list(joined)
    while True:
        more = {b for a, b in pairs if a in reached} | {a for a, b in pairs if b in reached}
        if more <= reached:
            return other in reached
        reached |= more
