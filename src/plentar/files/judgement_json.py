"""A judgement as the command line prints it."""

from __future__ import annotations

from typing import Any

from plentar.core.judge.diagnosis import Diagnosis, Meaning, NextReading
from plentar.core.judgement import ElementJudgement, Judgement
from plentar.core.tables.assumptions import OPEN_FROM_OHMS

FORMAT = "plentar-judgement"
VERSION = 1


def judgement_to_json(judgement: Judgement, diagnosis: Diagnosis) -> dict[str, Any]:
    """The judgement and the diagnosis of the same evidence in the contract's terms."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "elements": [_element(e) for e in judgement.elements],
        "suspects": _suspects(diagnosis),
        "next": [_next(reading) for reading in diagnosis.next],
        "findings": [
            {
                "code": f.code,
                "level": str(f.level),
                "component": f.component,
                "text": f.text,
                "numbers": {name: round(value, 4) for name, value in f.numbers.items()},
            }
            for f in (*judgement.findings, *diagnosis.contradictions)
        ],
        "slips": [{"code": s.code, "at": s.at, "text": s.text} for s in judgement.slips],
    }


def _suspects(diagnosis: Diagnosis) -> list[dict[str, Any]]:
    """Rounded so that the whole is 1 still: the tail takes what rounding leaves."""
    listed = [
        {"fault": s.fault, "probability": round(s.probability, 7), "because": list(s.because)}
        for s in diagnosis.suspects
    ]
    listed[-1]["probability"] = round(1 - sum(s["probability"] for s in listed[:-1]), 7)
    return listed


def _next(reading: NextReading) -> dict[str, Any]:
    proposal = reading.proposal
    what = (
        {"observe": proposal.observe, "part": proposal.at}
        if proposal.quantity is None
        else {"read": str(proposal.quantity), "at": proposal.at}
    )
    return {
        **what,
        "with": proposal.setting,
        "why": reading.why,
        "outcomes": [_outcome(outcome) for outcome in reading.outcomes],
        "hazard": proposal.hazard,
        "minutes": round(proposal.minutes, 1),
    }


def _outcome(outcome: Meaning) -> dict[str, Any]:
    if outcome.seen:
        return {"reads": outcome.seen, "means": outcome.means}
    ends: list[float | str] = [_end(outcome.low), _end(outcome.high)]
    return {"reads": ends, "means": outcome.means}


def _end(value: float) -> float | str:
    return "OL" if value >= OPEN_FROM_OHMS else round(value, 2)


def _element(element: ElementJudgement) -> dict[str, Any]:
    return {
        "id": element.id,
        "nominal_amps": round(element.nominal_amps, 2),
        "expected_amps": [
            round(element.expected_amps.low, 2),
            round(element.expected_amps.high, 2),
        ],
        "measured_amps": element.measured_amps,
        "verdict": str(element.word),
        "provisional": element.provisional,
    }
