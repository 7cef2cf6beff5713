"""Coils by their cold ohms, against what is printed or typical of their kind."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity, show
from plentar.core.tables.devices import OPEN_MULTIPLE, SHORTED_SHARE
from plentar.core.unit.unit import Device
from plentar.core.visit.evidence import Evidence, Taken

NAME = "ohms of the coil"


@check(NAME, FindingCode.COIL_OHMS)
def coil_ohms(evidence: Evidence) -> Iterator[Result]:
    """The newest ohms of each coil, held against its range as read."""
    for name, device in evidence.unit.device_by_id.items():
        taken = evidence.latest(f"{name}.coil", Quantity.OHMS)
        if taken is None:
            yield NotJudged(NAME, name, "coil ohms not read")
        else:
            yield _coil(name, device, taken)


def _coil(name: str, device: Device, taken: Taken) -> Result:
    ohms, due = taken.reading.value, device.coil_ohms
    if ohms in due:
        return Clear(name)
    level, what = Level.WATCH, "outside its range"
    if ohms < SHORTED_SHARE * due.low:
        level, what = Level.REPAIR, "turns are shorted. Nothing drives it, the bench 24 V included"
    elif ohms > OPEN_MULTIPLE * due.high:
        level, what = Level.REPAIR, "it is open"
    whose = "printed" if device.coil.ohms is not None else "typical of its kind"
    text = (
        f"the coil of {name} reads {show(ohms, 'Ω')}, {show(due.low)} … {show(due.high, 'Ω')} is"
        f" {whose}: {what}"
    )
    numbers = {"measured_ohms": ohms, "low_ohms": due.low, "high_ohms": due.high}
    return Finding(FindingCode.COIL_OHMS, level, name, text, numbers, t_s=taken.reading.t_s)
