"""Readings of a contact while it may still act: they say nothing of a weld, nothing of one that stays open.

A window holds for every quantity. It is counted from when the coil lost its volts (a call's end, the
power's end, the end of a driven test) or got them, and what was typed may be a minute older than its entry.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from plentar.core.quantity import OPEN_FROM_OHMS, Quantity
from plentar.core.said import NOTHING, Said, clock, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.parts import BlowerRelay, Control
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON, Event, Power, Reading
from plentar.core.visit.state import PanelState, first_call

#: A relay acts before anybody can read; nobody needs to time what is driven so shortly, s.
AT_ONCE_S = 3.0


def may_still_act(
    unit: Unit, point: Point, reading: Reading, state: PanelState, before: Iterable[Event]
) -> Said:
    """Why a reading of a contact proved dead says nothing, in words; empty where it counts."""
    if reading.quantity not in (Quantity.OHMS, Quantity.TONE) or point.kind not in ("switch", "contact"):
        return NOTHING
    rests_closed = point.name.endswith(".nc")
    closed = bool(reading.value) if reading.quantity is Quantity.TONE else reading.value < OPEN_FROM_OHMS
    if reading.driven:
        on_s = _device_window(unit, point, "on_s")
        fed_s = reading.driven_s
        acted = closed != rests_closed
        if acted or on_s <= AT_ONCE_S or (fed_s is not None and fed_s >= on_s):
            return NOTHING
        fed = (
            say("visit.windows.nobody-timed-how-long")
            if fed_s is None
            else say("visit.windows.fed", fed_s=clock(fed_s))
        )
        return say("visit.windows.may-take-act-feed", point=point.title, on_s=clock(on_s), fed=fed)
    if closed == rests_closed:
        return NOTHING
    until_s = rests_from_s(unit, point, state, before)
    if until_s <= reading.t_s:
        return NOTHING
    return say("visit.windows.may-not-have-let", point=point.title, until_s=clock(until_s))


def rests_from_s(unit: Unit, point: Point, state: PanelState, before: Iterable[Event]) -> float:
    """From when a contact is at rest for certain, s: its window and a minute after its coil lost its volts,
    by whatever was called, on record or not."""
    off_s = _device_window(unit, point, "off_s")
    if off_s <= AT_ONCE_S:
        off_s = -th.TYPED_WITHIN_S  # it drops out before anybody reads
    device = _device(unit, point)
    call = device.call if isinstance(device, BlowerRelay) else first_call(unit, device)
    lost_s = [state.ended_s[call]] if call in state.ended_s else []
    own = (
        {device.id, *(switch.id for switch in device.switches)}
        if isinstance(device, Control)
        else {device.id}
    )
    power = ON
    for event in before:
        if isinstance(event, Power) and event.circuit in (None, unit.control_power.circuit):
            if event.state != ON and power == ON:
                lost_s.append(event.t_s)
            power = event.state
        elif isinstance(event, Reading) and event.driven and own & {event.at, event.at.rsplit(".", 1)[0]}:
            lost_s.append(event.t_s)
    return max(lost_s, default=-th.TYPED_WITHIN_S - off_s) + off_s + th.TYPED_WITHIN_S


def wait_s(unit: Unit, point: Point, events: Sequence[Event], state: PanelState, *, driven: bool) -> float:
    """How long after the last change of power or calls a contact may be read proved dead, s: driven, the
    whole window that its coil is to be fed for; at rest, until it has let go for certain. ``state`` is that
    before the reading is prepared; 0 where it need not wait."""
    if point.kind not in ("switch", "contact"):
        return 0.0
    if driven:
        on_s = _device_window(unit, point, "on_s")
        return on_s if on_s > AT_ONCE_S else 0.0
    if not state.proved_dead:  # its power ends first
        off_s = _device_window(unit, point, "off_s")
        return off_s + th.TYPED_WITHIN_S if off_s > AT_ONCE_S else 0.0
    changed_s = max((event.t_s for event in events if event.is_switch), default=0.0)
    return max(0.0, rests_from_s(unit, point, state, events) - changed_s)


def _device(unit: Unit, point: Point) -> Control | BlowerRelay:
    return unit.device_by_id.get(point.component) or unit.control_of_switch[point.name]


def _device_window(unit: Unit, point: Point, which: str) -> float:
    """The longest time of a contact, s."""
    switch = unit.switch_by_id.get(point.name)
    band = getattr(switch if switch is not None else _device(unit, point), which)
    return float(band.high)
