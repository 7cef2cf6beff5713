"""Practice: begin a scene, work on it, end it, and what is told then."""

from __future__ import annotations

import secrets
import uuid
from collections.abc import Callable, Mapping
from random import Random
from typing import Annotated, Literal

from flask import Blueprint, redirect, render_template, request, url_for
from pydantic import Field

from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.said import say
from plentar.files.unit_json import unit_to_json
from plentar.practice.bench import MOST_SKIP_S, Bench
from plentar.practice.debrief import before_each_reading, told
from plentar.practice.progress import SOUND
from plentar.practice.scene import MOST_FAULTS, THEMES, Scene, draw
from plentar.stand_ins.wider.specimen import Plate
from plentar.store.accounts import SignedIn
from plentar.store.errors import NotFound
from plentar.store.models import Practice, now
from plentar.store.people import people_of
from plentar.store.practices import find_practice, practices_of
from plentar.store.units import UnitRecord, find_unit, list_units
from plentar.web.answer import Answer, wants_fragment
from plentar.web.database import database
from plentar.web.entry import Entry, Form, empty_as_none, parse_entry
from plentar.web.judge_pool import Busy, judge_pool
from plentar.web.people import me, signed_in
from plentar.web.practice.learning import ProgressView, own_lessons
from plentar.web.practice.rows import bench_of, keep, same_scene
from plentar.web.practice.view import PracticeView
from plentar.words import language, phrase

practice = Blueprint("practice", __name__, url_prefix="/practice")
#: How many practices are listed.
SHOWN = 30
#: So many plates are tried for a lesson.
MOST_TRIED = 60
COACHING = ("off", "hints", "guide")
NOTHING_FOUND = "none"


class SceneEntry(Entry):
    unit: Annotated[uuid.UUID | None, empty_as_none] = None
    theme: Literal[tuple(THEMES)] = "any"  # type: ignore[valid-type]
    faults: Annotated[int, Field(ge=0, le=MOST_FAULTS)] = 1
    coaching: Literal[COACHING] = "hints"  # type: ignore[valid-type]
    seed: Annotated[str, Field(max_length=20)] = ""
    #: A lesson's name, or a kind of fault that is worth meeting once more.
    lesson: Annotated[str, Field(max_length=60)] = ""
    kind: Annotated[str, Field(max_length=40)] = ""


class ActEntry(Entry):
    """One touch: what is read, switched, called, waited for, or replaced."""

    act: Literal["read", "watch", "power", "call", "wait", "replace"]
    at: Annotated[str, Field(max_length=60)] = ""
    quantity: Literal[tuple(Quantity)] | None = None  # type: ignore[valid-type]
    state: Literal["on", "off", "proved-dead"] = "on"
    circuit: Annotated[str, Field(max_length=60)] = ""
    call: Annotated[str, Field(max_length=4)] = ""
    seconds: Annotated[float, Field(gt=0, le=MOST_SKIP_S, allow_inf_nan=False)] = 1.0
    part: Annotated[str, Field(max_length=60)] = ""


class EndEntry(Entry):
    """The parts that are at fault, or that nothing is."""

    named: Annotated[tuple[Annotated[str, Field(max_length=60)], ...], Field(max_length=6)] = ()


@practice.get("")
@signed_in
def show() -> str:
    return _list(Form(request.args))


def _list(form: Form) -> str:
    account = me()
    lead = account.role == "lead"
    rows = practices_of(database(), account.shop_id, None if lead else account.id)
    names = {one.id: one.name for one in people_of(database(), account.shop_id)}
    who = _whose(account, names)
    known, wrong = own_lessons()
    return render_template(
        "practice/list.html",
        form=form,
        practices=[(row, PracticeView(row), names.get(row.account_id, "")) for row in rows[:SHOWN]],
        themes={theme: phrase(f"practice.theme.{theme}") for theme in THEMES},
        coachings={one: phrase(f"practice.coaching.{one}") for one in COACHING},
        counts={str(n): phrase(f"practice.faults.{n}") for n in range(MOST_FAULTS + 1)},
        units={str(one.row.id): one.unit.label for one in list_units(database(), account.shop_id)[:500]},
        lessons=[(lesson.name, lesson.said(language())) for lesson in known],
        left_out=wrong if lead else [],
        progress=ProgressView([row for row in rows if row.account_id == who]),
        who=names[who],
        people=sorted(names.items(), key=lambda one: one[1]) if lead else [],
    )


