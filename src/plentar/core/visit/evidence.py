"""The readings of a visit that count, found by what is asked of them."""

from __future__ import annotations

import math
from bisect import bisect_left, bisect_right
from collections.abc import Callable, Hashable, Iterator
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, TypeVar

from plentar.core.errors import BadInput
from plentar.core.quantity import Band, Quantity
from plentar.core.said import NOTHING, Said, clock, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.naming import said_of
from plentar.core.unit.parts import HEAT_CALLS, Circuit
from plentar.core.unit.points import Point, named_points, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import ShownLive, shown_live
from plentar.core.visit.events import (
    BRIDGED,
    ON,
    PROVED_DEAD,
    Did,
    Event,
    Power,
    Reading,
    Visit,
    bridges_standing,
)
from plentar.core.visit.state import PanelState, changes
from plentar.core.visit.windows import may_still_act

T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class Taken:
    """One reading in its setting: the panel's state, the point, and whether it counts.

    ``refused`` is a reason: the reading is shown but is no evidence.
    """

    reading: Reading
    state: PanelState
    point: Point
    refused: Said = NOTHING

    @property
    def counts(self) -> bool:
        return not self.refused


@dataclass(frozen=True)
class Evidence:
    """All readings of a visit on a unit, each with the state it was taken in."""

    unit: Unit
    visit: Visit

    @cached_property
    def taken(self) -> tuple[Taken, ...]:
        """Every reading in order of time."""
        return tuple(self.take(r) for r in self.visit.of_kind(Reading))

    @property
    def complaint(self) -> str | None:
        """What the call is about, until something was mended: that answers it, and what counts
        then is what is read after it."""
        return None if self._mended_s else self.visit.complaint

    def until(self, count: int) -> Evidence:
        """The same as it stood after the first ``count`` events, in the unit as it is now."""
        found = Evidence(self.unit, replace(self.visit, events=self.visit.events[:count]))
        # States are looked up by their time: later ones are never asked for.
        found.__dict__["_changes"], found.__dict__["_changed_s"] = self._changes, self._changed_s
        return found

    def once(self, key: Hashable, make: Callable[[], T]) -> T:
        """What several checks ask for, worked out at the first ask and shared."""
        if key not in self._shared:
            self._shared[key] = make()
        found: T = self._shared[key]
        return found

    @cached_property
    def _shared(self) -> dict[Hashable, Any]:
        return {}

    @cached_property
    def _points(self) -> dict[str, Point]:
        return named_points(self.unit)

    @cached_property
    def _mended_s(self) -> dict[str, float]:
        return {e.mended: e.t_s for e in self.visit.events if e.mended}

    def take(self, reading: Reading) -> Taken:
        """One reading in its setting; it need not be one of the visit's."""
        taken = self.take_then(reading)
        if taken.counts and taken.point.component.removesuffix(".line") in self.mended_after(
            reading, reading.t_s
        ):
            return replace(
                taken,
                refused=say(
                    "visit.evidence.was-mended-after-this",
                    component=said_of(self.unit, taken.point.component),
                ),
            )
        return taken

    def take_then(self, reading: Reading) -> Taken:
        """The same as it counted then, whatever was mended after it."""
        state = self.state_at(reading.t_s)
        point, refused = self._point(reading), NOTHING
        if reading.quantity.dead_only and not state.proved_dead:
            refused = say(f"visit.evidence.dead-only.{reading.quantity}")
        elif not point.quantities:
            refused = say(
                "visit.evidence.was-another-part-when", component=said_of(self.unit, point.component)
            )
        elif shown_live(self.unit, state.power, reading) >= ShownLive.VOID:
            refused = say("visit.evidence.recorded-off-reads-live")
        elif acting := may_still_act(self.unit, point, reading, state, self._events_before(reading)):
            refused = acting
        elif drops := self._may_drop_out(point, reading, state):
            refused = drops
        elif state.stages_off and self._beside_a_stage_off(point, state):
            refused = say("visit.evidence.stage-this-circuit-left")
        return Taken(reading, state, point, refused)

    def mended_after(self, event: Event, t_s: float) -> frozenset[str]:
        """The components that are as new since an event of ``t_s``: by the order of the visit's
        events, which times of a tenth of a second do not always tell."""
        if not self._mended_order:
            return frozenset()
        at = self._order.get(id(event))
        if at is None:
            return frozenset(c for c in self._mended_order if self.mended_since(c, t_s))
        return frozenset(c for c, mended in self._mended_order.items() if at < mended)

    @cached_property
    def _order(self) -> dict[int, int]:
        return {id(event): n for n, event in enumerate(self.visit.events)}

    @cached_property
    def _mended_order(self) -> dict[str, int]:
        return {e.mended: n for n, e in enumerate(self.visit.events) if e.mended}

    def mended_since(self, component: str, t_s: float) -> bool:
        """A component is as new since a time of the visit."""
        return t_s < self._mended_s.get(component, -1.0)

    def proved_since(self, t_s: float) -> bool:
        """Every circuit was proved dead after a time of the visit, s."""
        proved = [e for e in self.visit.of_kind(Power) if e.state == PROVED_DEAD and e.t_s > t_s]
        return all(any(e.circuit in (None, c.id) for e in proved) for c in self.unit.circuits)

    def state_at(self, t_s: float) -> PanelState:
        state = self._changes[bisect_right(self._changed_s, t_s) - 1].at(t_s)
        if not self._bridges:
            return state
        return replace(state, bridged=bridges_standing(e for e in self.visit.events if e.t_s <= t_s))

    @cached_property
    def _bridges(self) -> bool:
        return any(isinstance(e, Did) and e.verb == BRIDGED for e in self.visit.events)

    def _point(self, reading: Reading) -> Point:
        """Where it was read. A device that another kind has replaced may have had such a point."""
        try:
            return self._points.get(reading.at) or resolve(self.unit, reading.at)
        except BadInput:
            owner = reading.at.rsplit(".", 1)[0]
            return Point(reading.at, "gone", owner, said_of(self.unit, reading.at), ())

    def _events_before(self, reading: Reading) -> Iterator[Event]:
        at = self._order.get(id(reading), len(self.visit.events))
        return (e for e in self.visit.events[:at] if e.t_s <= reading.t_s)

    def _may_drop_out(self, point: Point, reading: Reading, state: PanelState) -> Said:
        """Amps in a rung in the minute after its window, when what was seen in it may have been typed."""
        through = list(self.unit.elements_through(point.component))
        ended = [s for call, s in state.ended_s.items() if call in HEAT_CALLS]
        if reading.quantity is not Quantity.AMPS or not through or not ended or state.calls & HEAT_CALLS:
            return NOTHING
        windows = [s.off_s.high for e in through for s in self.unit.rung_switches(e)]
        over_s = max(ended) + max(windows, default=0.0)
        floor = min(e.rating.dead_below_amps(e.rated_volts) for e in through)
        if reading.value < floor or not over_s <= reading.t_s + reading.lead_s < over_s + th.TYPED_WITHIN_S:
            return NOTHING
        return say("visit.evidence.seen-now-or-before", over_s=clock(over_s + th.TYPED_WITHIN_S))

    def _beside_a_stage_off(self, point: Point, state: PanelState) -> bool:
        """In the rung that was left off, or in the feed of its circuit, whose load is another."""
        off = [self.unit.element_by_id[e] for e in state.stages_off if e in self.unit.element_by_id]
        parts = {part for element in off for part in element.rung}
        feeds = {element.circuit for element in off}
        return point.component in parts or (point.kind in ("circuit", "feed") and point.component in feeds)

    @cached_property
    def _changes(self) -> list[PanelState]:
        start = PanelState(-math.inf, {circuit.id: ON for circuit in self.unit.circuits})
        return [start, *changes(self.unit, self.visit.events)]

    @cached_property
    def _changed_s(self) -> list[float]:
        return [state.t_s for state in self._changes]

    @cached_property
    def _counting(self) -> dict[tuple[str, Quantity], list[Taken]]:
        found: dict[tuple[str, Quantity], list[Taken]] = {}
        for taken in self.taken:
            if taken.counts:
                found.setdefault((taken.reading.at, taken.reading.quantity), []).append(taken)
        return found

    def at(self, name: str, quantity: Quantity) -> list[Taken]:
        """The readings that count at one point, oldest first."""
        return self._counting.get((name, quantity), [])

    def latest(self, name: str, quantity: Quantity) -> Taken | None:
        """The newest reading that counts at one point."""
        found = self.at(name, quantity)
        return found[-1] if found else None

    def supply(self, circuit: Circuit, t_s: float) -> SupplyVolts:
        """The lug volts to judge a reading at ``t_s`` by.

        Of the readings with power on, one taken while heat was called goes before one without,
        and the nearest in time before the others. A dead reading (under a tenth of rated) tells
        of a lost supply, not of the volts that an element was fed with.
        """
        live = self.once((say("visit.evidence.live-volts"), circuit.id), lambda: self._live_volts(circuit))
        if not live:
            low, high = th.UNMEASURED_VOLTS_LOW, th.UNMEASURED_VOLTS_HIGH
            return SupplyVolts(circuit.rated_volts, Band(low, high).times(circuit.rated_volts), None)
        after = bisect_left(live, t_s, key=lambda taken: taken.reading.t_s)
        beside = live[max(0, after - 1) : after + 1]
        best = min(beside, key=lambda taken: abs(taken.reading.t_s - t_s))
        value = best.reading.value
        return SupplyVolts(value, Band(value, value), best)

    def _live_volts(self, circuit: Circuit) -> list[Taken]:
        """Those to choose from, oldest first: with heat called, where any is."""
        lost_below = th.LOST_VOLTS_SHARE * circuit.rated_volts
        live = [
            t
            for t in self.at(circuit.id, Quantity.VOLTS)
            if t.state.power[circuit.id] == ON and t.reading.value > lost_below
        ]
        live.sort(key=lambda taken: taken.reading.t_s)
        return [t for t in live if t.state.calls & HEAT_CALLS] or live


@dataclass(frozen=True, slots=True)
class SupplyVolts:
    """Volts at a kit's lugs: as measured, or assumed (and then a band, and provisional)."""

    nominal: float
    band: Band
    source: Taken | None

    @property
    def measured(self) -> bool:
        return self.source is not None
