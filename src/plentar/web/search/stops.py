"""Stops that nobody has answered yet, over the visits that are open."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from flask import url_for

from plentar.core.door import judge_checked
from plentar.store.visit_lists import CallRow
from plentar.store.visits import find_visit
from plentar.web.database import database
from plentar.web.people import me


@dataclass(frozen=True, slots=True)
class OpenStop:
    """One stop: at which unit, who is there, what it says, and the bench where it is answered."""

    label: str
    who: str
    text: str
    href: str


def open_stops(calls: Sequence[CallRow]) -> list[OpenStop]:
    """The stops of some open visits."""
    found = []
    for call in calls:
        record = find_visit(database(), me().shop_id, call.visit_id)
        href = url_for("visits.bench", visit_id=call.visit_id)
        found += [
            OpenStop(call.label, call.who, str(finding.text), href)
            for finding in judge_checked(record.unit, record.core()).stops
        ]
    return found
