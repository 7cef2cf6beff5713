"""The one way in: a unit and what was done on it in; verdicts, suspects, times, predictions out.

Whatever stands outside the core asks here and nowhere else. The values that come and go are plain:
the unit and its parts, events, points, quantities, and the answers of ``judgement``. All times are
seconds of the visit, all volts, amps, ohms and watts in their units; a BadInput carries the path
below what was passed in.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from plentar.core.budget import budget
from plentar.core.checks.circuit import circuit_findings
from plentar.core.checks.elements import judge_elements, other_school
from plentar.core.checks.registry import outcomes
from plentar.core.checks.relay_bench import HARM
from plentar.core.checks.relay_bench import WORDS as WIRING_WORDS
from plentar.core.checks.slips import find_slips
from plentar.core.circuit.faults import faults_of, find_faults
from plentar.core.circuit.model import model_at
from plentar.core.circuit.network import Real, Solution
from plentar.core.circuit.predict import Predicted, Prediction, predict
from plentar.core.expected import Asked, Due, Range, Verdict, Word
from plentar.core.expected.rules import due_at, due_of
from plentar.core.guided import Guided, Step
from plentar.core.guided.one_call import one_call_test
from plentar.core.guided.retest import Line, retest, retest_lines
from plentar.core.guided.rise import rise_test
from plentar.core.guided.sag import sag_test
from plentar.core.handover.asked_once import Easy, reasons_to_ask, to_look_at_again
from plentar.core.handover.meanwhile_ways import ways_meanwhile
from plentar.core.handover.suggest import decided, suggested
from plentar.core.handover.work import (
    MOST_LINES,
    PARTS,
    STANDS,
    WHEN,
    WorkLine,
    standing,
    taken_over,
)
from plentar.core.history.drift import DRIFT_WITHIN, Forecast, Seen, Shape, Trend, trend_of
from plentar.core.history.series import (
    DAYS_A_YEAR,
    KINDS,
    Added,
    History,
    VisitOf,
    histories,
    in_years,
    visit_of,
)
from plentar.core.history.survival import (
    LEAST_FAILURES,
    SurvivalStep,
    Watched,
    enough,
    kaplan_meier,
    still_in_at,
)
from plentar.core.judge.diagnosis import chance_in_words, diagnose, reads_in_words, what_else
from plentar.core.judge.hypotheses.hypothesis import NONE, OTHER
from plentar.core.judge.hypotheses.words import sentence
from plentar.core.judge.weigh.shop import (
    COUNTED_KINDS,
    LEAST_FACTOR,
    MOST_FACTOR,
    SHRINK,
    own_frequencies,
    relay_kind,
    trade_frequency,
)
from plentar.core.judgement import (
    Diagnosis,
    Finding,
    Judgement,
    Level,
    ReadingJudgement,
    open_stops,
)
from plentar.core.logged.columns import Column, check_columns
from plentar.core.logged.trace import Cycling, Log, Stage, Trace, read_log
from plentar.core.relay_bench.circuit import Case
from plentar.core.relay_bench.contacts import (
    Read,
    Repeats,
    Row,
    SetVerdict,
    device_verdict,
    leads_in_words,
    leads_of,
    pair_points,
    readings_of,
    repeats_of,
    rows_of,
    set_verdicts,
)
from plentar.core.relay_bench.fitted import drawer, fitted
from plentar.core.relay_bench.motor import Leaf, Question, Walk, trunks, walk
from plentar.core.relay_bench.motor import Step as TreeStep
from plentar.core.relay_bench.proof import Proof, Wrong, prove_wiring
from plentar.core.relay_bench.proof import prove as prove_relay
from plentar.core.relay_bench.sheet import Placed, Sheet, open_sheets, plan, sheet_of
from plentar.core.relay_bench.substitute import Substitute, substitute
from plentar.core.relay_bench.wires import right_wires, wires_of
from plentar.core.safety.acts import MakeSafe, make_safe
from plentar.core.safety.bars import Bars
from plentar.core.supply.ampere import AmpereScale, Mark, Side, ampere_scales
from plentar.core.supply.conductors import dropped_volts
from plentar.core.supply.control_budget import ControlBudget, control_budget
from plentar.core.supply.sizing import Sized, circuit_of, feeder_sized, sized
from plentar.core.tables import thresholds
from plentar.core.tables.thresholds import ALL as THRESHOLDS
from plentar.core.timing.moves import BLOWER, Move, Timing, moves_of
from plentar.core.timing.tape import Lane, Run, Tape, said, tape_of, waits
from plentar.core.timing.years import Series, over_the_years
from plentar.core.unit.accuracy import ACCURACY
from plentar.core.unit.kits import (
    KIT_CONTROLS,
    KIT_KINDS,
    KIT_KW,
    KIT_RELAYS,
    KIT_SUPPLIES,
    KIT_TIES,
    KIT_VOLTS,
    MOST_ELEMENTS,
    Kit,
    build_kit,
)
from plentar.core.unit.no_plate import WorkedOut, work_out
from plentar.core.unit.part_kinds import PART_KINDS
from plentar.core.unit.ratings import Rating
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Event, Visit, check_visit, unit_after
from plentar.core.visit.evidence import Evidence, Taken
from plentar.core.visit.state import PanelState, as_it_was, state_at, state_in_words

__all__ = [
    "ACCURACY",
    "BLOWER",
    "COUNTED_KINDS",
    "DAYS_A_YEAR",
    "DRIFT_WITHIN",
    "HARM",
    "KINDS",
    "KIT_CONTROLS",
    "KIT_KINDS",
    "KIT_KW",
    "KIT_RELAYS",
    "KIT_SUPPLIES",
    "KIT_TIES",
    "KIT_VOLTS",
    "LEAST_FACTOR",
    "LEAST_FAILURES",
    "MOST_ELEMENTS",
    "MOST_FACTOR",
    "MOST_LINES",
    "NONE",
    "OTHER",
    "PARTS",
    "PART_KINDS",
    "SHRINK",
    "STANDS",
    "THRESHOLDS",
    "WHEN",
    "WIRING_WORDS",
    "Added",
    "AmpereScale",
    "Asked",
    "Bars",
    "Case",
    "Column",
    "ControlBudget",
    "Cycling",
    "Due",
    "Easy",
    "Evidence",
    "Forecast",
    "Guided",
    "History",
    "Kit",
    "Lane",
    "Leaf",
    "Line",
    "Log",
    "MakeSafe",
    "Mark",
    "Move",
    "PanelState",
    "Placed",
    "Predicted",
    "Prediction",
    "Proof",
    "Question",
    "Range",
    "Rating",
    "Read",
    "Real",
    "Repeats",
    "Row",
    "Run",
    "Seen",
    "Series",
    "SetVerdict",
    "Shape",
    "Sheet",
    "Side",
    "Sized",
    "Solution",
    "Stage",
    "Step",
    "Substitute",
    "SurvivalStep",
    "Taken",
    "Tape",
    "Timing",
    "Trace",
    "TreeStep",
    "Trend",
    "Verdict",
    "VisitOf",
    "Walk",
    "Watched",
    "Word",
    "WorkLine",
    "WorkedOut",
    "Wrong",
    "ampere_scales",
    "as_it_was",
    "bars_of",
    "budget",
    "build_kit",
    "chance_in_words",
    "check_columns",
    "check_faults",
    "circuit_findings",
    "circuit_of",
    "control_budget",
    "decided",
    "device_verdict",
    "diagnose",
    "drawer",
    "dropped_volts",
    "due_at",
    "enough",
    "faults_in_words",
    "feeder_sized",
    "fitted",
    "found_in_its_course",
    "histories",
    "in_years",
    "judge",
    "judge_checked",
    "judge_evidence",
    "judge_reading",
    "kaplan_meier",
    "leads_in_words",
    "leads_of",
    "make_safe",
    "model_of",
    "moves_of",
    "one_call_test",
    "open_sheets",
    "other_school",
    "over_the_years",
    "own_frequencies",
    "pair_points",
    "plan",
    "prediction_of",
    "prove_relay",
    "prove_wiring",
    "read_log",
    "readings_of",
    "reads_in_words",
    "reasons_to_ask",
    "relay_kind",
    "repeats_of",
    "retest",
    "retest_lines",
    "right_wires",
    "rise_test",
    "rows_of",
    "sag_test",
    "said",
    "set_verdicts",
    "sheet_of",
    "sized",
    "standing",
    "state_at",
    "state_in_words",
    "still_in_at",
    "substitute",
    "suggested",
    "suspected_stops",
    "taken_over",
    "tape_of",
    "thresholds",
    "to_look_at_again",
    "trade_frequency",
    "trend_of",
    "trunks",
    "visit_of",
    "waits",
    "walk",
    "ways_meanwhile",
    "what_else",
    "wires_of",
    "work_out",
]  # fmt: skip


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
    return Judgement(judge_elements(evidence), evidence, outcomes(evidence), find_slips(evidence))


def found_in_its_course(judgement: Judgement) -> tuple[Finding, ...]:
    """What a visit found: before anything was mended, and what stands now."""
    evidence = judgement.evidence
    first_s = min((e.t_s for e in evidence.visit.events if e.mended), default=None)
    if first_s is None:
        return tuple(judgement.findings)
    visit = evidence.visit
    events = tuple(e for e in visit.events if e.t_s <= first_s and not e.mended)
    looked = tuple(seen for seen in visit.looked if seen.t_s <= first_s)
    as_found = judge_checked(evidence.unit, replace(visit, events=events, looked=looked))
    return (*as_found.findings, *judgement.findings)


def suspected_stops(judgement: Judgement, diagnosis: Diagnosis) -> tuple[Finding, ...]:
    """The open stops that stand on the leading suspect alone: no check has found them."""
    found = {(f.code, f.component) for f in judgement.findings if f.level is Level.STOP_NOW}
    more = [f for f in diagnosis.stops if (f.code, f.component) not in found]
    return open_stops(judgement.evidence.visit, more)


def bars_of(judgement: Judgement, more: Sequence[Finding] = ()) -> Bars:
    """What the open stops of a judgement, and ``more`` of them, bar: ask before switching."""
    return Bars(judgement.evidence.unit, (*judgement.stops, *more))


def judge_reading(evidence: Evidence, taken: Taken) -> ReadingJudgement:
    """One reading beside what was due in the state that it was taken in."""
    return ReadingJudgement(taken, due_of(evidence, taken).judge(taken.reading.value))


def faults_in_words(unit: Unit) -> list[tuple[str, str]]:
    """Every single fault that this unit can have: its id in the file contract, and a sentence."""
    return [(fault.id, sentence(fault)) for fault in faults_of(unit)]


def check_faults(unit: Unit, ids: Iterable[str]) -> tuple[str, ...]:
    """The ids without ``none``; raises BadInput at one that this unit can't have."""
    return tuple(fault.id for fault in find_faults(unit, ids))


def model_of(
    unit: Unit, events: Iterable[Event], t_s: float, fault_ids: Iterable[str] = ()
) -> Prediction:
    """What the nominal unit with these faults shows at ``t_s`` of a visit; kept for the next ask.

    Raises BadInput at a fault that this unit can't have.
    """
    return model_at(unit, events, t_s, find_faults(unit, fault_ids))


def prediction_of(
    unit: Unit, events: Sequence[Event], t_s: float, fault_ids: Iterable[str] = ()
) -> Prediction:
    """The same worked out afresh, at any time before or after the events."""
    return predict(unit, find_faults(unit, fault_ids), events, t_s)
