"""A visit as it is kept, as plain values: rows are read far more often than written."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from functools import cached_property
from typing import Any

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.errors import BadInput
from plentar.core.handover.work import WorkLine, standing
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import with_struck
from plentar.core.visit.events import Event, check_visit, unit_after
from plentar.core.visit.events import Visit as CoreVisit
from plentar.files.events_json import event_from_json
from plentar.files.handover_json import LeftOutJson, PhotoJson, ToldJson, WorkLineJson
from plentar.files.visit_json import AnsweredJson, LookedJson, SettingsJson
from plentar.store.errors import Conflict
from plentar.store.models import now
from plentar.store.units import the_one
from plentar.words import phrase

#: What a visit's times are told apart by, s.
LEAST_TIME_S = 0.1
#: Of an event's time over the clock's; less is the rounding of times, s.
LEAST_STEP_S = 1.0
#: About what an event takes.
EVENT_BYTES = 600
#: Why an entry that came late stays out until somebody confirms it; a code, also in the visit file.
LATE = "late"
_PARSED: Cache[uuid.UUID, tuple[dict[int, Event], int]] = Cache(
    "parsed events", 32 * MEGABYTE, lambda parsed: parsed[1]
)


@dataclass(frozen=True, slots=True)
class StoredEvent:
    """An event's row, its fields in the order of the server's ``visit_events``. Rows are read far
    more often than written, so they are plain values."""

    id: int
    client_id: str
    t_s: float
    body: dict[str, Any]
    struck_at: str | None = None
    struck_reason: str | None = None

    @property
    def waits(self) -> bool:
        """It came late, and is no evidence until somebody confirms it; what is struck out with that word
        has no clock of its own."""
        return self.struck_reason == LATE and "clock" in self.body


@dataclass(frozen=True, slots=True)
class VisitRow:
    """A visit's row, as plain values for the same reason."""

    id: uuid.UUID
    shop_id: uuid.UUID
    unit_id: uuid.UUID
    version_id: uuid.UUID
    complaint: str | None
    settings: dict[str, Any]
    started_at: datetime
    closed_at: datetime | None
    outcome: str | None
    left_note: str
    follow_up: str
    opened_by: uuid.UUID


