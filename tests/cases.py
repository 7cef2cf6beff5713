"""Small visits to judge, written as the visit file's events."""

from __future__ import annotations

from typing import Any

from plentar.core.door import judge, judge_reading
from plentar.core.judgement import Judgement
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Visit
from plentar.files.visit_json import VisitJson
from tests.kits import Kit, build_kit

TWO = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "Two strips")
VOLTS = {"t": 1, "read": "volts", "at": "C1", "value": 240}
CALL = {"t": 5, "calls": ["W1"]}
DEAD = [{"t": 500, "power": "off"}, {"t": 520, "power": "proved-dead"}]


def visit_of(*events: dict[str, Any], **more: Any) -> Visit:
    """A visit from events as a file writes them."""
    return VisitJson.model_validate({"events": list(events), **more}).to_core()


def judged(*events: dict[str, Any], unit: Unit = TWO, **more: Any) -> Judgement:
    """What the core says of them."""
    return judge(unit, visit_of(*events, **more))


def amps(t: float, at: str, value: float) -> dict[str, Any]:
    """An amps reading."""
    return {"t": t, "read": "amps", "at": at, "value": value}


def last_word(judgement: Judgement) -> str:
    """The verdict on the last reading."""
    evidence = judgement.evidence
    return str(judge_reading(evidence, evidence.taken[-1]).verdict.word)


def words(judgement: Judgement) -> dict[str, str]:
    """The verdict of each element."""
    return {element.id: str(element.word) for element in judgement.elements}


def codes(judgement: Judgement) -> set[str]:
    """The codes of all slips."""
    return {slip.code for slip in judgement.slips}
