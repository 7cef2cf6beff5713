"""Visits and their events: the one place where a visit is found, checked and added to."""

from __future__ import annotations

import uuid
from collections.abc import Iterator, Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from functools import partial
from typing import Any

from sqlalchemy import ColumnExpressionArgument, bindparam, func, select, true, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session
from sqlalchemy.sql.functions import Function

from plentar.core.said import say
from plentar.core.visit.events import Event
from plentar.files.events_json import STRUCK_OUT, event_to_json
from plentar.files.handover_json import LeftOutJson, PhotoJson, ReopenedJson, ToldJson, WorkLineJson
from plentar.files.visit_json import AnsweredJson, LookedJson, NoteJson, PlateChangeJson
from plentar.store.accounts import SignedIn
from plentar.store.errors import Conflict, NotFound
from plentar.store.models import Account, UnitVersion, Visit, VisitEvent, VisitNote, now
from plentar.store.record import LATE, StoredEvent, VisitRecord, VisitRow, check_still_fits
from plentar.store.signing_in import SIGNED_IN, signed_in_by
from plentar.store.units import UnitRecord, checked_version
from plentar.store.visit_lists import visits_of_unit
from plentar.words import phrase
from plentar.words.numbers import clock

#: A photo's picture lies with the shop's photos, not in the visit's note of it.
PICTURE = {"jpeg"}
ANOTHER_BEGAN = say("store.visits.another-visit-has-begun")
#: How long after it was closed a visit may be opened again.
REOPENED_WITHIN = timedelta(days=1)
_VISIT = [getattr(Visit, name) for name in VisitRow.__dataclass_fields__]
_WANTED = Visit.shop_id == bindparam("shop"), Visit.id == bindparam("visit")
#: Locked before the server's functions read what it holds: they see what those before have committed.
_LOCKED = select(*_VISIT).where(*_WANTED).with_for_update().subquery()


def _held(visit_id: ColumnExpressionArgument[uuid.UUID]) -> tuple[Function[Any], Function[Any]]:
    """A visit's events and notes, each as one JSON value: one row to fetch and one text to parse."""
    return func.visit_events(visit_id), func.visit_notes(visit_id)


# Made once: building a statement and its cache key takes longer than the server's answer.
_FIND = select(*_VISIT, *_held(Visit.id)).where(*_WANTED)
_FIND_TO_WRITE = select(_LOCKED, *_held(_LOCKED.c.id))
_WHO = len(SIGNED_IN.selected_columns)
_OF_THEIR_SHOP = (
    select(*_VISIT)
    .where(Visit.shop_id == SIGNED_IN.selected_columns.shop_id, Visit.id == bindparam("visit"))
    .correlate(Account)
)
_WHO_FINDS, _WHO_FINDS_TO_WRITE = (
    SIGNED_IN.add_columns(visit, *_held(visit.c.id)).outerjoin(visit, true())
    for visit in (_OF_THEIR_SHOP.lateral(), _OF_THEIR_SHOP.with_for_update().lateral())
)
_OF_UNIT = (
    select(*_VISIT, *_held(Visit.id))
    .where(Visit.shop_id == bindparam("shop"), Visit.unit_id == bindparam("unit"))
    .order_by(Visit.started_at)
)
_APPEND = (
    insert(VisitEvent)
    .on_conflict_do_nothing(index_elements=["visit_id", "client_id"])
    .returning(VisitEvent.id)
)


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
        shop_id=record.row.shop_id,
        unit_id=record.row.id,
        version_id=record.version.id,
        opened_by=account.id,
        complaint=complaint,
        round_id=round_id,
        client_id=client_id,
        **{"settings": account.shop_settings, **given},
    )
    try:
        with session.begin_nested():
            session.add(row)
    except IntegrityError as error:
        known = visit_by_client(session, record.row.shop_id, client_id)
        if known is not None:
            return known
        if "visit_one_open" in str(error.orig):
            raise Conflict(phrase("store.visits.visit-already-open-this")) from None
        raise
    return row


