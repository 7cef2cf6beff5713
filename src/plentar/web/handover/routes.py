"""The page on which a visit ends: work, what is looked at and read again, who was told, how it is left."""

from __future__ import annotations

import uuid
from collections.abc import Sequence

from flask import Blueprint, g, redirect, render_template, request, url_for
from pydantic import ValidationError

from plentar.core.errors import BadInput
from plentar.core.handover.meanwhile_ways import ways_meanwhile
from plentar.core.handover.work import MOST_LINES, PARTS, STANDS, WHEN
from plentar.core.judgement import Finding
from plentar.files.handover_json import PHOTO_KINDS, LeftOutJson, ToldJson, WorkLineJson
from plentar.files.said_json import SaidJson
from plentar.store.digests import forget_digest, write_digest
from plentar.store.record import VisitRecord
from plentar.store.visits import add_note, close_visit, reopen_visit
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.entry import Form, parse_entry
from plentar.web.handover.entry import CloseEntry, LeaveOutEntry, LineEntry, ReopenEntry
from plentar.web.handover.leaving import check_leaving
from plentar.web.handover.view import HandoverView
from plentar.web.judge_pool import PAGE_S, Busy
from plentar.web.people import me, signed_in
from plentar.web.pocket.taken import from_queue
from plentar.web.visits.answers import mine
from plentar.web.visits.gates import suspected_in
from plentar.words import chosen, phrase
from plentar.words.visits import outcomes

handover = Blueprint("handover", __name__, url_prefix="/visits")


@handover.get("/<uuid:visit_id>/close")
@signed_in
def ask_to_close(visit_id: uuid.UUID) -> Answer:
    return page_of(mine(visit_id), Form(), suspected_in(visit_id))


@handover.get("/<uuid:visit_id>/close/answered")
@signed_in
def answered(visit_id: uuid.UUID) -> Answer:
    """Whether the judge has answered to the newest readings: asked again until it has."""
    view = HandoverView(mine(visit_id))
    waits = suspected_in(visit_id, PAGE_S) is None
    return render_template("handover/_answered.html", view=view, waits=waits)


@handover.post("/<uuid:visit_id>/close")
@signed_in
def close(visit_id: uuid.UUID) -> Answer:
    """Close the visit; not as in service while something says stop now, or is not through."""
    if from_queue() and mine(visit_id).row.outcome == request.form.get("outcome", "unsaid"):
        return redirect(url_for("reports.report", visit_id=visit_id))  # its answer was lost on the way
    suspected = suspected_in(visit_id, PAGE_S)
    record = mine(visit_id, to_write=True)
    try:
        entry = parse_entry(CloseEntry, request.form)
        check_leaving(HandoverView(record), entry, suspected)
    except BadInput as bad:
        return page_of(record, Form(request.form, bad), suspected), 422
    if name := entry.told.strip():
        said = _undone(record)
        told = ToldJson(t=record.elapsed_s, name=name, what=said, by=me().name)
        add_note(database(), record, told, uuid.uuid4(), me().id)
    close_visit(database(), record.row, entry.outcome, entry.left_note.strip(), entry.follow_up.strip())
    write_digest(database(), mine(visit_id))
    database().commit()
    return redirect(url_for("reports.report", visit_id=visit_id))


def _undone(record: VisitRecord) -> str:
    return "; ".join(str(line.text) for line in record.work if line.open or line.unsafe)[:4000]


def page_of(record: VisitRecord, form: Form, suspected: Sequence[Finding] | None = ()) -> str:
    view = HandoverView(record)
    if form.bad is not None:
        g.refusal = str(form.bad.reason)
    return render_template(
        "handover/close.html",
        view=view,
        bench=view.bench,
        form=form,
        outcomes=outcomes(),
        stops=(*view.bench.standing, *(suspected or ())),
        waits=suspected is None,
        when={key: phrase(f"when.{key}") for key in WHEN},
        stands={key: phrase(f"stands.{key}") for key in STANDS},
        parts={key: phrase(f"parts.{key}") for key in PARTS},
        kinds={key: chosen(key) for key in PHOTO_KINDS},
    )


