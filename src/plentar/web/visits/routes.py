"""The bench of a visit: read, call, switch, strike out, close, report, export."""

from __future__ import annotations

import uuid
from typing import Any

from flask import Blueprint, Response, redirect, render_template, request, url_for
from flask_login import login_required
from flask_wtf import FlaskForm
from wtforms import RadioField, StringField, TextAreaField
from wtforms.validators import InputRequired, Length

from plentar.core.door import model_of, state_at
from plentar.core.errors import BadInput
from plentar.core.events import (
    COMPLAINTS,
    OFF,
    ON,
    PROVED_DEAD,
    Calls,
    Event,
    Observed,
    Power,
    Reading,
    Replaced,
)
from plentar.core.parts import CALLS
from plentar.core.quantity import parse_reading
from plentar.drawing.parts import Scene
from plentar.drawing.standalone import standalone
from plentar.files.readings_csv import CsvRow, readings_csv
from plentar.files.visit_file import parse_model
from plentar.files.visit_json import AnsweredJson, LookedJson
from plentar.store.exchange import export_visit
from plentar.store.visits import (
    VisitRecord,
    add_note,
    append_event,
    close_visit,
    find_visit,
    opener_name,
)
from plentar.store.visits import strike as strike_reading
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.forms import choices
from plentar.web.people import me
from plentar.web.tape.view import TapeView
from plentar.web.visits.entry import Entry, ReadingEntry, TakeEntry, parse_entry
from plentar.web.visits.judging import JudgeView
from plentar.web.visits.view import BenchView, proof_of, readings_of
from plentar.web.visits.what_if import what_if

visits = Blueprint("visits", __name__, url_prefix="/visits")
Page = tuple[str, int] | tuple[str, int, dict[str, str]] | str | Response
OUTCOMES = {
    "in-service": "in service",
    "left-off": "left off",
    "heat-disabled": "heat disabled, heat pump only",
}


class CloseForm(FlaskForm):
    """How the unit is left."""

    outcome = RadioField(
        "Left", [InputRequired("say how the unit is left")], choices=choices(OUTCOMES)
    )
    left_note = TextAreaField("What was done and left", [Length(max=4000)])
    follow_up = StringField("To follow up", [Length(max=500)])


def _mine(visit_id: uuid.UUID, to_write: bool = False) -> VisitRecord:
    return find_visit(database(), me().shop_id, visit_id, to_write=to_write)


def _htmx() -> bool:
    return "HX-Request" in request.headers


@visits.get("/<uuid:visit_id>")
@login_required
def bench(visit_id: uuid.UUID) -> Page:
    """The bench; with htmx and a point, its pad alone."""
    record = _mine(visit_id)
    if record.row.closed_at is not None:
        return redirect(url_for("visits.report", visit_id=visit_id))
    view = BenchView(record)
    asked = request.args
    at = asked.get("at", "")
    pad = view.pad(at, asked.get("quantity"), driven="driven" in asked) if at else None
    if _htmx() and at:
        return render_template("visits/_pad.html", view=view, pad=pad)
    wait = view.wait_s(request.args.get("after", 0.0, float))
    return render_template("visits/bench.html", view=view, pad=pad, wait=wait)


@visits.get("/<uuid:visit_id>/preview")
@login_required
def preview(visit_id: uuid.UUID) -> str:
    """The mark and the verdict of a number while it is typed; stores nothing."""
    view = BenchView(_mine(visit_id))
    typed = request.args.get("value", "")
    value, error = None, ""
    if typed.strip():
        try:
            value = parse_reading(typed)
        except BadInput as bad:
            error = bad.reason
    asked = request.args
    pad = view.pad(
        asked.get("at", ""), asked.get("quantity"), typed, value, error, driven="driven" in asked
    )
    return render_template("visits/_verdict.html", view=view, pad=pad)


