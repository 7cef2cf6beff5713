"""Suspects with their reasons, the next readings, and what to do once it is clear."""

from __future__ import annotations

import math

import numpy as np

from plentar.core.budget import OutOfTime, check_budget
from plentar.core.judge.hypotheses.hypothesis import Hypothesis
from plentar.core.judge.hypotheses.words import sentence, words_of
from plentar.core.judge.plan.around import Around, look_around
from plentar.core.judge.plan.often import read_often
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.round import sound_leads
from plentar.core.judge.plan.rules import decided
from plentar.core.judge.plan.survivors import ReadingOutcome
from plentar.core.judge.plan.unread import unread_of
from plentar.core.judge.plan.whole import Plan, whole_plan
from plentar.core.judge.shown.workspace import workspace_of
from plentar.core.judge.weigh.posterior import Posterior
from plentar.core.judge.weigh.posterior import posterior as posterior_of
from plentar.core.judge.weigh.reasons import Reasons, contradictions
from plentar.core.judgement import NONE, OTHER, Diagnosis, Meaning, NextReading, Sureness, Suspect, WhatElse
from plentar.core.quantity import Quantity, show
from plentar.core.safety.suspected import suspected_stops
from plentar.core.visit.evidence import Evidence

#: Across what is closed a field meter shows nothing else.
ABOUT_ZERO_V = 0.3
LISTED, LEAST_LISTED = 12, 0.003


def diagnose(evidence: Evidence) -> Diagnosis:
    workspace = workspace_of(evidence.unit)
    with workspace.lock:
        return diagnosis_of(posterior_of(evidence, workspace))


def diagnosis_of(posterior: Posterior) -> Diagnosis:
    left_out = list(posterior.left_out)
    plan, proposed = _planned(posterior, left_out)
    sure = plan.sure
    # That the unit is sound is said by weight alone as well: it is no more than not read yet.
    sound = sound_leads(posterior)
    clear = sure.state is Sureness.CLEAR and (decided(posterior) or bool(plan.alike) or sound)
    leader = posterior.hypotheses[posterior.leader]
    decision = ("+".join(sure.parts) or next(iter(posterior.decisions))) if clear else ""
    likely = sure.state is Sureness.LIKELY
    # Of a sound unit, whatever is read next may speak against it.
    confirm = next(iter(proposed), None) if likely and (sure.reading or not sure.parts) else None
    return Diagnosis(
        _suspects(posterior),
        proposed,
        tuple(contradictions(posterior)),
        decision,
        _advice(leader) if clear else (),
        suspected_stops(
            posterior.evidence,
            leader.faults,
            describe(leader),
            float(posterior.probabilities[posterior.leader]),
        ),
        tuple(left_out),
        sure.state,
        sure.parts,
        confirm,
        tuple(tuple(posterior.hypotheses[n].id for n in group) for group in plan.alike),
        unread_of(posterior.evidence),
        _held(plan),
    )


def _held(plan: Plan) -> str:
    """What would tell most and is held back for what it could do, in words."""
    if plan.held is None:
        return ""
    proposal, refusal, suspects = plan.held
    calls = proposal.setting.calls
    should = f", should {' and '.join(map(sentence, suspects))}" if suspects else ""
    under = f" with {' and '.join(sorted(calls))} called" if calls else ""
    return f"{proposal.quantity} at {proposal.at}{under} would tell most, and is held back: {refusal}{should}"


def _planned(posterior: Posterior, left_out: list[str]) -> tuple[Plan, tuple[NextReading, ...]]:
    """The plan with its proposals in words; notes where time was up before it was found."""
    try:
        plan = whole_plan(posterior)
        again = read_often(posterior)
        found = tuple(
            _in_words(proposal, proposal is plan.sure.reading, again(proposal)) for proposal in plan.proposals
        )
        check_budget()
    except OutOfTime:
        left_out.append("what to read next")
        return Plan(), ()
    return plan, found


def what_else(evidence: Evidence) -> WhatElse:
    """What else to read with the leading fault taken as found; slower than ``diagnose``."""
    workspace = workspace_of(evidence.unit)
    try:
        with workspace.lock:
            return _in_all_words(look_around(posterior_of(evidence, workspace)))
    except OutOfTime:
        return WhatElse((), 0.0, (), full=False, in_time=False)


