"""Limits that cycle."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.visit.events import Observed
from plentar.core.visit.evidence import Evidence

A = Quantity.AMPS


@check("limits that cycle", FindingCode.LIMIT_CYCLING)
def limit_cycling(evidence: Evidence) -> Iterator[Result]:
    """Current that was seen to come and go with the call steady; what was seen last of a part holds."""
    watched = {e.part: e for e in evidence.visit.of_kind(Observed) if e.action in ("cycling", "steady")}
    if not watched:
        yield NotJudged("limits that cycle", "limits", "nobody watched a rung with the call steady")
    for seen in watched.values():
        if seen.action == "steady":
            yield Clear(seen.part)
            continue
        text = (
            f"{seen.part} comes and goes with the call steady: a limit cycles. Look at the"
            " airflow first, at the limit last"
        )
        yield Finding(FindingCode.LIMIT_CYCLING, Level.REPAIR, seen.part, text)
