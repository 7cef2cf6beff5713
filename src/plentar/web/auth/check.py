"""The password held against an account's: at sign-in, and again before what matters."""

from __future__ import annotations

import uuid
from typing import Annotated

from flask import request
from pydantic import Field

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.store import signing_in
from plentar.store.accounts import right_password
from plentar.store.errors import TooMany
from plentar.web.auth.device import known_device
from plentar.web.auth.record import note
from plentar.web.database import database
from plentar.web.entry import required
from plentar.web.people import me
from plentar.words import phrase

#: A password that is typed, whatever it is.
Typed = Annotated[str, Field(max_length=200)]
Password = Annotated[Typed, required(say("required.password"))]


def account_of(login: str, password: str) -> uuid.UUID:
    """The account, or BadInput beside the password; TooMany where it was tried too often."""
    try:
        tried = signing_in.count_try(database(), login, address(), known_device(login))
    except TooMany:
        note("tried too often", login)
        raise
    account_id = right_password(database(), login, password)
    if account_id is None:
        note("wrong name or password", login)
        raise BadInput("password", phrase("store.signing-in.wrong"))
    signing_in.forget_try(database(), tried)
    database().commit()  # whatever becomes of what it was asked for
    return account_id


def check_again(password: str) -> None:
    """Who is signed in is asked for the password again; BadInput at ``again`` where it is wrong."""
    try:
        account_of(me().login, password)
    except BadInput:
        raise BadInput("again", phrase("auth.password-wrong")) from None


def address() -> str:
    """From where this request comes."""
    return request.remote_addr or "?"
