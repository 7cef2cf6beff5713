"""Units: make, look at, adjust on the drawing, import and export."""

from __future__ import annotations

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import replace

from flask import Blueprint, Response, g, redirect, render_template, request, url_for
from markupsafe import Markup
from werkzeug.datastructures import MultiDict

from plentar.core.errors import BadInput
from plentar.core.history.drift import DRIFT_WITHIN
from plentar.core.unit.unit import Unit
from plentar.drawing.ladder import draw_line_side
from plentar.drawing.parts import NARROW, Scene
from plentar.drawing.standalone import standalone
from plentar.files.unit_json import unit_to_json
from plentar.files.visit_file import parse_visit_file, write_visit_file
from plentar.store.carried import carry_over
from plentar.store.errors import Conflict
from plentar.store.exchange import import_visit
from plentar.store.models import Visit
from plentar.store.record import VisitRecord
from plentar.store.rounds import round_for
from plentar.store.search import find_units
from plentar.store.units import UnitRecord, Whereabouts, find_unit, make_unit, save_plate, undo_plate
from plentar.store.visit_lists import visits_of_unit
from plentar.store.visits import find_visit, start_visit
from plentar.web.answer import Answer, render, wants_fragment
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.drawings import control_side, line_side
from plentar.web.entry import Form, parse_entry
from plentar.web.handover.photos import most_photo_bytes
from plentar.web.people import me, signed_in
from plentar.web.pocket.taken import taken_at
from plentar.web.units.acts import edited
from plentar.web.units.alike import all_changed
from plentar.web.units.entry import (
    KIT_AT_FIRST,
    KIT_TILES,
    ActEntry,
    ComplaintEntry,
    CopyEntry,
    FileEntry,
    KitEntry,
    PlateEntry,
)
from plentar.web.units.history import drifts_in_words, history_of, history_rows
from plentar.web.units.past import left_open, past_visits
from plentar.web.units.plate_fields import YES, changed_unit
from plentar.web.units.plate_view import TAPPED, PlateView, plate_view
from plentar.web.units.typical import as_printed
from plentar.words import phrase
from plentar.words.visits import complaints

#: How many units are offered to make another one like.
MOST_LIKE = 500

units = Blueprint("units", __name__, url_prefix="/units")


@units.get("/new")
@signed_in
def new() -> Answer:
    """The kit form, its drawing beside it; with htmx, the drawing of the choices so far."""
    typed = request.args if wants_fragment() else MultiDict(KIT_AT_FIRST | request.args.to_dict())
    return _kit_page(Form(typed))


@units.post("")
@signed_in
def make() -> Answer:
    try:
        entry = parse_entry(KitEntry, request.form)
        if not entry.label.strip():
            raise BadInput("label", phrase("units.routes.name-find"))
        record = make_unit(database(), me().shop_id, entry.unit(), client_id=entry.client_id)
    except BadInput as bad:
        return _kit_page(Form(request.form, bad), 422)
    database().commit()
    return redirect(url_for("units.show", unit_id=record.row.id))


def _kit_page(form: Form, status: int = 200) -> Answer:
    drawing, problem = None, ""
    try:
        unit = parse_entry(KitEntry, MultiDict(form.typed)).unit()
        drawing = Markup(draw_line_side(unit, NARROW, Scene(link=lambda _part: "#kit")))
    except BadInput as bad:
        problem = str(bad.reason)
    return render(
        "units/new.html",
        "units/_kit_drawing.html",
        status,
        form=form,
        kit_tiles=KIT_TILES,
        drawing=drawing,
        problem=problem,
        others=[] if wants_fragment() else find_units(database(), me().shop_id, "", MOST_LIKE),
    )


def _mine(unit_id: uuid.UUID) -> UnitRecord:
    return find_unit(database(), me().shop_id, unit_id)


@units.get("/<uuid:unit_id>")
@signed_in
def show(unit_id: uuid.UUID) -> Answer:
    """A unit: its plate on its drawing, its visits, a new visit."""
    record = _mine(unit_id)
    part = request.args.get("part", "")
    tapped = request.args.get("tap", "")
    typed = {TAPPED: tapped, "interlock.kind": "nc-contact"} if tapped else None
    panel = _panel(record, part, typed) if part else None
    if "pick" in request.args:
        return _panel_or_page(record, panel, picks=part)
    if part and wants_fragment():
        return render_template("units/_panel.html", record=record, panel=panel)
    return unit_page(record, panel)


