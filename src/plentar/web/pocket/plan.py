"""The pocket plan in words: the next card, and the cards after its likely outcomes."""

from __future__ import annotations

import uuid
from typing import Any

from plentar.core.pocket.plan import Step
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence
from plentar.web.judge_pool import Busy, judge_pool
from plentar.web.visits.judging import card_of


def plan_of(unit: Unit, evidence: Evidence, shop_id: uuid.UUID) -> dict[str, Any] | None:
    """The plan as it stands; None while the judge has others to answer."""
    try:
        return _step(unit, judge_pool().plan(evidence, shop_id))
    except Busy:
        return None


def _step(unit: Unit, step: Step) -> dict[str, Any]:
    return {
        "card": None if step.reading is None else _card(unit, step),
        "advice": [str(one) for one in step.advice],
        "then": [
            {
                "low": float(outcome.low),
                "high": float(outcome.high) if outcome.high < float("inf") else None,
                "step": _step(unit, after),
            }
            for outcome, after in step.then
        ],
    }


def _card(unit: Unit, step: Step) -> dict[str, Any]:
    assert step.reading is not None
    card = card_of(unit, step.reading, "", first=True)
    return {
        "title": card.title,
        "setting": card.setting,
        "steps": list(card.steps),
        "caution": f"{card.shape} {card.caution}",
        "minutes": card.minutes,
        "at": card.at,
        "quantity": card.fields["quantity"],
    }
