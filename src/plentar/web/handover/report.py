"""What leaves with a visit: the technician's sheet on the page and as PDF, files, the follow-up dates."""

from __future__ import annotations

import uuid

from flask import Blueprint, Response, current_app, render_template

from plentar.drawing.standalone import standalone
from plentar.files.follow_ups import follow_ups
from plentar.files.readings_csv import CsvRow, readings_csv
from plentar.store.exchange import export_visit
from plentar.store.photos import pictures
from plentar.store.record import VisitRecord
from plentar.store.visits import may_reopen, opener_name
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.handover.pdf import sheet_pdf
from plentar.web.handover.report_view import ReportView
from plentar.web.people import me, signed_in
from plentar.web.visits.answers import mine
from plentar.web.visits.log_rows import readings_of
from plentar.web.visits.view import BenchView

reports = Blueprint("reports", __name__, url_prefix="/visits")


@reports.get("/<uuid:visit_id>/drawing.svg")
@signed_in
def export_drawing(visit_id: uuid.UUID) -> Response:
    view = BenchView(mine(visit_id))
    return download(standalone(view.unit, view.drawn.on_record), _name(view.record, "svg"), "image/svg+xml")


def _view(visit_id: uuid.UUID) -> ReportView:
    record = mine(visit_id)
    return ReportView(record, me().shop_name, opener_name(database(), record.row))


@reports.get("/<uuid:visit_id>/report")
@signed_in
def report(visit_id: uuid.UUID) -> str:
    view = _view(visit_id)
    reopens = me().role == "lead" and may_reopen(view.row)
    return render_template("handover/report.html", report=view, reopens=reopens)


@reports.get("/<uuid:visit_id>/report.pdf")
@signed_in
def report_pdf(visit_id: uuid.UUID) -> Response:
    view = _view(visit_id)
    html = render_template("sheets/technician.html", report=view, lang="en", shop=me().shop_name)
    return download(sheet_pdf(html), _name(view.bench.record, "pdf"), "application/pdf")


@reports.get("/<uuid:visit_id>/visit.json")
@signed_in
def export_json(visit_id: uuid.UUID) -> Response:
    record = mine(visit_id)
    keys = [photo.key for photo in record.photos]
    of_photos = pictures(database(), me().shop_id, keys) if keys else {}
    return download(export_visit(record, of_photos), _name(record, "json"), "application/json")


@reports.get("/<uuid:visit_id>/readings.csv")
@signed_in
def export_csv(visit_id: uuid.UUID) -> Response:
    record = mine(visit_id)
    rows = [CsvRow(row.judged, row.reason) for row in readings_of(BenchView(record).log()) if row.judged]
    return download(readings_csv(rows), _name(record, "csv"), "text/csv")


@reports.get("/<uuid:visit_id>/follow-ups.ics")
@signed_in
def export_dates(visit_id: uuid.UUID) -> Response:
    record = mine(visit_id)
    host = current_app.config["SESSION_COOKIE_NAME"]
    text = follow_ups(record.unit.label, record.work, f"{record.row.id}@{host}", record.row.started_at)
    return download(text, _name(record, "ics"), "text/calendar")


def _name(record: VisitRecord, end: str) -> str:
    return f"{record.unit.id}-{record.row.started_at:%Y-%m-%d}.{end}"
