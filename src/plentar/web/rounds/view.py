"""What a round's page shows: each unit with its state in shape and word, the minutes it usually takes."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from flask import url_for

from plentar.store.models import Account, Round
from plentar.store.rounds import RoundStop
from plentar.words import phrase

#: What a visit is taken to need where none was yet, minutes.
USUAL_MINUTES = 45.0


@dataclass(frozen=True, slots=True)
class StopRow:
    unit_id: uuid.UUID
    label: str
    place: str
    state: str
    href: str
    who: str
    minutes: str


class RoundView:
    def __init__(
        self,
        round_: Round,
        stops: Sequence[RoundStop],
        minutes: Mapping[uuid.UUID, float],
        people: Sequence[Account],
    ) -> None:
        self.round, self.stops, self.minutes, self.people = round_, stops, minutes, people
        self._names = {person.id: person.name for person in people}

    @property
    def said(self) -> str:
        done = sum(stop.done for stop in self.stops)
        left = sum(self.minutes.get(stop.unit_id, USUAL_MINUTES) for stop in self.stops if not stop.done)
        return phrase(
            "rounds.view.done-about-hours-left", done=done, len=len(self.stops), left=f"{left / 60:.1f}"
        )

    @property
    def rows(self) -> list[StopRow]:
        """The units in order of their places."""
        return [self._row(stop) for stop in self.stops]

    def _row(self, stop: RoundStop) -> StopRow:
        state = phrase(
            "rounds.view.done"
            if stop.done
            else "rounds.view.under-way"
            if stop.visit_id
            else "rounds.view.to-do"
        )
        nobody = phrase("rounds.view.nobody-yet")
        under_way = stop.visit_id is not None and not stop.done
        return StopRow(
            stop.unit_id,
            stop.label,
            stop.place,
            state,
            url_for("visits.bench", visit_id=stop.visit_id)
            if under_way
            else url_for("units.show", unit_id=stop.unit_id),
            self._names.get(stop.who, nobody) if stop.who else nobody,
            phrase("rounds.view.min", minutes=f"{self.minutes[stop.unit_id]:.0f}")
            if stop.unit_id in self.minutes
            else "—",
        )
