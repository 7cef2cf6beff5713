"""Suspects with their reasons, the next readings, and what to do once it is clear."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from plentar.core.evidence import Evidence
from plentar.core.judge.hypotheses.hypothesis import NONE, OTHER, Hypothesis
from plentar.core.judge.hypotheses.words import sentence, words_of
from plentar.core.judge.plan.around import Around, look_around
from plentar.core.judge.plan.planner import decided, next_readings
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.survivors import Outcome
from plentar.core.judge.shown.atlas import atlas_of
from plentar.core.judge.weigh.posterior import Posterior, posterior
from plentar.core.judge.weigh.reasons import Reasons, contradictions
from plentar.core.judgement import Finding
from plentar.core.numerals import show
from plentar.core.quantity import Quantity
from plentar.core.unit import Unit

LISTED, LEAST_LISTED = 12, 0.003


@dataclass(frozen=True, slots=True)
class Suspect:
    """One hypothesis as it is shown. ``fault`` is ``none``, an id, a pair ``A+B``, or ``other``."""

    fault: str
    probability: float
    words: str
    because: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Meaning:
    """What one stretch of a reading would mean. For an observation, ``seen`` is its word."""

    low: float
    high: float
    means: str
    probability: float
    seen: str = ""


@dataclass(frozen=True, slots=True)
class NextReading:
    """A proposal in words."""

    proposal: Proposal
    why: str
    outcomes: tuple[Meaning, ...]


@dataclass(frozen=True, slots=True)
class Diagnosis:
    """Everything that the judge says beside the plain verdicts.

    ``decision`` names the parts to work on once that is clear; ``advice`` says what to do.
    """

    suspects: tuple[Suspect, ...]
    next: tuple[NextReading, ...]
    contradictions: tuple[Finding, ...]
    decision: str
    advice: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class WhatElse:
    """What may be wrong beside what was found.

    ``chance`` is that of a second fault that some reading would still show; ``hidden`` are those
    that none shows while the first is there, in words; ``full`` with two found, as many as are weighed.
    """

    next: tuple[NextReading, ...]
    chance: float
    hidden: tuple[str, ...]
    full: bool


def diagnose(evidence: Evidence) -> Diagnosis:
    """The judge's answer to a visit so far."""
    unit = evidence.unit
    atlas = atlas_of(unit)
    with atlas.lock:
        return _diagnose(unit, posterior(evidence, atlas))


def _diagnose(unit: Unit, weighed: Posterior) -> Diagnosis:
    clear = decided(weighed)
    decision = next(iter(weighed.decisions)) if clear else ""
    return Diagnosis(
        _suspects(weighed),
        tuple(_in_words(proposal) for proposal in next_readings(weighed)),
        tuple(contradictions(weighed)),
        decision,
        _advice(unit, weighed.hypotheses[weighed.leader]) if clear else (),
    )


def what_else(evidence: Evidence) -> WhatElse:
    """What else to read with the leading fault taken as found; slower than ``diagnose``."""
    unit = evidence.unit
    atlas = atlas_of(unit)
    with atlas.lock:
        return _in_all_words(unit, look_around(posterior(evidence, atlas)))


def _in_all_words(unit: Unit, around: Around) -> WhatElse:
    found = tuple(
        _worded(p, f"would show something more in {share(p.told.righter)} of such units")
        for p in around.readings
    )
    hidden = tuple(sentence(fault) for fault in around.hidden)
    return WhatElse(found, around.chance, hidden, around.full)


def share(chance: float) -> str:
    """A small chance as it is shown: “1.4 %”, “under 0.1 %”."""
    percent = 100 * chance
    return "under 0.1 %" if percent < 0.1 else f"{percent:.{0 if percent >= 9.5 else 1}f} %"


def _suspects(weighed: Posterior) -> tuple[Suspect, ...]:
    p = weighed.probabilities
    order = [int(n) for n in np.argsort(-p[:-1], kind="stable")]
    listed = [n for n in order if p[n] >= LEAST_LISTED][:LISTED] or order[:1]
    if 0 not in listed:
        listed.append(0)  # the sound unit is always answered for
    reasons = Reasons(weighed)
    found = [
        Suspect(
            weighed.hypotheses[n].id,
            float(p[n]),
            describe(weighed.evidence.unit, weighed.hypotheses[n]),
            reasons.of(n),
        )
        for n in listed
    ]
    rest = max(0.0, 1.0 - math.fsum(suspect.probability for suspect in found))
    return (*found, Suspect(OTHER, rest, "anything else", ()))


def describe(unit: Unit, hypothesis: Hypothesis) -> str:
    """A hypothesis in words."""
    if hypothesis.id == NONE:
        return "the unit is as rated"
    return ", and ".join(sentence(fault) for fault in hypothesis.faults)


def _advice(unit: Unit, hypothesis: Hypothesis) -> tuple[str, ...]:
    if hypothesis.id == NONE:
        return ("Nothing to repair. Close the visit, or check what is left to check.",)
    found: list[str] = []
    for fault in hypothesis.faults:
        words = words_of(fault)
        found += [words.do, words.around]
    return tuple(dict.fromkeys(found))


def _in_words(proposal: Proposal) -> NextReading:
    told = [decision for outcome in proposal.outcomes for decision, _ in outcome.decisions[:1]]
    names = [_decision(name) for name in dict.fromkeys(told)][:3]
    if len(names) > 1:
        return _worded(proposal, f"tells {names[0]} from {' and '.join(names[1:])}")
    return _worded(proposal, "makes surer what it is")


def _worded(proposal: Proposal, why: str) -> NextReading:
    """A proposal with what each of its outcomes would mean, the lowest reading first."""
    outcomes = (_meaning(proposal, outcome, n) for n, outcome in enumerate(proposal.outcomes))
    return NextReading(proposal, why, tuple(sorted(outcomes, key=lambda o: o.low)))


def _meaning(proposal: Proposal, outcome: Outcome, number: int) -> Meaning:
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


def reads(meaning: Meaning, quantity: Quantity | None) -> str:
    """An outcome's readings in a line."""
    if quantity is None:
        return meaning.seen
    sign = quantity.sign
    if meaning.low >= 1e6:
        return f"OL {sign}"
    if meaning.low <= 0:
        return f"up to {show(meaning.high, sign)}"
    return f"{show(meaning.low)} … {show(meaning.high, sign)}"
