"""Heat made at a joint: volts across a closed contact times the amps through it."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.evidence import Evidence, Taken
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity, show
from plentar.core.tables import thresholds as th

#: How much more than the nominal contact a sound one may drop.
SOUND_SPREAD = 1.1
_JOINTS = frozenset({"switch", "limit", "link"})


@check("heat at joints", FindingCode.JOINT_HEAT)
def joint_heat(evidence: Evidence) -> Iterator[Result]:
    """Joints above 2 W, each by its newest volts and the amps of what it carries."""
    newest = {
        taken.point.component: taken
        for taken in evidence.taken
        if taken.counts and taken.point.kind in _JOINTS and taken.reading.quantity is Quantity.VOLTS
    }
    if not newest:
        yield NotJudged("heat at joints", "switches, limits, links", "volts across not read")
    for name, taken in newest.items():
        yield _joint(evidence, name, taken)


def _joint(evidence: Evidence, name: str, taken: Taken) -> Result:
    volts = taken.reading.value
    if volts > th.JOINT_OPEN_VOLTS.value:
        return NotJudged(
            "heat at joints", name, "open, or a ghost: no joint while no current flows"
        )
    clamped = [
        reading.reading.value
        for element in evidence.unit.elements_through(name)
        if (reading := evidence.latest(element.id, Quantity.AMPS)) is not None
    ]
    if not clamped:
        return NotJudged("heat at joints", name, "the amps through it not read")
    amps = sum(clamped)
    watts = volts * amps
    if watts <= _good_watts(evidence, taken, amps):
        return Clear(name)
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
    return Finding(FindingCode.JOINT_HEAT, level, name, text, numbers)


def _good_watts(evidence: Evidence, taken: Taken, amps: float) -> float:
    """2 W, or what a sound contact makes at this current, where that is more: 3 mΩ at 30 A."""
    sound = evidence.expected(taken.reading.t_s).read(Quantity.VOLTS, taken.point.name)
    if sound is None or sound.value > th.JOINT_OPEN_VOLTS.value:
        return th.JOINT_GOOD_WATTS.value
    return max(th.JOINT_GOOD_WATTS.value, SOUND_SPREAD * sound.value * amps)
