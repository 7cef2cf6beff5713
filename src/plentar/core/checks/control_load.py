"""What the 24 V side carries, against its fuse and its transformer."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import figure, plain, say
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.visit.evidence import Evidence

A = Quantity.AMPS
NAME, OWNER = say("checks.control-load.control-load"), "transformer"
#: Where the whole load is read: at the secondary, and on the wire to R.
WHOLE = ("transformer", "R")


@check(NAME, FindingCode.CONTROL_OVERLOAD)
def control_load(evidence: Evidence) -> Iterator[Result]:
    """The newest amps of the whole 24 V side, less what the meter may be off."""
    read = [taken for at in WHOLE if (taken := evidence.latest(at, A)) is not None]
    if not read:
        yield NotJudged(NAME, OWNER, say("checks.control-load.amps-control-power-not"))
        return
    newest = max(read, key=lambda taken: taken.reading.t_s)
    power, amps = evidence.unit.control_power, newest.reading.value
    least = amps - ACCURACY[A].error(amps)
    called = " + ".join(sorted(newest.state.calls)) or say("nothing")
    over_fuse = power.fuse_amps is not None and least > power.fuse_amps
    if not over_fuse and least * power.volts <= power.va:
        yield Clear(OWNER)
        return
    limit = (
        say("checks.control-load.fuse", fuse_amps=figure(power.fuse_amps))
        if over_fuse
        else say("checks.control-load.transformers-va", va=plain(power.va))
    )
    text = say("checks.control-load.24-v-side-carries", amps=figure(amps, "A"), called=called, limit=limit)
    numbers = {"measured_amps": amps, "measured_va": amps * power.volts, "rated_va": power.va}
    yield Finding(
        FindingCode.CONTROL_OVERLOAD,
        Level.STOP_NOW if over_fuse else Level.REPAIR,
        OWNER,
        text,
        numbers,
        t_s=newest.reading.t_s,
    )
