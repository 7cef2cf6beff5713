"""Visits and their events: the one place where a visit is found, checked and added to."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from plentar.core.events import Event, check_event
from plentar.core.events import Visit as CoreVisit
from plentar.core.unit import Unit
from plentar.files.visit_json import SettingsJson, event_from_json, event_to_json
from plentar.store.errors import Conflict, NotFound
from plentar.store.models import Account, Round, Visit, VisitEvent, now
from plentar.store.units import UnitRecord, checked_plate


@dataclass(frozen=True, slots=True)
class VisitRecord:
    """A visit with its events, struck ones included, and the plate that it is judged by."""

    row: Visit
    unit: Unit
    events: Sequence[VisitEvent]

    def core(self) -> CoreVisit:
        """The visit as the core judges it: struck readings stay out."""
        return CoreVisit(
            self.row.complaint,
            SettingsJson.model_validate(self.row.settings).to_core(),
            tuple(
                event_from_json(e.body, str(e.client_id)) for e in self.events if not e.struck_at
            ),
        )

    @property
    def elapsed_s(self) -> float:
        """Seconds since the visit began."""
        return round(max(0.0, (now() - self.row.started_at).total_seconds()), 1)


def start_visit(
    session: Session,
    record: UnitRecord,
    account: Account,
    complaint: str | None,
    round_id: uuid.UUID | None = None,
    **given: Any,
) -> Visit:
    """Open a visit on the newest plate; raises Conflict when one is open already.

    ``given`` may set started_at, settings and the closing columns of an imported visit.
    """
    row = Visit(
        shop_id=record.row.shop_id, unit_id=record.row.id, version_id=record.version.id,
        opened_by=account.id, complaint=complaint, round_id=round_id,
        **{"settings": account.shop.settings, **given},
    )  # fmt: skip
    session.add(row)
    try:
        session.flush()
    except IntegrityError as error:
        session.rollback()
        if "visit_one_open" in str(error.orig):
            raise Conflict("a visit is already open on this unit; close it first") from None
        raise
    return row


def find_visit(
    session: Session, shop_id: uuid.UUID, visit_id: uuid.UUID, *, to_write: bool = False
) -> VisitRecord:
    """A visit of this shop; locked against others, and refused when closed, if it is to write.

    Raises NotFound, or Conflict on a closed visit.
    """
    query = select(Visit).where(Visit.shop_id == shop_id, Visit.id == visit_id)
    if to_write:
        query = query.with_for_update(of=Visit)
    row = session.scalar(query)
    if row is None:
        raise NotFound("no such visit")
    if to_write and row.closed_at is not None:
        raise Conflict("this visit is closed; start a new one to add to it")
    return VisitRecord(row, checked_plate(row.version), _events(session, row.id))


def _events(session: Session, visit_id: uuid.UUID) -> Sequence[VisitEvent]:
    return session.scalars(
        select(VisitEvent)
        .where(VisitEvent.visit_id == visit_id)
        .order_by(VisitEvent.t_s, VisitEvent.id)
    ).all()


def append_event(
    session: Session, record: VisitRecord, event: Event, client_id: uuid.UUID, by: uuid.UUID
) -> VisitRecord:
    """Store one event under the client's id; the same id again stores nothing more.

    Raises BadInput where the event does not fit the unit, Conflict where the id was used for
    something else.
    """
    check_event(record.unit, event)
    body = event_to_json(event)
    for known in record.events:
        if known.client_id == client_id:
            if _same(known.body, body):
                return record
            raise Conflict("this entry was already stored with another value")
    row = session.scalars(
        insert(VisitEvent)
        .values(
            shop_id=record.row.shop_id, visit_id=record.row.id, client_id=client_id,
            t_s=event.t_s, body=body, recorded_by=by, recorded_at=now(),
        )
        .returning(VisitEvent)
    ).one()  # fmt: skip
    events = sorted([*record.events, row], key=lambda e: (e.t_s, e.id))
    return VisitRecord(record.row, record.unit, events)


def _same(one: dict[str, Any], two: dict[str, Any]) -> bool:
    return {**one, "t": 0} == {**two, "t": 0}


def strike(session: Session, record: VisitRecord, event_id: int, reason: str) -> None:
    """Strike a reading out; it stays on record with the reason. Raises NotFound or Conflict."""
    for event in record.events:
        if event.id == event_id:
            if "read" not in event.body:
                raise Conflict("only readings are struck out")
            if event.struck_at is None:
                event.struck_at, event.struck_reason = now(), reason
                session.flush()
            return
    raise NotFound("no such reading")


def close_visit(row: Visit, outcome: str, left_note: str, follow_up: str) -> None:
    """Close a visit for good."""
    row.closed_at, row.outcome = now(), outcome
    row.left_note, row.follow_up = left_note, follow_up


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


def visits_of_round(session: Session, round_: Round) -> dict[uuid.UUID, Visit]:
    """The newest visit of each unit in a round, by unit."""
    rows = session.scalars(
        select(Visit)
        .where(Visit.shop_id == round_.shop_id, Visit.round_id == round_.id)
        .order_by(Visit.started_at)
    )
    return {row.unit_id: row for row in rows}
