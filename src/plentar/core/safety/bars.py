"""What stops bar until they end, the way back apart: breakers, calls, readings, ways to end a call."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from plentar.core.judgement import Finding
from plentar.core.quantity import Quantity
from plentar.core.safety.reach import circuits_of, loads_of
from plentar.core.safety.table import STOPS, Bar
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON
from plentar.core.visit.state import PanelState

#: The fan goes on this long after heat has ended, s.
FAN_AFTER_HEAT_S = 120.0
_VOLTS = frozenset({Quantity.VOLTS, Quantity.VOLTS_DC})


@dataclass(frozen=True, slots=True)
class Asked:
    """What is to be done in a state: circuits switched on, what is called then where it is called anew."""

    before: PanelState
    closing: frozenset[str]
    calls: frozenset[str]
    calling: bool

    @property
    def heats(self) -> bool:
        return bool(self.calls & HEAT_CALLS)

    @property
    def newly(self) -> frozenset[str]:
        """The calls that are raised."""
        return self.calls - self.before.calls if self.calling else frozenset()


@dataclass(frozen=True, slots=True)
class Bars:
    """The stops of a visit, asked before anything is switched or proposed."""

    unit: Unit
    stops: Sequence[Finding]

    def refusal(
        self, before: PanelState, power: Collection[str] = (), calls: frozenset[str] | None = None
    ) -> str:
        """Why this must not be done, or empty: circuits switched on, and what is called then."""
        closing = frozenset(cid for cid in power if before.power[cid] != ON)
        asked = Asked(before, closing, before.calls if calls is None else calls, calls is not None)
        for stop in self.stops:
            for bar in STOPS[stop.code].bars:
                if reason := self._refusal(bar, stop, asked):
                    return f"{reason}, while this stands: {stop.text}"
        return ""

    def dead_work_refusal(self) -> str:
        """Why nothing is done now that needs the unit dead, or empty: ohms, driven tests, wires moved."""
        for stop in self.stops:
            if Bar.DEAD_WORK in STOPS[stop.code].bars:
                return f"not before every circuit is proved dead again: {stop.text}"
        return ""

    def reading_refusal(self, quantity: Quantity | None) -> str:
        """Why this must not be read, or empty. None is something that is watched for."""
        if quantity is not None and quantity.dead_only and (refused := self.dead_work_refusal()):
            return refused
        for stop in self.stops:
            if Bar.ALL_BUT_VOLTS in STOPS[stop.code].bars and quantity not in _VOLTS:
                return f"nothing but volts is read, while this stands: {stop.text}"
        return ""

    def _refusal(self, bar: Bar, stop: Finding, asked: Asked) -> str:
        strips = {e.circuit for e in self.unit.elements}
        match bar:
            case Bar.HEAT if asked.newly & HEAT_CALLS:
                return "no heat is called"
            case Bar.HEAT if asked.heats and asked.closing & strips:
                return "no strips’ breaker is closed under a call for heat"
            case Bar.OTHER_CALLS if asked.newly:
                return "no other call is raised"
            case Bar.BREAKER if hit := asked.closing & circuits_of(self.unit, stop.component):
                return f"the breaker of {', '.join(sorted(hit))} stays open"
            case Bar.CLOSING if asked.closing:
                return "no breaker is closed"
            case Bar.ALL_BUT_VOLTS if asked.closing or asked.newly:
                return "no breaker is closed and nothing called"
            case Bar.LOADS if asked.newly and (hit := asked.newly & loads_of(self.unit, stop)):
                return f"{' and '.join(sorted(hit))} is not called"
            case Bar.ONLY_WITH_FAN if asked.calling:
                return self._with_fan(asked)
        return ""

    def _with_fan(self, asked: Asked) -> str:
        """Heat with the fan alone; heat ends first, and the fan two minutes later."""
        fan, before = self.unit.fan_call, asked.before
        if fan is None:
            return "no heat is called" if asked.newly & HEAT_CALLS else ""
        starts = bool(asked.newly & HEAT_CALLS) or fan in before.calls
        if asked.heats and fan not in asked.calls and starts:
            return f"heat is called only with {fan}"
        # Heat that was called alone may always be ended.
        dropped = fan in before.calls and fan not in asked.calls
        if before.calls & HEAT_CALLS and not asked.heats and dropped:
            return f"heat ends first, {fan} {FAN_AFTER_HEAT_S:g} s later"
        ended = [s for call, s in before.ended_s.items() if call in HEAT_CALLS]
        early = bool(ended) and before.t_s - max(ended) < FAN_AFTER_HEAT_S
        return f"{fan} stays for {FAN_AFTER_HEAT_S:g} s after heat" if early and dropped else ""
