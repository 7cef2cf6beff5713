"""How much room there is, how fast it goes, and how long it will last at this pace."""

from __future__ import annotations

import shutil
import uuid
from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from plentar.store.models import Shop, now
from plentar.store.photos import stored_bytes

#: Over which days the pace is taken, and from which share on it is time to do something.
PACE, WARNS_AT = timedelta(days=30), 0.8
_DAY_S = 86_400.0


@dataclass(frozen=True, slots=True)
class Room:
    """``used`` of ``most``, bytes; ``a_day`` what is added, bytes, None where that is not known yet."""

    used: int
    most: int
    a_day: float | None

    @property
    def share(self) -> float:
        return min(1.0, self.used / self.most) if self.most else 1.0

    @property
    def tight(self) -> bool:
        return self.share >= WARNS_AT

    @property
    def days_left(self) -> float | None:
        """How long what is left lasts at this pace; None where nothing is added, or it is not known."""
        return max(0, self.most - self.used) / self.a_day if self.a_day else None


def photo_room(session: Session, shop_id: uuid.UUID, most_bytes: int) -> Room:
    """Of a shop's photos, those that were moved elsewhere apart."""
    lately = stored_bytes(session, shop_id, now() - PACE)
    return Room(stored_bytes(session, shop_id), most_bytes, lately / PACE.days)


def photo_bytes(session: Session) -> dict[uuid.UUID, int]:
    """What each shop's photos take."""
    return {shop_id: stored_bytes(session, shop_id) for shop_id in session.scalars(select(Shop.id))}


def database_bytes(session: Session) -> int:
    return session.scalar(text("select pg_database_size(current_database())")) or 0


def disk_room(session: Session, folder: Path) -> Room:
    """Of the disk that a folder lies on, all that is on it. The pace is the database's own, over the days
    since the first visit."""
    disk = shutil.disk_usage(folder)
    days = session.scalar(
        text("select extract(epoch from now() - min(recorded_at)) / :day from visit_event"), {"day": _DAY_S}
    )
    a_day = database_bytes(session) / float(days) if days and days >= 1 else None
    return Room(disk.total - disk.free, disk.total, a_day)
