"""The air by its rise over the strips: CFM from heat and temperatures, against what is due."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.air.rise import Rise, measured_rise
from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import DEGREES
from plentar.core.said import Said, figure, say
from plentar.core.tables import thresholds as th
from plentar.core.visit.evidence import Evidence

NAME, OWNER = say("checks.rise.airflow"), "airflow"


@check(NAME, FindingCode.LOW_AIRFLOW)
def low_airflow(evidence: Evidence) -> Iterator[Result]:
    """As read, without the meter: per ton, and against the kit's printed minimum."""
    rise = measured_rise(evidence)
    if isinstance(rise, Said):
        yield NotJudged(NAME, OWNER, rise)
        return
    blower = evidence.unit.blower
    tons = blower.tons if blower else None
    least = blower.min_cfm if blower else None
    if tons is None and least is None:
        yield NotJudged(NAME, OWNER, say("checks.rise.neither-tons-nor-kits"))
        return
    per_ton = rise.cfm / tons if tons else None
    if least is None and tons:
        least = th.AIRFLOW_REPAIR_PER_TON * tons
    if least is not None and rise.cfm < least:
        yield _finding(rise, Level.REPAIR, say("checks.rise.least", least=figure(least, "CFM", 4)))
    elif per_ton is not None and per_ton < th.AIRFLOW_WATCH_PER_TON:
        words = say(
            "checks.rise.ton-more-usual",
            per_ton=figure(per_ton, "CFM"),
            airflow_watch_per_ton=figure(th.AIRFLOW_WATCH_PER_TON, "CFM"),
        )
        yield _finding(rise, Level.WATCH, words)
    elif rise.settled:
        yield Clear(OWNER)
    else:
        yield NotJudged(NAME, OWNER, say("checks.rise.supply-air-read-before"))


def _finding(rise: Rise, level: Level, words: Said) -> Finding:
    text = say(
        "checks.rise.warm-air-filter-coil",
        watts=figure(rise.watts / 1000, "kW"),
        rise_f=figure(rise.rise_f, DEGREES),
        cfm=figure(rise.cfm, "CFM", 4),
        words=words,
    )
    numbers = {"measured_cfm": rise.cfm, "rise_f": rise.rise_f, "heat_watts": rise.watts}
    return Finding(FindingCode.LOW_AIRFLOW, level, OWNER, text, numbers, t_s=rise.t_s)
