"""The blower's tie to the heat, by the plate: there is one, and it outlasts the heat."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from plentar.core.checks.registry import Result, check
from plentar.core.events import OFF
from plentar.core.evidence import Evidence
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.parts import Element, Switch
from plentar.core.quantity import Band, show
from plentar.core.timing.moves import BLOWER
from plentar.core.unit import Unit

#: Less than this one after the other is no run without the blower.
TOGETHER_S = 3.0


@check("tie of the blower", FindingCode.NO_BLOWER_TIE)
def no_blower_tie(evidence: Evidence) -> Iterator[Result]:
    """Something must bring the blower on with the heat."""
    name, blower = "tie of the blower", evidence.unit.blower
    if blower is None:
        yield NotJudged(name, "blower", "no blower on the plate")
    elif blower.interlock.kind == "unknown":
        yield NotJudged(name, "blower", "nobody has looked for what ties the blower to the heat")
    elif blower.interlock.kind == "none":
        text = (
            "nothing ties the blower to the heat: a call for heat alone runs the strips without"
            " air. Call the fan with every heat, or leave the heat off, until it has a tie"
        )
        yield Finding(FindingCode.NO_BLOWER_TIE, Level.STOP_NOW, "blower", text)
    else:
        yield Clear("blower")


@dataclass(frozen=True, slots=True)
class _Off:
    """When something drops out after the call ends, s, and by which device and place in it."""

    window_s: Band
    device: str
    place: int


@check("run-on of the blower", FindingCode.RUN_ON_SHORT)
def run_on_short(evidence: Evidence) -> Iterator[Result]:
    """The blower must outlast every element; windows of one stack drop out in its order."""
    name, unit = "run-on of the blower", evidence.unit
    keeps = _keeps(unit)
    if keeps is None:
        yield NotJudged(name, "blower", "nothing is known that keeps the blower on after heat")
        return
    if _seen_to_outlast(evidence):
        yield Clear("blower")
        return
    certain: list[tuple[Element, Band]] = []
    possible: list[tuple[Element, Band]] = []
    for element in unit.elements:
        gap = _shortest_gap(unit, element, keeps)
        if gap is not None:
            (certain if gap.low >= 0 else possible).append((element, gap))
    if certain:
        element, gap = max(certain, key=lambda pair: pair[1].high)
        text = (
            f"the blower stops before {element.id} does, by up to {show(gap.high, 's')}: what holds"
            f" it drops out by {show(keeps.window_s.high, 's')} after the call. Heat without air"
            " at the end of every call: give the blower a longer delay, or tie it to the last switch"
        )
        numbers = {"short_s": gap.high, "blower_off_s": keeps.window_s.high}
        yield Finding(FindingCode.RUN_ON_SHORT, Level.STOP_NOW, "blower", text, numbers)
    elif possible:
        element, gap = max(possible, key=lambda pair: pair[1].high)
        text = (
            f"by their windows the blower may stop up to {show(gap.high, 's')} before"
            f" {element.id}: time it, the blower stops last"
        )
        numbers = {"short_s": gap.high, "blower_off_s": keeps.window_s.low}
        yield Finding(FindingCode.RUN_ON_SHORT, Level.WATCH, "blower", text, numbers)
    else:
        yield Clear("blower")


def _keeps(unit: Unit) -> _Off | None:
    """What keeps the blower running once the call has ended."""
    blower = unit.blower
    if blower is None:
        return None
    tie = blower.interlock
    if tie.kind in ("nc-contact", "sequencer-switch"):
        switch_id = tie.tap or tie.switch
        return _off(unit, unit.switch_by_id[switch_id]) if switch_id else None
    if tie.kind == "g-with-w" and blower.relay is not None:
        return _Off(blower.relay.off_s, blower.relay.id, 0)
    return None


def _off(unit: Unit, switch: Switch) -> _Off:
    control = unit.control_of_switch[switch.id]
    ids = [s.id for s in control.switches]
    return _Off(switch.off_s, control.id, ids.index(switch.id))


def _shortest_gap(unit: Unit, element: Element, keeps: _Off) -> Band | None:
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


def _drops_later(unit: Unit, switch: Switch, keeps: _Off) -> bool:
    """Of one stack the last to close is the first to drop; a blower switch drops last."""
    control = unit.control_of_switch[switch.id]
    if not control.kind.thermal:
        return False  # one armature
    if control.switches[keeps.place].role == "blower":
        return False
    place = [s.id for s in control.switches].index(switch.id)
    return place < keeps.place


def _seen_to_outlast(evidence: Evidence) -> bool:
    """Timed on this visit: every element switch was seen to drop, and the blower after them."""
    seen = {
        (move.part, move.action): move.seen_s
        for move in evidence.moves
        if move.action == OFF and move.seen_s is not None
    }
    blower_s = seen.get((BLOWER, OFF))
    if blower_s is None:
        return False
    timed = [
        any((switch.id, OFF) in seen and seen[switch.id, OFF] <= blower_s for switch in rung)
        for rung in (list(evidence.unit.rung_switches(e)) for e in evidence.unit.elements)
    ]
    return all(timed)