def visit_by_client(session: Session, shop_id: uuid.UUID, client_id: uuid.UUID | None) -> Visit | None:
    """The visit that a form of this id has made, if it was sent before."""
    if client_id is None:
        return None
    return session.scalar(select(Visit).where(Visit.shop_id == shop_id, Visit.client_id == client_id))


def find_visit(
    session: Session, shop_id: uuid.UUID, visit_id: uuid.UUID, *, to_write: bool = False
) -> VisitRecord:
    """A visit of this shop; locked against others, and refused when closed, if it is to write.

    Raises NotFound, or Conflict on a closed visit.
    """
    which = {"shop": shop_id, "visit": visit_id}
    found = session.connection().execute(_FIND_TO_WRITE if to_write else _FIND, which).first()
    if found is None:
        raise NotFound(phrase("store.visits.no-such-visit"))
    record = _record(session, found)
    if to_write:
        check_open(record.row)
    return record


def check_open(row: VisitRow) -> None:
    """Raises Conflict on a closed visit."""
    if row.closed_at is not None:
        raise Conflict(phrase("store.visits.this-visit-closed-start"))


def who_finds_visit(
    session: Session, session_id: uuid.UUID, visit_id: uuid.UUID, *, to_write: bool = False
) -> tuple[SignedIn | None, VisitRecord | None]:
    """Whose session this is, and the visit where it is of that account's shop, in one trip; locked
    if it is to write, and closed perhaps."""
    which = signed_in_by(session_id) | {"visit": visit_id}
    statement = _WHO_FINDS_TO_WRITE if to_write else _WHO_FINDS
    found = session.connection().execute(statement, which).first()
    if found is None:
        return None, None
    who, held = found[:_WHO], found[_WHO:]
    seen = held[0] is not None  # the visit's id
    return SignedIn(*who), _record(session, held) if seen else None


def _record(session: Session, found: Sequence[Any]) -> VisitRecord:
    """The record of a row with what the visit holds."""
    *values, events, notes = found
    row = VisitRow(*values)
    unit = checked_version(row.version_id, partial(session.get_one, UnitVersion, row.version_id))
    return VisitRecord(row, unit, [StoredEvent(*event) for event in events], notes)


def records_of_unit(session: Session, shop_id: uuid.UUID, unit_id: uuid.UUID) -> list[VisitRecord]:
    """All visits of a unit with their events, oldest first, each by the plate of its time."""
    rows = session.connection().execute(_OF_UNIT, {"shop": shop_id, "unit": unit_id}).all()
    return [_record(session, row) for row in rows]