def _panel(
    record: UnitRecord, part: str, typed: Mapping[str, str] | None = None, bad: BadInput | None = None
) -> PlateView:
    href = url_for("units.save_part", unit_id=record.row.id, part=part)
    return plate_view(record.unit, part, href, typed, bad)


def unit_page(record: UnitRecord, panel: PlateView | None, form: Form | None = None, picks: str = "") -> str:
    visits = visits_of_unit(database(), me().shop_id, record.row.id)
    return render_template(
        "units/unit.html",
        record=record,
        panel=panel,
        past=past_visits(visits),
        complaints=complaints(),
        open_visit=next((v for v in visits if v.closed_at is None), None),
        left=left_open(visits),
        drawing=_drawing(record, panel, picks),
        picks=picks,
        form=form or Form(),
        moves=drifts_in_words(record.unit, history_of(record, _still_open(visits))),
        where=record.where,
    )


def _still_open(visits: Sequence[Visit]) -> VisitRecord | None:
    opened = next((visit for visit in visits if visit.closed_at is None), None)
    return find_visit(database(), opened.shop_id, opened.id) if opened else None


def _drawing(record: UnitRecord, panel: PlateView | None, picks: str = "") -> str:
    """The drawing whose parts open their panels; or, for the tie, whose switches are its tap."""
    unit_id = record.row.id
    tappable = {s.id for s in record.unit.switch_by_id.values() if s.role == "element"}

    def link(part: str) -> str:
        if picks and part in tappable:
            return url_for("units.show", unit_id=unit_id, part=picks, tap=part)
        return url_for("units.show", unit_id=unit_id, part=part)

    scene = Scene(link=link, selected=panel.part if panel else "", htmx_target="#panel", by_label=True)
    return line_side(record.unit, scene) + control_side(record.unit, scene)


def _panel_or_page(record: UnitRecord, panel: PlateView | None, code: int = 200, picks: str = "") -> Answer:
    """The panel with the drawing out of band for htmx, or the page that holds both."""
    if wants_fragment():
        page = render_template(
            "units/_panel.html",
            record=record,
            panel=panel,
            picks=picks,
            out_of_band=True,
            drawing=_drawing(record, panel, picks),
        )
    else:
        page = unit_page(record, panel, picks=picks)
    return page, code


@units.post("/<uuid:unit_id>/plate/<part>")
@signed_in
def save_part(unit_id: uuid.UUID, part: str) -> Answer:
    record = _mine(unit_id)
    try:
        typed = {name: ",".join(request.form.getlist(name)) for name in request.form}
        printed = as_printed(record.unit, part, typed.get("printed", ""))
        typed |= {name: value for name, value in printed.items() if not typed.get(name)}
        change = all_changed if typed.get("all") == YES else changed_unit
        record = _save(record, change(record.unit, part, typed))
    except BadInput as bad:
        return _panel_or_page(record, _panel(record, part, typed, bad), 422)
    return _after_change(record, part)


@units.post("/<uuid:unit_id>/plate/<part>/act")
@signed_in
def act_on(unit_id: uuid.UUID, part: str) -> Answer:
    record = _mine(unit_id)
    try:
        entry = parse_entry(ActEntry, request.form)
        changed, shown = edited(record.unit, part, entry.act, entry.element, entry.chosen)
        record = _save(record, changed)
    except BadInput as bad:
        return _panel_or_page(record, _panel(record, part, None, bad), 422)
    return _after_change(record, shown)


@units.post("/<uuid:unit_id>/undo")
@signed_in
def undo(unit_id: uuid.UUID) -> Answer:
    record = _mine(unit_id)
    seen = parse_entry(PlateEntry, request.form).seen
    record = undo_plate(database(), record, seen or record.version.number)
    database().commit()
    return _after_change(record, "unit")


@units.post("/copy")
@signed_in
def copy() -> Answer:
    try:
        entry = parse_entry(CopyEntry, request.form)
        if not entry.label.strip():
            raise BadInput("copy-label", phrase("units.routes.name-find"))
        like = _mine(entry.like)
        unit = replace(like.unit, id=f"unit-{uuid.uuid4().hex[:8]}", label=entry.label.strip())
        record = make_unit(database(), me().shop_id, unit, Whereabouts(like.row.place), entry.client_id)
    except BadInput as bad:
        return _kit_page(Form(request.form, bad), 422)
    database().commit()
    return redirect(url_for("units.show", unit_id=record.row.id))


