"""What the 24 V side carries, against its fuse and its transformer."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity, show
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.visit.evidence import Evidence

A = Quantity.AMPS
NAME, OWNER = "control load", "transformer"
#: Where the whole load is read: at the secondary, and on the wire to R.
WHOLE = ("transformer", "R")


@check(NAME, FindingCode.CONTROL_OVERLOAD)
def control_load(evidence: Evidence) -> Iterator[Result]:
    """The newest amps of the whole 24 V side, less what the meter may be off."""
    read = [taken for at in WHOLE if (taken := evidence.latest(at, A)) is not None]
    if not read:
        yield NotJudged(NAME, OWNER, "amps of the control power not read")
        return
    newest = max(read, key=lambda taken: taken.reading.t_s)
    power, amps = evidence.unit.control_power, newest.reading.value
    least = amps - ACCURACY[A].error(amps)
    called = " + ".join(sorted(newest.state.calls)) or "nothing"
    over_fuse = power.fuse_amps is not None and least > power.fuse_amps
    if not over_fuse and least * power.volts <= power.va:
        yield Clear(OWNER)
        return
    limit = f"its fuse of {power.fuse_amps:g} A" if over_fuse else f"the transformer’s {power.va:g} VA"
    text = f"the 24 V side carries {show(amps, 'A')} with {called} called: above {limit}"
    numbers = {"measured_amps": amps, "measured_va": amps * power.volts, "rated_va": power.va}
    yield Finding(
        FindingCode.CONTROL_OVERLOAD,
        Level.STOP_NOW if over_fuse else Level.REPAIR,
        OWNER,
        text,
        numbers,
        t_s=newest.reading.t_s,
    )
