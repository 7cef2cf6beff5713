"""Coils by their cold ohms, against what is printed or typical of their kind."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import Said, figure, say, span
from plentar.core.tables.devices import OPEN_MULTIPLE, SHORTED_SHARE
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Device
from plentar.core.visit.evidence import Evidence, Taken

NAME = say("checks.coils.ohms-coil")


@check(NAME, FindingCode.COIL_OHMS)
def coil_ohms(evidence: Evidence) -> Iterator[Result]:
    """The newest ohms of each coil, held against its range as read."""
    for name, device in evidence.unit.device_by_id.items():
        taken = evidence.latest(f"{name}.coil", Quantity.OHMS)
        if taken is None:
            yield NotJudged(NAME, name, say("checks.coils.coil-ohms-not-read"))
        else:
            yield _coil(said_of(evidence.unit, name), name, device, taken)


def _coil(part: Said, name: str, device: Device, taken: Taken) -> Result:
    ohms, due = taken.reading.value, device.coil_ohms
    if ohms in due:
        return Clear(name)
    level, what = Level.WATCH, say("checks.coils.outside-range")
    if ohms < SHORTED_SHARE * due.low:
        level, what = Level.REPAIR, say("checks.coils.turns-shorted-nothing-drives")
    elif ohms > OPEN_MULTIPLE * due.high:
        level, what = Level.REPAIR, say("checks.coils.open")
    whose = say("checks.coils.printed") if device.coil.ohms is not None else say("checks.coils.typical-kind")
    text = say(
        "checks.coils.coil-reads",
        part=part,
        ohms=figure(ohms, "Ω"),
        range=span(due.low, due.high, "Ω"),
        whose=whose,
        what=what,
    )
    numbers = {"measured_ohms": ohms, "low_ohms": due.low, "high_ohms": due.high}
    return Finding(FindingCode.COIL_OHMS, level, name, text, numbers, t_s=taken.reading.t_s)
