"""Every stop as a row: what makes it safe first, what it bars, what proves that it is over.

A table of data and nothing else: who judges, who proposes, who switches and who prints reads it.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from enum import StrEnum

from plentar.core.judgement import FindingCode


class Act(StrEnum):
    """What is done first: end the heat, and the breaker where amps stay; end the call that loads it;
    open the breaker; find what feeds it and prove all dead. Stops of the plate have bars alone."""

    END_HEAT = "end-heat"
    END_CALL = "end-call"
    OPEN_BREAKER = "open-breaker"
    PROVE_DEAD = "prove-dead"
    NONE = "none"


class Bar(StrEnum):
    """What must not be done while it stands."""

    HEAT = "heat"  # W1 and W2 are not called, no strips' breaker is closed while they are
    BREAKER = "breaker"  # a breaker that feeds it is not closed
    LOADS = "loads"  # the calls that load it are not raised
    DEAD_WORK = "dead-work"  # no ohms, tone, µF, driven test, wire moved
    CLOSING = "closing"  # no breaker at all is closed
    ALL_BUT_VOLTS = "all-but-volts"
    OTHER_CALLS = "other-calls"  # no call more is raised
    ONLY_WITH_FAN = "only-with-fan"  # heat with the fan alone, and the fan two minutes longer


@dataclass(frozen=True, slots=True)
class StopRule:
    """One stop. ``latched``: what raised it keeps it up. ``guarded_s`` is how long the one guarded step
    takes at most that a repair or an answer permits, s; None: the longest window and half a minute.
    ``wires_off``: once before a repair, the thermostat wires lifted while dead permit it too."""

    act: Act
    bars: frozenset[Bar]
    latched: bool = True
    guarded_s: float | None = None
    wires_off: bool = False


def _bars(*bars: Bar) -> frozenset[Bar]:
    return frozenset(bars)


_LIVE_PART = _bars(Bar.BREAKER, Bar.LOADS)
#: What the air needs to show itself steady, s.
AIR_S = 360.0
STOPS: Mapping[FindingCode, StopRule] = {
    FindingCode.HEAT_WITHOUT_BLOWER: StopRule(Act.END_HEAT, _bars(Bar.HEAT), guarded_s=10.0),
    FindingCode.HIGH_LEAVING_AIR: StopRule(Act.END_HEAT, _bars(Bar.HEAT), guarded_s=AIR_S),
    FindingCode.DRAW_WITHOUT_CALL: StopRule(Act.OPEN_BREAKER, _LIVE_PART, guarded_s=10.0, wires_off=True),
    FindingCode.ELEMENT_TO_GROUND: StopRule(Act.OPEN_BREAKER, _LIVE_PART),
    FindingCode.GROUND_CURRENT: StopRule(Act.OPEN_BREAKER, _LIVE_PART),
    FindingCode.WHOLE_UNIT: StopRule(Act.OPEN_BREAKER, _LIVE_PART),
    FindingCode.JOINT_HEAT: StopRule(Act.OPEN_BREAKER, _LIVE_PART),
    FindingCode.LIVE_WHEN_OFF: StopRule(Act.PROVE_DEAD, _bars(Bar.DEAD_WORK, Bar.CLOSING)),
    FindingCode.LIMIT_BRIDGED: StopRule(Act.OPEN_BREAKER, _bars(Bar.HEAT)),
    FindingCode.LEG_UNBALANCE: StopRule(Act.OPEN_BREAKER, _bars(Bar.ALL_BUT_VOLTS)),
    FindingCode.CONTROL_OVERLOAD: StopRule(Act.END_CALL, _bars(Bar.OTHER_CALLS)),
    FindingCode.CONDUCTOR_UNDER_LOAD: StopRule(Act.END_CALL, _bars(Bar.LOADS), latched=False),
    FindingCode.BREAKER_OVER_CONDUCTOR: StopRule(Act.NONE, _bars(Bar.LOADS), latched=False),
    FindingCode.BREAKER_OVER_PLATE: StopRule(Act.NONE, _bars(Bar.LOADS), latched=False),
    FindingCode.NO_BLOWER_TIE: StopRule(Act.NONE, _bars(Bar.ONLY_WITH_FAN), latched=False),
    FindingCode.RUN_ON_SHORT: StopRule(Act.NONE, _bars(Bar.ONLY_WITH_FAN), latched=False),
    FindingCode.RELAY_WIRING: StopRule(
        Act.OPEN_BREAKER, _bars(Bar.BREAKER, Bar.ONLY_WITH_FAN), latched=False
    ),
}
