"""Visits of a unit and of a day, for the pages that list them."""

from __future__ import annotations

import uuid
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from plentar.store.models import Account, Digest, UnitWords, Visit


def visits_of_unit(session: Session, shop_id: uuid.UUID, unit_id: uuid.UUID) -> Sequence[Visit]:
    """The visits of a unit, newest first."""
    return session.scalars(
        select(Visit)
        .where(Visit.shop_id == shop_id, Visit.unit_id == unit_id)
        .order_by(Visit.started_at.desc())
    ).all()


def left_over(
    session: Session, shop_id: uuid.UUID, unit_ids: Collection[uuid.UUID]
) -> dict[uuid.UUID, Visit]:
    """Of some units the newest finished visit that left one off, disabled, or to be followed up."""
    newest = (
        select(Visit)
        .join(Digest, Digest.visit_id == Visit.id)
        .where(Visit.shop_id == shop_id, Digest.unit_id.in_(unit_ids), Digest.newest)
    )
    return {
        row.unit_id: row for row in session.scalars(newest) if row.outcome != "in-service" or row.follow_up
    }


@dataclass(frozen=True, slots=True)
class CallRow:
    """A visit that is open, or was begun since some time: at which unit, by whom, what about."""

    visit_id: uuid.UUID
    unit_id: uuid.UUID
    label: str
    who: str
    complaint: str | None
    started_at: datetime
    closed_at: datetime | None
    round_id: uuid.UUID | None


def calls_of(
    session: Session, shop_id: uuid.UUID, since: datetime | None = None, most: int = 100
) -> list[CallRow]:
    """The open visits, and those begun since a time if one is given; the newest first."""
    query = (
        select(
            Visit.id,
            Visit.unit_id,
            UnitWords.label,
            Account.name,
            Visit.complaint,
            Visit.started_at,
            Visit.closed_at,
            Visit.round_id,
        )
        .join(UnitWords, UnitWords.unit_id == Visit.unit_id)
        .join(Account, Account.id == Visit.opened_by)
        .where(Visit.shop_id == shop_id)
        .order_by(Visit.started_at.desc())
        .limit(most)
    )
    asked = [query.where(Visit.closed_at.is_(None))]
    if since is not None:
        asked.append(query.where(Visit.started_at >= since, Visit.closed_at.is_not(None)))
    return [CallRow(*row) for one in asked for row in session.execute(one)]
