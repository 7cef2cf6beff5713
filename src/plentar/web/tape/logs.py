"""Logged currents: upload, look, confirm; nothing enters the visit before it is confirmed."""

from __future__ import annotations

import uuid

from flask import Blueprint, Response, redirect, render_template, request, url_for

from plentar.core.errors import BadInput
from plentar.files.log_csv import read_log_csv
from plentar.store.logs import add_log, confirm_log, find_log, logs_of
from plentar.store.record import VisitRecord
from plentar.store.visits import append_event, find_visit
from plentar.web.answer import Answer, render
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.entry import Entry, parse_entry
from plentar.web.people import me, signed_in
from plentar.web.tape.entry import ConfirmEntry
from plentar.web.tape.log_view import LogView
from plentar.web.tape.view import TapeView
from plentar.words import phrase

logs = Blueprint("logs", __name__, url_prefix="/visits/<uuid:visit_id>/logs")
MOST_NAME = 80
#: Earlier logs that are laid over one.
MOST_OTHERS = 3


@logs.post("")
@signed_in
def add(visit_id: uuid.UUID) -> Answer:
    """Keep a log; a bad one is refused with the line, and nothing is kept."""
    record = find_visit(database(), me().shop_id, visit_id, to_write=True)
    entry = parse_entry(Entry, request.form)
    file = request.files.get("log")
    try:
        if file is None or not file.filename:
            raise BadInput("", phrase("tape.logs.choose-csv-file-seconds"))
        csv = file.read()
        read_log_csv(csv, record.unit, record.row.started_at)
    except BadInput as bad:
        return render_template("tape/tape.html", view=TapeView(record), log_error=str(bad)), 422
    name = file.filename.rsplit("/", 1)[-1][:MOST_NAME]
    log_id = add_log(database(), record, name, csv, entry.client_id, me().id)
    database().commit()
    return redirect(url_for("logs.show", visit_id=visit_id, log_id=log_id))


@logs.get("/<uuid:log_id>")
@signed_in
def show(visit_id: uuid.UUID, log_id: uuid.UUID) -> Answer:
    """The curve with what was found in it; with htmx, another stretch of it."""
    view = _view(find_visit(database(), me().shop_id, visit_id), log_id)
    return render("tape/log.html", "tape/_log_plot.html", view=view)


@logs.post("/<uuid:log_id>/confirm")
@signed_in
def confirm(visit_id: uuid.UUID, log_id: uuid.UUID) -> Answer:
    record = find_visit(database(), me().shop_id, visit_id, to_write=True)
    entry = parse_entry(ConfirmEntry, request.form)
    view = _view(record, log_id)
    chosen = view.chosen(entry.event)
    if not chosen:
        raise BadInput("event", phrase("tape.logs.tick-what-shall-enter"))
    for number, event in enumerate(chosen):
        if not 0 <= event.t_s <= record.elapsed_s:
            raise BadInput("shift", phrase("tape.logs.s-not-within-this", t_s=f"{event.t_s:.0f}"))
        key = uuid.uuid5(entry.client_id, str(number))
        record = append_event(database(), record, event, key, me().id)
    confirm_log(database(), record, log_id, view.shift_s)
    database().commit()
    return redirect(url_for("tape.show", visit_id=visit_id))


@logs.get("/<uuid:log_id>.csv")
@signed_in
def export(visit_id: uuid.UUID, log_id: uuid.UUID) -> Response:
    record = find_visit(database(), me().shop_id, visit_id)
    row, csv = find_log(database(), record, log_id)
    return download(csv.decode(), row.name, "text/csv")


def _view(record: VisitRecord, log_id: uuid.UUID) -> LogView:
    row, csv = find_log(database(), record, log_id)
    values = request.values
    shift_s = _seconds(values.get("shift"), row.shift_s)
    span = None
    if "from" in values and "to" in values:
        span = (_seconds(values["from"], 0.0), _seconds(values["to"], 0.0))
    confirmed = [other.id for other in logs_of(database(), record) if other.confirmed_at]
    others = [find_log(database(), record, other) for other in confirmed[-MOST_OTHERS:] if other != log_id]
    return LogView(record, row, csv, shift_s, span, others)


def _seconds(typed: str | None, otherwise: float) -> float:
    """Seconds, or minutes and seconds as a watch shows them."""
    if typed is None or not typed.strip():
        return otherwise
    whole, _, seconds = typed.strip().replace(",", ".").rpartition(":")
    try:
        found = float(seconds) + 60 * float(whole or 0)
    except ValueError:
        raise BadInput("shift", phrase("tape.logs.no-time-write-75", typed=typed[:20])) from None
    if not abs(found) <= 1e7:
        raise BadInput("shift", phrase("tape.logs.months-away-from-this"))
    return found
