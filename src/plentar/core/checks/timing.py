"""Who acts late, by the watch and the printed windows."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.said import clock, say
from plentar.core.tables import thresholds as th
from plentar.core.timing.moves import BLOWER, ON, Move, Timing, moves_of
from plentar.core.timing.tape import said
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence


@check(say("checks.timing.times"), FindingCode.SLOW_STAGE, FindingCode.SLOW_OFF, FindingCode.HOUSE_TIME)
def times(evidence: Evidence) -> Iterator[Result]:
    """Stages later than their windows, and single stages slower than the house likes."""
    unit = evidence.unit
    timed = [
        m
        for m in moves_of(evidence.unit, evidence.visit)
        if m.seen_s is not None
        and not any(evidence.mended_since(part, m.seen_s) for part in (m.part, _device(unit, m)))
    ]
    for control in unit.controls:
        if control.kind.thermal and not any(_device(unit, m) == control.id for m in timed):
            yield NotJudged(say("checks.timing.times"), control.id, say("checks.timing.nobody-timed"))
    if not any(control.kind.thermal for control in unit.controls) and not timed:
        yield NotJudged(say("checks.timing.times"), "devices", say("checks.timing.nobody-timed-any-all"))
    for move in timed:
        yield _time(unit, move)


def _time(unit: Unit, move: Move) -> Result:
    device, took_s, seen_s = _device(unit, move), move.took_s, move.seen_s
    assert took_s is not None
    assert seen_s is not None
    numbers = {"took_s": took_s, "longest_s": move.longest_s}
    if move.word(seen_s) is Timing.LATE:
        if move.provisional:
            return NotJudged(say("checks.timing.times"), device, say("checks.timing.off-time-taken-before"))
        slow, acted = (FindingCode.SLOW_STAGE, say("checks.timing.acted"))
        if move.action != ON:
            slow, acted = (FindingCode.SLOW_OFF, say("checks.timing.let-go"))
        text = say("checks.timing.late", part=said_of(unit, move.part), acted=acted, said=said(move, seen_s))
        if move.typical and seen_s <= move.due_s.high + th.TYPED_WITHIN_S:
            return Finding(
                slow, Level.WATCH, device, say("checks.timing.read-print-or-time", text=text), numbers
            )
        return Finding(slow, Level.REPAIR, device, text, numbers)
    if _single_stage(unit, move) and took_s > th.HOUSE_ON_S:
        house = clock(th.HOUSE_ON_S)
        text = say(
            "checks.timing.took-inside-window-but",
            part=said_of(unit, move.part),
            took_s=clock(took_s),
            house=house,
        )
        return Finding(FindingCode.HOUSE_TIME, Level.WATCH, device, text, numbers)
    return Clear(device)


def _device(unit: Unit, move: Move) -> str:
    if move.part != BLOWER:
        return unit.control_of_switch[move.part].id
    return unit.relay.id if unit.relay else BLOWER


def _single_stage(unit: Unit, move: Move) -> bool:
    """The stage of a sequencer that has one."""
    if move.part == BLOWER or move.action != ON:
        return False
    control = unit.control_of_switch[move.part]
    stages = [s for s in control.switches if s.role == "element" and s.id not in unit.idle_switches]
    return control.kind.thermal and [s.id for s in stages] == [move.part]
