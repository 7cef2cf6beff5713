"""Visit files in and out of the store."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.core.events import check_visit, unit_after
from plentar.files.events_json import EventJson, event_to_json
from plentar.files.shapes import Strict
from plentar.files.unit_json import unit_to_json
from plentar.files.visit_file import VisitFile, write_visit_file
from plentar.store.accounts import SignedIn
from plentar.store.models import Visit, VisitEvent, VisitNote, now
from plentar.store.record import VisitRecord
from plentar.store.units import UnitRecord, find_unit, make_unit, save_plate
from plentar.store.visits import start_visit, visit_by_client

#: What stands beside the events: the kind of its rows, and its key in the visit file.
NOTES = {
    "looked": "looked", "answered": "answered", "clock": "clock_steps", "note": "notes",
    "plate": "plates",
}  # fmt: skip


def export_visit(record: VisitRecord) -> str:
    """The visit as a visit file; struck readings go along, outside the evidence."""
    row = record.row
    visit: dict[str, Any] = {
        **({"complaint": row.complaint} if row.complaint else {}),
        "settings": {"band": "plate", "altitude_ft": 0, **row.settings},
        "started": row.started_at.isoformat(),
        "events": [e.body for e in record.events if not e.struck_at],
    }
    struck = [{"event": e.body, "reason": e.struck_reason} for e in record.events if e.struck_at]
    if struck:
        visit["struck"] = struck
    for kind, key in NOTES.items():
        if notes := record.noted(kind):
            visit[key] = notes
    return write_visit_file(unit_to_json(record.plate), visit)


def import_visit(
    session: Session,
    account: SignedIn,
    file: VisitFile,
    onto: UnitRecord | None,
    client_id: uuid.UUID | None = None,
) -> tuple[UnitRecord, Visit | None]:
    """Store a visit file as a new unit, or as a new visit on ``onto``; all of it or nothing, and
    once for each client's id.

    A file without events brings the unit alone. An imported visit is closed: it is a record.
    On an existing unit the file's plate becomes its newest version. Raises BadInput.
    """
    unit, visit = file.to_core()
    known = visit_by_client(session, account.shop_id, client_id)
    if known is not None:
        return find_unit(session, account.shop_id, known.unit_id), known
    if onto is None:
        record = make_unit(session, account.shop_id, unit, client_id=client_id)
    else:
        record = save_plate(session, onto, unit, onto.version.number)
    if not visit.events and not file.visit.struck:
        return record, None
    check_visit(unit, visit)
    started = file.visit.started or now()
    if started > now():
        raise BadInput("visit.started", "lies in the future")
    row = start_visit(
        session, record, account, visit.complaint,
        settings=file.visit.settings.model_dump(), started_at=started, closed_at=now(),
        outcome="in-service", left_note="Imported from a visit file.", client_id=client_id,
    )  # fmt: skip
    if session.scalar(select(VisitEvent.id).where(VisitEvent.visit_id == row.id).limit(1)):
        return record, row  # sent twice at once: the other has stored it
    pairs: list[tuple[EventJson, str | None]] = [(event, None) for event in file.visit.events]
    pairs += [(struck.event, struck.reason) for struck in file.visit.struck]
    for event, reason in pairs:
        session.add(
            VisitEvent(
                shop_id=account.shop_id, visit_id=row.id, client_id=uuid.uuid4(), t_s=event.t,
                body=event_to_json(event.to_core()), recorded_by=account.id,
                struck_at=now() if reason else None, struck_reason=reason,
            )
        )  # fmt: skip
    for kind, key in NOTES.items():
        of_kind: Sequence[Strict] = getattr(file.visit, key)
        for note in of_kind:
            session.add(
                VisitNote(
                    shop_id=account.shop_id, visit_id=row.id, client_id=uuid.uuid4(), kind=kind,
                    body=note.model_dump(), recorded_by=account.id,
                )
            )  # fmt: skip
    session.flush()
    # What took an old device's place stands on the plate from the next visit on.
    return save_plate(session, record, unit_after(unit, visit.events), record.version.number), row
