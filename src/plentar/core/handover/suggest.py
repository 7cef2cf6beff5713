"""Lines of work that the findings, the judge's decision and a repair suggest."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence

from plentar.core.handover.work import NOW, OFFER, SOON, WorkLine
from plentar.core.judgement import Diagnosis, Finding, FindingCode, Level
from plentar.core.said import say
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Replaced, Visit

#: What is no work: a reading to take again, a house rule on times.
_NO_WORK = frozenset({FindingCode.CONTRADICTION, FindingCode.HOUSE_TIME})
_WHEN = {Level.STOP_NOW: NOW, Level.REPAIR: NOW, Level.WATCH: SOON}


def suggested(
    unit: Unit, visit: Visit, findings: Sequence[Finding], known: Collection[str]
) -> tuple[WorkLine, ...]:
    """Lines for what was found and is not mended since, and the fellow of a part that was replaced;
    without those whose source is ``known``."""
    every = [*_of_findings(unit, findings), *_fellows(unit, visit)]
    return tuple(line for line in every if line.source not in known)


def decided(unit: Unit, diagnosis: Diagnosis, known: Collection[str]) -> tuple[WorkLine, ...]:
    """A line for each part that is clear to the judge."""
    parts = diagnosis.parts if diagnosis.decision else ()
    lines = [
        WorkLine("", 0.0, NOW, say("work.decided", cause=words), part, source=f"decision {part}")
        for part in parts
        if part.removesuffix(".supply") in unit.components
        for words in [diagnosis.suspects[0].words]
    ]
    return tuple(line for line in lines if line.source not in known)


def _of_findings(unit: Unit, findings: Sequence[Finding]) -> Iterator[WorkLine]:
    parts = unit.workable | unit.components
    for finding in findings:
        if finding.code in _NO_WORK or finding.level not in _WHEN:
            continue
        source = f"{finding.level} {finding.code} {finding.component}".strip()
        part = finding.component if finding.component in parts else ""
        yield WorkLine("", 0.0, _WHEN[finding.level], finding.text, part, source=source)


def _fellows(unit: Unit, visit: Visit) -> Iterator[WorkLine]:
    """Devices of the same type as one that was replaced, and as old as it was."""
    new = {event.component: event for event in visit.of_kind(Replaced)}
    for control in unit.controls:
        mates = [c for c in unit.controls if c.type == control.type and c.id in new]
        if control.id in new or not mates:
            continue
        yield WorkLine(
            "",
            0.0,
            OFFER,
            say("work.fellow", part=said_of(unit, control.id), mate=said_of(unit, mates[0].id)),
            control.id,
            source=f"fellow {control.id}",
        )
