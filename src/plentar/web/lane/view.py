"""What the lane page shows: houses in two facing rows, and their status from the visits."""

from __future__ import annotations

import uuid
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from plentar.core.unit import Unit
from plentar.store.models import Round, Visit
from plentar.store.units import UnitRecord

STATUSES = {
    "in-progress": "in progress",
    "due": "due",
    "follow-up": "follow-up",
    "done": "done",
}


@dataclass(frozen=True, slots=True)
class House:
    """One unit on the page."""

    unit_id: uuid.UUID
    door: int | None
    label: str
    kit: str
    status: str
    said: str
    when: datetime | None
    visit_id: uuid.UUID | None


@dataclass(frozen=True, slots=True)
class LaneView:
    """The page: two facing rows of a place, the rest as a list."""

    round: Round | None
    odd: list[House]
    even: list[House]
    others: list[House]
    counts: list[tuple[str, str, int]]


def lane_view(
    units: Sequence[UnitRecord], round_: Round | None, visits: Mapping[uuid.UUID, Visit]
) -> LaneView:
    """Sort the units: those of the round's place by door, the others by name."""
    houses = [
        (record, _house(record, visits.get(record.row.id), round_ is not None)) for record in units
    ]
    placed = [h for r, h in houses if round_ and r.row.place == round_.place and h.door]
    others = [h for _, h in houses if h not in placed]
    tally = Counter(house.status for house in placed)
    return LaneView(
        round_,
        [h for h in placed if h.door and h.door % 2],
        [h for h in placed if h.door and h.door % 2 == 0],
        others,
        [(status, said, tally[status]) for status, said in STATUSES.items()],
    )


def _house(record: UnitRecord, visit: Visit | None, in_round: bool) -> House:
    if visit is None:
        status, said = ("due", "due") if in_round else ("none", "")
    elif visit.closed_at is None:
        status, said = "in-progress", STATUSES["in-progress"]
    elif visit.follow_up:
        status, said = "follow-up", STATUSES["follow-up"]
    else:
        status, said = "done", STATUSES["done"]
    unit = record.unit
    return House(
        record.row.id, record.row.door, unit.label or unit.id, kit_in_words(unit), status, said,
        visit.started_at if visit else None, visit.id if visit else None,
    )  # fmt: skip


def kit_in_words(unit: Unit) -> str:
    """A unit's elements in short, such as ``2 × 5 kW`` or ``3.5 + 4.8 kW``."""
    kilowatts = [f"{e.rated_watts / 1000:g}" for e in unit.elements]
    if len(set(kilowatts)) == 1:
        return f"{len(kilowatts)} × {kilowatts[0]} kW"
    return " + ".join(kilowatts) + " kW"
