"""Visits and their events: the one place where a visit is found, checked and added to."""

from __future__ import annotations

import math
import uuid
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from functools import cached_property, partial
from typing import Any

from sqlalchemy import bindparam, func, select, text, update
from sqlalchemy.dialects.postgresql import aggregate_order_by, distinct_on, insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from plentar.core.door import state_at
from plentar.core.errors import BadInput
from plentar.core.events import OFF, STAGE_OFF, Did, Event, Power, check_visit, unit_after
from plentar.core.events import Visit as CoreVisit
from plentar.core.unit import Unit
from plentar.files.events_json import STRUCK_OUT, event_from_json, event_to_json
from plentar.files.visit_json import (
    AnsweredJson,
    LookedJson,
    NoteJson,
    PlateChangeJson,
    SettingsJson,
)
from plentar.store.accounts import SignedIn
from plentar.store.errors import Conflict, NotFound
from plentar.store.models import Account, Round, UnitVersion, Visit, VisitEvent, VisitNote, now
from plentar.store.units import UnitRecord, checked_plate, checked_version, the_one


@dataclass(frozen=True, slots=True)
class StoredEvent:
    """An event's row. Rows are read far more often than written, so they are plain values."""

    id: int
    client_id: str
    t_s: float
    body: dict[str, Any]
    struck_at: str | None = None
    struck_reason: str | None = None


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


#: How much of a note is carried along.
MOST_NOTE = 2000
#: What a visit's times are told apart by, s.
LEAST_TIME_S = 0.1
#: Of an event's time over the clock's; less is the rounding of times, s.
LEAST_STEP_S = 1.0

_TABLE = VisitEvent.__table__
_NOTES = (
    select(
        func.coalesce(
            func.json_agg(aggregate_order_by(
                func.json_build_array(VisitNote.kind, VisitNote.body), VisitNote.id
            )),
            text("'[]'::json"),
        )
    )
    .where(VisitNote.visit_id == Visit.id)
    .correlate(Visit)
    .scalar_subquery()
)  # fmt: skip
_VISIT = [getattr(Visit, name) for name in VisitRow.__dataclass_fields__]
#: A visit's events as one JSON value: one row to fetch and one text to parse.
_FIELDS = func.json_build_array(*(_TABLE.c[name] for name in StoredEvent.__dataclass_fields__))
_EVENTS = (
    select(
        func.coalesce(
            func.json_agg(aggregate_order_by(_FIELDS, _TABLE.c.t_s, _TABLE.c.id)),
            text("'[]'::json"),
        )
    )
    .where(_TABLE.c.visit_id == Visit.id)
    .correlate(Visit)
    .scalar_subquery()
)
# Made once: building a statement and its cache key takes longer than the server's answer.
_FIND = select(*_VISIT, _EVENTS, _NOTES).where(
    Visit.shop_id == bindparam("shop"), Visit.id == bindparam("visit")
)
#: By itself, before anything is read: what is read after it is what those before have committed.
_LOCK = (
    select(Visit.id)
    .where(Visit.shop_id == bindparam("shop"), Visit.id == bindparam("visit"))
    .with_for_update()
)
_OF_UNIT = (
    select(*_VISIT, _EVENTS, _NOTES)
    .where(Visit.shop_id == bindparam("shop"), Visit.unit_id == bindparam("unit"))
    .order_by(Visit.started_at)
)
_APPEND = (
    insert(VisitEvent)
    .on_conflict_do_nothing(index_elements=["visit_id", "client_id"])
    .returning(_TABLE.c.id)
)


