"""The tape: press when it acts, take back, add what the watch missed."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from dataclasses import replace

from flask import Blueprint, redirect, request, url_for

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.core.visit.events import Calls, Observed
from plentar.core.visit.state import state_at
from plentar.store.errors import NotFound
from plentar.store.record import VisitRecord
from plentar.store.visits import append_event, find_visit, records_of_unit, strike
from plentar.web.answer import Answer, render, wants_fragment
from plentar.web.database import database
from plentar.web.entry import parse_entry
from plentar.web.people import me, signed_in
from plentar.web.tape.entry import CallEntry, LeadEntry, SeenEntry, UndoEntry
from plentar.web.tape.view import TapeView
from plentar.web.tape.years import years_of
from plentar.web.units.history import history_at
from plentar.web.visits.answers import mine
from plentar.web.visits.gates import check_bars, suspected_before
from plentar.words import phrase

tape = Blueprint("tape", __name__, url_prefix="/visits/<uuid:visit_id>/tape")
TAKEN_BACK, STARTED_LATE = say("tape.routes.taken-back-tape"), say("tape.routes.watch-was-started-late")


@tape.get("")
@signed_in
def show(visit_id: uuid.UUID) -> Answer:
    """The tape; with htmx, what changes of it."""
    record = find_visit(database(), me().shop_id, visit_id)
    return _page(record)


@tape.post("/seen")
@signed_in
def seen(visit_id: uuid.UUID) -> Answer:
    record = _to_write(visit_id)
    entry = parse_entry(SeenEntry, request.form)
    event = Observed(t_s=entry.when_s(record), action=entry.action, part=entry.part)
    append_event(database(), record, event, entry.client_id, me().id)
    database().commit()
    return _again(visit_id)


@tape.post("/call")
@signed_in
def call(visit_id: uuid.UUID) -> Answer:
    suspected = suspected_before(visit_id)
    record = _to_write(visit_id)
    entry = parse_entry(CallEntry, request.form)
    t_s = entry.when_s(record)
    if all(event.client_id != str(entry.client_id) for event in record.events):
        state = state_at(record.unit, record.core().events, record.elapsed_s)
        asked = state.calls ^ {entry.call}
        check_bars(record, calls=asked, suspected=suspected)
        event = Calls(t_s=t_s, calls=asked)
        append_event(database(), record, event, entry.client_id, me().id)
        database().commit()
    return _again(visit_id)


@tape.post("/lead")
@signed_in
def lead(visit_id: uuid.UUID) -> Answer:
    """The call had been there for a while when the watch was started."""
    record = _to_write(visit_id)
    entry = parse_entry(LeadEntry, request.form)
    standing = TapeView(record).standing_call
    if standing is None:
        raise BadInput("lead_s", phrase("tape.routes.no-call-stands-whose"))
    if standing.client_id != str(entry.client_id):
        began = record.core_event(standing)
        strike(database(), record, standing.id, str(STARTED_LATE))
        event = replace(began, lead_s=round(entry.lead_s, 1), key="")
        append_event(database(), record, event, entry.client_id, me().id, in_place=True)
        database().commit()
    return _again(visit_id)


@tape.post("/undo")
@signed_in
def undo(visit_id: uuid.UUID) -> Answer:
    """Take the newest entry of the tape back; it stays on record as struck out."""
    record = _to_write(visit_id)
    entry = parse_entry(UndoEntry, request.form)
    last = TapeView(record).last_entry
    if last is None or last[0].id != entry.event:
        raise NotFound(phrase("tape.routes.nothing-take-back-something"))
    strike(database(), record, entry.event, str(TAKEN_BACK))
    database().commit()
    return _again(visit_id)


def _to_write(visit_id: uuid.UUID) -> VisitRecord:
    return mine(visit_id, to_write=True)


def _again(visit_id: uuid.UUID) -> Answer:
    if "HX-Request" not in request.headers:
        return redirect(url_for("tape.show", visit_id=visit_id))
    return _page(find_visit(database(), me().shop_id, visit_id))


def _page(record: VisitRecord) -> Answer:
    view = TapeView(record, live=record.row.closed_at is None)
    years = [] if wants_fragment() else years_of(_earlier(record), history_at(record))
    return render("tape/tape.html", "tape/_tape.html", view=view, years=years)


def _earlier(record: VisitRecord) -> Sequence[VisitRecord]:
    return records_of_unit(database(), record.row.shop_id, record.row.unit_id)