def _save(record: UnitRecord, unit: Unit) -> UnitRecord:
    seen = parse_entry(PlateEntry, request.form).seen
    saved = save_plate(database(), record, unit, seen or record.version.number)
    database().commit()
    return saved


def _after_change(record: UnitRecord, part: str) -> Answer:
    if wants_fragment():
        return _panel_or_page(record, _panel(record, part) if part else None)
    return redirect(url_for("units.show", unit_id=record.row.id, part=part or None))


@units.post("/<uuid:unit_id>/visits")
@signed_in
def open_visit(unit_id: uuid.UUID) -> Answer:
    record = _mine(unit_id)
    try:
        entry = parse_entry(ComplaintEntry, request.form)
    except BadInput as bad:
        g.refusal = str(bad.reason)
        return unit_page(record, None, Form(request.form, bad)), 422
    begun = {"started_at": at} if (at := taken_at()) else {}
    try:
        visit = start_visit(
            database(), record, me(), entry.complaint, _round_of(record), entry.client_id, **begun
        )
    except Conflict:
        g.visit = next((str(v.id) for v in _visits_of(record) if v.closed_at is None), None)
        raise
    carry_over(database(), visit, me())
    database().commit()
    g.visit = str(visit.id)
    return redirect(url_for("visits.bench", visit_id=visit.id))


def _visits_of(record: UnitRecord) -> Sequence[Visit]:
    return visits_of_unit(database(), me().shop_id, record.row.id)


def _round_of(record: UnitRecord) -> uuid.UUID | None:
    """The round that a visit belongs to: the one that is planned over the unit."""
    planned = round_for(database(), me().shop_id, record.row.id)
    return planned.id if planned else None


@units.get("/<uuid:unit_id>/unit.json")
@signed_in
def export(unit_id: uuid.UUID) -> Response:
    """The unit as a visit file without events."""
    record = _mine(unit_id)
    text = write_visit_file(unit_to_json(record.unit), {"events": []})
    return download(text, f"{record.unit.id}.json", "application/json")


@units.get("/<uuid:unit_id>/history")
@signed_in
def history(unit_id: uuid.UUID) -> str:
    record = _mine(unit_id)
    visits = visits_of_unit(database(), me().shop_id, record.row.id)
    rows = history_rows(record.unit, history_of(record, _still_open(visits)))
    return render_template(
        "units/history.html", record=record, rows=rows, within=f"{100 * DRIFT_WITHIN:.0f} %"
    )


@units.get("/<uuid:unit_id>/drawing.svg")
@signed_in
def export_drawing(unit_id: uuid.UUID) -> Response:
    record = _mine(unit_id)
    svg = standalone(record.unit, Scene(link=str))
    return download(svg, f"{record.unit.id}.svg", "image/svg+xml")


@units.get("/import")
@units.get("/<uuid:unit_id>/import", endpoint="bring_onto")
@signed_in
def bring(unit_id: uuid.UUID | None = None) -> Answer:
    """Ask for a visit file, as a new unit or as a visit on this one."""
    return _import_page(unit_id, None)


@units.post("/import")
@units.post("/<uuid:unit_id>/import", endpoint="take_onto")
@signed_in
def take_in(unit_id: uuid.UUID | None = None) -> Answer:
    onto = _mine(unit_id) if unit_id else None
    try:
        upload = request.files.get("file")
        if upload is None or not upload.filename:
            raise BadInput("", phrase("units.routes.choose-visit-file"))
        file = parse_visit_file(upload.read())
        client_id = parse_entry(FileEntry, request.form).client_id
        record, visit = import_visit(
            database(), me(), file, onto, client_id, most_photo_bytes=most_photo_bytes()
        )
        database().commit()
    except BadInput as bad:
        database().rollback()
        return _import_page(unit_id, bad), 422
    if visit is not None:
        return redirect(url_for("reports.report", visit_id=visit.id))
    return redirect(url_for("units.show", unit_id=record.row.id))


def _import_page(unit_id: uuid.UUID | None, problem: BadInput | None) -> str:
    onto = _mine(unit_id) if unit_id else None
    note = (
        phrase("units.routes.visit-added-whose-plate", label=onto.unit.label)
        if onto
        else phrase("units.routes.unit-made-anew-visit")
    )
    return render_template("units/import.html", note=note, problem=problem)