@dataclass(frozen=True)
class VisitRecord:
    """A visit with its events, struck ones included, and the plate that it began with."""

    row: VisitRow
    plate: Unit
    events: Sequence[StoredEvent]
    #: (kind, body): what was looked at, and which stop-now findings were answered.
    notes: Sequence[tuple[str, dict[str, Any]]] = ()
    _parsed: dict[int, Event] = field(default_factory=dict, compare=False)

    @cached_property
    def unit(self) -> Unit:
        """The unit as it stands: what another kind of device has replaced is replaced."""
        refits = [e for e in self.events if "by" in e.body and not e.struck_at]
        if not refits:
            return self.plate
        return the_one(unit_after(self.plate, map(self.core_event, refits)))

    def core(self) -> CoreVisit:
        """The visit as the core judges it: struck readings stay out."""
        return CoreVisit(
            self.row.complaint,
            SettingsJson.model_validate(self.row.settings).to_core(),
            tuple(self.core_event(event) for event in self.events if not event.struck_at),
            tuple(LookedJson(**body).to_core() for body in self.noted("looked")),
            tuple(AnsweredJson(**body).to_core() for body in self.noted("answered")),
        )

    def core_event(self, event: StoredEvent) -> Event:
        """One stored event in the core's terms, parsed once."""
        if event.id not in self._parsed:
            self._parsed[event.id] = event_from_json(event.body, event.client_id)
        return self._parsed[event.id]

    def with_event(self, event: StoredEvent) -> VisitRecord:
        """The record with one more event, in its place in time."""
        events = sorted([*self.events, event], key=lambda e: (e.t_s, e.id))
        return VisitRecord(self.row, self.plate, events, self.notes, self._parsed)

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
        """What the clock says, s since the visit began."""
        return round(max(0.0, (now() - self.row.started_at).total_seconds()), 1)

    @property
    def _newest_s(self) -> float:
        return self.events[-1].t_s if self.events else 0.0

    def noted(self, kind: str) -> list[dict[str, Any]]:
        """The notes of one kind."""
        return [body for noted, body in self.notes if noted == kind]

    @property
    def clock_steps(self) -> list[dict[str, Any]]:
        """Where the clock was set back: the time of the visit, and how far."""
        return self.noted("clock")

    def in_order(self, event: Event) -> Event:
        """The event, not before the last that moved a switch where it moves one itself, and after
        what was read at the same time: the state at a time includes what moved then."""
        if not event.is_switch:
            return event
        before = [self.core_event(e) for e in self.events]
        t_s = max([event.t_s, *(e.t_s for e in before if e.is_switch)])
        if any(e.t_s == t_s and not e.is_switch for e in before):
            t_s = round(t_s + LEAST_TIME_S, 1)
        return replace(event, t_s=t_s)


def start_visit(
    session: Session,
    record: UnitRecord,
    account: SignedIn,
    complaint: str | None,
    round_id: uuid.UUID | None = None,
    client_id: uuid.UUID | None = None,
    **given: Any,
) -> Visit:
    """Open a visit on the newest plate; the same client's id again is the same visit.

    Raises Conflict when another one is open already. ``given`` may set started_at, settings and
    the closing columns of an imported visit.
    """
    row = Visit(
        shop_id=record.row.shop_id, unit_id=record.row.id, version_id=record.version.id,
        opened_by=account.id, complaint=complaint, round_id=round_id, client_id=client_id,
        **{"settings": account.shop_settings, **given},
    )  # fmt: skip
    try:
        with session.begin_nested():
            session.add(row)
    except IntegrityError as error:
        known = visit_by_client(session, record.row.shop_id, client_id)
        if known is not None:
            return known
        if "visit_one_open" in str(error.orig):
            raise Conflict("a visit is already open on this unit; close it first") from None
        raise
    return row


def carry_over(session: Session, visit: Visit, by: SignedIn) -> None:
    """Begin a visit in the state in which the one before left the unit: breakers that were left
    off, strips that were disabled or left off. Nothing where there was none, or the visit has
    entries already.
    """
    records = records_of_unit(session, visit.shop_id, visit.unit_id)
    here = next(record for record in records if record.row.id == visit.id)
    before = [r for r in records if r.row.closed_at and r.row.started_at < visit.started_at]
    if here.events or not before:
        return
    for number, event in enumerate(_left(before[-1], here.unit)):
        key = uuid.uuid5(visit.id, f"left {number}")
        here = append_event(session, here, event, key, by.id)


def _left(before: VisitRecord, unit: Unit) -> Iterator[Event]:
    """How a visit left the unit, as events of the next."""
    off = {e.id for e in unit.elements} if before.row.outcome == "heat-disabled" else set()
    off |= state_at(before.unit, before.core().events, math.inf).stages_off
    note = f"as the last visit left it: {before.row.left_note}"[:MOST_NOTE].rstrip(": ")
    for element in unit.elements:
        if element.id in off:
            yield Did(t_s=0.0, verb=STAGE_OFF, part=element.id, note=note)
    if before.row.outcome == "left-off":
        yield Power(t_s=0.0, state=OFF)