def back_to(visit_id: uuid.UUID, section: str) -> Answer:
    return redirect(url_for("handover.ask_to_close", visit_id=visit_id, _anchor=section))


@handover.get("/<uuid:visit_id>/close/decided")
@signed_in
def decided(visit_id: uuid.UUID) -> Answer:
    """The lines that the judge suggests, asked for after the page."""
    view = HandoverView(mine(visit_id))
    try:
        lines = view.decided
    except Busy:
        lines = ()
    return render_template("handover/_suggested.html", view=view, suggested=lines)


@handover.post("/<uuid:visit_id>/lines")
@signed_in
def write_line(visit_id: uuid.UUID) -> Answer:
    record = mine(visit_id, to_write=True)
    try:
        entry = parse_entry(LineEntry, request.form)
        line = _line(record, entry)
    except BadInput as bad:
        return page_of(record, Form(request.form, bad)), 422
    add_note(database(), record, line, entry.client_id, me().id)
    database().commit()
    return back_to(visit_id, "work")


def _line(record: VisitRecord, entry: LineEntry) -> WorkLineJson:
    known = {line.id for line in record.work}
    if entry.line and entry.line not in known:
        raise BadInput("line", phrase("handover.routes.no-such-line"))
    if not entry.line and len(known) >= MOST_LINES:
        raise BadInput("text", phrase("handover.routes.visit-has-most-lines", most_lines=MOST_LINES))
    if entry.part and entry.part not in record.unit.workable | record.unit.components:
        raise BadInput("part", phrase("handover.routes.no-part", part=entry.part))
    values = entry.model_dump(exclude={"client_id", "line", "text_said"})
    values["text"] = entry.text.strip()
    values["text_said"] = _suggested(entry)
    ways = {str(way): way for way in ways_meanwhile(record.unit, entry.part)}
    values["meanwhile_said"] = SaidJson.of(ways[entry.meanwhile]) if entry.meanwhile in ways else None
    return WorkLineJson(t=record.elapsed_s, id=entry.line or entry.client_id.hex, by=me().name, **values)


def _suggested(entry: LineEntry) -> SaidJson | None:
    """The suggestion behind the text of a line; None where the text was typed, or changed since."""
    try:
        said = SaidJson.model_validate_json(entry.text_said) if entry.text_said else None
    except ValidationError:
        return None
    return said if said and str(said.to_core() or "") == entry.text.strip() else None


@handover.post("/<uuid:visit_id>/leave-out")
@signed_in
def leave_out(visit_id: uuid.UUID) -> Answer:
    record = mine(visit_id, to_write=True)
    try:
        entry = parse_entry(LeaveOutEntry, request.form)
        keys = [row.line.key for row in HandoverView(record).not_through]
        named = keys if entry.every else entry.line
        if not named:
            raise BadInput("line", phrase("handover.routes.say-which-lines"))
        if not set(named) <= set(keys):
            raise BadInput("line", phrase("handover.routes.list-has-changed-meanwhile"))
    except BadInput as bad:
        return page_of(record, Form(request.form, bad)), 422
    for key in named:
        said = LeftOutJson(t=record.elapsed_s, line=key, reason=entry.reason, by=me().name)
        add_note(database(), record, said, uuid.uuid5(entry.client_id, key), me().id)
    database().commit()
    return back_to(visit_id, "retest")


@handover.post("/<uuid:visit_id>/reopen")
@signed_in
def reopen(visit_id: uuid.UUID) -> Answer:
    """Take back that the visit was closed: a lead, within a day, with the reason."""
    record = mine(visit_id)
    reopen_visit(database(), record, parse_entry(ReopenEntry, request.form).reason, me())
    forget_digest(database(), visit_id)
    database().commit()
    return redirect(url_for("visits.bench", visit_id=visit_id))
