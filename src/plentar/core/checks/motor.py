"""The blower motor by its amps, and its run capacitor by its microfarads."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.air.capacitor import CAPACITOR, microfarads
from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity, show
from plentar.core.tables import thresholds as th
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.parts import PSC
from plentar.core.visit.evidence import Evidence

A = Quantity.AMPS
MOTOR = "blower amps"
#: What binary fractions may be off where a reading lies on a limit.
ROUNDING = 1e-9


@check(MOTOR, FindingCode.BLOWER_AMPS_HIGH)
def blower_amps_high(evidence: Evidence) -> Iterator[Result]:
    """The newest amps, less what the meter may be off, not above the full-load amps."""
    blower = evidence.unit.blower
    if blower is None or blower.fla is None:
        missing = "no blower on the plate" if blower is None else "full-load amps not on the plate"
        yield NotJudged(MOTOR, "blower", missing)
        return
    taken = evidence.latest("blower", A)
    if taken is None:
        yield NotJudged(MOTOR, "blower", "blower not clamped")
        return
    amps = taken.reading.value
    if amps - ACCURACY[A].error(amps) <= blower.fla:
        yield Clear("blower")
        return
    why = (
        "a tight bearing, a weak capacitor, or too free a duct"
        if blower.motor == PSC
        else "a dirty filter or coil, or a closed duct, drives it up"
    )
    text = f"the blower draws {show(amps, 'A')}, its plate says {show(blower.fla, 'A')} at most: {why}"
    numbers = {"measured_amps": amps, "full_load_amps": blower.fla}
    yield Finding(FindingCode.BLOWER_AMPS_HIGH, Level.REPAIR, "blower", text, numbers, t_s=taken.reading.t_s)


@check(CAPACITOR, FindingCode.CAPACITOR_WEAK)
def capacitor_weak(evidence: Evidence) -> Iterator[Result]:
    """Its microfarads proved dead, or worked out from amps and volts under load, as read."""
    blower = evidence.unit.blower
    if blower is None or blower.capacitor_uf is None:
        yield NotJudged(CAPACITOR, "blower", "no capacitor’s marking on the plate")
        return
    found = microfarads(evidence)
    if found is None:
        yield NotJudged(CAPACITOR, "blower", "capacitor neither read dead nor under load")
        return
    uf, t_s, how = found
    mark = blower.capacitor_uf
    short = 1 - uf / mark
    if short <= th.CAPACITOR_GOOD + ROUNDING:
        yield Clear("blower")
        return
    weak = short > th.CAPACITOR_WEAK + ROUNDING
    text = (
        f"the run capacitor has {show(uf, 'µF')} {how}, {show(100 * short)} % below its"
        f" {show(mark, 'µF')}: {'replace it' if weak else 'look again next time'}"
    )
    numbers = {"measured_uf": uf, "marked_uf": mark}
    yield Finding(
        FindingCode.CAPACITOR_WEAK, Level.REPAIR if weak else Level.WATCH, "blower", text, numbers, t_s=t_s
    )
