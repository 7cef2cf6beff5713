"""Lessons of a shop's own, as they are written."""

from __future__ import annotations

import uuid

from sqlalchemy import delete, func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from plentar.store.errors import Conflict, NotFound
from plentar.store.models import PracticeLesson
from plentar.words import phrase

MOST_LESSONS = 60


def lessons_of_shop(session: Session, shop_id: uuid.UUID) -> dict[str, str]:
    """Each text by its name, the oldest first."""
    found = select(PracticeLesson.name, PracticeLesson.text).where(PracticeLesson.shop_id == shop_id)
    return {row.name: row.text for row in session.execute(found.order_by(PracticeLesson.added_at))}


def keep_lesson(session: Session, shop_id: uuid.UUID, name: str, text: str) -> None:
    """One more, or this one as it is written now. Raises Conflict where there are as many as can be."""
    mine = PracticeLesson.shop_id == shop_id
    others = select(func.count()).select_from(PracticeLesson).where(mine, PracticeLesson.name != name)
    if (session.scalar(others) or 0) >= MOST_LESSONS:
        raise Conflict(phrase("practice.lesson.too-many", n=MOST_LESSONS))
    row = insert(PracticeLesson).values(shop_id=shop_id, name=name, text=text)
    session.execute(row.on_conflict_do_update(index_elements=["shop_id", "name"], set_={"text": text}))


def drop_lesson(session: Session, shop_id: uuid.UUID, name: str) -> None:
    """Raises NotFound where the shop has none of this name."""
    mine = (PracticeLesson.shop_id == shop_id) & (PracticeLesson.name == name)
    if session.execute(delete(PracticeLesson).where(mine).returning(PracticeLesson.name)).scalar() is None:
        raise NotFound(phrase("practice.no-such-lesson"))
