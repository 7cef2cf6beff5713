"""Whether it still draws with the thermostat wires off: the one test of a stop before a repair, with power on
for some seconds. It tells the thermostat and its wires from what is welded in the unit."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from plentar.core.quantity import Quantity
from plentar.core.safety.latch import Stop
from plentar.core.safety.reach import circuits_of
from plentar.core.safety.table import STOPS
from plentar.core.said import Said, clock, listed, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.visit.events import ON, Power
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState


class WiresOffStep(StrEnum):
    """Its steps, in their order."""

    PROVE = "prove"
    LIFT = "lift"
    READ = "read"
    OPEN = "open"


@dataclass(frozen=True, slots=True)
class WiresOff:
    """What comes next of the test: the step in words; what is called by jumper while it is read; the part
    that is clamped."""

    step: WiresOffStep
    words: Said
    calls: frozenset[str]
    at: str


def _read_since_power(evidence: Evidence, at: str) -> bool:
    on_s = max((e.t_s for e in evidence.visit.of_kind(Power)), default=0.0)
    return any(t.reading.t_s >= on_s for t in evidence.at(at, Quantity.AMPS))


def wires_off(evidence: Evidence, state: PanelState, stop: Stop) -> WiresOff | None:
    """The next step of it; None where a stop has no such test, it was made, or its first act is not done."""
    rule, finding = STOPS[stop.finding.code], stop.finding
    unit, raised = evidence.unit, evidence.state_at(stop.finding.t_s)
    if not rule.wires_off or stop.mended or stop.answered or (stop.tried and not stop.way_back):
        return None
    if raised.lifted or raised.calls & HEAT_CALLS:
        return None
    live = circuits_of(unit, finding.component) - {c for c, p in state.power.items() if p != ON}
    # What draws with the fan called may be fed through the fan's own relay: it is tried without.
    fan = unit.fan_call if unit.fan_call and unit.fan_call not in raised.calls else None
    calls = frozenset({fan}) if fan else frozenset[str]()
    name, most = said_of(unit, finding.component), clock(rule.guarded_s or 0.0)
    at = finding.component
    opens = listed(said_of(unit, circuit) for circuit in sorted(circuits_of(unit, at)))
    if live:
        if not stop.way_back or _read_since_power(evidence, at):
            return None
        words = say("safety.wires-off.read-amps-now-then", at=name, opens=opens, most=most)
        return WiresOff(WiresOffStep.OPEN, words, calls, at)
    if stop.way_back:
        code = "safety.wires-off.with-air" if fan else "safety.wires-off.without-air"
        words = say(code, fan=fan, at=name, opens=opens, most=most)
        return WiresOff(WiresOffStep.READ, words, calls, at)
    if not state.proved_dead:
        return WiresOff(WiresOffStep.PROVE, say("safety.wires-off.prove-every-circuit-dead"), calls, at)
    words = say("safety.wires-off.lift-and-jumper" if fan else "safety.wires-off.lift", fan=fan)
    return WiresOff(WiresOffStep.LIFT, words, calls, at)
