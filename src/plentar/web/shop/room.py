"""The room that is left, as a lead reads it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from flask import current_app

from plentar.store.room import Room, disk_room, photo_room
from plentar.web.database import database
from plentar.web.handover.photos import most_photo_bytes
from plentar.web.people import me
from plentar.words import phrase

_DAYS_A_MONTH, _LONG_MONTHS = 30.4, 60


@dataclass(frozen=True, slots=True)
class RoomLine:
    """One row: what of, how much of how much, how long that lasts."""

    name: str
    room: Room
    used: str
    lasts: str


def rooms() -> list[RoomLine]:
    """Of the shop's photos and, where it is this machine's, of the disk."""
    return list(_rooms())


def tight() -> bool:
    """Something is nearly full."""
    return any(line.room.tight for line in _rooms())


def _rooms() -> Iterator[RoomLine]:
    yield _line(phrase("shop.room.photos"), photo_room(database(), me().shop_id, most_photo_bytes()))
    if disk := current_app.config["PLENTAR_DISK"]:
        yield _line(phrase("shop.room.disk"), disk_room(database(), Path(disk)))


def _line(name: str, room: Room) -> RoomLine:
    used = phrase("shop.room.used", used=_bytes(room.used), most=_bytes(room.most), share=f"{room.share:.0%}")
    return RoomLine(name, room, used, _lasts(room))


def _lasts(room: Room) -> str:
    if room.a_day is None:
        return phrase("shop.room.pace-unknown")
    if room.days_left is None:
        return phrase("shop.room.nothing-added")
    months = room.days_left / _DAYS_A_MONTH
    if months > _LONG_MONTHS:
        return phrase("shop.room.lasts-years")
    return phrase("shop.room.lasts", n=round(months)) if months >= 1 else phrase("shop.room.less-than-month")


def _bytes(count: float) -> str:
    return f"{count / 1e9:.1f}\u202fGB" if count >= 1e9 else f"{count / 1e6:.0f}\u202fMB"
