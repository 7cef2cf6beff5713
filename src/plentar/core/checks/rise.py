"""The air by its rise over the strips: CFM from heat and temperatures, against what is due."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.air.rise import Rise, measured_rise
from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import show
from plentar.core.tables import thresholds as th
from plentar.core.visit.evidence import Evidence

NAME, OWNER = "airflow", "airflow"


@check(NAME, FindingCode.LOW_AIRFLOW)
def low_airflow(evidence: Evidence) -> Iterator[Result]:
    """As read, without the meter: per ton, and against the kit's printed minimum."""
    rise = measured_rise(evidence)
    if isinstance(rise, str):
        yield NotJudged(NAME, OWNER, rise)
        return
    blower = evidence.unit.blower
    tons = blower.tons if blower else None
    least = blower.min_cfm if blower else None
    if tons is None and least is None:
        yield NotJudged(NAME, OWNER, "neither tons nor the kit’s least airflow on the plate")
        return
    per_ton = rise.cfm / tons if tons else None
    if least is None and tons:
        least = th.AIRFLOW_REPAIR_PER_TON * tons
    if least is not None and rise.cfm < least:
        yield _finding(rise, Level.REPAIR, f"{show(least, 'CFM', 4)} is the least for it")
    elif per_ton is not None and per_ton < th.AIRFLOW_WATCH_PER_TON:
        words = f"{show(per_ton)} a ton, {th.AIRFLOW_WATCH_PER_TON:g} and more is usual"
        yield _finding(rise, Level.WATCH, words)
    elif rise.settled:
        yield Clear(OWNER)
    else:
        yield NotJudged(NAME, OWNER, "supply air read before five minutes of heat")


def _finding(rise: Rise, level: Level, words: str) -> Finding:
    text = (
        f"{show(rise.watts / 1000, 'kW')} warm the air by {show(rise.rise_f, '°F')}:"
        f" {show(rise.cfm, 'CFM', 4)}; {words}. Filter, coil, wheel, speed tap, ducts"
    )
    numbers = {"measured_cfm": rise.cfm, "rise_f": rise.rise_f, "heat_watts": rise.watts}
    return Finding(FindingCode.LOW_AIRFLOW, level, OWNER, text, numbers, t_s=rise.t_s)
