"""Practice: the list, a scene that is begun, and one touch after another on its bench."""

from __future__ import annotations

import uuid
from typing import Annotated, Literal

from flask import Response, redirect, render_template, request, url_for
from pydantic import Field

from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.said import say
from plentar.practice.bench import MOST_SKIP_S, Bench
from plentar.practice.scene_file import read_scene_file
from plentar.store.errors import NotFound
from plentar.store.models import Practice, now
from plentar.store.practices import find_practice, practices_of
from plentar.web.answer import Answer, wants_fragment
from plentar.web.database import database
from plentar.web.downloads import download
from plentar.web.entry import Entry, Form, parse_entry
from plentar.web.people import me, signed_in
from plentar.web.practice.beginning import HelpEntry, SceneEntry, begun, begun_from_file
from plentar.web.practice.blueprint import practice
from plentar.web.practice.listing import list_page
from plentar.web.practice.rows import all_records, bench_of, keep
from plentar.web.practice.view import PracticeView
from plentar.web.practice.wires import MOVE, REPLACE, WiresView, said_on
from plentar.words import phrase

NOTHING_FOUND = "none"


class ActEntry(Entry):
    """One touch: what is read, switched, called, waited for, or replaced."""

    act: Literal[
        "read",
        "drive",
        "misread",
        "clamp",
        "watch",
        "still",
        "power",
        "wires",
        "call",
        "wait",
        "discharge",
        "replace",
        "move",
        "prove",
    ]
    at: Annotated[str, Field(max_length=60)] = ""
    quantity: Literal[tuple(Quantity)] | None = None  # type: ignore[valid-type]
    state: Literal["on", "off", "proved-dead", "lifted", "restored"] = "on"
    way: Annotated[str, Field(max_length=20)] = ""
    circuit: Annotated[str, Field(max_length=60)] = ""
    call: Annotated[str, Field(max_length=4)] = ""
    seconds: Annotated[float, Field(gt=0, le=MOST_SKIP_S, allow_inf_nan=False)] = 1.0
    part: Annotated[str, Field(max_length=60)] = ""
    marked: bool = False
    #: The terminal of each wire, such as ``w1:NO``.
    on: Annotated[
        tuple[Annotated[str, Field(pattern=r"^w\d{1,2}:[A-Za-z0-9+~-]{0,8}$")], ...], Field(max_length=40)
    ] = ()


class EndEntry(Entry):
    """The parts that are at fault, or that nothing is."""

    named: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=6)] = ()


@practice.get("")
@signed_in
def show() -> str:
    return list_page(Form(request.args))


@practice.post("")
@signed_in
def begin() -> Answer:
    try:
        rows = begun(me(), parse_entry(SceneEntry, request.form))
    except BadInput as bad:
        return list_page(Form(request.form, bad)), 422
    if len(rows) == 1 and rows[0].account_id == me().id:
        return redirect(url_for("practice.bench", practice_id=rows[0].id))
    return redirect(url_for("practice.show"))


@practice.post("/scene-file")
@signed_in
def begin_from_file() -> Answer:
    """A scene that somebody else has sent."""
    try:
        upload = request.files.get("scene")
        if upload is None or not upload.filename:
            raise BadInput("scene", say("practice.choose-scene"))
        entry, file = parse_entry(HelpEntry, request.form), read_scene_file(upload.read())
        row = begun_from_file(me(), entry, file)
    except BadInput as bad:
        said = bad.reason if bad.path in ("", "scene") else f"{bad.path}: {bad.reason}"
        return list_page(Form(request.form, BadInput("scene", said))), 422
    return redirect(url_for("practice.bench", practice_id=row.id))


@practice.get("/mine.json")
@signed_in
def export() -> Response:
    """One's own practices as a file of their own: no visit file, no archive has them."""
    rows = practices_of(database(), me().shop_id, me().id)
    return download(all_records(rows), "practice.json", "application/json")


@practice.get("/<uuid:practice_id>")
@signed_in
def bench(practice_id: uuid.UUID) -> Answer:
    row = find_practice(database(), me(), practice_id)
    if row.ended_at is not None:
        return redirect(url_for("practice.debrief", practice_id=practice_id))
    view, part = PracticeView(row, request.args.get("at", "")), request.args.get("wires", "")
    if part in view.bench.landed:
        view.wires_in_hand = WiresView(view.bench, part, MOVE)
    return _shown(view)


def _shown(view: PracticeView, form: Form | None = None, status: int = 200) -> Answer:
    page = "practice/_bench.html" if wants_fragment() else "practice/bench.html"
    return render_template(page, view=view, form=form or Form()), status


