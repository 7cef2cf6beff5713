"""Units: make, look at, adjust on the drawing, import and export."""

from __future__ import annotations

import uuid
from typing import Any

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask_login import login_required
from flask_wtf import FlaskForm
from flask_wtf.file import FileField
from markupsafe import Markup
from wtforms import IntegerField, RadioField, StringField
from wtforms.validators import DataRequired, Length, NumberRange

from plentar.core.door import (
    KIT_CONTROLS,
    KIT_KW,
    KIT_TIES,
    KIT_VOLTS,
    MOST_ELEMENTS,
    Kit,
    build_kit,
)
from plentar.core.errors import BadInput
from plentar.core.events import COMPLAINTS
from plentar.core.unit import Unit
from plentar.drawing.ladder import draw_line_side
from plentar.drawing.parts import NARROW, Scene
from plentar.drawing.standalone import standalone
from plentar.files.unit_json import unit_to_json
from plentar.files.visit_file import parse_visit_file, write_visit_file
from plentar.store.exchange import import_visit
from plentar.store.units import UnitRecord, find_unit, make_unit, save_plate
from plentar.store.visits import newest_round, records_of_unit, start_visit, visits_of_unit
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.drawings import control_side, line_side
from plentar.web.forms import choices
from plentar.web.people import me
from plentar.web.tape.years import years_of
from plentar.web.units.plate_fields import changed_unit, moved_part, without_part
from plentar.web.units.plate_view import PlateView, plate_view

units = Blueprint("units", __name__, url_prefix="/units")
Page = tuple[str, int] | str | Response


class KitForm(FlaskForm):
    """A starting kit."""

    label = StringField("Where it is", [DataRequired("a name to find it by"), Length(max=80)])
    elements = IntegerField("Elements", [NumberRange(1, MOST_ELEMENTS)], default=2)
    kw = RadioField("Each", choices=[f"{kw:g}" for kw in KIT_KW], default="5")
    volts = RadioField("Rated volts", choices=[f"{v:g}" for v in KIT_VOLTS], default="240")
    control = RadioField("Closed by", choices=choices(KIT_CONTROLS), default="double-sequencers")
    circuits = RadioField("Circuits", choices=["1", "2"], default="1")
    tie = RadioField("Blower tied by", choices=choices(KIT_TIES), default="nc-contact")

    def unit(self) -> Unit:
        """The unit of these choices; raises BadInput at the field that does not fit."""
        kit = Kit(
            (float(self.kw.data) * 1000,) * self.elements.data, float(self.volts.data),
            self.control.data, int(self.circuits.data), self.tie.data,
        )  # fmt: skip
        return build_kit(kit, f"unit-{uuid.uuid4().hex[:8]}", (self.label.data or "").strip())


@units.get("/new")
@login_required
def new() -> Page:
    """The kit form, its drawing beside it; with htmx, the drawing of the choices so far."""
    preview = "HX-Request" in request.headers
    form = KitForm(request.args if preview else None)
    return _kit_page(form, fragment=preview)


@units.post("")
@login_required
def make() -> Page:
    """Make the unit and open its plate."""
    form = KitForm()
    if form.validate():
        try:
            record = make_unit(database(), me().shop_id, form.unit())
        except BadInput as bad:
            form[bad.path].errors = [bad.reason]
        else:
            database().commit()
            return redirect(url_for("units.show", unit_id=record.row.id))
    return _kit_page(form), 422


def _kit_page(form: KitForm, fragment: bool = False) -> str:
    drawing, problem = None, ""
    try:
        if all(form[name].validate(form) for name in ("elements", "kw", "volts", "control")):
            drawing = Markup(draw_line_side(form.unit(), NARROW, Scene(link=lambda _part: "#kit")))
    except BadInput as bad:
        problem = bad.reason
    template = "units/_kit_drawing.html" if fragment else "units/new.html"
    return render_template(template, form=form, drawing=drawing, problem=problem)


def _mine(unit_id: uuid.UUID) -> UnitRecord:
    return find_unit(database(), me().shop_id, unit_id)


@units.get("/<uuid:unit_id>")
@login_required
def show(unit_id: uuid.UUID) -> str:
    """A unit: its plate on its drawing, its visits, a new visit."""
    record = _mine(unit_id)
    part = request.args.get("part", "")
    panel = plate_view(record.unit, part) if part else None
    if part and "HX-Request" in request.headers:
        return render_template("units/_panel.html", record=record, panel=panel)
    return _unit_page(record, panel)


def _unit_page(record: UnitRecord, panel: PlateView | None, **more: Any) -> str:
    visits = visits_of_unit(database(), me().shop_id, record.row.id)
    return render_template(
        "units/unit.html", record=record, panel=panel, visits=visits, complaints=COMPLAINTS,
        open_visit=next((v for v in visits if v.closed_at is None), None),
        drawing=_drawing(record, panel),
        years=years_of(records_of_unit(database(), me().shop_id, record.row.id)), **more,
    )  # fmt: skip


