"""Whether the blower outlasts the heat, by the windows that are printed."""

from __future__ import annotations

from dataclasses import dataclass

from plentar.core.quantity import Band
from plentar.core.said import Said, figure, say
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
    printed: bool


@dataclass(frozen=True, slots=True)
class ShortRunOn:
    """An element that heats on after the blower: by how much, what window keeps the blower, and
    whether all of these are ``printed``."""

    element: Element
    gap_s: Band
    keeps_s: Band
    printed: bool

    @property
    def certain(self) -> bool:
        """It is so whatever acts where in its window; no typical window makes that certain."""
        return self.gap_s.low >= 0 and self.printed

    @property
    def text(self) -> Said:
        """The same in words."""
        gap = figure(self.gap_s.high, "s")
        if not self.certain:
            code = "unit.run-on.may-stop" if self.printed else "unit.run-on.may-stop-typical"
            return say(code, gap=gap, element=say("part.element", mark=self.element.id))
        return say(
            "unit.run-on.blower-stops-before-does",
            element=say("part.element", mark=self.element.id),
            gap=gap,
            high=figure(self.keeps_s.high, "s"),
        )


def short_run_on(unit: Unit) -> ShortRunOn | None:
    """The worst element, one that is certain before one that may be; None where the blower outlasts
    all, or where nothing is known that keeps it on."""
    return of_plate(unit, "short run-on", lambda: _worst(unit))


def _worst(unit: Unit) -> ShortRunOn | None:
    keeps = keeps_blower(unit)
    if keeps is None:
        return None
    found = [short for element in unit.elements if (short := _short(unit, element, keeps)) is not None]
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
        return KeepsOn(blower.relay.off_s, blower.relay.id, 0, "off_s" not in blower.relay.typical)
    return None


def _off(unit: Unit, switch: Switch) -> KeepsOn:
    control = unit.control_of_switch[switch.id]
    ids = [s.id for s in control.switches]
    return KeepsOn(switch.off_s, control.id, ids.index(switch.id), "off_s" not in switch.typical)


def _short(unit: Unit, element: Element, keeps: KeepsOn) -> ShortRunOn | None:
    """How long the element heats on after the blower at least and at most; None where it can't.

    The first of its switches to open ends it.
    """
    gaps, printed = [], keeps.printed
    for switch in unit.rung_switches(element):
        off = _off(unit, switch)
        printed = printed and off.printed
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
    late = high > TOGETHER_S or low > 0
    return ShortRunOn(element, Band(low, high), keeps.window_s, printed) if late else None


def _drops_later(unit: Unit, switch: Switch, keeps: KeepsOn) -> bool:
    """Of one stack the last to close is the first to drop; a blower switch drops last."""
    control = unit.control_of_switch[switch.id]
    if not control.kind.thermal:
        return False  # one armature
    if control.switches[keeps.place].role == "blower":
        return False
    place = [s.id for s in control.switches].index(switch.id)
    return place < keeps.place
