"""What goes from one visit or plate to the next: how a unit was left, and a plate that was mended."""

from __future__ import annotations

import math
import uuid
from collections.abc import Iterator

from sqlalchemy import update
from sqlalchemy.orm import Session

from plentar.core.handover.work import taken_over
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import OFF, STAGE_OFF, Did, Event, Power
from plentar.core.visit.state import state_at
from plentar.files.handover_json import WorkLineJson
from plentar.store.accounts import SignedIn
from plentar.store.models import UnitVersion, Visit
from plentar.store.record import VisitRecord, check_still_fits
from plentar.store.units import checked_plate
from plentar.store.visits import add_note, append_event, records_of_unit

#: How the note of an event begins that is carried from the visit before.
CARRIED = "as the last visit left it"
#: How much of a note is carried along.
MOST_NOTE = 2000


def carry_over(session: Session, visit: Visit, by: SignedIn) -> None:
    """Begin a visit in the state in which the one before left the unit: breakers that were left
    off, strips that were disabled or left off; and with the work that it left open. Nothing where
    there was none, or the visit has entries already.
    """
    records = records_of_unit(session, visit.shop_id, visit.unit_id)
    here = next(record for record in records if record.row.id == visit.id)
    before = [r for r in records if r.row.closed_at and r.row.started_at < visit.started_at]
    if here.events or not before:
        return
    for line in taken_over(before[-1].work):
        key = uuid.uuid5(visit.id, f"line {line.id}")
        add_note(session, here, WorkLineJson.of(line), key, by.id)
    for number, event in enumerate(_left(before[-1], here.unit)):
        key = uuid.uuid5(visit.id, f"left {number}")
        here = append_event(session, here, event, key, by.id)


def _left(before: VisitRecord, unit: Unit) -> Iterator[Event]:
    """How a visit left the unit, as events of the next."""
    off = {e.id for e in unit.elements} if before.row.outcome == "heat-disabled" else set()
    off |= state_at(before.unit, before.core().events, math.inf).stages_off
    note = f"{CARRIED}: {before.row.left_note}"[:MOST_NOTE].rstrip(": ")
    for element in unit.elements:
        if element.id in off:
            yield Did(t_s=0.0, verb=STAGE_OFF, part=element.id, note=note)
    if before.row.outcome == "left-off":
        yield Power(t_s=0.0, state=OFF)


def judge_by_plate(session: Session, record: VisitRecord, version: UnitVersion) -> None:
    """From now on the visit is judged by another version of its plate, which was right all along.

    Raises Conflict where an event of the visit does not fit it.
    """
    check_still_fits(checked_plate(version), record, "this plate")
    session.execute(
        update(Visit)
        .where(Visit.shop_id == record.row.shop_id, Visit.id == record.row.id)
        .values(version_id=version.id)
    )
