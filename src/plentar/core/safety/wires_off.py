"""Whether it still draws with the thermostat wires off: the one test of a stop before a repair, with power on
for some seconds. It tells the thermostat and its wires from what is welded in the unit."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from plentar.core.quantity import Quantity, minutes
from plentar.core.safety.latch import Stop
from plentar.core.safety.reach import circuits_of
from plentar.core.safety.table import STOPS
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
    words: str
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
    at, most = finding.component, minutes(rule.guarded_s or 0.0)
    opens = " and ".join(sorted(circuits_of(unit, at)))
    if live:
        if not stop.way_back or _read_since_power(evidence, at):
            return None
        words = f"Read the amps of {at} now, then open the breaker of {opens}: {most} at most."
        return WiresOff(WiresOffStep.OPEN, words, calls, at)
    if stop.way_back:
        air = f" with {fan} by a jumper for air" if fan else ""
        words = (
            f"A hand on the disconnect: power on{air}, read the amps of {at} at once, open the breaker of"
            f" {opens} again, {most} at most."
        )
        return WiresOff(WiresOffStep.READ, words, calls, at)
    if not state.proved_dead:
        return WiresOff(WiresOffStep.PROVE, "Prove every circuit dead first.", calls, at)
    jumper = f" and land a jumper from R to {fan}" if fan else ""
    words = f"With the power off, lift the thermostat wires at the board{jumper}."
    return WiresOff(WiresOffStep.LIFT, words, calls, at)
