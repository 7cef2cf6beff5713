"""What the finished visits of a unit have added to its history, from their digests."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from datetime import date, datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from plentar.core.history.series import Added, VisitOf
from plentar.core.quantity import Band
from plentar.store.models import Digest, DigestValue


def added_to(
    session: Session,
    shop_id: uuid.UUID,
    unit_id: uuid.UUID,
    day: Callable[[datetime], date],
    before: datetime | None = None,
) -> list[VisitOf]:
    """The finished visits of a unit for its history, the oldest first, those ``before`` a time if one
    is given; ``day`` tells a time's day in the shop."""
    query = (
        select(
            Digest.visit_id,
            Digest.started_at,
            Digest.mended,
            DigestValue.kind,
            DigestValue.part,
            DigestValue.value,
            DigestValue.accuracy,
            DigestValue.due_low,
            DigestValue.due_high,
        )
        .outerjoin(DigestValue, DigestValue.visit_id == Digest.visit_id)
        .where(Digest.shop_id == shop_id, Digest.unit_id == unit_id)
        .order_by(Digest.started_at, Digest.visit_id)
    )
    if before is not None:
        query = query.where(Digest.started_at < before)
    visits: dict[uuid.UUID, tuple[datetime, list[str]]] = {}
    added: dict[uuid.UUID, list[Added]] = {}
    for visit_id, started_at, mended, kind, part, value, accuracy, low, high in session.execute(query):
        visits[visit_id] = started_at, mended
        if kind is not None:
            due = Band(low, high)
            added.setdefault(visit_id, []).append(Added(kind, part, value, accuracy, due))
    return [
        VisitOf(day(at), str(visit_id), tuple(added.get(visit_id, ())), frozenset(mended))
        for visit_id, (at, mended) in visits.items()
    ]
