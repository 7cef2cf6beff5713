"""The one way in: a unit and what was done on it in; verdicts, suspects, times, predictions out.

Whatever stands outside the core asks here and nowhere else. The values that come and go are plain:
the unit and its parts, events, points, quantities, and the answers of ``judgement``. All times are
seconds of the visit, all volts, amps, ohms and watts in their units; a BadInput carries the path
below what was passed in.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from plentar.core.checks.elements import judge_elements
from plentar.core.checks.registry import outcomes
from plentar.core.checks.slips import find_slips
from plentar.core.circuit.faults import faults_of, find_faults
from plentar.core.circuit.model import model_at
from plentar.core.circuit.predict import Prediction, predict
from plentar.core.expected.rules import expected_of
from plentar.core.judge.hypotheses.words import sentence
from plentar.core.judge.plan.unread import unread_of
from plentar.core.judgement import Diagnosis, Finding, Judgement, Level, ReadingJudgement, unanswered
from plentar.core.safety.acts import make_safe
from plentar.core.safety.bars import Bars
from plentar.core.safety.latch import barring, open_of, standing
from plentar.core.said import Said, listed, say
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event, Visit, check_visit, unit_after
from plentar.core.visit.evidence import Evidence, Taken


def judge(unit: Unit, visit: Visit) -> Judgement:
    """Everything that can be said of a visit so far.

    Raises BadInput (path below ``visit``) where an event does not fit the unit.
    """
    check_visit(unit, visit)
    return judge_checked(unit_after(unit, visit.events), visit)


def judge_checked(unit: Unit, visit: Visit) -> Judgement:
    """The same for a visit whose every event was checked when it was taken, on the unit as these
    have left it."""
    return judge_evidence(Evidence(unit, visit))


def judge_evidence(evidence: Evidence) -> Judgement:
    """The same for readings that were taken up already, by whoever asks them more than this."""
    stops = standing(evidence)
    return Judgement(
        judge_elements(evidence),
        evidence,
        outcomes(evidence),
        find_slips(evidence),
        open_of(stops),
        tuple(stop.finding for stop in stops),
    )


def found_in_its_course(judgement: Judgement) -> tuple[Finding, ...]:
    """What a visit found: before anything was mended, and what stands now, answered stops among it."""
    return (*found_before_work(judgement), *all_found(judgement))


def found_before_work(judgement: Judgement) -> tuple[Finding, ...]:
    """What a visit had found when something was mended first; empty where nothing was."""
    evidence = judgement.evidence
    first_s = min((e.t_s for e in evidence.visit.events if e.mended), default=None)
    if first_s is None:
        return ()
    visit = evidence.visit
    events = tuple(e for e in visit.events if e.t_s <= first_s and not e.mended)
    looked = tuple(seen for seen in visit.looked if seen.t_s <= first_s)
    return all_found(judge_checked(evidence.unit, replace(visit, events=events, looked=looked)))


def all_found(judgement: Judgement) -> tuple[Finding, ...]:
    """The findings, and before them the stops that were answered and have not ended."""
    return (*(stop for stop in judgement.standing if stop not in judgement.stops), *judgement.findings)


def unread(judgement: Judgement) -> tuple[str, ...]:
    """What a careful round of the unit would still read, as codes: ``off:E1``, ``to-ground:E1``, ``tie``,
    ``joint:C1``."""
    return unread_of(judgement.evidence)


def suspected_stops(judgement: Judgement, diagnosis: Diagnosis) -> tuple[Finding, ...]:
    """The open stops that stand on the leading suspect alone: no check has found them."""
    found = {(f.code, f.component) for f in judgement.standing}
    more = [f for f in diagnosis.stops if (f.code, f.component) not in found]
    return unanswered(judgement.evidence.visit, more)


def bars_of(judgement: Judgement, more: Sequence[Finding] = ()) -> Bars:
    """What the stops of a judgement that have not ended, and ``more`` of them, bar but for the one guarded
    step that a repair or an answer permits: ask before switching."""
    evidence = judgement.evidence
    return Bars(evidence.unit, (*barring(standing(evidence)), *more))


def with_acts(judgement: Judgement, finding: Finding) -> Finding:
    """A finding with what it asks for first at the end of its text; as it is where it is no stop."""
    if finding.level is not Level.STOP_NOW:
        return finding
    events = judgement.evidence.visit.events
    state = judgement.evidence.state_at(events[-1].t_s if events else 0.0)
    acts = listed(make_safe(judgement.evidence, state, finding).acts, " ")
    return replace(finding, text=say("finding-and-acts", finding=finding.text, acts=acts))


def judge_reading(evidence: Evidence, taken: Taken) -> ReadingJudgement:
    """One reading beside what was due in the state that it was taken in."""
    return ReadingJudgement(taken, expected_of(evidence, taken).judge(taken.reading.value))


def faults_in_words(unit: Unit) -> list[tuple[str, Said]]:
    """Every single fault that this unit can have: its id in the file contract, and a sentence."""
    return [(fault.id, sentence(unit, fault)) for fault in faults_of(unit)]


def check_faults(unit: Unit, ids: Iterable[str]) -> tuple[str, ...]:
    """The ids without ``none``; raises BadInput at one that this unit can't have."""
    return tuple(fault.id for fault in find_faults(unit, ids))


def model_of(unit: Unit, events: Iterable[Event], t_s: float, fault_ids: Iterable[str] = ()) -> Prediction:
    """What the nominal unit with these faults shows at ``t_s`` of a visit; kept for the next ask.

    Raises BadInput at a fault that this unit can't have.
    """
    return model_at(unit, events, t_s, find_faults(unit, fault_ids))


def prediction_of(
    unit: Unit, events: Sequence[Event], t_s: float, fault_ids: Iterable[str] = ()
) -> Prediction:
    """The same worked out afresh, at any time before or after the events."""
    return predict(unit, find_faults(unit, fault_ids), events, t_s)