def read_before(
    session: Session, shop_id: uuid.UUID, unit_id: uuid.UUID, before: datetime, at: str
) -> Iterator[VisitRecord]:
    """The finished visits of a unit before a time on which somebody read at a point, the newest first,
    each fetched when it is asked for."""
    # Counted visit by visit: what is asked to exist is joined, with all events of the shop.
    readings = (
        select(func.count())
        .where(VisitEvent.visit_id == Visit.id, VisitEvent.body["at"].astext == at)
        .correlate(Visit)
        .scalar_subquery()
    )
    visits = session.scalars(
        select(Visit.id)
        .where(
            Visit.unit_id == unit_id, Visit.started_at < before, Visit.closed_at.is_not(None), readings > 0
        )
        .order_by(Visit.started_at.desc())
    ).all()
    for visit_id in visits:
        yield find_visit(session, shop_id, visit_id)


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
    it takes the place of one that was struck out, at its time. One that comes late stays out of the
    evidence until ``confirm_late``.

    Raises BadInput where the event does not fit the unit, Conflict where the id was used for
    something else.
    """
    event.check(record.unit)
    if record.stepped_back_s:
        event = replace(event, clock_s=record.clock_s)
    event = event if in_place else record.in_order(event)
    body, same = event_to_json(event), str(client_id)
    for known in record.events:
        if known.client_id == same:
            if _same(known.body, body):
                return record
            raise Conflict(phrase("store.visits.this-entry-was-already"))
    late = record.late and not in_place
    if late and not STRUCK_OUT & set(body):
        _note_late(session, record, event, client_id, by)
        return record
    recorded_at = now()
    values = {
        "shop_id": record.row.shop_id,
        "visit_id": record.row.id,
        "client_id": client_id,
        "t_s": event.t_s,
        "body": body,
        "recorded_by": by,
        "recorded_at": recorded_at,
        "struck_at": recorded_at if late else None,
        "struck_reason": LATE if late else None,
    }
    event_id = session.connection().execute(_APPEND, values).scalar_one_or_none()
    if event_id is None:  # the same entry, sent twice at once: the other has stored it by now
        fresh = find_visit(session, record.row.shop_id, record.row.id, to_write=True)
        fresh = replace(fresh, taken_at=record.taken_at)
        return append_event(session, fresh, event, client_id, by, in_place=in_place)
    if not record.late:
        _note_step(session, record, by)
    out = (recorded_at.isoformat(), LATE) if late else (None, None)
    return record.with_event(StoredEvent(event_id, str(client_id), event.t_s, body, *out))


def stored_as(session: Session, shop_id: uuid.UUID, visit_id: uuid.UUID, client_id: uuid.UUID) -> str | None:
    """Whether an entry of this id is stored: ``late`` where it waits to be confirmed, ``stored``, or None."""
    which = {"shop_id": shop_id, "visit_id": visit_id, "client_id": client_id}
    event = session.execute(select(VisitEvent.struck_reason).filter_by(**which)).first()
    if event is not None:
        return LATE if event[0] == LATE else "stored"
    note = session.execute(select(VisitNote.id).filter_by(**which)).first()
    return None if note is None else "stored"


def _note_late(
    session: Session, record: VisitRecord, event: Event, client_id: uuid.UUID, by: uuid.UUID
) -> None:
    """A switch that came late is no word on how the unit stands: it is noted, and moves nothing."""
    said = phrase("store.visits.switch-came-late", what=event.words(record.unit), when=clock(record.clock_s))
    note = NoteJson(t=record.elapsed_s, text=said, by=session.get_one(Account, by).name)
    add_note(session, record, note, client_id, by)


def _note_step(session: Session, record: VisitRecord, by: uuid.UUID) -> None:
    """Record that the clock was set back, once for each step."""
    back_s, t_s = record.stepped_back_s, record.elapsed_s
    if back_s and all(step["t"] != t_s for step in record.clock_steps):
        _add_note(session, record, "clock", {"t": t_s, "back_s": back_s}, uuid.uuid4(), by)


Note = (
    LookedJson
    | AnsweredJson
    | NoteJson
    | PlateChangeJson
    | WorkLineJson
    | LeftOutJson
    | ToldJson
    | PhotoJson
    | ReopenedJson
)
NOTE_KINDS: dict[type[Note], str] = {
    LookedJson: "looked",
    AnsweredJson: "answered",
    NoteJson: "note",
    PlateChangeJson: "plate",
    WorkLineJson: "work",
    LeftOutJson: "left_out",
    ToldJson: "told",
    PhotoJson: "photo",
    ReopenedJson: "reopened",
}


def add_note(session: Session, record: VisitRecord, note: Note, client_id: uuid.UUID, by: uuid.UUID) -> None:
    """Store a note under the client's id; the same id again stores nothing more."""
    body = note.model_dump(exclude=PICTURE)
    _add_note(session, record, NOTE_KINDS[type(note)], body, client_id, by)


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
            shop_id=record.row.shop_id,
            visit_id=record.row.id,
            client_id=client_id,
            kind=kind,
            body=body,
            recorded_by=by,
            recorded_at=now(),
        )
        .on_conflict_do_nothing(index_elements=["visit_id", "client_id"])
    )


def _same(one: dict[str, Any], two: dict[str, Any]) -> bool:
    return {**one, "t": 0} == {**two, "t": 0}


