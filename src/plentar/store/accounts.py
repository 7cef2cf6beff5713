"""Shops and the people in them; passwords and the limit on guessing them."""

from __future__ import annotations

import uuid
from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from argon2 import PasswordHasher
from argon2.exceptions import InvalidHashError, VerificationError
from sqlalchemy import bindparam, func, or_, select
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.store.errors import TooMany
from plentar.store.models import Account, Shop, SignInFailure, now

WINDOW = timedelta(minutes=15)
FAILURES_PER_LOGIN = 5
FAILURES_PER_ADDRESS = 30
LEAST_PASSWORD = 8
_hasher = PasswordHasher()
#: Checked when the login is unknown, so that both answers take the same time.
_NOBODY = _hasher.hash(uuid.uuid4().hex)


def make_shop(session: Session, name: str) -> Shop:
    """A new shop."""
    shop = Shop(name=name)
    session.add(shop)
    session.flush()
    return shop


def make_account(
    session: Session, shop: Shop, login: str, name: str, password: str, role: str = "technician"
) -> Account:
    """A new account; raises BadInput on a short password or a taken login."""
    login = login.strip().lower()
    if len(password) < LEAST_PASSWORD:
        raise BadInput("password", f"at least {LEAST_PASSWORD} characters")
    if session.scalar(select(Account.id).where(Account.login == login)) is not None:
        raise BadInput("login", f"{login} is taken")
    account = Account(
        shop_id=shop.id, login=login, name=name, role=role, password_hash=_hasher.hash(password)
    )
    session.add(account)
    session.flush()
    return account


@dataclass(frozen=True, slots=True)
class SignedIn:
    """Who is at the other end: asked for on every request, so read as plain values."""

    id: uuid.UUID
    shop_id: uuid.UUID
    login: str
    name: str
    role: str
    shop_name: str
    shop_settings: dict[str, Any]


_SIGNED_IN = (
    select(
        Account.id,
        Account.shop_id,
        Account.login,
        Account.name,
        Account.role,
        Shop.name,
        Shop.settings,
    )
    .join(Shop, Shop.id == Account.shop_id)
    .where(Account.id == bindparam("account_id"))
)


def find_account(session: Session, account_id: uuid.UUID) -> SignedIn | None:
    """The account of this id with its shop, for a session cookie."""
    row = session.connection().execute(_SIGNED_IN, {"account_id": account_id}).first()
    return SignedIn(*row) if row else None


def sign_in(session: Session, login: str, password: str, address: str) -> Account | None:
    """The account if the password is right, else None, and the failure is on record.

    Raises TooMany after five wrong passwords for a login, or thirty from one address, within a
    quarter of an hour; the right password does not help then.
    """
    login = login.strip().lower()
    recent = SignInFailure.at > now() - WINDOW
    by_login, by_address = session.execute(
        select(
            func.count().filter(SignInFailure.login == login),
            func.count().filter(SignInFailure.address == address),
        ).where(recent, or_(SignInFailure.login == login, SignInFailure.address == address))
    ).one()
    if by_login >= FAILURES_PER_LOGIN or by_address >= FAILURES_PER_ADDRESS:
        raise TooMany("too many wrong passwords; try again in a quarter of an hour")
    account = session.scalar(select(Account).where(Account.login == login))
    try:
        _hasher.verify(account.password_hash if account else _NOBODY, password)
    except (VerificationError, InvalidHashError):
        account = None
    if account is None:
        session.add(SignInFailure(login=login[:200], address=address))
        session.commit()
    return account
