"""The people of a shop: asked in, let go, and the links by which they choose a password.

Nobody ever knows another's password. A link stands for the password that was there when it was made:
once another is chosen, it opens nothing.
"""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Sequence
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from plentar.core.errors import BadInput
from plentar.core.said import listed
from plentar.store.accounts import ROLES, set_password
from plentar.store.errors import NotFound
from plentar.store.models import Account, Shop, SignIn, now
from plentar.store.signing_in import end_all
from plentar.words import phrase


def people_of(session: Session, shop_id: uuid.UUID) -> Sequence[Account]:
    """Everybody who has an account here, by name; those who were let go too."""
    return session.scalars(
        select(Account).where(Account.shop_id == shop_id).order_by(Account.name, Account.login)
    ).all()


def last_signed_in(session: Session, shop_id: uuid.UUID) -> dict[uuid.UUID, datetime]:
    """When each of them has signed in last, as far as that is still kept."""
    rows = session.execute(
        select(SignIn.account_id, func.max(SignIn.made_at))
        .where(SignIn.shop_id == shop_id)
        .group_by(SignIn.account_id)
    )
    return {row[0]: row[1] for row in rows}


def find_person(session: Session, shop_id: uuid.UUID, account_id: uuid.UUID) -> Account:
    """One of the shop's people; raises NotFound."""
    found = session.scalar(select(Account).where(Account.shop_id == shop_id, Account.id == account_id))
    if found is None:
        raise NotFound(phrase("store.people.nobody-this-shop"))
    return found


def let_go(session: Session, person: Account) -> None:
    """They sign in no more, and are signed in nowhere; their links open nothing, not even once they are let in
    again; what they recorded keeps their name.

    Raises BadInput where no lead would be left.
    """
    _check_a_lead_stays(session, person)
    person.ended_at = now()
    end_links(person)
    end_all(session, person.id)


def let_in(person: Account) -> None:
    """Somebody who was let go is back, with the password that they had."""
    person.ended_at = None


def make_role(session: Session, person: Account, role: str) -> None:
    """Make them lead or technician; raises BadInput where no lead would be left."""
    if role not in ROLES:
        raise BadInput("role", phrase("store.people.only", roles=listed(ROLES, "or")))
    if role != "lead":
        _check_a_lead_stays(session, person)
    person.role = role


def _check_a_lead_stays(session: Session, without: Account) -> None:
    """Two leads who let each other go at once come one after the other."""
    session.execute(select(Shop.id).where(Shop.id == without.shop_id).with_for_update(key_share=True))
    others = session.scalar(
        select(func.count()).where(
            Account.shop_id == without.shop_id,
            Account.id != without.id,
            Account.role == "lead",
            Account.ended_at.is_(None),
            Account.password_hash != "",
        )
    )
    if not others:
        raise BadInput("what", phrase("store.people.nobody-who-leads-shop"))


def person_named(session: Session, login: str) -> Account:
    """Who signs in so, of whatever shop; raises BadInput."""
    found = session.scalar(select(Account).where(Account.login == login.strip().lower()))
    if found is None:
        raise BadInput("login", phrase("store.people.nobody-signs-so"))
    return found


def end_links(person: Account) -> None:
    """No link that was made for them until now opens anything."""
    person.link_number += 1


def link_mark(person: Account) -> str:
    """What a link to choose a password carries beside the account: the password of now and the number of the
    newest link, by a word that tells nothing of either."""
    told = f"{person.id} {person.link_number} {person.password_hash}"
    return hashlib.sha256(told.encode()).hexdigest()[:16]


def person_by_link(session: Session, account_id: uuid.UUID, mark: str) -> Account:
    """Whose link this is, held until the transaction ends; raises NotFound where it opens nothing."""
    person = session.get(Account, account_id, with_for_update={"key_share": True})
    if person is None or person.ended_at is not None or link_mark(person) != mark:
        raise NotFound(phrase("store.people.this-link-opens-nothing"))
    return person


def choose_password(session: Session, person: Account, password: str) -> None:
    """From now on this password holds, and no session that was begun before.

    Raises BadInput on a poor one.
    """
    set_password(person, password)
    end_all(session, person.id)