def _whose(account: SignedIn, names: Mapping[uuid.UUID, str]) -> uuid.UUID:
    """Whose progress is looked at: one's own, or, by a lead, somebody's of the shop."""
    try:
        asked = uuid.UUID(request.args.get("who", ""))
    except ValueError:
        return account.id
    return asked if account.role == "lead" and asked in names else account.id


@practice.post("")
@signed_in
def begin() -> Answer:
    try:
        entry = parse_entry(SceneEntry, request.form)
        row = _begun(me(), entry)
    except BadInput as bad:
        return _list(Form(request.form, bad)), 422
    return redirect(url_for("practice.bench", practice_id=row.id))


def _begun(account: SignedIn, entry: SceneEntry) -> Practice:
    """The practice of this id, begun now or before."""
    known = database().get(Practice, entry.client_id)
    if known is not None:
        return find_practice(database(), account, known.id)
    seed = entry.seed.strip() or secrets.token_hex(3)
    record, scene = _scene(account, entry, seed)
    again = entry.model_dump(include={"theme", "faults", "lesson", "kind"}) | {"unit": str(record.row.id)}
    row = Practice(
        id=entry.client_id,
        shop_id=account.shop_id,
        account_id=account.id,
        coaching=entry.coaching,
        scene={
            "plate": scene.plate,
            "faults": scene.faults,
            "seed": seed,
            "complaint": scene.complaint,
            "label": record.unit.label,
            "again": again | {"seed": seed},
            "lesson": entry.lesson,
        },
    )
    database().add(row)
    database().commit()
    return row


def _scene(account: SignedIn, entry: SceneEntry, seed: str) -> tuple[UnitRecord, Scene]:
    """A unit of the shop with what is hidden in it. Raises BadInput."""
    if entry.lesson:
        lesson = next((one for one in own_lessons()[0] if one.name == entry.lesson), None)
        if lesson is None:
            raise BadInput("lesson", say("practice.no-such-lesson"))
        return _fitting(account, entry.unit, lambda plate: lesson.scene(plate, seed))
    if entry.kind and entry.kind != SOUND:
        return _fitting(account, entry.unit, lambda plate: _of_kind(plate, entry.kind, seed))
    record = _unit(account, entry.unit, seed)
    count = 0 if entry.kind == SOUND else entry.faults
    return record, draw(unit_to_json(record.unit), entry.theme, count, seed)


def _of_kind(plate: Plate, kind: str, seed: str) -> Scene | None:
    scene = draw(plate, "any", 1, seed, kind)
    return scene if scene.faults else None


def _fitting(
    account: SignedIn, unit_id: uuid.UUID | None, made: Callable[[Plate], Scene | None]
) -> tuple[UnitRecord, Scene]:
    """The unit of this id, or the first of the shop's, whose plate can have it. Raises BadInput."""
    only = None if unit_id is None else [unit_id]
    for record in list_units(database(), account.shop_id, only)[:MOST_TRIED]:
        if (scene := made(unit_to_json(record.unit))) is not None:
            return record, scene
    raise BadInput("lesson", say("practice.no-plate-for-it"))


def _unit(account: SignedIn, unit_id: uuid.UUID | None, seed: str) -> UnitRecord:
    """The unit of this id, or one of the shop's by the scene's word. Raises BadInput."""
    if unit_id is not None:
        try:
            return find_unit(database(), account.shop_id, unit_id)
        except NotFound:
            raise BadInput("unit", say("practice.no-such-unit")) from None
    every = list_units(database(), account.shop_id)
    if not every:
        raise BadInput("unit", say("practice.no-unit-yet"))
    return Random(seed).choice(every)


