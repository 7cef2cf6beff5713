"""The one door: a unit and its visit in, a judgement out."""

from __future__ import annotations

from plentar.core.checks.elements import element_findings, judge_elements
from plentar.core.checks.joints import joint_findings
from plentar.core.checks.slips import find_slips
from plentar.core.checks.supply import supply_findings
from plentar.core.due.rules import due_at
from plentar.core.events import Visit, check_visit
from plentar.core.evidence import Evidence
from plentar.core.judge.judgement import Judgement, Level, ReadingJudgement
from plentar.core.unit import Unit

__all__ = ["judge"]

_URGENCY = {level: rank for rank, level in enumerate(Level)}


def judge(unit: Unit, visit: Visit) -> Judgement:
    """Everything that can be said of a visit so far.

    Raises BadInput (path below ``visit``) where an event does not fit the unit.
    """
    check_visit(unit, visit)
    evidence = Evidence(unit, visit)
    elements = judge_elements(evidence)
    findings = [
        *element_findings(evidence, elements),
        *supply_findings(evidence),
        *joint_findings(evidence),
    ]
    findings.sort(key=lambda finding: -_URGENCY[finding.level])
    readings = tuple(
        ReadingJudgement(
            taken,
            due_at(
                evidence, taken.state, taken.point, taken.reading.quantity, taken.reading.lead_s
            ).judge(taken.reading.value),
        )
        for taken in evidence.taken
    )
    return Judgement(elements, readings, tuple(findings), find_slips(evidence))
