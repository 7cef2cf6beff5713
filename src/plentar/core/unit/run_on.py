"""Whether the blower outlasts the heat, by the windows that are printed."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.quantity import Band, show
from plentar.core.unit.of_plate import of_plate
from plentar.core.unit.parts import Element, Switch
from plentar.core.unit.unit import Unit

#: Less than this one after the other is no run without the blower.
TOGETHER_S = 3.0


@dataclass(frozen=True, slots=True)
class KeepsOn:
    """When something drops out after the call ends, s, and by which device and place in it."""

    window_s: Band
    device: str
    place: int


@dataclass(frozen=True, slots=True)
class ShortRunOn:
    """An element that heats on after the blower: by how much, what window keeps the blower, and
    whether that is certain or may be."""

    element: Element
    gap_s: Band
    keeps_s: Band

    @property
    def certain(self) -> bool:
        return self.gap_s.low >= 0

    @property
    def text(self) -> str:
        """The same in words."""
        gap = show(self.gap_s.high, "s")
        if not self.certain:
            return (
                f"by their windows the blower may stop up to {gap} before"
                f" {self.element.id}: time it, the blower stops last"
            )
        return (
            f"the blower stops before {self.element.id} does, by up to {gap}: what holds"
            f" it drops out by {show(self.keeps_s.high, 's')} after the call. Heat without air"
            " at the end of every call: give the blower a longer delay, or tie it to the last switch"
        )


def short_run_on(unit: Unit) -> ShortRunOn | None:
    """The worst element, one that is certain before one that may be; None where the blower outlasts
    all, or where nothing is known that keeps it on."""
    return of_plate(unit, "short run-on", lambda: _worst(unit))


def _worst(unit: Unit) -> ShortRunOn | None:
    keeps = keeps_blower(unit)
    if keeps is None:
        return None
    gaps = ((element, _shortest_gap(unit, element, keeps)) for element in unit.elements)
    found = [ShortRunOn(e, gap, keeps.window_s) for e, gap in gaps if gap is not None]
    return max(found, key=lambda one: (one.certain, one.gap_s.high), default=None)


def keeps_blower(unit: Unit) -> KeepsOn | None:
    """What keeps the blower running once the call has ended."""
    blower = unit.blower
    if blower is None:
        return None
    tie = blower.interlock
    if tie.kind in ("nc-contact", "sequencer-switch"):
        switch_id = tie.tap or tie.switch
        return _off(unit, unit.switch_by_id[switch_id]) if switch_id else None
    if tie.kind == "g-with-w" and blower.relay is not None:
        return KeepsOn(blower.relay.off_s, blower.relay.id, 0)
    return None


def _off(unit: Unit, switch: Switch) -> KeepsOn:
    control = unit.control_of_switch[switch.id]
    ids = [s.id for s in control.switches]
    return KeepsOn(switch.off_s, control.id, ids.index(switch.id))


def _shortest_gap(unit: Unit, element: Element, keeps: KeepsOn) -> Band | None:
    """How long the element heats on after the blower at least and at most; None where it can't.

    The first of its switches to open ends it.
    """
    gaps = []
    for switch in unit.rung_switches(element):
        off = _off(unit, switch)
        if off.device == keeps.device:
            if not _drops_later(unit, switch, keeps):
                return None
            gaps.append(Band(0.0, max(off.window_s.high - keeps.window_s.low, TOGETHER_S)))
        else:
            low = off.window_s.low - keeps.window_s.high
            gaps.append(Band(low, off.window_s.high - keeps.window_s.low))
    if not gaps:
        return None
    low, high = min(gap.low for gap in gaps), min(gap.high for gap in gaps)
    return Band(low, high) if high > TOGETHER_S or low > 0 else None


def _drops_later(unit: Unit, switch: Switch, keeps: KeepsOn) -> bool:
    """Of one stack the last to close is the first to drop; a blower switch drops last."""
    control = unit.control_of_switch[switch.id]
    if not control.kind.thermal:
        return False  # one armature
    if control.switches[keeps.place].role == "blower":
        return False
    place = [s.id for s in control.switches].index(switch.id)
    return place < keeps.place
