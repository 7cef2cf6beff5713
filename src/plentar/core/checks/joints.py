"""Heat made at a joint: volts across a closed contact times the amps through it."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.evidence import Evidence, Taken
from plentar.core.judgement import Finding, FindingCode, Level
from plentar.core.numerals import show
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th

#: How much more than the nominal contact a sound one may drop.
SOUND_SPREAD = 1.1
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
        if volts > th.JOINT_OPEN_VOLTS.value or watts <= _good_watts(evidence, taken, amps):
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
        yield Finding(FindingCode.JOINT_HEAT, level, name, text, numbers)


def _good_watts(evidence: Evidence, taken: Taken, amps: float) -> float:
    """2 W, or what a sound contact makes at this current, where that is more: 3 mΩ at 30 A."""
    sound = evidence.expected(taken.reading.t_s).read(Quantity.VOLTS, taken.point.name)
    if sound is None or sound.value > th.JOINT_OPEN_VOLTS.value:
        return th.JOINT_GOOD_WATTS.value
    return max(th.JOINT_GOOD_WATTS.value, SOUND_SPREAD * sound.value * amps)
