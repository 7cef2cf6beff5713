"""Heat made at a joint: volts across a closed contact times the amps through it."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.evidence import Evidence
from plentar.core.judgement import Finding, Level
from plentar.core.numerals import show
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th

_JOINTS = frozenset({"switch", "limit", "link"})


def joint_findings(evidence: Evidence) -> Iterator[Finding]:
    """Joints above 2 W. A joint whose current nobody clamped is not judged."""
    seen: set[str] = set()
    for taken in reversed(evidence.taken):
        name, volts = taken.point.component, taken.reading.value
        if (
            not taken.counts
            or taken.point.kind not in _JOINTS
            or taken.reading.quantity is not Quantity.VOLTS
            or name in seen
        ):
            continue
        seen.add(name)
        amps = sum(
            latest.reading.value
            for element in evidence.unit.elements_through(name)
            if (latest := evidence.latest(element.id, Quantity.AMPS)) is not None
        )
        watts = volts * amps
        if volts > th.JOINT_OPEN_VOLTS.value or watts <= th.JOINT_GOOD_WATTS.value:
            continue
        level = Level.WATCH
        if watts >= th.JOINT_REPAIR_WATTS.value:
            level = Level.REPAIR
        if watts > th.JOINT_STOP_WATTS.value:
            level = Level.STOP_NOW
        text = (
            f"{name} drops {show(volts, 'V')} at {show(amps, 'A')}:"
            f" {show(watts, 'W')} of heat at the joint, up to 2 W is good"
        )
        numbers = {"volts": volts, "amps": amps, "watts": watts}
        yield Finding("joint-heat", level, name, text, numbers)
