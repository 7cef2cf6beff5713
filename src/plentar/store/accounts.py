"""Shops and the people in them."""

from __future__ import annotations

import re
import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any
from zoneinfo import available_timezones

from sqlalchemy import bindparam, select, update
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.files.sheet_settings import SheetSettings
from plentar.store.models import Account, Shop, now
from plentar.store.passwords import hashed, is_right
from plentar.words import phrase
from plentar.words.measures import Measures

ROLES = ("technician", "lead")
_LOGIN = re.compile(r"[a-z0-9][a-z0-9._+@-]{1,59}")


def make_shop(session: Session, name: str, *, begun: bool = True) -> Shop:
    """A new shop; one that has not begun asks its lead for its time, height and language first."""
    shop = Shop(name=name, begun_at=now() if begun else None)
    session.add(shop)
    session.flush()
    return shop


def make_account(
    session: Session, shop: Shop, login: str, name: str, password: str | None, role: str = "technician"
) -> Account:
    """A new account; with None nobody signs in to it before a password is chosen by a link.

    Raises BadInput on a login that is taken or of another form, and on a poor password.
    """
    login = login.strip().lower()
    if not _LOGIN.fullmatch(login):
        raise BadInput("login", phrase("store.accounts.two-sixty-letters-z"))
    password_hash = "" if password is None else hashed(password, (login, name, shop.name))
    account = Account(shop_id=shop.id, login=login, name=name, role=role, password_hash=password_hash)
    try:
        with session.begin_nested():
            session.add(account)
    except IntegrityError:
        raise BadInput("login", phrase("store.accounts.taken", login=login)) from None
    return account


def has_begun(session: Session, shop_id: uuid.UUID) -> None:
    session.execute(update(Shop).where(Shop.id == shop_id).values(begun_at=now()))


def set_timezone(session: Session, shop_id: uuid.UUID, name: str) -> None:
    """Change the time that a shop reads; raises BadInput where there is no such zone."""
    if name not in available_timezones():
        raise BadInput("timezone", phrase("store.accounts.no-such-time-zone"))
    session.execute(update(Shop).where(Shop.id == shop_id).values(timezone=name))


def set_judging(session: Session, shop_id: uuid.UUID, settings: Mapping[str, Any]) -> None:
    """Change by what a shop's new visits are judged: settings as the visit file writes them."""
    session.execute(update(Shop).where(Shop.id == shop_id).values(settings=dict(settings)))


def set_sheets(session: Session, shop_id: uuid.UUID, settings: SheetSettings) -> None:
    session.execute(update(Shop).where(Shop.id == shop_id).values(sheets=settings.model_dump()))


def set_language(session: Session, account_id: uuid.UUID, language: str | None) -> None:
    """What a person reads; None for the shop's language."""
    session.execute(update(Account).where(Account.id == account_id).values(language=language))


def set_password(account: Account, password: str) -> None:
    """Change an account's password; raises BadInput on a poor one."""
    account.password_hash = hashed(password, (account.login, account.name, account.shop.name))


def right_password(session: Session, login: str, password: str) -> uuid.UUID | None:
    """The account of this login if the password is its own; an unknown login takes as long, and so
    does somebody's who was let go, or has not chosen one yet."""
    found = session.execute(
        select(Account.id, Account.password_hash).where(Account.login == login, Account.ended_at.is_(None))
    ).first()
    session.commit()  # hashing takes a while: no transaction, and no connection, waits for it
    right = is_right(password, found.password_hash if found else None)
    return found.id if found and right else None


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
    timezone: str = "UTC"
    shop_sheets: dict[str, Any] = field(default_factory=dict)
    own_language: str | None = None
    shop_begun: bool = True

    @property
    def language(self) -> str:
        """What this person reads: their own language, else the shop's."""
        return self.own_language or str(self.shop_sheets.get("screens", "en"))

    @property
    def measures(self) -> Measures:
        """In what the shop shows and types temperatures, air and lengths."""
        return SheetSettings.model_validate(self.shop_sheets).measures


_SIGNED_IN = (
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
    .join(Shop, Shop.id == Account.shop_id)
    .where(Account.id == bindparam("account_id"))
)


def find_account(session: Session, account_id: uuid.UUID) -> SignedIn | None:
    """The account of this id with its shop, for a session cookie."""
    row = session.connection().execute(_SIGNED_IN, {"account_id": account_id}).first()
    return SignedIn(*row) if row else None
