"""The blower motor by its amps, and its run capacitor by its microfarads."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.draws import same_setting
from plentar.core.evidence import Evidence
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.meter import ACCURACY
from plentar.core.parts import PSC
from plentar.core.quantity import Quantity, show
from plentar.core.tables import thresholds as th

A, V, UF = Quantity.AMPS, Quantity.VOLTS, Quantity.UF
MOTOR, CAPACITOR = "blower amps", "capacitor"
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
        if blower.motor == PSC else "a dirty filter or coil, or a closed duct, drives it up"
    )  # fmt: skip
    text = (
        f"the blower draws {show(amps, 'A')}, its plate says {show(blower.fla, 'A')} at most: {why}"
    )
    numbers = {"measured_amps": amps, "full_load_amps": blower.fla}
    yield Finding(
        FindingCode.BLOWER_AMPS_HIGH, Level.REPAIR, "blower", text, numbers, t_s=taken.reading.t_s
    )


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
    if short <= th.CAPACITOR_GOOD.value + ROUNDING:
        yield Clear("blower")
        return
    weak = short > th.CAPACITOR_WEAK.value + ROUNDING
    text = (
        f"the run capacitor has {show(uf, 'µF')} {how}, {show(100 * short)} % below its"
        f" {show(mark, 'µF')}: {'replace it' if weak else 'look again next time'}"
    )
    numbers = {"measured_uf": uf, "marked_uf": mark}
    yield Finding(
        FindingCode.CAPACITOR_WEAK, Level.REPAIR if weak else Level.WATCH, "blower", text, numbers,
        t_s=t_s,
    )  # fmt: skip


def microfarads(evidence: Evidence) -> tuple[float, float, str] | None:
    """The newest microfarads of the capacitor: the value, when, and how it was come by."""
    dead = evidence.latest(CAPACITOR, UF)
    found = [(dead.reading.value, dead.reading.t_s, "proved dead")] if dead else []
    amps = evidence.latest(CAPACITOR, A)
    if amps is not None:
        beside = [
            t for t in evidence.at(CAPACITOR, V)
            if same_setting(t.state, amps.state)
            and abs(t.reading.t_s - amps.reading.t_s) <= th.LOAD_PAIR_S.value and t.reading.value > 0
        ]  # fmt: skip
        if beside:
            volts = beside[-1].reading.value
            uf = th.UF_PER_AMP_VOLT.value * amps.reading.value / volts
            found.append((uf, max(amps.reading.t_s, beside[-1].reading.t_s), "under load"))
    return max(found, key=lambda one: one[1], default=None)
