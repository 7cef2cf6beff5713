"""Practices: begun, gone on with, ended. A person's are theirs; a lead sees the shop's."""

from __future__ import annotations

import uuid
from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from plentar.store.accounts import SignedIn
from plentar.store.errors import Conflict, NotFound
from plentar.store.models import Practice
from plentar.words import phrase

MOST_LISTED = 200


def practices_of(session: Session, shop_id: uuid.UUID, account_id: uuid.UUID | None) -> Sequence[Practice]:
    """The newest first: of one person, or of all of a shop."""
    found = select(Practice).where(Practice.shop_id == shop_id).order_by(Practice.begun_at.desc())
    if account_id is not None:
        found = found.where(Practice.account_id == account_id)
    return session.scalars(found.limit(MOST_LISTED)).all()


def find_practice(
    session: Session, of: SignedIn, practice_id: uuid.UUID, *, to_act: bool = False
) -> Practice:
    """One's own, or, to look at, one of a lead's shop. Locked, and refused when it is over, if it is to act.

    Raises NotFound, Conflict."""
    wanted = select(Practice).where(Practice.shop_id == of.shop_id, Practice.id == practice_id)
    found = session.scalar(wanted.with_for_update() if to_act else wanted)
    own = found is not None and found.account_id == of.id
    if found is None or not (own or (of.role == "lead" and not to_act)):
        raise NotFound(phrase("practice.no-such-practice"))
    if to_act and found.ended_at is not None:
        raise Conflict(phrase("practice.over"))
    return found
