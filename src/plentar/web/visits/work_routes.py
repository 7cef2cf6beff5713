"""What was done on a visit, what was noted, and a plate that was wrong all along."""

from __future__ import annotations

import uuid
from typing import Any

from flask import Blueprint, render_template, request
from markupsafe import Markup

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.core.visit.events import DEAD_WORK
from plentar.files.visit_json import NoteJson, PlateChangeJson
from plentar.store.carried import judge_by_plate
from plentar.store.record import VisitRecord
from plentar.store.units import find_unit, save_plate, version_number
from plentar.store.visits import append_event
from plentar.web.answer import Answer, render
from plentar.web.database import database
from plentar.web.entry import Entry, parse_entry
from plentar.web.people import me, signed_in
from plentar.web.visits.answers import changed, keep_note, mine
from plentar.web.visits.entry import DidEntry, NoteEntry
from plentar.web.visits.gates import check_dead, live_work
from plentar.web.visits.view import BenchView
from plentar.web.visits.work import BY_KIND, DEEDS, REPLACED, event_of, mark_or_words, parts_named, parts_of
from plentar.words import phrase

work = Blueprint("work", __name__, url_prefix="/visits")
NOT_RECORDED = say("visits.work-routes.if-power-was-off")


@work.post("/<uuid:visit_id>/did")
@signed_in
def did(visit_id: uuid.UUID) -> Answer:
    """Work on some parts: what was read of a part that is as new counts no more."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(DidEntry, request.form)
    if entry.verb in DEAD_WORK:
        check_dead(record, "verb", phrase("visits.work-routes.breakers-off-first-wire"))
    kept, refused = [], {}
    for key, part in parts_named(entry).items():
        try:
            live = live_work(record, entry.verb, part)
            if live and not entry.was_off:
                raise BadInput("parts", f"{live} {NOT_RECORDED}")
            event = event_of(record.unit, entry, part, record.elapsed_s, unrecorded=bool(live))
            record = append_event(database(), record, event, key, me().id)
            kept.append(part)
        except BadInput as bad:
            refused[part] = bad
    if not kept:
        first, *others = refused.values()
        raise first if not others else BadInput("parts", _why_not(refused))
    if entry.by:
        _keep_as_plate(record)
    database().commit()
    if refused:
        return _work_again(visit_id, entry, kept, refused)
    left = [part for part in entry.clear.split(",") if part and part not in entry.parts]
    return changed(visit_id, todo=",".join(left))


def _why_not(refused: dict[str, BadInput]) -> str:
    """The parts that something was not recorded of, by the reason."""
    by_reason: dict[str, list[str]] = {}
    for part, bad in refused.items():
        by_reason.setdefault(str(bad.reason), []).append(part)
    return " ".join(f"{', '.join(parts)}: {reason}" for reason, parts in by_reason.items())


def _work_again(
    visit_id: uuid.UUID, entry: DidEntry, kept: list[str], refused: dict[str, BadInput]
) -> Answer:
    """The bench with the form once more: what was recorded, what was not and why, and the words typed."""
    view = BenchView(mine(visit_id))
    said = {"kept": ", ".join(kept), "refused": _why_not(refused), "entry": entry, "ticked": set(refused)}
    form = render_template("visits/_work.html", **_form_of(view, "") | said)
    return render("visits/bench.html", "visits/_bench.html", view=view, pad=None, in_pad=Markup(form))


@work.get("/<uuid:visit_id>/work")
@signed_in
def ask(visit_id: uuid.UUID) -> Answer:
    """What was done, on which parts; and words on a part."""
    view = BenchView(mine(visit_id))
    part = request.args.get("part", "")
    known = part if part in view.unit.workable else ""
    return render("visits/work.html", "visits/_work.html", **_form_of(view, known))


def _form_of(view: BenchView, part: str) -> dict[str, Any]:
    """What the form of work is told; ``part`` is ticked."""
    return {
        "view": view,
        "part": part,
        "ticked": {part},
        "deeds": DEEDS,
        "by_kind": BY_KIND,
        "groups": parts_of(view.unit),
        "short": lambda part: mark_or_words(view.unit, part),
        "entry": DidEntry(client_id=uuid.uuid4(), verb=REPLACED),
    }


def _keep_as_plate(record: VisitRecord) -> None:
    """What stands in an old device's place is on the plate from the next visit on, where nobody
    has changed the plate meanwhile."""
    plate = find_unit(database(), record.row.shop_id, record.row.unit_id)
    if plate.version.id == record.row.version_id:
        save_plate(database(), plate, record.unit, plate.version.number)


@work.post("/<uuid:visit_id>/note")
@signed_in
def note(visit_id: uuid.UUID) -> Answer:
    record = mine(visit_id, to_write=True)
    entry = parse_entry(NoteEntry, request.form)
    if not entry.text.strip():
        raise BadInput("text", phrase("visits.work-routes.say-something"))
    if entry.part and entry.part not in record.unit.workable:
        raise BadInput("part", phrase("visits.work-routes.no-part", part=entry.part))
    said = NoteJson(t=record.elapsed_s, part=entry.part, text=entry.text.strip(), by=me().name)
    keep_note(record, said, entry)
    return changed(visit_id)


@work.post("/<uuid:visit_id>/plate")
@signed_in
def use_plate(visit_id: uuid.UUID) -> Answer:
    """The plate was wrong all along: the visit is judged by the newest from now on."""
    record = mine(visit_id, to_write=True)
    entry = parse_entry(Entry, request.form)
    newest = find_unit(database(), record.row.shop_id, record.row.unit_id).version
    if newest.id != record.row.version_id:
        was = version_number(database(), record.row.version_id)
        judge_by_plate(database(), record, newest)
        change = PlateChangeJson(t=record.elapsed_s, was=was, now=newest.number, by=me().name)
        keep_note(record, change, entry)
    return changed(visit_id)