@visits.post("/<uuid:visit_id>/readings")
@login_required
def read(visit_id: uuid.UUID) -> Page:
    """Store a reading, commit, then judge all again and show it."""
    record = _mine(visit_id, to_write=True)
    try:
        entry = parse_entry(ReadingEntry, request.form)
        if BenchView(record).gated(entry.quantity):
            raise BadInput("value", "proved dead first: this reading was not stored")
        event = Reading(
            t_s=record.elapsed_s, quantity=entry.quantity, at=entry.at, value=entry.value,
            note=entry.note.strip(), driven=entry.driven,
        )  # fmt: skip
        record = append_event(database(), record, event, entry.client_id, me().id)
    except BadInput as bad:
        return _refused(record, bad.reason)
    database().commit()
    if not _htmx():
        return redirect(url_for("visits.bench", visit_id=visit_id, at=entry.at))
    view = BenchView(record)
    pad = view.pad(entry.at, entry.quantity, value=entry.value, stored=True, driven=entry.driven)
    # The pad stays as it is; its verdict, and what the reading changed elsewhere, is put in.
    page = render_template("visits/_after_reading.html", view=view, pad=pad)
    headers = {"HX-Retarget": "#verdict", "HX-Reswap": "outerHTML", "HX-Trigger": "judged"}
    return page, 200, headers


def _refused(record: VisitRecord, reason: str) -> Page:
    """The pad again with the complaint beside the field; nothing stored, nothing lost."""
    database().rollback()
    view = BenchView(_mine(record.row.id))
    form = request.form
    pad = view.pad(
        form.get("at", ""), form.get("quantity"), typed=form.get("value", ""), error=reason,
        driven="driven" in form,
    )  # fmt: skip
    template = "visits/_pad.html" if _htmx() else "visits/bench.html"
    return render_template(template, view=view, pad=pad), 422


@visits.get("/<uuid:visit_id>/judge")
@login_required
def judged(visit_id: uuid.UUID) -> str:
    """What to read next and what is suspected; with htmx for its place on the bench."""
    judge = JudgeView(BenchView(_mine(visit_id)))
    return render_template("visits/_judge.html" if _htmx() else "visits/judge.html", judge=judge)


@visits.get("/<uuid:visit_id>/what-else")
@login_required
def what_else(visit_id: uuid.UUID) -> str:
    """What may be wrong beside what was found, and what hides until it is mended."""
    judge = JudgeView(BenchView(_mine(visit_id)))
    template = "visits/_what_else.html" if _htmx() else "visits/what_else.html"
    return render_template(template, judge=judge)


@visits.post("/<uuid:visit_id>/take")
@login_required
def take(visit_id: uuid.UUID) -> Page:
    """Bring the unit into the state that a proposal asks for, and open its pad.

    Proving dead is not done by a touch: the pad's own gate asks for it.
    """
    record = _mine(visit_id, to_write=True)
    wanted = parse_entry(TakeEntry, request.form)
    seconds = record.elapsed_s
    events: list[Event] = []
    if wanted.observe is not None:
        events.append(Observed(t_s=seconds, action=wanted.observe, part=wanted.at))
    if wanted.power == ON:
        events.append(Power(t_s=seconds, state=ON))
    if (
        wanted.fresh
        and wanted.calls is not None
        and state_at(record.unit, record.core().events, seconds).calls
    ):
        # First everything drops out; the call itself is given when that is over.
        events.append(Calls(t_s=seconds, calls=frozenset()))
    elif wanted.calls is not None:
        events.append(Calls(t_s=seconds, calls=wanted.calls, lifted=wanted.lifted))
    for number, event in enumerate(events):
        key = wanted.client_id if not number else uuid.uuid5(wanted.client_id, str(number))
        record = append_event(database(), record, event, key, me().id)
    database().commit()
    if wanted.observe is not None:
        return _changed(visit_id)
    return _changed(visit_id, wanted.at, wanted.quantity, wanted.after_s, wanted.driven)


@visits.post("/<uuid:visit_id>/replaced")
@login_required
def replaced(visit_id: uuid.UUID) -> Page:
    """A part was repaired or replaced: what was read of it before counts no more."""
    record = _mine(visit_id, to_write=True)
    _store(record, Replaced(t_s=record.elapsed_s, component=request.form.get("component", "")))
    return _changed(visit_id)


@visits.post("/<uuid:visit_id>/look")
@login_required
def look(visit_id: uuid.UUID) -> Page:
    """One item of the look at the whole unit."""
    record = _mine(visit_id, to_write=True)
    item, _, state = request.form.get("seen", "").partition(":")
    _note(record, {"t": record.elapsed_s, "item": item, "state": state}, LookedJson)
    if not _htmx():
        return redirect(url_for("visits.judged", visit_id=visit_id))
    view = BenchView(_mine(visit_id))
    page = render_template("visits/_judge.html", judge=JudgeView(view))
    page += render_template("visits/_stops.html", view=view, out_of_band=True)
    return page + render_template("visits/_noted.html", view=view, out_of_band=True)


