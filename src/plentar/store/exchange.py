"""Visit files in and out of the store."""

from __future__ import annotations

import base64
import uuid
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.core.visit.events import check_visit, unit_after
from plentar.files.events_json import EventJson, event_to_json
from plentar.files.handover_json import ClosedJson, PhotoJson
from plentar.files.shapes import Strict
from plentar.files.unit_json import unit_to_json
from plentar.files.visit_file import VisitFile, write_visit_file
from plentar.files.visit_json import VisitJson
from plentar.store.accounts import SignedIn
from plentar.store.digests import write_digest
from plentar.store.models import Visit, VisitEvent, VisitNote, now
from plentar.store.photos import from_file
from plentar.store.record import VisitRecord
from plentar.store.units import UnitRecord, find_unit, make_unit, save_plate
from plentar.store.visits import PICTURE, find_visit, start_visit, visit_by_client
from plentar.words import phrase

#: What stands beside the events: the kind of its rows, and its key in the visit file.
NOTES = {
    "looked": "looked",
    "answered": "answered",
    "clock": "clock_steps",
    "note": "notes",
    "plate": "plates",
    "work": "work",
    "left_out": "left_out",
    "told": "told",
    "photo": "photos",
    "reopened": "reopened",
}


def export_visit(record: VisitRecord, pictures: Mapping[str, bytes] = MappingProxyType({})) -> str:
    """The visit as a visit file; struck readings go along, outside the evidence. ``pictures`` are
    those of its photos, by key."""
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
        if notes := record.answers if kind == "answered" else record.noted(kind):
            visit[key] = notes
    for photo in visit.get("photos", ()):
        if photo["key"] in pictures:
            photo["jpeg"] = base64.b64encode(pictures[photo["key"]]).decode()
    if row.closed_at and row.outcome:
        left = {"note": row.left_note, "follow_up": row.follow_up}
        visit["closed"] = {
            "at": row.closed_at.isoformat(),
            "outcome": row.outcome,
            **{name: words for name, words in left.items() if words},
        }
    return write_visit_file(unit_to_json(record.plate), visit)


def import_visit(
    session: Session,
    account: SignedIn,
    file: VisitFile,
    onto: UnitRecord | None,
    client_id: uuid.UUID | None = None,
    most_photo_bytes: int = 0,
) -> tuple[UnitRecord, Visit | None]:
    """Store a visit file as a new unit, or as a new visit on ``onto``; all of it or nothing, and
    once for each client's id.

    A file without a visit brings the unit alone. An imported visit is closed: it is a record.
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
    if not _holds_a_visit(file.visit):
        return record, None
    check_visit(unit, visit)
    started = file.visit.started or now()
    if started > now():
        raise BadInput("visit.started", phrase("store.exchange.lies-future"))
    row = start_visit(
        session,
        record,
        account,
        visit.complaint,
        settings=file.visit.settings.model_dump(),
        started_at=started,
        client_id=client_id,
        **_how_left(file.visit.closed),
    )
    if session.scalar(select(VisitEvent.id).where(VisitEvent.visit_id == row.id).limit(1)):
        return record, row  # sent twice at once: the other has stored it
    pairs: list[tuple[EventJson, str | None]] = [(event, None) for event in file.visit.events]
    pairs += [(struck.event, struck.reason) for struck in file.visit.struck]
    for event, reason in pairs:
        session.add(
            VisitEvent(
                shop_id=account.shop_id,
                visit_id=row.id,
                client_id=uuid.uuid4(),
                t_s=event.t,
                body=event_to_json(event.to_core()),
                recorded_by=account.id,
                struck_at=now() if reason else None,
                struck_reason=reason,
            )
        )
    for kind, key in NOTES.items():
        of_kind: Sequence[Strict] = getattr(file.visit, key)
        for number, note in enumerate(of_kind):
            filed: Strict = note
            if isinstance(note, PhotoJson):
                path = f"visit.photos[{number}].jpeg"
                filed = from_file(session, account.shop_id, note, path, most_photo_bytes)
            session.add(
                VisitNote(
                    shop_id=account.shop_id,
                    visit_id=row.id,
                    client_id=uuid.uuid4(),
                    kind=kind,
                    body=filed.model_dump(exclude=PICTURE),
                    recorded_by=account.id,
                )
            )
    session.flush()
    write_digest(session, find_visit(session, account.shop_id, row.id))
    # What took an old device's place stands on the plate from the next visit on.
    return save_plate(session, record, unit_after(unit, visit.events), record.version.number), row


def _holds_a_visit(visit: VisitJson) -> bool:
    """Something was done, noted or closed: a file without brings the unit alone."""
    kept = (visit.events, visit.struck, visit.closed, *(getattr(visit, k) for k in NOTES.values()))
    return any(kept)


def _how_left(closed: ClosedJson | None) -> dict[str, Any]:
    """The closing columns of an imported visit, which is a record and closed."""
    if closed is None:
        said = phrase("store.exchange.imported-from-visit-file")
        return {"closed_at": now(), "outcome": "in-service", "left_note": said}
    return {
        "closed_at": min(closed.at, now()),
        "outcome": closed.outcome,
        "left_note": closed.note,
        "follow_up": closed.follow_up,
    }
