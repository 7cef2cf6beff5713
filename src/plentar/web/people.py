"""Who is signed in."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from flask import Flask
from flask_login import LoginManager, UserMixin, current_user

from plentar.store.accounts import SignedIn, find_account
from plentar.web.database import database


@dataclass
class Person(UserMixin):
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

    @manager.user_loader
    def _load(account_id: str) -> Person | None:
        account = find_account(database(), uuid.UUID(account_id))
        return Person(account) if account else None


def me() -> SignedIn:
    """The account of the person who is signed in; routes that use it require one."""
    account: SignedIn = current_user.account
    return account
