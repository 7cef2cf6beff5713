"""What the first page shows of a shop of any shape: calls under way, the round that is on with its
streets drawn where the doors make one, and units of no round."""

from __future__ import annotations

import uuid
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import groupby

from flask import url_for
from markupsafe import Markup

from plentar.core.said import say
from plentar.core.unit.unit import Unit
from plentar.store.models import Round, Visit
from plentar.store.rounds import RoundStop
from plentar.store.units import UnitRecord
from plentar.store.visit_lists import CallRow
from plentar.web.showing import local
from plentar.words import phrase
from plentar.words.dates import day_of_month
from plentar.words.visits import complaint_in_words, outcome_in_words

STATUSES = {
    "in-progress": say("lane.view.progress"),
    "due": say("lane.view.due"),
    "follow-up": say("lane.view.follow-up"),
    "done": say("lane.view.done"),
}
#: How many of a round's units the page draws, and how many of no round it lists; the rest is a touch
#: away. A street has so many houses at least.
MOST_DRAWN, MOST_LISTED, LEAST_HOUSES = 120, 60, 4

_MARKS = {
    "done": '<path d="M3 3v14M17 3v14"/><circle class="solid" cx="10" cy="10" r="3.6"/>',
    "in-progress": '<path d="M4 10h12M11 5l5 5-5 5"/>',
    "follow-up": '<path d="M5 17V3l10 4-10 4"/>',
    "due": '<circle cx="10" cy="10" r="6.5" stroke-dasharray="3 3"/>',
}


@dataclass(frozen=True, slots=True)
class House:
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
class Street:
    """The round's units at one place: two facing rows where each has a door of its own, else a list."""

    place: str
    odd: Sequence[House] = ()
    even: Sequence[House] = ()
    listed: Sequence[House] = ()


@dataclass(frozen=True, slots=True)
class CallLine:
    label: str
    said: str
    open: bool
    href: str


@dataclass(frozen=True, slots=True)
class RoundLine:
    """A round that is not over."""

    title: str
    said: str
    href: str


@dataclass(frozen=True)
class FirstPage:
    """What the page is made from: the shop's calls, its rounds with their units and how many are done,
    the stops of the one that is on, and of every unit that is drawn its plate, visit and what is left."""

    calls: Sequence[CallRow]
    rounds: Sequence[tuple[Round, int, int]] = ()
    stops: Sequence[RoundStop] = ()
    loose: Sequence[uuid.UUID] = ()
    loose_in_all: int = 0
    units: Mapping[uuid.UUID, UnitRecord] = field(default_factory=dict)
    left: Mapping[uuid.UUID, Visit] = field(default_factory=dict)

    @property
    def round(self) -> Round | None:
        return self.rounds[0][0] if self.rounds else None

    @property
    def title(self) -> str:
        return self.round.title if self.round else phrase("lane.view.units")

    @property
    def other_rounds(self) -> list[RoundLine]:
        """Those that are not over, beside the one that is drawn."""
        return [
            RoundLine(
                round_.title,
                phrase(
                    "lane.view.of",
                    done=done,
                    every=every,
                    how=phrase("lane.view.by", due_on=str(round_.due_on)) if round_.due_on else "",
                ),
                url_for("rounds.one", round_id=round_.id),
            )
            for round_, every, done in self.rounds[1:]
            if done < every
        ]

    @property
    def call_lines(self) -> list[CallLine]:
        """Calls that are no stop of the round which is drawn, those under way first."""
        drawn = self.round.id if self.round else None
        return [_call(call) for call in self.calls if drawn is None or call.round_id != drawn]

    @property
    def counts(self) -> list[tuple[str, str, int]]:
        tally = Counter(map(_status, self.stops))
        return [(s, str(said), tally[s]) for s, said in STATUSES.items()] if self.round else []

    @property
    def streets(self) -> list[Street]:
        drawn = self.stops[:MOST_DRAWN]
        return [_street(place, list(some), self) for place, some in groupby(drawn, lambda s: s.place)]

    @property
    def not_drawn(self) -> int:
        """How many of the round's units the page leaves to the round's own."""
        return max(0, len(self.stops) - MOST_DRAWN)

    @property
    def others(self) -> list[House]:
        """Units of no round."""
        return [self.house(unit_id) for unit_id in self.loose if unit_id in self.units]

    def house(self, unit_id: uuid.UUID, stop: RoundStop | None = None) -> House:
        record = self.units[unit_id]
        unit, unit_href = record.unit, url_for("units.show", unit_id=unit_id)
        status = _status(stop) if stop else "none"
        begun = stop.begun_at if stop else None
        under_way = next((c for c in self.calls if c.unit_id == unit_id and not c.closed_at), None)
        if under_way is not None:
            status, begun = "in-progress", under_way.started_at
        return House(
            str(record.row.door or "·"),
            unit.label or unit.id,
            kit_in_words(unit),
            status,
            str(STATUSES.get(status, "")),
            Markup(_MARKS.get(status, _MARKS["due"])),
            day_of_month(local(begun)) if begun else "",
            url_for("visits.bench", visit_id=under_way.visit_id) if under_way else unit_href,
            unit_href,
            _left(self.left.get(unit_id)),
        )


def _street(place: str, stops: Sequence[RoundStop], page: FirstPage) -> Street:
    houses = [(stop.door, page.house(stop.unit_id, stop)) for stop in stops]
    doors = {door for door, _ in houses if door}
    if not place or len(doors) < len(houses) or len(houses) < LEAST_HOUSES:
        return Street(place, listed=[house for _, house in houses])
    sides: tuple[list[House], list[House]] = ([], [])
    for door, house in houses:
        sides[(door or 0) % 2].append(house)
    return Street(place, odd=sides[1], even=sides[0])


def _status(stop: RoundStop) -> str:
    if stop.visit_id is None:
        return "due"
    if not stop.done:
        return "in-progress"
    return "follow-up" if stop.follow_up else "done"


def _call(call: CallRow) -> CallLine:
    begun = local(call.started_at)
    opened = call.closed_at is None
    said = f"{complaint_in_words(call.complaint)}, {call.who}, {day_of_month(begun)}, {begun:%H:%M}"
    endpoint = "visits.bench" if opened else "reports.report"
    return CallLine(call.label, said, opened, url_for(endpoint, visit_id=call.visit_id))


def _left(visit: Visit | None) -> str:
    """How the last finished visit left a unit that is not simply in service."""
    if visit is None:
        return ""
    how = "" if visit.outcome == "in-service" else outcome_in_words(visit.outcome)
    return " · ".join(
        filter(None, [how, visit.follow_up and phrase("lane.view.to-follow-up", what=visit.follow_up)])
    )


def kit_in_words(unit: Unit) -> str:
    """A unit's elements in short, such as ``2 × 5 kW`` or ``3.5 + 4.8 kW``."""
    kilowatts = [f"{e.rated_watts / 1000:g}" for e in unit.elements]
    if len(set(kilowatts)) == 1:
        return phrase("lane.view.kw", len=len(kilowatts), kilowatts=kilowatts[0])
    return " + ".join(kilowatts) + " kW"