def _drawing(record: UnitRecord, panel: PlateView | None) -> str:
    unit_id = record.row.id
    scene = Scene(
        link=lambda part: url_for("units.show", unit_id=unit_id, part=part),
        selected=panel.part if panel else "",
        htmx_target="#panel",
    )
    return line_side(record.unit, scene) + control_side(record.unit, scene)


def _panel_or_page(record: UnitRecord, panel: PlateView | None, code: int = 200) -> Page:
    """The panel with the drawing out of band for htmx, or the page that holds both."""
    if "HX-Request" in request.headers:
        page = render_template(
            "units/_panel.html", record=record, panel=panel, drawing=_drawing(record, panel),
            out_of_band=True,
        )  # fmt: skip
    else:
        page = _unit_page(record, panel)
    return page, code


@units.post("/<uuid:unit_id>/plate/<part>")
@login_required
def save_part(unit_id: uuid.UUID, part: str) -> Page:
    """Store a part's plate values as the unit's next version."""
    record = _mine(unit_id)
    try:
        record = _save(record, changed_unit(record.unit, part, request.form))
    except BadInput as bad:
        return _panel_or_page(record, plate_view(record.unit, part, request.form, bad), 422)
    return _after_change(record, part)


@units.post("/<uuid:unit_id>/plate/<part>/move")
@login_required
def move_part(unit_id: uuid.UUID, part: str) -> Page:
    """Move a part along its rung, or take a limit or link out."""
    record = _mine(unit_id)
    step = {"earlier": -1, "later": 1}.get(request.form.get("to", ""))
    try:
        if step is None:
            changed, shown = without_part(record.unit, part), ""
        else:
            changed = moved_part(record.unit, request.form.get("element", ""), part, step)
            shown = part
        record = _save(record, changed)
    except BadInput as bad:
        return _panel_or_page(record, plate_view(record.unit, part, None, bad), 422)
    return _after_change(record, shown)


def _save(record: UnitRecord, unit: Unit) -> UnitRecord:
    seen = request.form.get("seen", "")
    number = int(seen) if seen.isdigit() else record.version.number
    saved = save_plate(database(), record, unit, number)
    database().commit()
    return saved


def _after_change(record: UnitRecord, part: str) -> Page:
    if "HX-Request" in request.headers:
        return _panel_or_page(record, plate_view(record.unit, part) if part else None)
    return redirect(url_for("units.show", unit_id=record.row.id, part=part or None))


@units.post("/<uuid:unit_id>/visits")
@login_required
def open_visit(unit_id: uuid.UUID) -> Page:
    """Start a visit with its complaint."""
    record = _mine(unit_id)
    complaint = request.form.get("complaint", "")
    if complaint not in COMPLAINTS:
        page = _unit_page(record, None, complaint_error="choose what the call is about")
        return page, 422
    round_ = newest_round(database(), me().shop_id)
    here = round_ is not None and round_.place == record.row.place
    visit = start_visit(database(), record, me(), complaint, round_.id if round_ and here else None)
    database().commit()
    return redirect(url_for("visits.bench", visit_id=visit.id))


@units.get("/<uuid:unit_id>/unit.json")
@login_required
def export(unit_id: uuid.UUID) -> Response:
    """The unit as a visit file without events."""
    record = _mine(unit_id)
    text = write_visit_file(unit_to_json(record.unit), {"events": []})
    return download(text, f"{record.unit.id}.json", "application/json")


@units.get("/<uuid:unit_id>/drawing.svg")
@login_required
def export_drawing(unit_id: uuid.UUID) -> Response:
    """The unit's drawing as a file."""
    record = _mine(unit_id)
    svg = standalone(record.unit, Scene(link=str))
    return download(svg, f"{record.unit.id}.svg", "image/svg+xml")


class ImportForm(FlaskForm):
    """A visit file."""

    file = FileField("Visit file")


@units.route("/import", methods=["GET", "POST"])
@units.route("/<uuid:unit_id>/import", methods=["GET", "POST"], endpoint="bring_onto")
@login_required
def bring(unit_id: uuid.UUID | None = None) -> Page:
    """Take a visit file in, as a new unit or as a visit on this one."""
    onto = _mine(unit_id) if unit_id else None
    form, problem = ImportForm(), None
    if form.is_submitted():
        try:
            upload = request.files.get("file")
            if upload is None or not upload.filename:
                raise BadInput("", "choose a visit file")
            file = parse_visit_file(upload.read())
            record, visit = import_visit(database(), me(), file, onto)
            database().commit()
        except BadInput as bad:
            database().rollback()
            problem = bad
            onto = _mine(unit_id) if unit_id else None
        else:
            if visit is not None:
                return redirect(url_for("visits.report", visit_id=visit.id))
            return redirect(url_for("units.show", unit_id=record.row.id))
    page = render_template("units/import.html", form=form, onto=onto, problem=problem)
    return page, 422 if problem else 200
