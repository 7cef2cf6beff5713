"""A judgement as the command line prints it."""

from __future__ import annotations

from typing import Any

from plentar.core.judgement import ElementJudgement, Judgement

FORMAT = "plentar-judgement"
VERSION = 1


def judgement_to_json(judgement: Judgement) -> dict[str, Any]:
    """The judgement in the contract's terms."""
    return {
        "format": FORMAT,
        "version": VERSION,
        "elements": [_element(e) for e in judgement.elements],
        "findings": [
            {
                "code": f.code,
                "level": str(f.level),
                "component": f.component,
                "text": f.text,
                "numbers": {name: round(value, 4) for name, value in f.numbers.items()},
            }
            for f in judgement.findings
        ],
        "slips": [{"code": s.code, "at": s.at, "text": s.text} for s in judgement.slips],
    }


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