@visits.post("/<uuid:visit_id>/answer")
@login_required
def answer(visit_id: uuid.UUID) -> Page:
    """A stop-now finding was made safe: how, by whom, when."""
    record = _mine(visit_id, to_write=True)
    code, component = request.form.get("code", ""), request.form.get("component", "")
    if not any((f.code, f.component) == (code, component) for f in BenchView(record).stopped):
        raise BadInput("code", "no such stop-now finding stands")
    how = request.form.get("how", "").strip()
    body = {"t": record.elapsed_s, "code": code, "component": component, "how": how,
            "by": me().name}  # fmt: skip
    _note(record, body, AnsweredJson)
    return _changed(visit_id)


def _note(
    record: VisitRecord, body: dict[str, Any], kind: type[LookedJson] | type[AnsweredJson]
) -> None:
    note = parse_model(kind, body)
    entry = parse_entry(Entry, request.form)
    add_note(database(), record, note, entry.client_id, me().id)
    database().commit()


@visits.get("/<uuid:visit_id>/what-if")
@login_required
def suppose(visit_id: uuid.UUID) -> str:
    """Every point: due, as a chosen fault would show it, and read."""
    view = BenchView(_mine(visit_id))
    answer = what_if(view, request.args.get("fault", ""))
    faults = answer.fault.split("+") if answer.fault else []
    model = model_of(view.unit, view.visit.events, view.record.elapsed_s, faults)
    scene = Scene(view.link, answer.badges, view.state.power, model=model)
    return render_template("visits/what_if.html", view=view, answer=answer, scene=scene)


@visits.get("/<uuid:visit_id>/drawing.svg")
@login_required
def export_drawing(visit_id: uuid.UUID) -> Response:
    """The drawing with this visit's readings as a file."""
    view = BenchView(_mine(visit_id))
    name = f"{view.unit.id}-{view.record.row.started_at:%Y-%m-%d}.svg"
    return download(standalone(view.unit, view.record_scene), name, "image/svg+xml")


@visits.get("/<uuid:visit_id>/log")
@login_required
def whole_log(visit_id: uuid.UUID) -> str:
    """Everything that was done and read, for the page or, with htmx, for its place on the bench."""
    view = BenchView(_mine(visit_id))
    template = "visits/_log.html" if _htmx() else "visits/log.html"
    return render_template(template, view=view, whole=True)


@visits.route("/<uuid:visit_id>/readings/<int:event_id>/strike", methods=["GET", "POST"])
@login_required
def strike(visit_id: uuid.UUID, event_id: int) -> Page:
    """Ask for the reason, then strike a reading out with it."""
    record = _mine(visit_id, to_write=True)
    if request.method == "GET":
        template = "visits/_strike.html" if _htmx() else "visits/strike.html"
        return render_template(template, visit_id=visit_id, event_id=event_id)
    reason = request.form.get("reason", "").strip()
    if not 3 <= len(reason) <= 500:
        raise BadInput("reason", "say why the reading is struck out, in 3 to 500 characters")
    strike_reading(database(), record, event_id, reason)
    database().commit()
    return _changed(visit_id)


@visits.post("/<uuid:visit_id>/power")
@login_required
def power(visit_id: uuid.UUID) -> Page:
    """A breaker moved, or the unit proved dead by its three checks."""
    record = _mine(visit_id, to_write=True)
    state, circuit = request.form.get("state", ""), request.form.get("circuit") or None
    if state not in (ON, OFF, PROVED_DEAD):
        raise BadInput("state", "on, off or proved-dead")
    if state == PROVED_DEAD:
        _check_proof(record, set(request.form.getlist("proof")))
        circuit = None
    _store(record, Power(t_s=record.elapsed_s, state=state, circuit=circuit))
    return _changed(visit_id, request.form.get("at", ""), driven="driven" in request.form)