@practice.post("/<uuid:practice_id>/act")
@signed_in
def act(practice_id: uuid.UUID) -> Answer:
    """One touch, once."""
    row = find_practice(database(), me(), practice_id, to_act=True)
    at = request.form.get("at", "")
    try:
        entry = parse_entry(ActEntry, request.form)
        before = bench_of(row)
        if _asks_for_wires(before, entry):
            return _shown(_with_wires(row, entry))
        after = before if str(entry.client_id) in row.touches else _done(before, entry)
    except BadInput as bad:
        view = PracticeView(row, at)
        if bad.path == "on" and entry.on:
            view = _with_wires(row, entry)
        return _shown(view, Form(request.form, bad), 422)
    if after is not before:
        keep(row, after, str(entry.client_id))
        database().commit()
    return _shown(PracticeView(row, at, new_harms=len(after.harms) - len(before.harms)))


def _asks_for_wires(before: Bench, entry: ActEntry) -> bool:
    """A device is to be replaced, and nobody has said yet where its wires go."""
    device = entry.part in before.unit.device_by_id
    return entry.act == REPLACE and device and not entry.on and before.state.proved_dead


def _with_wires(row: Practice, entry: ActEntry) -> PracticeView:
    view = PracticeView(row, entry.at)
    guided = row.coaching == "guide"
    chosen = said_on(entry.on) if entry.on else None
    view.wires_in_hand = WiresView(view.bench, entry.part, entry.act, entry.marked, chosen, guided)
    return view


def _done(before: Bench, entry: ActEntry) -> Bench:
    return _read(before, entry) or _set(before, entry) or _mended(before, entry)


def _mended(before: Bench, entry: ActEntry) -> Bench:
    """A part that is replaced, its wires moved or gone over."""
    on = said_on(entry.on)
    match entry.act:
        case "move":
            return before.move(entry.part, on)
        case "prove":
            return before.prove(entry.part)
        case _:
            return before.replace(entry.part, marked=entry.marked, on=on or None)


def _read(before: Bench, entry: ActEntry) -> Bench | None:
    """What is read, watched or seen; None for another act."""
    match entry.act:
        case "read" | "drive":
            if entry.quantity is None:
                raise BadInput("quantity", say("practice.say-what-is-read"))
            how = before.measure if entry.act == "read" else before.drive
            return how(entry.at, Quantity(entry.quantity))
        case "misread":
            return before.misread(entry.at, entry.way)
        case "clamp":
            return before.clamp(entry.at)
        case "watch":
            return before.watch(entry.at)
        case "still":
            return before.note_still()
        case _:
            return None


def _set(before: Bench, entry: ActEntry) -> Bench | None:
    """What is switched, called, taken off its terminal or waited for; None for another act."""
    match entry.act:
        case "power":
            return before.power(entry.state, entry.circuit)
        case "wires":
            return before.wires(entry.state, entry.part)
        case "call":
            return before.call(entry.call)
        case "wait":
            return before.wait(entry.seconds)
        case "discharge":
            return before.discharge()
        case _:
            return None


@practice.post("/<uuid:practice_id>/hint")
@signed_in
def hint(practice_id: uuid.UUID) -> Answer:
    """What the judge would read next; counted."""
    row = find_practice(database(), me(), practice_id, to_act=True)
    if row.coaching != "hints":
        raise NotFound(phrase("practice.no-hints-here"))
    view = PracticeView(row)
    if view.coach.card is not None:
        row.hints += 1
        database().commit()
    return render_template("practice/_hint.html", view=view, coach=view.coach)


@practice.post("/<uuid:practice_id>/end")
@signed_in
def end(practice_id: uuid.UUID) -> Answer:
    row = find_practice(database(), me(), practice_id, to_act=True)
    here = bench_of(row)
    try:
        entry = parse_entry(EndEntry, request.form)
        named = [part for part in entry.named if part]
        if not named or (NOTHING_FOUND in named and len(named) > 1):
            raise BadInput("named", say("practice.name-parts-or-none"))
        if unknown := set(named) - here.unit.components - {NOTHING_FOUND}:
            raise BadInput("named", phrase("practice.no-such-part-named", part=min(unknown)))
    except BadInput as bad:
        return _shown(PracticeView(row), Form(request.form, bad), 422)
    keep(row, here.leave(), str(entry.client_id))
    row.named, row.ended_at = [part for part in named if part != NOTHING_FOUND], now()
    database().commit()
    return redirect(url_for("practice.debrief", practice_id=practice_id))
