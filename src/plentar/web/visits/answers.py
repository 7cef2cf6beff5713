"""What the routes of a visit share: finding it, noting something, and the bench after a change."""

from __future__ import annotations

import uuid
from dataclasses import replace
from typing import Any

from flask import g, redirect, render_template, request, url_for

from plentar.store.record import VisitRecord
from plentar.store.visits import Note, add_note, check_open, find_visit
from plentar.web.answer import Answer, wants_fragment
from plentar.web.database import database
from plentar.web.entry import Entry
from plentar.web.people import found_visit, me
from plentar.web.pocket.taken import taken_at
from plentar.web.visits.pads import pad_at
from plentar.web.visits.view import BenchView


def mine(visit_id: uuid.UUID, to_write: bool = False) -> VisitRecord:
    """A visit of the shop that is signed in; locked, if it is to write, and then at the time of what is
    written."""
    found = found_visit()
    if found is None:
        found = find_visit(database(), me().shop_id, visit_id, to_write=to_write)
    elif to_write:
        check_open(found.row)
    if not to_write or (at := taken_at()) is None:
        return found
    record = replace(found, taken_at=at)
    g.late = record.late
    return record


def keep_note(record: VisitRecord, noted: Note, entry: Entry) -> None:
    add_note(database(), record, noted, entry.client_id, me().id)
    database().commit()


def changed(
    visit_id: uuid.UUID,
    at: str = "",
    quantity: str | None = None,
    after_s: float = 0.0,
    driven: bool = False,
    todo: str = "",
) -> Answer:
    """The bench after a change: its inside for htmx, else by way of a redirect; or the page on which
    the visit ends, at the section that the form came ``back`` from."""
    if not wants_fragment() and (section := request.form.get("back")):
        return redirect(url_for("handover.ask_to_close", visit_id=visit_id, _anchor=section))
    if not wants_fragment():
        where: dict[str, Any] = {
            "at": at or None,
            "quantity": quantity,
            "after": after_s or None,
            "driven": "yes" if driven else None,
        }
        return redirect(url_for("visits.bench", visit_id=visit_id, **where))
    view = BenchView(mine(visit_id))
    pad = pad_at(view, at, quantity, driven=driven) if at else None
    return render_template("visits/_bench.html", view=view, pad=pad, wait=view.wait(after_s), todo=todo)
