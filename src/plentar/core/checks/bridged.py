"""A limit that can't open: bridged by a jumper, on record."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, check
from plentar.core.judgement import Clear, Finding, FindingCode, Level
from plentar.core.said import say
from plentar.core.unit.naming import said_of
from plentar.core.visit.events import ON, bridges_standing
from plentar.core.visit.evidence import Evidence


@check(say("checks.bridged.limits-bridged"), FindingCode.LIMIT_BRIDGED)
def limit_bridged(evidence: Evidence) -> Iterator[Result]:
    """A jumper across a limit or a link while heat can be called: its circuit is on."""
    unit, visit = evidence.unit, evidence.visit
    standing = bridges_standing(visit.events)
    now_s = visit.events[-1].t_s if visit.events else 0.0
    state = evidence.state_at(now_s)
    for part in (*(limit.id for limit in unit.limits), *(link.id for link in unit.links)):
        fed = {e.circuit for e in unit.elements_through(part)} or set(unit.circuit_by_id)
        if part not in standing or all(state.power[cid] != ON for cid in fed):
            yield Clear(part)
            continue
        text = say("checks.bridged.bridged-heat-can-called", part=said_of(unit, part))
        yield Finding(FindingCode.LIMIT_BRIDGED, Level.STOP_NOW, part, text, t_s=now_s)