def visit_by_client(
    session: Session, shop_id: uuid.UUID, client_id: uuid.UUID | None
) -> Visit | None:
    """The visit that a form of this id has made, if it was sent before."""
    if client_id is None:
        return None
    return session.scalar(
        select(Visit).where(Visit.shop_id == shop_id, Visit.client_id == client_id)
    )


def find_visit(
    session: Session, shop_id: uuid.UUID, visit_id: uuid.UUID, *, to_write: bool = False
) -> VisitRecord:
    """A visit of this shop; locked against others, and refused when closed, if it is to write.

    Raises NotFound, or Conflict on a closed visit.
    """
    which = {"shop": shop_id, "visit": visit_id}
    if to_write:
        session.connection().execute(_LOCK, which)
    found = session.connection().execute(_FIND, which).first()
    if found is None:
        raise NotFound("no such visit")
    *values, events, notes = found
    row = VisitRow(*values)
    if to_write and row.closed_at is not None:
        raise Conflict("this visit is closed; start a new one to add to it")
    unit = checked_version(row.version_id, lambda: session.get_one(UnitVersion, row.version_id))
    return VisitRecord(row, unit, [StoredEvent(*event) for event in events], notes)


def records_of_unit(session: Session, shop_id: uuid.UUID, unit_id: uuid.UUID) -> list[VisitRecord]:
    """All visits of a unit with their events, oldest first, each by the plate of its time."""
    rows = session.connection().execute(_OF_UNIT, {"shop": shop_id, "unit": unit_id}).all()
    found = []
    for *values, events, notes in rows:
        row = VisitRow(*values)
        unit = checked_version(
            row.version_id, partial(session.get_one, UnitVersion, row.version_id)
        )
        found.append(VisitRecord(row, unit, [StoredEvent(*event) for event in events], notes))
    return found


def append_event(
    session: Session,
    record: VisitRecord,
    event: Event,
    client_id: uuid.UUID,
    by: uuid.UUID,
    *,
    in_place: bool = False,
) -> VisitRecord:
    """Store one event under the client's id; the same id again stores nothing more. ``in_place``:
    it takes the place of one that was struck out, at its time.

    Raises BadInput where the event does not fit the unit, Conflict where the id was used for
    something else.
    """
    event.check(record.unit)
    if record.stepped_back_s:
        event = replace(event, clock_s=record.clock_s)
    event = event if in_place else record.in_order(event)
    body = event_to_json(event)
    for known in record.events:
        if known.client_id == str(client_id):
            if _same(known.body, body):
                return record
            raise Conflict("this entry was already stored with another value")
    values = {
        "shop_id": record.row.shop_id, "visit_id": record.row.id, "client_id": client_id,
        "t_s": event.t_s, "body": body, "recorded_by": by, "recorded_at": now(),
    }  # fmt: skip
    event_id = session.connection().execute(_APPEND, values).scalar_one_or_none()
    if event_id is None:  # the same entry, sent twice at once: the other has stored it by now
        fresh = find_visit(session, record.row.shop_id, record.row.id, to_write=True)
        return append_event(session, fresh, event, client_id, by, in_place=in_place)
    _note_step(session, record, by)
    return record.with_event(StoredEvent(event_id, str(client_id), event.t_s, body))


def _note_step(session: Session, record: VisitRecord, by: uuid.UUID) -> None:
    """Record that the clock was set back, once for each step."""
    back_s, t_s = record.stepped_back_s, record.elapsed_s
    if back_s and all(step["t"] != t_s for step in record.clock_steps):
        _add_note(session, record, "clock", {"t": t_s, "back_s": back_s}, uuid.uuid4(), by)


Note = LookedJson | AnsweredJson | NoteJson | PlateChangeJson
NOTE_KINDS: dict[type[Note], str] = {
    LookedJson: "looked", AnsweredJson: "answered", NoteJson: "note", PlateChangeJson: "plate",
}  # fmt: skip


def _check_still_fits(plate: Unit, record: VisitRecord, what: str, without: int = 0) -> None:
    """Raises Conflict where an event of the visit, one apart, would fit the unit no more."""
    events = [e for e in record.events if not e.struck_at and e.id != without]
    try:
        check_visit(plate, CoreVisit(events=tuple(map(record.core_event, events))))
    except BadInput as bad:
        raise Conflict(f"an entry of this visit does not fit {what}: {bad.reason}") from None


