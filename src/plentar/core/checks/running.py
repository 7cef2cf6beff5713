"""Limits that cycle."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import Quantity
from plentar.core.said import say
from plentar.core.unit.naming import said_of
from plentar.core.visit.events import Observed
from plentar.core.visit.evidence import Evidence

A = Quantity.AMPS


@check(say("checks.running.limits-cycle"), FindingCode.LIMIT_CYCLING)
def limit_cycling(evidence: Evidence) -> Iterator[Result]:
    """Current that was seen to come and go with the call steady; what was seen last of a part holds."""
    watched = {e.part: e for e in evidence.visit.of_kind(Observed) if e.action in ("cycling", "steady")}
    if not watched:
        yield NotJudged(
            say("checks.running.limits-cycle"), "limits", say("checks.running.nobody-watched-rung-call")
        )
    for seen in watched.values():
        if seen.action == "steady":
            yield Clear(seen.part)
            continue
        text = say("checks.running.comes-goes-call-steady", part=said_of(evidence.unit, seen.part))
        yield Finding(FindingCode.LIMIT_CYCLING, Level.REPAIR, seen.part, text)
