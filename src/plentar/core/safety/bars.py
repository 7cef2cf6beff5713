"""What stops bar until they end, the way back apart: breakers, calls, readings, ways to end a call."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from plentar.core.judgement import Finding
from plentar.core.quantity import Quantity
from plentar.core.safety.reach import circuits_of, loads_of
from plentar.core.safety.table import STOPS, Bar
from plentar.core.said import NOTHING, Said, listed, plain, say
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
    ) -> Said:
        """Why this must not be done, or empty: circuits switched on, and what is called then."""
        closing = frozenset(cid for cid in power if before.power[cid] != ON)
        asked = Asked(before, closing, before.calls if calls is None else calls, calls is not None)
        for stop in self.stops:
            for bar in STOPS[stop.code].bars:
                if reason := self._refusal(bar, stop, asked):
                    return say("safety.bars.while-this-stands", reason=reason, stop=stop.text)
        return NOTHING

    def dead_work_refusal(self) -> Said:
        """Why nothing is done now that needs the unit dead, or empty: ohms, driven tests, wires moved."""
        for stop in self.stops:
            if Bar.DEAD_WORK in STOPS[stop.code].bars:
                return say("safety.bars.not-before-every-circuit", stop=stop.text)
        return NOTHING

    def reading_refusal(self, quantity: Quantity | None) -> Said:
        """Why this must not be read, or empty. None is something that is watched for."""
        if quantity is not None and quantity.dead_only and (refused := self.dead_work_refusal()):
            return refused
        for stop in self.stops:
            if Bar.ALL_BUT_VOLTS in STOPS[stop.code].bars and quantity not in _VOLTS:
                return say("safety.bars.nothing-but-volts-read", stop=stop.text)
        return NOTHING

    def _refusal(self, bar: Bar, stop: Finding, asked: Asked) -> Said:
        strips = {e.circuit for e in self.unit.elements}
        match bar:
            case Bar.HEAT if asked.newly & HEAT_CALLS:
                return say("safety.bars.no-heat-called")
            case Bar.HEAT if asked.heats and asked.closing & strips:
                return say("safety.bars.no-strips-breaker-closed")
            case Bar.OTHER_CALLS if asked.newly:
                return say("safety.bars.no-other-call-raised")
            case Bar.BREAKER if hit := asked.closing & circuits_of(self.unit, stop.component):
                return say("safety.bars.breaker-stays-open", n=len(hit), hit=listed(sorted(hit)))
            case Bar.CLOSING if asked.closing:
                return say("safety.bars.no-breaker-closed")
            case Bar.ALL_BUT_VOLTS if asked.closing or asked.newly:
                return say("safety.bars.no-breaker-closed-nothing")
            case Bar.LOADS if asked.newly and (hit := asked.newly & loads_of(self.unit, stop)):
                return say("safety.bars.not-called", hit=listed(sorted(hit), "and"))
            case Bar.ONLY_WITH_FAN if asked.calling:
                return self._with_fan(asked)
        return NOTHING

    def _with_fan(self, asked: Asked) -> Said:
        """Heat with the fan alone; heat ends first, and the fan two minutes later."""
        fan, before = self.unit.fan_call, asked.before
        if fan is None:
            return say("safety.bars.no-heat-called") if asked.newly & HEAT_CALLS else NOTHING
        starts = bool(asked.newly & HEAT_CALLS) or fan in before.calls
        if asked.heats and fan not in asked.calls and starts:
            return say("safety.bars.heat-called-only", fan=fan)
        # Heat that was called alone may always be ended.
        dropped = fan in before.calls and fan not in asked.calls
        if before.calls & HEAT_CALLS and not asked.heats and dropped:
            return say("safety.bars.heat-ends-first-s", fan=fan, fan_after_heat_s=plain(FAN_AFTER_HEAT_S))
        ended = [s for call, s in before.ended_s.items() if call in HEAT_CALLS]
        early = bool(ended) and before.t_s - max(ended) < FAN_AFTER_HEAT_S
        return (
            say("safety.bars.stays-s-after-heat", fan=fan, fan_after_heat_s=plain(FAN_AFTER_HEAT_S))
            if early and dropped
            else NOTHING
        )
