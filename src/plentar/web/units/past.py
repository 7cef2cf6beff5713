"""The finished visits of a unit, as its page lists them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from flask import url_for

from plentar.core.events import COMPLAINTS
from plentar.store.models import Visit
from plentar.web.showing import day


@dataclass(frozen=True, slots=True)
class PastVisit:
    """One line: when, what about, and its report."""

    when: str
    said: str
    href: str


def past_visits(visits: Iterable[Visit]) -> list[PastVisit]:
    """Those that are closed."""
    return [
        PastVisit(
            day(visit.started_at),
            COMPLAINTS.get(visit.complaint or "", "visit")
            + (" · follow-up" if visit.follow_up else ""),
            url_for("handover.report", visit_id=visit.id),
        )
        for visit in visits
        if visit.closed_at is not None
    ]