@dataclass(frozen=True)
class VisitRecord:
    """A visit with its events, struck ones included, and the plate that it began with."""

    row: VisitRow
    plate: Unit
    events: Sequence[StoredEvent]
    #: (kind, body): what was looked at, and which stop-now findings were answered.
    notes: Sequence[tuple[str, dict[str, Any]]] = ()
    #: When what is to be written was done, where that is not now: it waited on a phone.
    taken_at: datetime | None = None

    @cached_property
    def _parsed(self) -> dict[int, Event]:
        """The events in the core's terms that were asked for, shared by all records of the visit."""
        most = EVENT_BYTES * len(self.events)
        kept = _PARSED.get(self.row.id)
        return _PARSED.keep(self.row.id, (kept[0] if kept else {}, most))[0]

    @cached_property
    def unit(self) -> Unit:
        """The unit as it stands: what another kind of device has replaced is replaced."""
        refits = [e for e in self.events if "by" in e.body and not e.struck_at]
        if not refits:
            return self.plate
        return the_one(unit_after(self.plate, map(self.core_event, refits)))

    def core(self) -> CoreVisit:
        """The visit as the core judges it: struck readings stay out."""
        events = tuple(self.core_event(event) for event in self.events if not event.struck_at)
        if len(events) < len(self.events):
            struck = (self.core_event(event) for event in self.events if event.struck_at)
            events = with_struck(unit_after(self.plate, events), events, struck)
        return CoreVisit(
            self.row.complaint,
            SettingsJson.model_validate(self.row.settings).to_core(),
            events,
            tuple(LookedJson(**body).to_core() for body in self.noted("looked")),
            tuple(AnsweredJson(**body).to_core() for body in self.answers),
            tuple(LeftOutJson(**body).to_core() for body in self.noted("left_out")),
        )

    def core_event(self, event: StoredEvent) -> Event:
        """One stored event in the core's terms, parsed once: what is stored never changes."""
        if event.id not in self._parsed:
            self._parsed[event.id] = event_from_json(event.body, event.client_id)
        return self._parsed[event.id]

    def with_event(self, event: StoredEvent) -> VisitRecord:
        events = sorted([*self.events, event], key=lambda e: (e.t_s, e.id))
        return VisitRecord(self.row, self.plate, events, self.notes, self.taken_at)

    @property
    def elapsed_s(self) -> float:
        """Seconds since the visit began, and never before its newest event: where the clock was
        set back, the order in which events were accepted holds."""
        return round(max(self.clock_s, self._newest_s), 1)

    @property
    def stepped_back_s(self) -> float:
        """How far the clock stands behind the newest event, s; 0 where that is no step."""
        behind = self._newest_s - self.clock_s
        return round(behind, 1) if behind > LEAST_STEP_S else 0.0

    @property
    def clock_s(self) -> float:
        """What the clock says, s since the visit began; said, when what is written was done."""
        return round(max(0.0, ((self.taken_at or now()) - self.row.started_at).total_seconds()), 1)

    @property
    def late(self) -> bool:
        """Something was accepted that happened after what is to be written."""
        return self.taken_at is not None and self.stepped_back_s > 0

    @property
    def _newest_s(self) -> float:
        return self.events[-1].t_s if self.events else 0.0

    def noted(self, kind: str) -> list[dict[str, Any]]:
        return [body for noted, body in self.notes if noted == kind]

    @cached_property
    def work(self) -> tuple[WorkLine, ...]:
        return standing(WorkLineJson(**body).to_core() for body in self.noted("work"))

    @property
    def photos(self) -> list[PhotoJson]:
        """The photos, in the order in which they came."""
        return [PhotoJson(**body) for body in self.noted("photo")]

    @property
    def answers(self) -> list[dict[str, Any]]:
        """The stops that were answered. ``events`` is stored as the entries that stood then, struck ones
        too; it comes out as how many of those that are evidence it covers."""
        ids = sorted(event.id for event in self.events)
        return [
            body if body.get("events") is None else body | self._covered(ids, body["events"])
            for body in self.noted("answered")
        ]

    def _covered(self, ids: Sequence[int], entries: int) -> dict[str, int]:
        last = ids[min(entries, len(ids)) - 1] if entries and ids else 0
        kept = [event for event in self.events if not event.struck_at]
        return {"events": next((n for n, event in enumerate(kept) if event.id > last), len(kept))}

    @property
    def told(self) -> list[ToldJson]:
        return [ToldJson(**body) for body in self.noted("told")]

    @property
    def clock_steps(self) -> list[dict[str, Any]]:
        """Where the clock was set back: the time of the visit, and how far."""
        return self.noted("clock")

    def in_order(self, event: Event) -> Event:
        """The event, not before the last that moved a switch where it moves one itself, and after
        what was read at the same time: the state at a time includes what moved then, and so does
        what was mended then."""
        if not _changes(event):
            return event
        before = [self.core_event(e) for e in self.events]
        t_s = max([event.t_s, *(e.t_s for e in before if e.is_switch)])
        if any(e.t_s == t_s and not _changes(e) for e in before):
            t_s = round(t_s + LEAST_TIME_S, 1)
        return replace(event, t_s=t_s)


def _changes(event: Event) -> bool:
    """What is read at the time of this event is read after it."""
    return event.is_switch or bool(event.mended)


def check_still_fits(plate: Unit, record: VisitRecord, what: str, without: int = 0) -> None:
    """Raises Conflict where an event of the visit, one apart, would fit the unit no more."""
    events = [e for e in record.events if not e.struck_at and e.id != without]
    try:
        check_visit(plate, CoreVisit(events=tuple(map(record.core_event, events))))
    except BadInput as bad:
        raise Conflict(phrase("store.record.entry-this-visit-does", what=what, reason=bad.reason)) from None
