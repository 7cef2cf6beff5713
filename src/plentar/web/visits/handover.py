"""How a visit ends and what leaves with it: closing, the report, files."""

from __future__ import annotations

import uuid
from collections.abc import Sequence

from flask import Blueprint, Response, redirect, render_template, request, url_for

from plentar.core.errors import BadInput
from plentar.core.events import OUTCOMES
from plentar.core.judgement import Finding
from plentar.drawing.standalone import standalone
from plentar.files.readings_csv import CsvRow, readings_csv
from plentar.store.exchange import export_visit
from plentar.store.record import VisitRecord
from plentar.store.visits import close_visit, opener_name
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.entry import Form, parse_entry
from plentar.web.judge_pool import PAGE_S
from plentar.web.people import me, signed_in
from plentar.web.visits.answers import mine
from plentar.web.visits.entry import CloseEntry
from plentar.web.visits.gates import suspected_in
from plentar.web.visits.log_rows import readings_of
from plentar.web.visits.report_view import ReportView
from plentar.web.visits.view import BenchView

handover = Blueprint("handover", __name__, url_prefix="/visits")


@handover.get("/<uuid:visit_id>/drawing.svg")
@signed_in
def export_drawing(visit_id: uuid.UUID) -> Response:
    """The drawing with this visit's readings as a file."""
    view = BenchView(mine(visit_id))
    name = f"{view.unit.id}-{view.record.row.started_at:%Y-%m-%d}.svg"
    return download(standalone(view.unit, view.record_scene), name, "image/svg+xml")


@handover.get("/<uuid:visit_id>/close")
@signed_in
def ask_to_close(visit_id: uuid.UUID) -> Answer:
    """Ask how the unit is left."""
    return _close_page(mine(visit_id), Form(), suspected_in(visit_id))


@handover.post("/<uuid:visit_id>/close")
@signed_in
def close(visit_id: uuid.UUID) -> Answer:
    """Close the visit; not as in service while something says stop now."""
    suspected = suspected_in(visit_id, PAGE_S)
    record = mine(visit_id, to_write=True)
    try:
        entry = parse_entry(CloseEntry, request.form)
        check_leaving(BenchView(record), entry, suspected)
    except BadInput as bad:
        return _close_page(record, Form(request.form, bad), suspected), 422
    close_visit(
        database(), record.row, entry.outcome, entry.left_note.strip(), entry.follow_up.strip()
    )
    database().commit()
    return redirect(url_for("handover.report", visit_id=visit_id))


def check_leaving(view: BenchView, entry: CloseEntry, suspected: Sequence[Finding]) -> None:
    """Raise BadInput where the unit may not be left so."""
    if view.state.lifted:
        raise BadInput("outcome", "not while a jumper is in and thermostat wires are lifted")
    if view.bridges:
        raise BadInput(
            "outcome", f"not while {', '.join(view.bridges)} is bridged: the bridge out, power off"
        )
    if entry.outcome == "in-service" and (view.stopped or suspected):
        raise BadInput("outcome", "not while a stop-now finding stands: leave it off")
    if entry.outcome != "in-service" and not entry.left_note.strip():
        raise BadInput("left_note", "a note for the owner: why it is left so")


def _close_page(record: VisitRecord, form: Form, suspected: Sequence[Finding]) -> str:
    view = BenchView(record)
    stops = (*view.stopped, *suspected)
    return render_template(
        "visits/close.html", view=view, form=form, outcomes=OUTCOMES, stops=stops
    )


@handover.get("/<uuid:visit_id>/report")
@signed_in
def report(visit_id: uuid.UUID) -> str:
    """The report, made to be printed."""
    record = mine(visit_id)
    view = ReportView(record, me().shop_name, opener_name(database(), record.row))
    return render_template("visits/report.html", report=view)


@handover.get("/<uuid:visit_id>/visit.json")
@signed_in
def export_json(visit_id: uuid.UUID) -> Response:
    """The visit as a visit file."""
    record = mine(visit_id)
    name = f"{record.unit.id}-{record.row.started_at:%Y-%m-%d}.json"
    return download(export_visit(record), name, "application/json")


@handover.get("/<uuid:visit_id>/readings.csv")
@signed_in
def export_csv(visit_id: uuid.UUID) -> Response:
    """The readings as CSV."""
    record = mine(visit_id)
    rows = [
        CsvRow(row.judged, row.reason) for row in readings_of(BenchView(record).log()) if row.judged
    ]
    name = f"{record.unit.id}-{record.row.started_at:%Y-%m-%d}.csv"
    return download(readings_csv(rows), name, "text/csv")
