"""Links that show an owner the sheet of one visit: made, ended, revoked."""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from datetime import timedelta

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from plentar.store.models import OwnerLink, now

#: For how many days a link may show its sheet.
LASTS_DAYS = (7, 30, 90)


def make_link(
    session: Session, shop_id: uuid.UUID, visit_id: uuid.UUID, by: uuid.UUID, days: int
) -> OwnerLink:
    link = OwnerLink(shop_id=shop_id, visit_id=visit_id, made_by=by, ends_at=now() + timedelta(days=days))
    session.add(link)
    session.flush()
    return link


def links_of(session: Session, shop_id: uuid.UUID, visit_id: uuid.UUID) -> Sequence[OwnerLink]:
    """A visit's links that still show something, the newest first."""
    return session.scalars(
        select(OwnerLink)
        .where(
            OwnerLink.shop_id == shop_id,
            OwnerLink.visit_id == visit_id,
            OwnerLink.revoked_at.is_(None),
            OwnerLink.ends_at > now(),
        )
        .order_by(OwnerLink.made_at.desc())
    ).all()


def revoke(session: Session, shop_id: uuid.UUID, visit_id: uuid.UUID) -> None:
    """From now on no link of the visit shows anything."""
    session.execute(
        update(OwnerLink)
        .where(OwnerLink.shop_id == shop_id, OwnerLink.visit_id == visit_id, OwnerLink.revoked_at.is_(None))
        .values(revoked_at=now())
    )


def standing_link(session: Session, link_id: uuid.UUID) -> OwnerLink | None:
    """A link that was neither revoked nor has ended; whose it is is not asked."""
    return session.scalar(
        select(OwnerLink).where(
            OwnerLink.id == link_id, OwnerLink.revoked_at.is_(None), OwnerLink.ends_at > now()
        )
    )
