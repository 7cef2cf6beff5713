"""The bench of a visit: read, call, switch, take up a proposal, strike out."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from typing import Any

from flask import Blueprint, g, redirect, render_template, request, url_for

from plentar.core.door import model_of
from plentar.core.errors import BadInput
from plentar.core.judgement import Finding
from plentar.core.quantity import Quantity
from plentar.core.said import listed
from plentar.core.unit.points import device_at
from plentar.core.visit.events import (
    LIFTED,
    OFF,
    ON,
    PROVED_DEAD,
    Calls,
    Event,
    Observed,
    Power,
    Reading,
    Wires,
)
from plentar.drawing.parts import Scene
from plentar.files.visit_file import parse_model
from plentar.files.visit_json import AnsweredJson, LookedJson
from plentar.store.record import VisitRecord
from plentar.store.visits import append_event, confirm_late
from plentar.store.visits import strike as strike_reading
from plentar.web.answer import Answer, render, wants_fragment
from plentar.web.database import database
from plentar.web.entry import Entry, parse_entry, seconds_of_a_day
from plentar.web.judge_pool import PAGE_S, Busy
from plentar.web.people import finds_visit, me, signed_in
from plentar.web.visits.answers import changed, keep_note, mine
from plentar.web.visits.entry import (
    AnswerEntry,
    CallsEntry,
    LookEntry,
    PowerEntry,
    ReadingEntry,
    StrikeEntry,
    TakeEntry,
    WiresEntry,
)
from plentar.web.visits.gates import (
    check_bars,
    check_dead,
    check_driven,
    is_on,
    not_checked,
    state_of,
    suspected_before,
    suspected_in,
)
from plentar.web.visits.guided import TestView
from plentar.web.visits.guided_tests import RETEST
from plentar.web.visits.judging import JudgeView
from plentar.web.visits.pads import pad_at, said_at, said_of
from plentar.web.visits.view import BenchView, proof_of
from plentar.web.visits.what_if import what_if
from plentar.words import measures, phrase

visits = Blueprint("visits", __name__, url_prefix="/visits")
#: How often a page asks again by itself for an answer that is not whole.
MOST_AGAIN = 12


@visits.get("/<uuid:visit_id>")
@signed_in
@finds_visit()
def bench(visit_id: uuid.UUID) -> Answer:
    """The bench; with htmx and a point, its pad alone."""
    record = mine(visit_id)
    if record.row.closed_at is not None:
        return redirect(url_for("reports.report", visit_id=visit_id))
    view = BenchView(record)
    asked = request.args
    at = asked.get("at", "")
    pad = pad_at(view, at, asked.get("quantity"), driven="driven" in asked) if at else None
    if wants_fragment() and at:
        return render_template("visits/_pad.html", view=view, pad=pad)
    wait = view.wait(request.args.get("after", 0.0, seconds_of_a_day))
    return render_template("visits/bench.html", view=view, pad=pad, wait=wait)


@visits.get("/<uuid:visit_id>/preview")
@signed_in
@finds_visit()
def preview(visit_id: uuid.UUID) -> Answer:
    """The mark and the verdict of a number while it is typed; stores nothing."""
    view = BenchView(mine(visit_id))
    typed = request.args.get("value", "")
    value, error = None, ""
    if typed.strip():
        try:
            turns = request.args.get("turns", 1, int)
            sign = Quantity.TEMP_F.sign if request.args.get("quantity") == Quantity.TEMP_F else ""
            value = measures.read_typed(typed, sign) / (turns if 1 <= turns <= 10 else 1)
        except BadInput as bad:
            error = str(bad.reason)
    asked = request.args
    pad = said_at(view, asked.get("at", ""), asked.get("quantity"), value, error, driven="driven" in asked)
    return render_template("visits/_verdict.html", view=view, pad=pad)


@visits.post("/<uuid:visit_id>/readings")
@signed_in
@finds_visit(to_write=True)
def read(visit_id: uuid.UUID) -> Answer:
    record = mine(visit_id, to_write=True)
    try:
        entry = parse_entry(ReadingEntry, request.form)
        if BenchView(record).gated(entry.quantity):
            raise BadInput("value", phrase("visits.routes.proved-dead-first-this"))
        if entry.driven:
            check_driven(record, device_at(record.unit, entry.at))
        event = Reading(
            t_s=record.elapsed_s,
            quantity=entry.quantity,
            at=entry.at,
            value=entry.value / entry.turns,
            note=entry.note.strip(),
            driven=entry.driven,
            driven_s=entry.driven_s if entry.driven else None,
            low_z=entry.low_z,
            turns=entry.turns,
        )
        record = append_event(database(), record, event, entry.client_id, me().id)
    except BadInput as bad:
        return _refused(record, str(bad.reason))
    database().commit()
    if not wants_fragment():
        return redirect(url_for("visits.bench", visit_id=visit_id, at=entry.at))
    view = BenchView(record)
    pad = said_of(view.judged(entry.client_id))
    # The pad stays as it is; its verdict, and what the reading changed elsewhere, is put in.
    page = render_template("visits/_after_reading.html", view=view, pad=pad)
    headers = {"HX-Retarget": "#verdict", "HX-Reswap": "outerHTML", "HX-Trigger": "judged"}
    return page, 200, headers


def _refused(record: VisitRecord, reason: str) -> Answer:
    """The pad again with the complaint beside the field; nothing stored, nothing lost."""
    database().rollback()
    g.refusal = reason
    view = BenchView(mine(record.row.id))
    form = request.form
    pad = pad_at(
        view,
        form.get("at", ""),
        form.get("quantity"),
        typed=form.get("value", ""),
        error=reason,
        driven="driven" in form,
    )
    return render("visits/bench.html", "visits/_pad.html", 422, view=view, pad=pad)


@visits.get("/<uuid:visit_id>/judge")
@signed_in
@finds_visit()
def judged(visit_id: uuid.UUID) -> Answer:
    """What to read next and what is suspected; with htmx for its place on the bench."""
    judge = JudgeView(BenchView(mine(visit_id)), request.args.get("todo", "")[:400])
    database().rollback()  # the judge takes a while: no connection waits for it
    fragment, told = _judged(judge)
    return render("visits/judge.html", fragment, inside=fragment, **told)


def _again(judge: JudgeView, what: str) -> dict[str, Any]:
    """What a fragment is told that may have to ask again: where, and whether by itself."""
    asked = request.args.get("again", 0, int)
    ask = f"{judge.view.base}/{what}?again={asked + 1}"
    return {"judge": judge, "ask": ask, "go_on": asked < MOST_AGAIN}


def _judged(judge: JudgeView) -> tuple[str, dict[str, Any]]:
    """The fragment that says what the judge says, or that it is busy, and what it is told."""
    told = _again(judge, "judge")
    if judge.view.repaired:
        judge.retest_card = TestView(judge.view, RETEST).card
    try:
        _ = judge.diagnosis
    except Busy as busy:
        return "visits/_judge_waits.html", told | {"why": str(busy)}
    return "visits/_judge.html", told


@visits.get("/<uuid:visit_id>/what-else")
@signed_in
def what_else(visit_id: uuid.UUID) -> Answer:
    """What may be wrong beside what was found, and what hides until it is mended."""
    judge = JudgeView(BenchView(mine(visit_id)))
    database().rollback()
    told = _again(judge, "what-else")
    try:
        _ = judge.what_else
    except Busy as busy:
        waits = "visits/_judge_waits.html"
        return render("visits/judge.html", waits, inside=waits, why=str(busy), **told)
    return render("visits/what_else.html", "visits/_what_else.html", **told)


@visits.post("/<uuid:visit_id>/take")
@signed_in
def take(visit_id: uuid.UUID) -> Answer:
    """Bring the unit into the state that a proposal asks for, and open its pad.

    Proving dead is not done by a touch: the pad's own gate asks for it.
    """
    suspected = suspected_before(visit_id)
    record = mine(visit_id, to_write=True)
    wanted = parse_entry(TakeEntry, request.form)
    seconds, now = record.elapsed_s, state_of(record)
    live = [circuit for circuit, power in now.power.items() if power == ON]
    if wanted.power == ON or wanted.calls is not None:
        powered = list(now.power) if wanted.power == ON else []
        check_bars(record, powered, wanted.calls, suspected)
    events: list[Event] = []
    if wanted.observe is not None:
        events.append(Observed(t_s=seconds, action=wanted.observe, part=wanted.at))
    if wanted.lifted and not now.lifted:
        # A jumper is landed with the power off.
        events += [Power(t_s=seconds, state=OFF), Wires(t_s=seconds, state=LIFTED)]
        if wanted.power != ON:  # back on goes what was on
            events += [Power(t_s=seconds, state=ON, circuit=circuit) for circuit in live]
    if wanted.power == ON:
        events.append(Power(t_s=seconds, state=ON))
    comes_on = wanted.begins is not None and not is_on(record, wanted.begins)
    if wanted.begins is not None and comes_on:
        # The guarded step is offered again once all of it is on.
        events.append(Calls(t_s=seconds, calls=wanted.begins))
    elif wanted.fresh and wanted.calls is not None and now.calls:
        # First everything drops out; the call itself is given when that is over.
        events.append(Calls(t_s=seconds, calls=frozenset()))
    elif wanted.calls is not None:
        events.append(Calls(t_s=seconds, calls=wanted.calls))
    for number, event in enumerate(events):
        key = wanted.client_id if not number else uuid.uuid5(wanted.client_id, str(number))
        record = append_event(database(), record, event, key, me().id)
    if events and wanted.observe is None:
        not_checked(record, phrase("visits.routes.set-up-reading"), suspected)
    database().commit()
    if wanted.observe is not None or comes_on:
        return changed(visit_id)
    return changed(visit_id, wanted.at, wanted.quantity, wanted.after_s, wanted.driven)


@visits.post("/<uuid:visit_id>/look")
@signed_in
def look(visit_id: uuid.UUID) -> Answer:
    record = mine(visit_id, to_write=True)
    entry = parse_entry(LookEntry, request.form)
    item, _, state = entry.seen.partition(":")
    note = {"t": record.elapsed_s, "item": item, "state": state}
    keep_note(record, parse_model(LookedJson, note), entry)
    if not wants_fragment():
        return redirect(url_for("visits.judged", visit_id=visit_id))
    view = BenchView(mine(visit_id))
    fragment, told = _judged(JudgeView(view))
    page = render_template(fragment, **told)
    page += render_template("visits/_stops.html", view=view, out_of_band=True)
    return page + render_template("visits/_noted.html", view=view, out_of_band=True)


@visits.post("/<uuid:visit_id>/answer")
@signed_in
def answer(visit_id: uuid.UUID) -> Answer:
    """A stop-now finding was made safe: how, by whom, when."""
    view = BenchView(mine(visit_id))
    entry = parse_entry(AnswerEntry, request.form)

    def asked(stops: Sequence[Finding]) -> bool:
        return any((f.code, f.component) == (entry.code, entry.component) for f in stops)

    # What the readings show needs no judge; only what it suspects waits for it.
    suspected = () if asked(view.stopped) else suspected_in(visit_id, PAGE_S)
    record = mine(visit_id, to_write=True)
    if not asked((*BenchView(record).stopped, *(suspected or ()))):
        raise BadInput("code", phrase("visits.routes.no-such-stop-now"))
    note = {
        "t": record.elapsed_s,
        "code": entry.code,
        "component": entry.component,
        "how": entry.how.strip(),
        "by": me().name,
        "events": len(record.events),
    }
    keep_note(record, parse_model(AnsweredJson, note), entry)
    return changed(visit_id)


@visits.get("/<uuid:visit_id>/what-if")
@signed_in
def suppose(visit_id: uuid.UUID) -> Answer:
    """Every point: due, as a chosen fault would show it, and read."""
    view = BenchView(mine(visit_id))
    answer = what_if(view, request.args.get("fault", ""))
    faults = answer.fault.split("+") if answer.fault else []
    model = model_of(view.unit, view.visit.events, view.record.elapsed_s, faults)
    scene = Scene(view.link, answer.badges, view.state.power, model=model)
    return render_template("visits/what_if.html", view=view, answer=answer, scene=scene)


@visits.get("/<uuid:visit_id>/log")
@signed_in
def whole_log(visit_id: uuid.UUID) -> Answer:
    """Everything that was done and read, for the page or, with htmx, for its place on the bench."""
    view = BenchView(mine(visit_id))
    return render("visits/log.html", "visits/_log.html", view=view, whole=True)


@visits.get("/<uuid:visit_id>/readings/<int:event_id>/strike")
@signed_in
def ask_to_strike(visit_id: uuid.UUID, event_id: int) -> Answer:
    mine(visit_id, to_write=True)
    action = url_for("visits.strike", visit_id=visit_id, event_id=event_id)
    return render("visits/strike.html", "visits/_strike.html", action=action)


@visits.post("/<uuid:visit_id>/readings/<int:event_id>/strike")
@signed_in
def strike(visit_id: uuid.UUID, event_id: int) -> Answer:
    record = mine(visit_id, to_write=True)
    reason = parse_entry(StrikeEntry, request.form).reason.strip()
    strike_reading(database(), record, event_id, reason)
    database().commit()
    return changed(visit_id)


@visits.post("/<uuid:visit_id>/readings/<int:event_id>/confirm")
@signed_in
def confirm(visit_id: uuid.UUID, event_id: int) -> Answer:
    """An entry that came late is evidence from now on."""
    record = mine(visit_id, to_write=True)
    confirm_late(database(), record, event_id)
    database().commit()
    return changed(visit_id)


@visits.post("/<uuid:visit_id>/power")
@signed_in
def power(visit_id: uuid.UUID) -> Answer:
    """A breaker moved, or the unit proved dead by its three checks."""
    suspected = suspected_before(visit_id) if request.form.get("state") == ON else ()
    record = mine(visit_id, to_write=True)
    entry = parse_entry(PowerEntry, request.form)
    proved = entry.state == PROVED_DEAD
    if proved:
        _check_proof(record, entry.proof)
    circuit = None if proved else entry.circuit or None
    if entry.state == ON:
        closing = [circuit] if circuit else [c.id for c in record.unit.circuits]
        check_bars(record, closing, suspected=suspected)
    if entry.state == ON:
        said = phrase("visits.routes.power", value=circuit or phrase("all-circuits"))
        not_checked(record, said, suspected)
    _store(record, Power(t_s=record.elapsed_s, state=entry.state, circuit=circuit), entry)
    return changed(visit_id, entry.at, driven=entry.driven)


def _check_proof(record: VisitRecord, ticked: frozenset[str]) -> None:
    needed = set(proof_of(record.unit))
    if missing := needed - ticked:
        raise BadInput(
            "proof", phrase("visits.routes.checks-not-ticked", len=len(missing), len_2=len(needed))
        )


@visits.post("/<uuid:visit_id>/calls")
@signed_in
def call(visit_id: uuid.UUID) -> Answer:
    """What the thermostat asks for from now on."""
    suspected = suspected_before(visit_id)
    record = mine(visit_id, to_write=True)
    entry = parse_entry(CallsEntry, request.form)
    asked = entry.asked(state_of(record).calls)
    check_bars(record, calls=asked, suspected=suspected)
    if raised := asked - state_of(record).calls:
        not_checked(record, phrase("visits.routes.called", raised=listed(sorted(raised))), suspected)
    _store(record, Calls(t_s=record.elapsed_s, calls=asked), entry)
    return changed(visit_id, entry.at)


@visits.post("/<uuid:visit_id>/wires")
@signed_in
def wires(visit_id: uuid.UUID) -> Answer:
    """The thermostat wires are lifted for a jumper, or put back, with the power off."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(WiresEntry, request.form)
    check_dead(record, "state", phrase("visits.routes.breakers-off-first-jumper"))
    _store(record, Wires(t_s=record.elapsed_s, state=entry.state, part=entry.part), entry)
    by_bench = entry.state == LIFTED and bool(entry.part)
    return changed(visit_id, entry.at, Quantity.OHMS if entry.at else None, driven=by_bench)


def _store(record: VisitRecord, event: Event, entry: Entry) -> None:
    append_event(database(), record, event, entry.client_id, me().id)
    database().commit()
