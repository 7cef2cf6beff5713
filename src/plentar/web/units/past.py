"""The finished visits of a unit, as its page lists them, and how the last one left it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from flask import url_for

from plentar.store.models import Visit
from plentar.web.showing import day
from plentar.words import phrase
from plentar.words.visits import complaint_in_words, outcome_in_words


@dataclass(frozen=True, slots=True)
class PastVisit:
    """One line: when, what about, and its report."""

    when: str
    said: str
    href: str


@dataclass(frozen=True, slots=True)
class LeftOpen:
    """How the last visit left a unit that is not simply in service."""

    how: str
    when: str
    note: str
    follow_up: str


def past_visits(visits: Iterable[Visit]) -> list[PastVisit]:
    return [
        PastVisit(
            day(visit.started_at),
            " · ".join(
                filter(
                    None,
                    (complaint_in_words(visit.complaint), visit.follow_up and phrase("lane.view.follow-up")),
                )
            ),
            url_for("reports.report", visit_id=visit.id),
        )
        for visit in visits
        if visit.closed_at is not None
    ]


def left_open(visits: Sequence[Visit]) -> LeftOpen | None:
    """What the newest finished visit has left over, newest first; None where all is done."""
    last = next((visit for visit in visits if visit.closed_at is not None), None)
    if last is None or (last.outcome == "in-service" and not last.follow_up):
        return None
    how = outcome_in_words(last.outcome).capitalize()
    return LeftOpen(phrase("units.past.since", how=how), day(last.started_at), last.left_note, last.follow_up)
