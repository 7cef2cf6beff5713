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
from plentar.core.judgement import (
    NEXT_LEFT_OUT,
    NONE,
    OTHER,
    Diagnosis,
    Meaning,
    NextReading,
    Sureness,
    Suspect,
    WhatElse,
)
from plentar.core.quantity import OPEN_FROM_OHMS, Quantity
from plentar.core.safety.suspected import suspected_stops
from plentar.core.said import NOTHING, Said, figure, listed, rounded, say, span
from plentar.core.unit.naming import said_of_all
from plentar.core.unit.points import point_said
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence

#: Across what is closed a field meter shows nothing else.
ABOUT_ZERO_V = 0.3
#: From this share on a decision is named alone for an outcome.
ALONE = 0.9
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
            describe(posterior.evidence.unit, leader),
            float(posterior.probabilities[posterior.leader]),
        ),
        tuple(left_out),
        sure.state,
        sure.parts,
        confirm,
        tuple(tuple(posterior.hypotheses[n].id for n in group) for group in plan.alike),
        unread_of(posterior.evidence),
        _held(posterior.evidence.unit, plan),
    )


def _held(plan_unit: Unit, plan: Plan) -> Said:
    """What would tell most and is held back for what it could do, in words."""
    if plan.held is None:
        return NOTHING
    proposal, refusal, suspects = plan.held
    unit, calls = plan_unit, proposal.setting.calls
    should = say("next.should", faults=listed(sentence(unit, f) for f in suspects)) if suspects else NOTHING
    what = say(f"quantity.{proposal.quantity}") if proposal.quantity else say("next.watch")
    where = say("next.where", what=what, at=point_said(unit, proposal.at))
    if calls:
        where = say("next.under", what=where, calls=listed(sorted(calls)))
    return say("next.held", what=where, refusal=refusal) + should


def _planned(posterior: Posterior, left_out: list[Said]) -> tuple[Plan, tuple[NextReading, ...]]:
    """The plan with its proposals in words; notes where time was up before it was found."""
    try:
        plan = whole_plan(posterior)
        again, unit = read_often(posterior), posterior.evidence.unit
        found = tuple(
            _in_words(unit, proposal, proposal is plan.sure.reading, again(proposal))
            for proposal in plan.proposals
        )
        check_budget()
    except OutOfTime:
        left_out.append(NEXT_LEFT_OUT)
        return Plan(), ()
    return plan, found


def what_else(evidence: Evidence) -> WhatElse:
    """What else to read with the leading fault taken as found; slower than ``diagnose``."""
    workspace = workspace_of(evidence.unit)
    try:
        with workspace.lock:
            return _in_all_words(evidence.unit, look_around(posterior_of(evidence, workspace)))
    except OutOfTime:
        return WhatElse((), 0.0, (), full=False, in_time=False)


def _in_all_words(unit: Unit, around: Around) -> WhatElse:
    found = tuple(
        _worded(unit, p, say("next.shows-more", chance=chance_in_words(p.gain.decisive)))
        for p in around.readings
    )
    hidden = tuple(sentence(unit, fault) for fault in around.hidden)
    return WhatElse(found, around.chance, hidden, around.full)


def chance_in_words(chance: float) -> Said:
    """A small chance as it is shown: “1.4 %”, “under 0.1 %”."""
    percent = 100 * chance
    return (
        say("percent.under")
        if percent < 0.1
        else say("percent", n=rounded(percent, 0 if percent >= 9.5 else 1))
    )


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
            describe(posterior.evidence.unit, posterior.hypotheses[n]),
            reasons.of(n) if reasons is not None else (),
        )
        for n in listed
    ]
    rest = max(0.0, 1.0 - math.fsum(suspect.probability for suspect in found))
    return (*found, Suspect(OTHER, rest, say("fault.other"), ()))


def describe(unit: Unit, hypothesis: Hypothesis) -> Said:
    if hypothesis.id == NONE:
        return say("fault.none")
    return listed(sentence(unit, fault) for fault in hypothesis.faults)


def _advice(hypothesis: Hypothesis) -> tuple[Said, ...]:
    if hypothesis.id == NONE:
        return (say("advice.none"),)
    found: list[Said] = []
    for fault in hypothesis.faults:
        words = words_of(fault)
        found += [words.do, words.around]
    return tuple(dict.fromkeys(found))


def _in_words(unit: Unit, proposal: Proposal, confirms: bool, again: bool) -> NextReading:
    likeliest = [decision for outcome in proposal.outcomes for decision, _ in outcome.decisions[:1]]
    names = [_decision(unit, name) for name in dict.fromkeys(likeliest)][:3]
    why = say("next.surer")
    if confirms:
        why = say("next.confirms")
    elif len(names) > 1:
        why = say("next.separates", one=names[0], others=listed(names[1:]))
    return _worded(unit, proposal, say("next.again", why=why) if again else why)


def _worded(unit: Unit, proposal: Proposal, why: Said) -> NextReading:
    """A proposal with what each of its outcomes would mean, the lowest reading first."""
    seen = ("cycling", "steady") if proposal.observe else ("",) * len(proposal.outcomes)
    outcomes = (_meaning(unit, *each) for each in zip(proposal.outcomes, seen, strict=False))
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


def _meaning(unit: Unit, outcome: ReadingOutcome, seen: str) -> Meaning:
    likely = [(_decision(unit, name), share) for name, share in outcome.decisions[:2]]
    if not likely:
        means = say("next.means-nothing")
    elif likely[0][1] >= ALONE:
        means = say("next.means-one", part=likely[0][0], share=rounded(100 * likely[0][1]))
    else:
        parts = (say("next.part-share", part=part, share=rounded(100 * share)) for part, share in likely)
        means = listed(parts, "or")
    return Meaning(outcome.low, outcome.high, means, outcome.probability, seen)


def _decision(unit: Unit, name: str) -> Said:
    return say("fault.none") if name == NONE else said_of_all(unit, name)


def reads_in_words(meaning: Meaning, quantity: Quantity | None) -> Said:
    if quantity is None:
        return say(f"seen.{meaning.seen}")
    sign = quantity.sign
    if meaning.low >= OPEN_FROM_OHMS:
        return figure(math.inf, sign)
    if meaning.low <= 0 and quantity is Quantity.VOLTS and meaning.high <= ABOUT_ZERO_V:
        return say("about-zero", unit=sign)
    return span(meaning.low, meaning.high, sign)
