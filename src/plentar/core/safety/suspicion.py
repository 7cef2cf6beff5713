"""Which events may raise a stop at all, told by little: the checks themselves are asked of those alone."""

from __future__ import annotations

from collections import deque
from dataclasses import dataclass, field

from plentar.core.checks.joints import pole_of
from plentar.core.judgement import FindingCode
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import ShownLive, shown_live
from plentar.core.visit.draws import asked_for, dead_blower_amps, draw_of, may_linger, same_setting
from plentar.core.visit.events import BRIDGED, ON, Did, Event, Observed, Power
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import PanelState

A, V, OHM, TONE = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TONE
#: Of settings in which something may go with what is read next, so many are kept.
SETTINGS_KEPT = 8
#: A joint makes a watt and more from here on, V.
LEAST_JOINT_VOLTS = 0.05
_NONE: frozenset[FindingCode] = frozenset()


@dataclass
class Suspicion:
    """What came before, as far as it may make a stop of what comes next."""

    evidence: Evidence
    still: deque[PanelState] = field(default_factory=lambda: deque(maxlen=SETTINGS_KEPT))
    heat: deque[PanelState] = field(default_factory=lambda: deque(maxlen=SETTINGS_KEPT))
    joints: deque[PanelState] = field(default_factory=lambda: deque(maxlen=SETTINGS_KEPT))

    #: When the line side and the lugs of each circuit were read last, s.
    fed: dict[tuple[str, str], float] = field(default_factory=dict)

    @property
    def unit(self) -> Unit:
        return self.evidence.unit

    def of_event(self, event: Event, state: PanelState) -> frozenset[FindingCode]:
        """The stops that an event other than a reading may raise."""
        if isinstance(event, Observed) and event.part == "blower":
            self.still.append(state)
            return frozenset({FindingCode.HEAT_WITHOUT_BLOWER})
        on = isinstance(event, Power) and event.state == ON
        if on or (isinstance(event, Did) and event.verb == BRIDGED):
            return frozenset({FindingCode.LIMIT_BRIDGED})
        return _NONE

    def of_reading(self, taken: Taken) -> frozenset[FindingCode]:
        """The stops that a reading may raise, alone or with what came before it."""
        reading, state = taken.reading, taken.state
        if shown_live(self.unit, state.power, reading) is ShownLive.LIVE:
            return frozenset({FindingCode.LIVE_WHEN_OFF})
        if not taken.counts:
            return _NONE
        match reading.quantity:
            case Quantity.OHMS if reading.value < th.GROUND_GOOD_OHMS and taken.point.kind == "node-ground":
                return frozenset({FindingCode.ELEMENT_TO_GROUND})
            case Quantity.TONE if reading.value:
                return frozenset({FindingCode.ELEMENT_TO_GROUND})
            case Quantity.TEMP_F if reading.value > th.LEAVING_AIR_STOP_F:
                return frozenset({FindingCode.HIGH_LEAVING_AIR})
            case Quantity.AMPS:
                return frozenset(self._of_amps(taken))
            case Quantity.VOLTS:
                return frozenset(self._of_volts(taken))
            case _:
                return _NONE

    def _of_amps(self, taken: Taken) -> set[FindingCode]:
        found, state, point = set[FindingCode](), taken.state, taken.point
        draw = draw_of(self.evidence, taken)
        if draw is not None:
            self.heat.append(state)
            unit = self.unit
            if any(not asked_for(unit, state, e) and not may_linger(unit, state, e) for e in draw.elements):
                found.add(FindingCode.DRAW_WITHOUT_CALL)
            if _beside(self.still, state):
                found.add(FindingCode.HEAT_WITHOUT_BLOWER)
        if self._shows_still(point, taken.reading.value):
            self.still.append(state)
            found.add(FindingCode.HEAT_WITHOUT_BLOWER)
        if point.kind in ("circuit", "feed"):
            found.add(FindingCode.GROUND_CURRENT)
        if point.name in ("R", "transformer"):
            found.add(FindingCode.CONTROL_OVERLOAD)
        if _beside(self.joints, state):
            found.add(FindingCode.JOINT_HEAT)
        return found

    def _shows_still(self, point: Point, amps: float) -> bool:
        tie = self.unit.blower.interlock if self.unit.blower else None
        at = {"blower", f"{self.unit.relay.id}.nc" if self.unit.relay else "", tie.switch if tie else ""}
        return point.name in at and amps < dead_blower_amps(self.unit)

    def _of_volts(self, taken: Taken) -> set[FindingCode]:
        point, volts = taken.point, taken.reading.value
        found = set[FindingCode]()
        if point.kind == "node-ground":
            found.add(FindingCode.LEG_UNBALANCE)
        joint = point.kind in ("switch", "limit", "link") or pole_of(self.evidence, taken) is not None
        if (joint and volts >= LEAST_JOINT_VOLTS) or self._ends_a_pair(taken):
            self.joints.append(taken.state)
            found.add(FindingCode.JOINT_HEAT)
        if point.kind in ("blower", "contact"):
            self.still.append(taken.state)
            found.add(FindingCode.HEAT_WITHOUT_BLOWER)
        return found

    def _ends_a_pair(self, taken: Taken) -> bool:
        """The line side and the lugs of a feed, read as a pair."""
        kind, t_s = taken.point.kind, taken.reading.t_s
        if kind not in ("line", "circuit"):
            return False
        name = taken.point.component.removesuffix(".line")
        self.fed[name, kind] = t_s
        other = self.fed.get((name, "line" if kind == "circuit" else "circuit"))
        return other is not None and t_s - other <= th.PAIR_S


def _beside(some: deque[PanelState], state: PanelState) -> bool:
    return any(same_setting(one, state) for one in some)
