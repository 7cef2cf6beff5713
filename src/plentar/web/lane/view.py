"""What the lane page shows: houses in two facing rows, and their status from the visits."""

from __future__ import annotations

import uuid
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import url_for
from markupsafe import Markup

from plentar.core.events import OUTCOMES
from plentar.core.unit import Unit
from plentar.store.models import Round, Visit
from plentar.store.units import UnitRecord
from plentar.web.showing import local

STATUSES = {
    "in-progress": "in progress",
    "due": "due",
    "follow-up": "follow-up",
    "done": "done",
}

_MARKS = {
    "done": '<path d="M3 3v14M17 3v14"/><circle class="solid" cx="10" cy="10" r="3.6"/>',
    "in-progress": '<path d="M4 10h12M11 5l5 5-5 5"/>',
    "follow-up": '<path d="M5 17V3l10 4-10 4"/>',
    "due": '<circle cx="10" cy="10" r="6.5" stroke-dasharray="3 3"/>',
}


@dataclass(frozen=True, slots=True)
class House:
    """One unit on the page."""

    door: str
    label: str
    kit: str
    status: str
    said: str
    mark: Markup
    when: str
    #: Where it leads: the open visit's bench, else the unit.
    href: str
    unit_href: str
    #: How it was left, and what is to follow; empty where all is done.
    left: str = ""


@dataclass(frozen=True, slots=True)
class LaneView:
    """The page: two facing rows of a place, the rest as a list."""

    title: str
    #: The round's place; empty where there is no round.
    place: str
    others_title: str
    odd: list[House]
    even: list[House]
    others: list[House]
    counts: list[tuple[str, str, int]]


def lane_view(
    units: Sequence[UnitRecord],
    round_: Round | None,
    visits: Mapping[uuid.UUID, Visit],
    left: Mapping[uuid.UUID, Visit],
) -> LaneView:
    """Sort the units: those of the round's place by door, the others by name."""
    houses = [
        (
            record,
            _house(record, visits.get(record.row.id), round_ is not None, left.get(record.row.id)),
        )
        for record in units
    ]
    here = [(r.row.door, h) for r, h in houses if round_ and r.row.place == round_.place]
    placed = [(door, h) for door, h in here if door]
    shown = [h for _, h in placed]
    tally = Counter(house.status for house in shown)
    return LaneView(
        round_.title if round_ else "Units",
        round_.place if round_ else "",
        "Elsewhere" if round_ else "All units",
        [h for door, h in placed if door % 2],
        [h for door, h in placed if door % 2 == 0],
        [h for _, h in houses if h not in shown],
        [(status, said, tally[status]) for status, said in STATUSES.items()] if round_ else [],
    )


def _house(record: UnitRecord, visit: Visit | None, in_round: bool, left: Visit | None) -> House:
    if visit is None:
        status, said = ("due", "due") if in_round else ("none", "")
    elif visit.closed_at is None:
        status, said = "in-progress", STATUSES["in-progress"]
    elif visit.follow_up:
        status, said = "follow-up", STATUSES["follow-up"]
    else:
        status, said = "done", STATUSES["done"]
    unit, unit_href = record.unit, url_for("units.show", unit_id=record.row.id)
    opened = visit is not None and visit.closed_at is None
    return House(
        str(record.row.door or "·"), unit.label or unit.id, kit_in_words(unit), status, said,
        Markup(_MARKS.get(status, _MARKS["due"])),
        f"{local(visit.started_at).day} {local(visit.started_at):%b}" if visit else "",
        url_for("visits.bench", visit_id=visit.id) if visit and opened else unit_href,
        unit_href, _left(left),
    )  # fmt: skip


def _left(visit: Visit | None) -> str:
    """How the last finished visit left a unit that is not simply in service."""
    if visit is None:
        return ""
    how = "" if visit.outcome == "in-service" else OUTCOMES.get(visit.outcome or "", "")
    return " · ".join(filter(None, [how, visit.follow_up and f"follow-up: {visit.follow_up}"]))


def kit_in_words(unit: Unit) -> str:
    """A unit's elements in short, such as ``2 × 5 kW`` or ``3.5 + 4.8 kW``."""
    kilowatts = [f"{e.rated_watts / 1000:g}" for e in unit.elements]
    if len(set(kilowatts)) == 1:
        return f"{len(kilowatts)} × {kilowatts[0]} kW"
    return " + ".join(kilowatts) + " kW"
