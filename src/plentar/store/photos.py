"""A shop's photos: each once, however often it is sent, and within what the shop may store."""

from __future__ import annotations

import base64
import binascii
import hashlib
import uuid
from collections.abc import Collection
from datetime import datetime

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.files.handover_json import MOST_PHOTOS, PhotoJson
from plentar.files.photos import Photo, read_filed
from plentar.store.errors import NotFound
from plentar.store.models import Shop, ShopPhoto, VisitNote, now
from plentar.store.photo_room import NoRoom, PhotoRoom
from plentar.store.record import VisitRecord
from plentar.store.visits import add_note
from plentar.words import phrase

#: Under which a session knows the place for old pictures.
ROOM = "photo_room"


def stored_bytes(session: Session, shop_id: uuid.UUID, since: datetime | None = None) -> int:
    """What a shop's photos take in the database; of those alone that were made since then."""
    total = select(func.coalesce(func.sum(func.length(ShopPhoto.jpeg)), 0)).where(
        ShopPhoto.shop_id == shop_id
    )
    if since is not None:
        total = total.where(ShopPhoto.made_at > since)
    return int(session.scalars(total).one())


def keep_photo(
    session: Session, shop_id: uuid.UUID, photo: Photo, most_bytes: int, path: str = "photo"
) -> None:
    """Store the picture of a photo, once. Raises BadInput where the shop has no room left."""
    # One after another: two at once would each find the room that is there for one.
    session.execute(select(Shop.id).where(Shop.id == shop_id).with_for_update())
    known = select(ShopPhoto.key).where(ShopPhoto.shop_id == shop_id, ShopPhoto.key == photo.key)
    if session.scalar(known) is not None:
        return
    if stored_bytes(session, shop_id) + len(photo.jpeg) > most_bytes:
        raise BadInput(
            path, phrase("store.photos.no-room-left-this", most_bytes=f"{most_bytes / 1000000.0:.0f}")
        )
    session.execute(
        insert(ShopPhoto)
        .values(shop_id=shop_id, key=photo.key, jpeg=photo.jpeg, made_at=now())
        .on_conflict_do_nothing()
    )


def add_photo(
    session: Session,
    record: VisitRecord,
    photo: Photo,
    note: PhotoJson,
    client_id: uuid.UUID,
    by: uuid.UUID,
    most_bytes: int,
) -> None:
    """A photo of a visit. Raises BadInput where the visit has enough, or the shop no room."""
    if any(known.key == photo.key for known in record.photos):
        return
    if len(record.photos) >= MOST_PHOTOS:
        raise BadInput("photo", phrase("store.photos.visit-has-most-photos", most_photos=MOST_PHOTOS))
    keep_photo(session, record.row.shop_id, photo, most_bytes)
    add_note(session, record, note, client_id, by)


def take_out(session: Session, record: VisitRecord, key: str) -> None:
    """Take a photo out of an open visit; its picture goes where no other visit has it. What lies in the place
    for old ones goes by ``clear_away``, once this is committed. Raises NotFound."""
    row, found = record.row, VisitNote.body["key"].astext == key
    of_shop = select(VisitNote.id).where(VisitNote.shop_id == row.shop_id, VisitNote.kind == "photo", found)
    gone = session.execute(
        delete(VisitNote)
        .where(VisitNote.visit_id == row.id, VisitNote.kind == "photo", found)
        .returning(VisitNote.id)
    ).all()
    if not gone:
        raise NotFound(phrase("store.photos.no-such-photo"))
    if session.scalar(of_shop.limit(1)) is None:
        session.execute(delete(ShopPhoto).where(ShopPhoto.shop_id == row.shop_id, ShopPhoto.key == key))


def clear_away(session: Session, shop_id: uuid.UUID, key: str) -> None:
    """A picture that the shop has no longer goes from the place for old ones too. Raises NoRoom."""
    known = select(ShopPhoto.key).where(ShopPhoto.shop_id == shop_id, ShopPhoto.key == key)
    if (room := _room(session)) is not None and session.scalar(known) is None:
        room.remove(_name(shop_id, key))


def photo_of(session: Session, shop_id: uuid.UUID, key: str) -> bytes | None:
    """A picture, wherever it lies; None where it is not known, or not found. Raises NoRoom."""
    return pictures(session, shop_id, [key]).get(key)


def pictures(session: Session, shop_id: uuid.UUID, keys: Collection[str]) -> dict[str, bytes]:
    """The pictures of these keys that are found, wherever they lie. Raises NoRoom."""
    rows = session.execute(
        select(ShopPhoto.key, ShopPhoto.jpeg).where(ShopPhoto.shop_id == shop_id, ShopPhoto.key.in_(keys))
    )
    room = _room(session)
    found = {
        key: jpeg if jpeg is not None or room is None else room.get(_name(shop_id, key)) for key, jpeg in rows
    }
    return {key: jpeg for key, jpeg in found.items() if jpeg is not None}


def move_out(session: Session, room: PhotoRoom, before: datetime) -> tuple[int, int]:
    """Move the pictures that were taken before to the place for old ones, one by one, each read back before
    it goes here; how many, and their bytes. Interrupted, it goes on. Raises NoRoom."""
    count = size = 0
    old = select(ShopPhoto.shop_id, ShopPhoto.key).where(
        ShopPhoto.made_at < before, ShopPhoto.jpeg.is_not(None)
    )
    for shop_id, key in session.execute(old.order_by(ShopPhoto.made_at)).all():
        row = session.get(ShopPhoto, (shop_id, key), with_for_update=True)
        if row is not None and row.jpeg is not None:
            name = _name(shop_id, key)
            room.put(name, row.jpeg)
            if room.get(name) != row.jpeg:
                raise NoRoom(phrase("store.photo-room.differs", name=name))
            count, size = count + 1, size + len(row.jpeg)
            row.jpeg = None
        session.commit()
    return count, size


def move_in(session: Session, room: PhotoRoom) -> tuple[int, int]:
    """Bring back what lies in the place for old ones; how many, and their bytes. Raises NoRoom."""
    count = size = 0
    away = select(ShopPhoto.shop_id, ShopPhoto.key).where(ShopPhoto.jpeg.is_(None))
    for shop_id, key in session.execute(away).all():
        row = session.get(ShopPhoto, (shop_id, key), with_for_update=True)
        jpeg = room.get(_name(shop_id, key))
        if jpeg is None:
            raise NoRoom(phrase("store.photo-room.lost", name=_name(shop_id, key)))
        if row is not None:
            row.jpeg = jpeg
        session.commit()
        room.remove(_name(shop_id, key))
        count, size = count + 1, size + len(jpeg)
    return count, size


def _room(session: Session) -> PhotoRoom | None:
    room: PhotoRoom | None = session.info.get(ROOM)
    return room


def _name(shop_id: uuid.UUID, key: str) -> str:
    return f"{shop_id}/{key}.jpg"


def from_file(session: Session, shop_id: uuid.UUID, note: PhotoJson, path: str, most: int) -> PhotoJson:
    """Store the picture of a visit file's photo, its pixels alone, and return the note under the key that was
    worked out here: what a file names leads to no picture of the shop. Raises BadInput."""
    if note.jpeg is None:
        return note.model_copy(update={"key": hashlib.sha256(f"no picture {note.key}".encode()).hexdigest()})
    try:
        raw = base64.b64decode(note.jpeg, validate=True)
    except binascii.Error:
        raise BadInput(path, phrase("store.photos.not-base64")) from None
    photo = read_filed(raw, path)
    keep_photo(session, shop_id, photo, most, path)
    return note.model_copy(update={"key": photo.key})
