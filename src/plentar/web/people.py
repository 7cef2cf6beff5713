"""Who is signed in."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import dataclass
from typing import ParamSpec, TypeVar, cast

from flask import Flask
from flask_login import LoginManager, UserMixin, current_user, login_required

from plentar.store.accounts import SignedIn, find_account
from plentar.web.database import database

_P = ParamSpec("_P")
_R = TypeVar("_R")


def signed_in(route: Callable[_P, _R]) -> Callable[_P, _R]:
    """A route for those who are signed in; others are sent to the sign-in page."""
    return cast(Callable[_P, _R], login_required(route))


@dataclass
class Person(UserMixin):  # type: ignore[misc]  # Flask-Login has no types
    """An account as Flask-Login wants it."""

    account: SignedIn

    def get_id(self) -> str:
        """What the session cookie holds."""
        return str(self.account.id)


def init_app(app: Flask) -> None:
    """Set up Flask-Login."""
    manager = LoginManager(app)
    manager.login_view = "auth.sign_in"
    manager.login_message = None
    manager.session_protection = None

    def _load(account_id: str) -> Person | None:
        account = find_account(database(), uuid.UUID(account_id))
        return Person(account) if account else None

    manager.user_loader(_load)


def me() -> SignedIn:
    """The account of the person who is signed in; routes that use it require one."""
    account: SignedIn = current_user.account
    return account