def add_note(
    session: Session, record: VisitRecord, note: Note, client_id: uuid.UUID, by: uuid.UUID
) -> None:
    """Store a note under the client's id; the same id again stores nothing more."""
    _add_note(session, record, NOTE_KINDS[type(note)], note.model_dump(), client_id, by)


def judge_by_plate(session: Session, record: VisitRecord, version: UnitVersion) -> None:
    """From now on the visit is judged by another version of its plate, which was right all along.

    Raises Conflict where an event of the visit does not fit it.
    """
    _check_still_fits(checked_plate(version), record, "this plate")
    session.execute(
        update(Visit)
        .where(Visit.shop_id == record.row.shop_id, Visit.id == record.row.id)
        .values(version_id=version.id)
    )


def _add_note(
    session: Session,
    record: VisitRecord,
    kind: str,
    body: dict[str, Any],
    client_id: uuid.UUID,
    by: uuid.UUID,
) -> None:
    session.execute(
        insert(VisitNote)
        .values(
            shop_id=record.row.shop_id, visit_id=record.row.id, client_id=client_id, kind=kind,
            body=body, recorded_by=by, recorded_at=now(),
        )
        .on_conflict_do_nothing(index_elements=["visit_id", "client_id"])
    )  # fmt: skip


def _same(one: dict[str, Any], two: dict[str, Any]) -> bool:
    return {**one, "t": 0} == {**two, "t": 0}


def strike(session: Session, record: VisitRecord, event_id: int, reason: str) -> None:
    """Strike a reading, an observation or a call out; it stays on record with the reason.

    Raises NotFound or Conflict.
    """
    event = next((event for event in record.events if event.id == event_id), None)
    if event is None:
        raise NotFound("no such entry")
    if not STRUCK_OUT & set(event.body):
        raise Conflict(f"only {', '.join(sorted(STRUCK_OUT))} are struck out")
    if "by" in event.body:
        _check_still_fits(record.plate, record, "the device of before", without=event_id)
    if event.struck_at is None:
        session.execute(
            update(VisitEvent)
            .where(VisitEvent.id == event_id, VisitEvent.visit_id == record.row.id)
            .values(struck_at=now(), struck_reason=reason)
        )


def close_visit(
    session: Session, row: VisitRow, outcome: str, left_note: str, follow_up: str
) -> None:
    """Close a visit for good."""
    session.execute(
        update(Visit)
        .where(Visit.shop_id == row.shop_id, Visit.id == row.id)
        .values(closed_at=now(), outcome=outcome, left_note=left_note, follow_up=follow_up)
    )


def opener_name(session: Session, row: VisitRow) -> str:
    """Who opened a visit."""
    return session.scalars(select(Account.name).where(Account.id == row.opened_by)).one()


def visits_of_unit(session: Session, shop_id: uuid.UUID, unit_id: uuid.UUID) -> Sequence[Visit]:
    """The visits of a unit, newest first."""
    return session.scalars(
        select(Visit)
        .where(Visit.shop_id == shop_id, Visit.unit_id == unit_id)
        .order_by(Visit.started_at.desc())
    ).all()


def newest_round(session: Session, shop_id: uuid.UUID) -> Round | None:
    """The round that is on, if the shop keeps rounds."""
    return session.scalar(
        select(Round).where(Round.shop_id == shop_id).order_by(Round.opened_on.desc()).limit(1)
    )


def left_over(session: Session, shop_id: uuid.UUID) -> dict[uuid.UUID, Visit]:
    """The newest finished visit of each unit that it left off, disabled, or to be followed up."""
    newest = (
        select(Visit)
        .where(Visit.shop_id == shop_id, Visit.closed_at.is_not(None))
        .ext(distinct_on(Visit.unit_id))
        .order_by(Visit.unit_id, Visit.started_at.desc())
    )
    return {
        row.unit_id: row
        for row in session.scalars(newest)
        if row.outcome != "in-service" or row.follow_up
    }


def visits_of_round(session: Session, round_: Round) -> dict[uuid.UUID, Visit]:
    """The newest visit of each unit in a round, by unit."""
    rows = session.scalars(
        select(Visit)
        .where(Visit.shop_id == round_.shop_id, Visit.round_id == round_.id)
        .order_by(Visit.started_at)
    )
    return {row.unit_id: row for row in rows}
