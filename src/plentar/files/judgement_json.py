"""A judgement as the command line prints it."""

from __future__ import annotations

from typing import Any

from plentar.core.door import suspected_stops, with_acts
from plentar.core.judgement import (
    Diagnosis,
    ElementJudgement,
    Finding,
    Judgement,
    Meaning,
    NextReading,
    Setting,
)
from plentar.core.quantity import OPEN_FROM_OHMS

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
        "decision": {
            "state": diagnosis.state,
            "parts": list(diagnosis.parts),
            "confirm": _next(diagnosis.confirm) if diagnosis.confirm else None,
            "unread": list(diagnosis.unread),
        },
        "findings": [
            finding_to_json(with_acts(judgement, f))
            for f in (*suspected_stops(judgement, diagnosis), *judgement.findings, *diagnosis.contradictions)
        ],
        "not_judged": [
            {"check": str(n.check), "component": n.component, "because": str(n.because)}
            for n in judgement.not_judged
        ],
        "slips": [{"code": s.code, "at": s.at, "text": str(s.text)} for s in judgement.slips],
    }


def finding_to_json(finding: Finding) -> dict[str, Any]:
    return {
        "code": finding.code,
        "level": str(finding.level),
        "component": finding.component,
        "text": str(finding.text),
        "numbers": {name: round(value, 4) for name, value in finding.numbers.items()},
    }


def _suspects(diagnosis: Diagnosis) -> list[dict[str, Any]]:
    """Rounded so that the whole is 1 still: the tail takes what rounding leaves."""
    listed: list[dict[str, Any]] = [
        {"fault": s.fault, "probability": round(s.probability, 7), "because": [str(one) for one in s.because]}
        for s in diagnosis.suspects
    ]
    listed[-1]["probability"] = round(1 - sum(s["probability"] for s in listed[:-1]), 7)
    return listed


def _next(reading: NextReading) -> dict[str, Any]:
    what = (
        {"observe": reading.observe, "part": reading.at}
        if reading.quantity is None
        else {"read": str(reading.quantity), "at": reading.at}
    )
    return {
        **what,
        "with": setting_to_json(reading.setting),
        "why": str(reading.why),
        "outcomes": [_outcome(outcome) for outcome in reading.outcomes],
        "hazard": str(reading.hazard),
        "minutes": round(reading.minutes, 1),
    }


def setting_to_json(setting: Setting) -> dict[str, Any]:
    """What to set before a reading; what stays as it is is left out."""
    written: dict[str, Any] = {
        "power": setting.power,
        "circuit": setting.circuit,
        "calls": None if setting.calls is None else sorted(setting.calls),
        "lifted": setting.lifted,
        "fresh": setting.fresh or None,
        "after_s": setting.after_s,
        "driven": setting.driven or None,
        "guard": None
        if setting.guard is None
        else {
            "from": sorted(setting.guard.begins),
            "at_most_s": setting.guard.at_most_s,
            "then": sorted(setting.guard.ends),
        },
    }
    return {name: value for name, value in written.items() if value is not None}


def _outcome(outcome: Meaning) -> dict[str, Any]:
    if outcome.seen:
        return {"reads": outcome.seen, "means": str(outcome.means)}
    ends: list[float | str] = [_end(outcome.low), _end(outcome.high)]
    return {"reads": ends, "means": str(outcome.means)}


def _end(value: float) -> float | str:
    return "OL" if value >= OPEN_FROM_OHMS else round(value, 2)


def _element(element: ElementJudgement) -> dict[str, Any]:
    return {
        "id": element.id,
        "nominal_amps": round(element.nominal_amps, 2),
        "expected_amps": [round(element.expected_amps.low, 2), round(element.expected_amps.high, 2)],
        "measured_amps": element.measured_amps,
        "verdict": str(element.word),
        "provisional": element.provisional,
    }
