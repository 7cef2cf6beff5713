"""The one door: a unit and its visit in, a judgement out."""

from __future__ import annotations

from plentar.core.checks.circuit import circuit_findings
from plentar.core.checks.elements import element_findings, judge_elements
from plentar.core.checks.joints import joint_findings
from plentar.core.checks.look import look_findings
from plentar.core.checks.running import running_findings
from plentar.core.checks.slips import find_slips
from plentar.core.checks.supply import supply_findings
from plentar.core.checks.timing import timing_findings
from plentar.core.due.rules import due_of
from plentar.core.events import Visit, check_visit
from plentar.core.evidence import Evidence, Taken
from plentar.core.judge.diagnosis import diagnose, what_else
from plentar.core.judgement import Judgement, Level, ReadingJudgement
from plentar.core.unit import Unit

__all__ = ["diagnose", "judge", "judge_checked", "judge_reading", "what_else"]

_URGENCY = {level: rank for rank, level in enumerate(Level)}


def judge(unit: Unit, visit: Visit) -> Judgement:
    """Everything that can be said of a visit so far.

    Raises BadInput (path below ``visit``) where an event does not fit the unit.
    """
    check_visit(unit, visit)
    return judge_checked(unit, visit)


def judge_checked(unit: Unit, visit: Visit) -> Judgement:
    """The same for a visit whose every event was checked when it was taken."""
    evidence = Evidence(unit, visit)
    elements = judge_elements(evidence)
    findings = [
        *circuit_findings(unit),
        *running_findings(evidence),
        *timing_findings(evidence),
        *look_findings(visit),
        *element_findings(evidence, elements),
        *supply_findings(evidence),
        *joint_findings(evidence),
    ]
    findings.sort(key=lambda finding: -_URGENCY[finding.level])
    return Judgement(elements, evidence, tuple(findings), find_slips(evidence))


def judge_reading(evidence: Evidence, taken: Taken) -> ReadingJudgement:
    """One reading beside what was due in the state that it was taken in."""
    return ReadingJudgement(taken, due_of(evidence, taken).judge(taken.reading.value))
