"""A visit's photos: taken in, shown, taken out again while it is open."""

from __future__ import annotations

import uuid

from flask import Blueprint, Response, current_app, redirect, request, url_for

from plentar.core.errors import BadInput
from plentar.files.handover_json import PhotoJson
from plentar.files.photos import read_photo
from plentar.store.errors import NotFound
from plentar.store.photos import add_photo, clear_away, photo_of, take_out
from plentar.web.answer import Answer
from plentar.web.database import database
from plentar.web.entry import Form, parse_entry
from plentar.web.handover.entry import PhotoEntry, TakeOutEntry
from plentar.web.handover.routes import back_to, page_of
from plentar.web.people import me, signed_in
from plentar.web.visits.answers import mine
from plentar.words import phrase

photos = Blueprint("photos", __name__, url_prefix="/visits/<uuid:visit_id>/photos")
BYTES_PER_MB = 1_000_000


def most_photo_bytes() -> int:
    return int(current_app.config["PLENTAR_PHOTO_MB"] * BYTES_PER_MB)


@photos.post("")
@signed_in
def add(visit_id: uuid.UUID) -> Answer:
    """Take a photo in; what can't be read is refused, and nothing of it is kept."""
    mine(visit_id, to_write=True)
    database().rollback()  # a large picture takes a second to read: nobody waits for it at the visit
    try:
        entry = parse_entry(PhotoEntry, request.form)
        file = request.files.get("photo")
        photo = read_photo(file.read() if file is not None else b"")
        record = mine(visit_id, to_write=True)
        if entry.part and entry.part not in record.unit.workable:
            raise BadInput("part", phrase("handover.photos.no-part", part=entry.part))
        note = PhotoJson(
            t=record.elapsed_s,
            key=photo.key,
            shows=entry.shows,
            part=entry.part,
            text=entry.text.strip(),
            by=me().name,
        )
        add_photo(database(), record, photo, note, entry.client_id, me().id, most_photo_bytes())
    except BadInput as bad:
        database().rollback()
        if "swap" in request.form:
            raise
        return page_of(mine(visit_id), Form(request.form, bad)), 422
    database().commit()
    if entry.swap:
        return redirect(url_for("devices.show", visit_id=visit_id, device_id=entry.swap, face="swap"))
    return back_to(visit_id, "photos")


@photos.get("/<key>.jpg")
@signed_in
def show(visit_id: uuid.UUID, key: str) -> Response:
    record = mine(visit_id)
    known = any(photo.key == key for photo in record.photos)
    jpeg = photo_of(database(), me().shop_id, key) if known else None
    if jpeg is None:
        raise NotFound(phrase("handover.photos.no-such-photo"))
    return Response(jpeg, mimetype="image/jpeg", headers={"Content-Disposition": "inline"})


@photos.post("/take-out")
@signed_in
def remove(visit_id: uuid.UUID) -> Answer:
    """Take a photo out that does not belong here."""
    record = mine(visit_id, to_write=True)
    key = parse_entry(TakeOutEntry, request.form).key
    take_out(database(), record, key)
    database().commit()
    clear_away(database(), me().shop_id, key)
    return back_to(visit_id, "photos")