def _in_all_words(around: Around) -> WhatElse:
    found = tuple(
        _worded(p, f"would show something more in {chance_in_words(p.gain.decisive)} of such units")
        for p in around.readings
    )
    hidden = tuple(sentence(fault) for fault in around.hidden)
    return WhatElse(found, around.chance, hidden, around.full)


def chance_in_words(chance: float) -> str:
    """A small chance as it is shown: “1.4 %”, “under 0.1 %”."""
    percent = 100 * chance
    return "under 0.1 %" if percent < 0.1 else f"{percent:.{0 if percent >= 9.5 else 1}f} %"


def _suspects(posterior: Posterior) -> tuple[Suspect, ...]:
    p = posterior.probabilities
    order = [int(n) for n in np.argsort(-p[:-1], kind="stable")]
    listed = [n for n in order if p[n] >= LEAST_LISTED][:LISTED] or order[:1]
    if 0 not in listed:
        listed.append(0)  # the sound unit is always answered for
    reasons = None if posterior.left_out else Reasons(posterior)
    found = [
        Suspect(
            posterior.hypotheses[n].id,
            float(p[n]),
            describe(posterior.hypotheses[n]),
            reasons.of(n) if reasons is not None else (),
        )
        for n in listed
    ]
    rest = max(0.0, 1.0 - math.fsum(suspect.probability for suspect in found))
    return (*found, Suspect(OTHER, rest, "anything else", ()))


def describe(hypothesis: Hypothesis) -> str:
    if hypothesis.id == NONE:
        return "the unit is as rated"
    return ", and ".join(sentence(fault) for fault in hypothesis.faults)


def _advice(hypothesis: Hypothesis) -> tuple[str, ...]:
    if hypothesis.id == NONE:
        return ("Nothing to repair. Close the visit, or check what is left to check.",)
    found: list[str] = []
    for fault in hypothesis.faults:
        words = words_of(fault)
        found += [words.do, words.around]
    return tuple(dict.fromkeys(found))


def _in_words(proposal: Proposal, confirms: bool, again: bool) -> NextReading:
    likeliest = [decision for outcome in proposal.outcomes for decision, _ in outcome.decisions[:1]]
    names = [_decision(name) for name in dict.fromkeys(likeliest)][:3]
    why = "makes surer what it is"
    if confirms:
        why = "confirms it at the part itself"
    elif len(names) > 1:
        why = f"tells {names[0]} from {' and '.join(names[1:])}"
    return _worded(proposal, f"once more, to be sure of it: {why}" if again else why)


def _worded(proposal: Proposal, why: str) -> NextReading:
    """A proposal with what each of its outcomes would mean, the lowest reading first."""
    outcomes = (_meaning(proposal, outcome, n) for n, outcome in enumerate(proposal.outcomes))
    return NextReading(
        proposal.quantity,
        proposal.at,
        proposal.setting,
        proposal.hazard,
        proposal.minutes,
        why,
        tuple(sorted(outcomes, key=lambda o: o.low)),
        proposal.observe,
    )


def _meaning(proposal: Proposal, outcome: ReadingOutcome, number: int) -> Meaning:
    points = [f"{_decision(name)} ({100 * share:.0f} %)" for name, share in outcome.decisions[:2]]
    if outcome.decisions and outcome.decisions[0][1] >= 0.9:
        means = f"points to {points[0]}"
    else:
        means = f"leaves {', '.join(points)}" if points else "nothing that is expected"
    seen = ""
    if proposal.observe:
        seen = ("cycling", "steady")[number]
    return Meaning(outcome.low, outcome.high, means, outcome.probability, seen)


def _decision(name: str) -> str:
    if name == NONE:
        return "a sound unit"
    return name.replace(".supply", " supply").replace("+", " and ").replace(".wire", "’s wiring")


def reads_in_words(meaning: Meaning, quantity: Quantity | None) -> str:
    if quantity is None:
        return meaning.seen
    sign = quantity.sign
    if meaning.low >= 1e6:
        return f"OL {sign}"
    if meaning.low <= 0 and quantity is Quantity.VOLTS and meaning.high <= ABOUT_ZERO_V:
        return f"about 0 {sign}"
    if meaning.low <= 0:
        return f"up to {show(meaning.high, sign)}"
    return f"{show(meaning.low)} … {show(meaning.high, sign)}"
