"""The blower's tie to the heat, by the plate: there is one, and it outlasts the heat."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check, plate_check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.said import say
from plentar.core.timing.moves import BLOWER, moves_of
from plentar.core.unit.run_on import keeps_blower, short_run_on
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import OFF
from plentar.core.visit.evidence import Evidence


@plate_check(say("checks.tie.tie-blower"), FindingCode.NO_BLOWER_TIE)
def no_blower_tie(unit: Unit) -> Iterator[Result]:
    name, blower = say("checks.tie.tie-blower"), unit.blower
    if blower is None:
        yield NotJudged(name, "blower", say("checks.tie.no-blower-plate"))
    elif not unit.elements:
        yield NotJudged(name, "blower", say("checks.tie.no-strips-plate"))
    elif blower.tied is None:
        yield NotJudged(name, "blower", say("checks.tie.nobody-has-looked-what"))
    elif not blower.tied:
        text = say("checks.tie.nothing-ties-blower-heat")
        yield Finding(FindingCode.NO_BLOWER_TIE, Level.STOP_NOW, "blower", text)
    else:
        yield Clear("blower")


@check(say("checks.tie.run-blower"), FindingCode.RUN_ON_SHORT)
def run_on_short(evidence: Evidence) -> Iterator[Result]:
    """The blower must outlast every element; windows of one stack drop out in its order."""
    name = say("checks.tie.run-blower")
    if keeps_blower(evidence.unit) is None:
        missing = say("checks.tie.nothing-known-keeps-blower")
        if len(evidence.unit.possible_taps) > 1:
            missing = say("checks.tie.nobody-has-followed-ties")
        yield NotJudged(name, "blower", missing)
        return
    short = None if _seen_to_outlast(evidence) else short_run_on(evidence.unit)
    if short is None:
        yield Clear("blower")
        return
    level = Level.STOP_NOW if short.certain else Level.WATCH
    kept = short.keeps_s.high if short.certain else short.keeps_s.low
    numbers = {"short_s": short.gap_s.high, "blower_off_s": kept}
    yield Finding(FindingCode.RUN_ON_SHORT, level, "blower", short.text, numbers)


def _seen_to_outlast(evidence: Evidence) -> bool:
    """Timed on this visit: every element switch was seen to drop, and the blower after them."""
    seen = {
        (move.part, move.action): move.seen_s
        for move in moves_of(evidence.unit, evidence.visit)
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
