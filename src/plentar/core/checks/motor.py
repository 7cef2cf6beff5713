"""The blower motor by its amps, and its run capacitor by its microfarads."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.air.capacitor import microfarads
from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import figure, say
from plentar.core.tables import thresholds as th
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.parts import PSC
from plentar.core.visit.evidence import Evidence

A = Quantity.AMPS
MOTOR, RUN_CAPACITOR = say("checks.motor.blower-amps"), say("checks.motor.capacitor")
#: What binary fractions may be off where a reading lies on a limit.
ROUNDING = 1e-9


@check(MOTOR, FindingCode.BLOWER_AMPS_HIGH)
def blower_amps_high(evidence: Evidence) -> Iterator[Result]:
    """The newest amps, less what the meter may be off, not above the full-load amps."""
    blower = evidence.unit.blower
    if blower is None or blower.fla is None:
        missing = (
            say("checks.motor.no-blower-plate") if blower is None else say("checks.motor.full-load-amps-not")
        )
        yield NotJudged(MOTOR, "blower", missing)
        return
    taken = evidence.latest("blower", A)
    if taken is None:
        yield NotJudged(MOTOR, "blower", say("checks.motor.blower-not-clamped"))
        return
    amps = taken.reading.value
    if amps - ACCURACY[A].error(amps) <= blower.fla:
        yield Clear("blower")
        return
    why = (
        say("checks.motor.tight-bearing-weak-capacitor")
        if blower.motor == PSC
        else say("checks.motor.dirty-filter-or-coil")
    )
    text = say(
        "checks.motor.blower-draws-plate-says", amps=figure(amps, "A"), fla=figure(blower.fla, "A"), why=why
    )
    numbers = {"measured_amps": amps, "full_load_amps": blower.fla}
    yield Finding(FindingCode.BLOWER_AMPS_HIGH, Level.REPAIR, "blower", text, numbers, t_s=taken.reading.t_s)


@check(RUN_CAPACITOR, FindingCode.CAPACITOR_WEAK)
def capacitor_weak(evidence: Evidence) -> Iterator[Result]:
    """Its microfarads proved dead, or worked out from amps and volts under load, as read."""
    blower = evidence.unit.blower
    if blower is None or blower.capacitor_uf is None:
        yield NotJudged(RUN_CAPACITOR, "blower", say("checks.motor.no-capacitors-marking-plate"))
        return
    found = microfarads(evidence)
    if found is None:
        yield NotJudged(RUN_CAPACITOR, "blower", say("checks.motor.capacitor-neither-read-dead"))
        return
    uf, t_s, how = found
    mark = blower.capacitor_uf
    short = 1 - uf / mark
    if short <= th.CAPACITOR_GOOD + ROUNDING:
        yield Clear("blower")
        return
    weak = short > th.CAPACITOR_WEAK + ROUNDING
    text = say(
        "checks.motor.run-capacitor-has-below",
        uf=figure(uf, "µF"),
        how=how,
        short=figure(100 * short),
        mark=figure(mark, "µF"),
        how_2=say("checks.motor.replace") if weak else say("checks.motor.look-again-next-time"),
    )
    numbers = {"measured_uf": uf, "marked_uf": mark}
    yield Finding(
        FindingCode.CAPACITOR_WEAK, Level.REPAIR if weak else Level.WATCH, "blower", text, numbers, t_s=t_s
    )