def _check_proof(record: VisitRecord, ticked: set[str]) -> None:
    needed = set(proof_of(record.unit))
    if missing := needed - ticked:
        raise BadInput("proof", f"{len(missing)} of {len(needed)} checks are not ticked")


@visits.post("/<uuid:visit_id>/calls")
@login_required
def call(visit_id: uuid.UUID) -> Page:
    """What the thermostat asks for from now on."""
    record = _mine(visit_id, to_write=True)
    asked = frozenset(filter(None, request.form.get("calls", "").split(",")))
    if not asked <= set(CALLS):
        raise BadInput("calls", f"only {', '.join(CALLS)}")
    now = state_at(record.unit, record.core().events, record.elapsed_s)
    lifted = {"yes": True, "no": False}.get(request.form.get("lifted", ""), now.lifted)
    _store(record, Calls(t_s=record.elapsed_s, calls=asked, lifted=lifted))
    return _changed(visit_id, request.form.get("at", ""))


def _store(record: VisitRecord, event: Event) -> None:
    entry = parse_entry(Entry, request.form)
    append_event(database(), record, event, entry.client_id, me().id)
    database().commit()


def _changed(
    visit_id: uuid.UUID,
    at: str = "",
    quantity: str | None = None,
    after_s: float = 0.0,
    driven: bool = False,
) -> Page:
    """The bench after a change: its inside for htmx, else by way of a redirect."""
    if not _htmx():
        where = {
            "at": at or None, "quantity": quantity, "after": after_s or None,
            "driven": "yes" if driven else None,
        }  # fmt: skip
        return redirect(url_for("visits.bench", visit_id=visit_id, **where))
    view = BenchView(_mine(visit_id))
    pad = view.pad(at, quantity, driven=driven) if at else None
    return render_template("visits/_bench.html", view=view, pad=pad, wait=view.wait_s(after_s))


@visits.route("/<uuid:visit_id>/close", methods=["GET", "POST"])
@login_required
def close(visit_id: uuid.UUID) -> Page:
    """Close the visit; not as in service while something says stop now."""
    form = CloseForm()
    record = _mine(visit_id, to_write=form.is_submitted())
    view = BenchView(record)
    if form.validate_on_submit():
        if view.state.lifted:
            form.outcome.errors = ["not while a jumper is in and thermostat wires are lifted"]
        elif form.outcome.data == "in-service" and view.stopped:
            form.outcome.errors = ["not while a stop-now finding stands: leave it off"]
        elif form.outcome.data != "in-service" and not (form.left_note.data or "").strip():
            form.left_note.errors = ["a note for the owner: why it is left so"]
        else:
            close_visit(
                database(), record.row, form.outcome.data, (form.left_note.data or "").strip(),
                (form.follow_up.data or "").strip(),
            )  # fmt: skip
            database().commit()
            return redirect(url_for("visits.report", visit_id=visit_id))
    page = render_template("visits/close.html", view=view, form=form)
    return page, 422 if form.is_submitted() else 200


@visits.get("/<uuid:visit_id>/report")
@login_required
def report(visit_id: uuid.UUID) -> str:
    """The report, made to be printed."""
    record = _mine(visit_id)
    view = BenchView(record)
    tape = TapeView(record, live=record.row.closed_at is None)
    return render_template(
        "visits/report.html", view=view, tape=tape, rows=readings_of(view.log()), complaints=COMPLAINTS,
        outcomes=OUTCOMES, opened_by=opener_name(database(), view.record.row),
    )  # fmt: skip


@visits.get("/<uuid:visit_id>/visit.json")
@login_required
def export_json(visit_id: uuid.UUID) -> Response:
    """The visit as a visit file."""
    record = _mine(visit_id)
    name = f"{record.unit.id}-{record.row.started_at:%Y-%m-%d}.json"
    return download(export_visit(record), name, "application/json")


@visits.get("/<uuid:visit_id>/readings.csv")
@login_required
def export_csv(visit_id: uuid.UUID) -> Response:
    """The readings as CSV."""
    record = _mine(visit_id)
    rows = [
        CsvRow(row.judged, row.event.struck_reason or "")
        for row in readings_of(BenchView(record).log())
        if row.judged
    ]
    name = f"{record.unit.id}-{record.row.started_at:%Y-%m-%d}.csv"
    return download(readings_csv(rows), name, "text/csv")
