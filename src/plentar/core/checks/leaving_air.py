"""Air that leaves too hot, whatever made it so."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import figure, plain, say
from plentar.core.tables import thresholds as th
from plentar.core.visit.evidence import Evidence

NAME, AT = say("checks.leaving-air.leaving-air"), "supply-air"


@check(NAME, FindingCode.HIGH_LEAVING_AIR)
def leaving_air(evidence: Evidence) -> Iterator[Result]:
    """The newest temperature of the supply air."""
    taken = evidence.latest(AT, Quantity.TEMP_F)
    if taken is None:
        yield NotJudged(NAME, AT, say("checks.leaving-air.supply-air-not-read"))
        return
    hot_f = taken.reading.value
    if hot_f <= th.LEAVING_AIR_REPAIR_F:
        yield Clear(AT)
        return
    stop = hot_f > th.LEAVING_AIR_STOP_F
    due_f = th.LEAVING_AIR_STOP_F if stop else th.LEAVING_AIR_REPAIR_F
    text = say("checks.leaving-air.air-leaves-above-f", hot_f=figure(hot_f, "°F"), due_f=plain(due_f, "°F"))
    yield Finding(
        FindingCode.HIGH_LEAVING_AIR,
        Level.STOP_NOW if stop else Level.REPAIR,
        AT,
        text,
        {"measured_f": hot_f, "due_f": due_f},
        t_s=taken.reading.t_s,
    )