@practice.get("/<uuid:practice_id>")
@signed_in
def bench(practice_id: uuid.UUID) -> Answer:
    row = find_practice(database(), me(), practice_id)
    if row.ended_at is not None:
        return redirect(url_for("practice.debrief", practice_id=practice_id))
    return _shown(PracticeView(row, request.args.get("at", "")))


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
        after = before if str(entry.client_id) in row.touches else _done(before, entry)
    except BadInput as bad:
        return _shown(PracticeView(row, at), Form(request.form, bad), 422)
    if after is not before:
        keep(row, after, str(entry.client_id))
        database().commit()
    return _shown(PracticeView(row, at, new_harms=len(after.harms) - len(before.harms)))


def _done(before: Bench, entry: ActEntry) -> Bench:
    match entry.act:
        case "read":
            if entry.quantity is None:
                raise BadInput("quantity", say("practice.say-what-is-read"))
            return before.measure(entry.at, Quantity(entry.quantity))
        case "watch":
            return before.watch(entry.at)
        case "power":
            return before.power(entry.state, entry.circuit)
        case "call":
            return before.call(entry.call)
        case "wait":
            return before.wait(entry.seconds)
        case _:
            return before.replace(entry.part)


@practice.post("/<uuid:practice_id>/hint")
@signed_in
def hint(practice_id: uuid.UUID) -> Answer:
    """What the judge would read next; counted."""
    row = find_practice(database(), me(), practice_id, to_act=True)
    if row.coaching != "hints":
        raise NotFound(phrase("practice.no-hints-here"))
    coach = PracticeView(row).coach
    if coach.card is not None:
        row.hints += 1
        database().commit()
    return render_template("practice/_hint.html", coach=coach)


@practice.post("/<uuid:practice_id>/end")
@signed_in
def end(practice_id: uuid.UUID) -> Answer:
    row = find_practice(database(), me(), practice_id, to_act=True)
    try:
        named = [part for part in parse_entry(EndEntry, request.form).named if part]
        if not named or (NOTHING_FOUND in named and len(named) > 1):
            raise BadInput("named", say("practice.name-parts-or-none"))
        if unknown := set(named) - bench_of(row).unit.components - {NOTHING_FOUND}:
            raise BadInput("named", phrase("practice.no-such-part-named", part=min(unknown)))
    except BadInput as bad:
        return _shown(PracticeView(row), Form(request.form, bad), 422)
    row.named, row.ended_at = [part for part in named if part != NOTHING_FOUND], now()
    database().commit()
    return redirect(url_for("practice.debrief", practice_id=practice_id))


@practice.get("/<uuid:practice_id>/debrief")
@signed_in
def debrief(practice_id: uuid.UUID) -> Answer:
    row = find_practice(database(), me(), practice_id)
    if row.ended_at is None:
        return redirect(url_for("practice.bench", practice_id=practice_id))
    same = url_for("practice.show", coaching=row.coaching, **row.scene["again"])
    return render_template("practice/debrief.html", view=PracticeView(row), same=same, alike=_alike(row))


def _alike(row: Practice) -> list[tuple[str, PracticeView]]:
    """Everybody who has ended this scene, for a lead."""
    account = me()
    if account.role != "lead":
        return []
    names = {one.id: one.name for one in people_of(database(), account.shop_id)}
    every = practices_of(database(), account.shop_id, None)
    ended = [one for one in every if one.ended_at is not None and same_scene(one, row)]
    return [(names.get(one.account_id, ""), PracticeView(one)) for one in ended]


@practice.get("/<uuid:practice_id>/told")
@signed_in
def what_was_told(practice_id: uuid.UUID) -> Answer:
    """What each reading told, by the judge; asked for after the page."""
    row = find_practice(database(), me(), practice_id)
    if row.ended_at is None:
        raise NotFound(phrase("practice.no-such-practice"))
    view = PracticeView(row)
    try:
        answers = [judge_pool().diagnose(e, row.shop_id) for e in before_each_reading(view.bench)]
    except Busy:
        return render_template("practice/_told.html", view=view, told=None)
    found = told(answers, view.bench)
    read = [
        event for event, one in zip(view.bench.visit.events, view.bench.acts, strict=True) if "read" in one
    ]
    rows = [(str(event.words(view.unit)), bits) for event, bits in zip(read, found.bits, strict=False)]
    return render_template("practice/_told.html", view=view, told=found, rows=rows)
