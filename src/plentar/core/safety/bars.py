"""What an open stop bars until it is answered: breakers, calls, ways to end a call."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from plentar.core.judgement import Finding, FindingCode
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import FEEDER, Unit
from plentar.core.visit.events import ON
from plentar.core.visit.state import PanelState, first_call

#: The fan goes on this long after heat has ended, s.
FAN_AFTER_HEAT_S = 120.0
_BREAKER = frozenset(
    {
        FindingCode.DRAW_WITHOUT_CALL,
        FindingCode.ELEMENT_TO_GROUND,
        FindingCode.WHOLE_UNIT,
        FindingCode.JOINT_HEAT,
        FindingCode.RELAY_WIRING,
    }
)
_LOADS = frozenset(
    {
        FindingCode.BREAKER_OVER_PLATE,
        FindingCode.BREAKER_OVER_CONDUCTOR,
        FindingCode.CONDUCTOR_UNDER_LOAD,
        FindingCode.JOINT_HEAT,
    }
)
_HEAT = frozenset({FindingCode.HEAT_WITHOUT_BLOWER, FindingCode.HIGH_LEAVING_AIR})
_AIR = frozenset({FindingCode.NO_BLOWER_TIE, FindingCode.RUN_ON_SHORT, FindingCode.RELAY_WIRING})


@dataclass(frozen=True, slots=True)
class Bars:
    """The open stops of a visit, asked before anything is switched or proposed."""

    unit: Unit
    stops: Sequence[Finding]

    def refusal(
        self, before: PanelState, power: Collection[str] = (), calls: frozenset[str] | None = None
    ) -> str:
        """Why this must not be done, or empty: circuits switched on, and what is called then."""
        closing = {cid for cid in power if before.power[cid] != ON}
        asked = before.calls if calls is None else calls
        for stop in self.stops:
            reason = self._refusal(stop, before, closing, asked, calls is not None)
            if reason:
                return f"{reason}, while this stands: {stop.text}"
        return ""

    def _refusal(
        self, stop: Finding, before: PanelState, closing: set[str], asked: frozenset[str], calling: bool
    ) -> str:
        heats = bool(asked & HEAT_CALLS)
        newly = set(asked - before.calls) if calling else set[str]()
        if stop.code in _HEAT:
            if newly & HEAT_CALLS:
                return "no heat is called"
            if heats and any(list(self.unit.elements_on(cid)) for cid in closing):
                return "no strips’ breaker is closed under a call for heat"
        if stop.code is FindingCode.CONTROL_OVERLOAD and newly:
            return "no other call is raised"
        if stop.code in _BREAKER and (hit := closing & circuits_of(self.unit, stop.component)):
            return f"the breaker of {', '.join(sorted(hit))} stays open"
        if stop.code in _LOADS and (hit := newly & self._loads(stop)):
            return f"{' and '.join(sorted(hit))} is not called"
        fan = self.unit.fan_call
        if stop.code in _AIR and fan is not None and calling:
            starts = bool(newly & HEAT_CALLS) or fan in before.calls
            if heats and fan not in asked and starts:
                return f"heat is called only with {fan}"
            # Heat that was called alone may always be ended.
            dropped = fan in before.calls and fan not in asked
            if before.calls & HEAT_CALLS and not heats and dropped:
                return f"heat ends first, {fan} {FAN_AFTER_HEAT_S:g} s later"
            ended = [s for call, s in before.ended_s.items() if call in HEAT_CALLS]
            early = bool(ended) and before.t_s - max(ended) < FAN_AFTER_HEAT_S
            if early and dropped:
                return f"{fan} stays for {FAN_AFTER_HEAT_S:g} s after heat"
        if stop.code in _AIR and fan is None and newly & HEAT_CALLS:
            return "no heat is called"
        return ""

    def _loads(self, stop: Finding) -> set[str]:
        """The calls that load what the stop is about, above what it may carry where that is known."""
        allowed = stop.numbers.get("allowed_amps")
        if stop.code is not FindingCode.JOINT_HEAT and allowed is not None:
            load = sum(
                e.rating.amps(e.rated_volts)
                for circuit in circuits_of(self.unit, stop.component)
                for e in self.unit.elements_on(circuit)
            )
            if load <= allowed and stop.code is FindingCode.CONDUCTOR_UNDER_LOAD:
                return set()
        part = stop.component
        fed = [
            e
            for cid in circuits_of(self.unit, part)
            for e in self.unit.elements_on(cid)
            if part in self.unit.circuit_by_id or part == e.id or part in e.rung
        ]
        controls = [
            self.unit.control_of_switch[switch.id]
            for element in fed
            for switch in self.unit.rung_switches(element)
        ]
        return {first_call(self.unit, control) for control in controls} - {""}


def circuits_of(unit: Unit, component: str) -> set[str]:
    """The circuits that feed a component; every one where it is not known which."""
    if component in unit.circuit_by_id:
        return {component}
    if component == FEEDER and unit.feeder is not None:
        return set(unit.feeder.circuits)
    through = {element.circuit for element in unit.elements_through(component)}
    return through or {circuit.id for circuit in unit.circuits}