def strike(session: Session, record: VisitRecord, event_id: int, reason: str) -> None:
    """Strike a reading, an observation or a call out; it stays on record with the reason.

    Raises NotFound or Conflict.
    """
    event = next((event for event in record.events if event.id == event_id), None)
    if event is None:
        raise NotFound(phrase("store.visits.no-such-entry"))
    if not STRUCK_OUT & set(event.body):
        raise Conflict(phrase("store.visits.only-struck-out", struck_out=", ".join(sorted(STRUCK_OUT))))
    if "by" in event.body:
        check_still_fits(record.plate, record, phrase("store.visits.device-before"), without=event_id)
    if event.struck_at is None or event.waits:
        _set_struck(session, record, event_id, now(), reason)


def confirm_late(session: Session, record: VisitRecord, event_id: int) -> None:
    """Let an entry that came late be evidence, at its place in the order of acceptance.

    Raises NotFound, or Conflict where it is none that waits, or would not fit the unit.
    """
    event = next((event for event in record.events if event.id == event_id), None)
    if event is None:
        raise NotFound(phrase("store.visits.no-such-entry"))
    if not event.waits:
        raise Conflict(phrase("store.visits.entry-does-not-wait"))
    counted = replace(event, struck_at=None, struck_reason=None)
    events = [counted if known.id == event_id else known for known in record.events]
    check_still_fits(record.plate, replace(record, events=events), phrase("store.visits.entry-came-late"))
    _set_struck(session, record, event_id, None, None)


def _set_struck(
    session: Session, record: VisitRecord, event_id: int, at: datetime | None, reason: str | None
) -> None:
    session.execute(
        update(VisitEvent)
        .where(VisitEvent.id == event_id, VisitEvent.visit_id == record.row.id)
        .values(struck_at=at, struck_reason=reason)
    )


def close_visit(session: Session, row: VisitRow, outcome: str, left_note: str, follow_up: str) -> None:
    session.execute(
        update(Visit)
        .where(Visit.shop_id == row.shop_id, Visit.id == row.id)
        .values(closed_at=now(), outcome=outcome, left_note=left_note, follow_up=follow_up)
    )


def reopen_visit(session: Session, record: VisitRecord, reason: str, by: SignedIn) -> None:
    """Take back that a visit was closed, within a day and by a lead; it stays on record.

    Raises Conflict where it is too late, or another visit has begun since.
    """
    which = {"shop": record.row.shop_id, "visit": record.row.id}
    session.connection().execute(_FIND_TO_WRITE, which)
    record = find_visit(session, record.row.shop_id, record.row.id)
    row = record.row
    if by.role != "lead":
        raise Conflict(phrase("store.visits.only-lead-opens-visit"))
    if row.closed_at is None or row.outcome is None:
        raise Conflict(phrase("store.visits.this-visit-open"))
    if not may_reopen(row):
        raise Conflict(phrase("store.visits.visit-opened-again-within"))
    newest = visits_of_unit(session, row.shop_id, row.unit_id)[0]
    if newest.id != row.id:
        raise Conflict(ANOTHER_BEGAN)
    note = ReopenedJson(t=record.elapsed_s, reason=reason, outcome=row.outcome, by=by.name)
    add_note(session, record, note, uuid.uuid4(), by.id)
    opened = (
        update(Visit)
        .where(Visit.shop_id == row.shop_id, Visit.id == row.id)
        .values(closed_at=None, outcome=None)
    )
    try:
        session.execute(opened)
    except IntegrityError:  # begun at the same moment, or while the clock was set back
        raise Conflict(ANOTHER_BEGAN) from None


def may_reopen(row: VisitRow) -> bool:
    """It was closed, and not so long ago."""
    return row.closed_at is not None and now() - row.closed_at <= REOPENED_WITHIN


def opener_name(session: Session, row: VisitRow) -> str:
    return session.scalars(select(Account.name).where(Account.id == row.opened_by)).one()
