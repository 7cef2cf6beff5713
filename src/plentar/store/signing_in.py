"""Signing in: tries are counted and slowed down, sessions begin and end on the server.

Nobody is locked out. A login or an address that was tried often has to wait, a minute at most; a
browser that has signed in before has a count of its own, which nobody else can use up.
"""

from __future__ import annotations

import uuid
from collections.abc import Sequence
from datetime import timedelta
from typing import Any

from sqlalchemy import and_, bindparam, delete, func, or_, select, text, update
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.store.accounts import SignedIn
from plentar.store.errors import NotFound, TooMany
from plentar.store.models import Account, Shop, SignIn, SignInTry, now
from plentar.words import phrase

WINDOW = timedelta(minutes=15)
LASTS = timedelta(days=14)
#: Tries within the window that need not wait, and the longest wait for those after them, s.
FREE_OF_LOGIN, FREE_OF_ADDRESS, LONGEST_WAIT_S = 5, 50, 60.0
MOST_TEXT = 200


def wait_after(tries: int, free: int) -> float:
    """How long after the last try the next may be, s: twice as long each time."""
    return 0.0 if tries < free else min(LONGEST_WAIT_S, 2.0 ** (tries - free + 1))


def count_try(session: Session, login: str, address: str, device: uuid.UUID | None) -> int:
    """Put a try on record before its password is looked at, and commit; its id.

    Raises TooMany, with the seconds to wait, where there were too many. ``device`` is a browser
    that has signed in to this account before: it is counted by itself.
    """
    login, address = login[:MOST_TEXT], address[:MOST_TEXT]
    # Tries at once are counted one after the other, whichever worker they came to. The next in line does not
    # wait for the disk: what a crash of the server may lose is a try of the last second.
    session.execute(
        text(
            "select set_config('synchronous_commit', 'off', true), "
            "pg_advisory_xact_lock(hashtextextended(key, 0)) from unnest(cast(:keys as text[])) key"
        ),
        {"keys": sorted({f"login {login}", f"address {address}"})},
    )
    moment = now()  # only now: those before in line have come later than this try arrived
    session.execute(delete(SignInTry).where(SignInTry.at < moment - WINDOW))
    mine = (
        and_(SignInTry.login == login, SignInTry.device.is_(None))
        if device is None
        else SignInTry.device == device
    )
    limits = [(mine, FREE_OF_LOGIN)]
    if device is None:
        limits.append((SignInTry.address == address, FREE_OF_ADDRESS))
    asked = [of.filter(which) for which, _free in limits for of in (func.count(), func.max(SignInTry.at))]
    counted: Sequence[Any] = session.execute(select(*asked).where(or_(*(which for which, _ in limits)))).one()
    for (_which, free), tries, last in zip(limits, counted[::2], counted[1::2], strict=True):
        wait_s = wait_after(tries, free)
        left_s = wait_s - (moment - last).total_seconds() if last and wait_s else 0.0
        if left_s > 0:
            session.rollback()
            raise TooMany(phrase("store.signing-in.too-often"), left_s)
    row = SignInTry(login=login, address=address, device=device, at=moment)
    session.add(row)
    session.commit()
    return row.id


def forget_try(session: Session, try_id: int) -> None:
    """The password was right: the try counts against nobody."""
    session.execute(delete(SignInTry).where(SignInTry.id == try_id))


def begin(session: Session, account_id: uuid.UUID, address: str, browser: str) -> uuid.UUID:
    """A new session of an account; its id. Sessions that are over are cleared away.

    Raises BadInput where its owner was let go meanwhile: whoever does that waits until this is
    committed, and ends it, or this waits.
    """
    shop_id = session.scalar(
        select(Account.shop_id)
        .where(Account.id == account_id, Account.ended_at.is_(None))
        .with_for_update(read=True)
    )
    if shop_id is None:
        raise BadInput("password", phrase("store.signing-in.wrong"))
    session.execute(delete(SignIn).where(SignIn.made_at < now() - LASTS))
    row = SignIn(
        shop_id=shop_id, account_id=account_id, address=address[:MOST_TEXT], browser=browser[:MOST_TEXT]
    )
    session.add(row)
    session.flush()
    return row.id


SIGNED_IN = (
    select(
        Account.id,
        Account.shop_id,
        Account.login,
        Account.name,
        Account.role,
        Shop.name,
        Shop.settings,
        Shop.timezone,
        Shop.sheets,
        Account.language,
        Shop.begun_at.is_not(None),
    )
    .join(SignIn, SignIn.account_id == Account.id)
    .join(Shop, Shop.id == Account.shop_id)
    .where(
        SignIn.id == bindparam("session_id"), SignIn.ended_at.is_(None), SignIn.made_at > bindparam("since")
    )
)


def who_is(session: Session, session_id: uuid.UUID) -> SignedIn | None:
    row = session.connection().execute(SIGNED_IN, signed_in_by(session_id)).first()
    return SignedIn(*row) if row else None


def signed_in_by(session_id: uuid.UUID) -> dict[str, Any]:
    """What ``SIGNED_IN`` asks for."""
    return {"session_id": session_id, "since": now() - LASTS}


def sessions_of(session: Session, account_id: uuid.UUID) -> Sequence[SignIn]:
    """The sessions of an account that have not ended, the newest first."""
    return session.scalars(
        select(SignIn)
        .where(SignIn.account_id == account_id, SignIn.ended_at.is_(None), SignIn.made_at > now() - LASTS)
        .order_by(SignIn.made_at.desc())
    ).all()


def end(session: Session, account_id: uuid.UUID, session_id: uuid.UUID) -> None:
    """End one session of an account; raises NotFound where it has no such."""
    ended = session.execute(
        update(SignIn)
        .where(SignIn.id == session_id, SignIn.account_id == account_id)
        .values(ended_at=now())
        .returning(SignIn.id)
    ).first()
    if ended is None:
        raise NotFound(phrase("store.signing-in.no-session"))


def end_all(session: Session, account_id: uuid.UUID) -> None:
    """End every session of an account."""
    session.execute(
        update(SignIn)
        .where(SignIn.account_id == account_id, SignIn.ended_at.is_(None))
        .values(ended_at=now())
    )


def end_others(session: Session, account_id: uuid.UUID, but: uuid.UUID) -> None:
    """End every session of an account but one."""
    session.execute(
        update(SignIn)
        .where(SignIn.account_id == account_id, SignIn.id != but, SignIn.ended_at.is_(None))
        .values(ended_at=now())
    )
