"""Who is signed in."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass
from typing import ParamSpec, TypeVar, cast

from flask import Flask, current_app, g, request
from flask_login import LoginManager, UserMixin, current_user, login_required
from sqlalchemy.exc import SQLAlchemyError

from plentar.store.accounts import SignedIn
from plentar.store.record import VisitRecord
from plentar.store.signing_in import who_is
from plentar.store.visits import who_finds_visit
from plentar.web.database import database

#: Pages for everybody.
PUBLIC = ("quick", "pages")
_P = ParamSpec("_P")
_R = TypeVar("_R")
_V = TypeVar("_V", bound=Callable[..., object])
_FINDS = "plentar_finds_visit"


def signed_in(route: Callable[_P, _R]) -> Callable[_P, _R]:
    """A route for those who are signed in; others are sent to the sign-in page."""
    return cast(Callable[_P, _R], login_required(route))


def finds_visit(*, to_write: bool = False) -> Callable[[_V], _V]:
    """A route of a visit, which is found in the trip that asks who is signed in; locked from
    then on, if it is to write."""

    def mark(route: _V) -> _V:
        setattr(route, _FINDS, to_write)
        return route

    return mark


@dataclass
class Person(UserMixin):  # type: ignore[misc]  # Flask-Login has no types
    """An account, and the session that it is signed in by, as Flask-Login wants it."""

    account: SignedIn
    session_id: uuid.UUID

    def get_id(self) -> str:
        return str(self.session_id)


def init_app(app: Flask) -> None:
    manager = LoginManager(app)
    manager.login_view = "auth.sign_in"
    manager.login_message = None
    manager.session_protection = None

    def _load(session_id: str) -> Person | None:
        try:
            account = _who(uuid.UUID(session_id))
        except SQLAlchemyError:
            if request.blueprint not in PUBLIC:
                raise
            return None  # these pages work for everybody, whatever the database does
        return Person(account, uuid.UUID(session_id)) if account else None

    manager.user_loader(_load)


def _who(session_id: uuid.UUID) -> SignedIn | None:
    view = current_app.view_functions.get(request.endpoint or "")
    to_write: bool | None = getattr(view, _FINDS, None)
    visit_id = (request.view_args or {}).get("visit_id")
    if to_write is None or visit_id is None:
        return who_is(database(), session_id)
    account, g.found = who_finds_visit(database(), session_id, visit_id, to_write=to_write)
    return account


def found_visit() -> VisitRecord | None:
    """The visit that was found along with who asks, once: later it may hold more."""
    me()
    record: VisitRecord | None = g.pop("found", None)
    return record


def my_session() -> uuid.UUID:
    session_id: uuid.UUID = current_user.session_id
    return session_id


def me() -> SignedIn:
    """The account of the person who is signed in; routes that use it require one."""
    account: SignedIn = current_user.account
    return account
