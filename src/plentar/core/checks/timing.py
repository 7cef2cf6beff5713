"""Who acts late, by the watch and the printed windows."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.evidence import Evidence
from plentar.core.judgement import Finding, FindingCode, Level
from plentar.core.numerals import minutes
from plentar.core.tables import thresholds as th
from plentar.core.timing.moves import BLOWER, ON, Move, Timing
from plentar.core.timing.tape import said
from plentar.core.unit import Unit


def timing_findings(evidence: Evidence) -> Iterator[Finding]:
    """Stages later than their windows, and single stages slower than the house likes."""
    unit = evidence.unit
    for move in evidence.moves:
        took_s = move.took_s
        if move.seen_s is None or took_s is None:
            continue
        numbers = {"took_s": took_s, "longest_s": move.longest_s}
        if move.word(move.seen_s) is Timing.LATE and not move.provisional:
            code = FindingCode.SLOW_STAGE if move.action == ON else FindingCode.SLOW_OFF
            acted = "acted" if move.action == ON else "let go"
            text = f"{move.part} {acted} late: {said(move, move.seen_s)}"
            yield Finding(code, Level.REPAIR, _device(unit, move), text, numbers)
        elif _single_stage(unit, move) and took_s > th.HOUSE_ON_S.value:
            house = minutes(th.HOUSE_ON_S.value)
            text = f"{move.part} took {minutes(took_s)}, inside its window but over the house's {house}"
            yield Finding(FindingCode.HOUSE_TIME, Level.WATCH, _device(unit, move), text, numbers)


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
