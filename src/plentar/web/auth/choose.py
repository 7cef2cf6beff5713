"""Choosing a password by a link that a lead has made: the first one, or a new one.

Who holds the link is told the names and may choose; nothing else is shown. A link lasts for some days,
and opens nothing any more once a password was chosen.
"""

from __future__ import annotations

import uuid
from datetime import timedelta

from flask import Blueprint, current_app, redirect, render_template, request, url_for
from itsdangerous import BadSignature, TimestampSigner
from pydantic import BaseModel

from plentar.core.errors import BadInput
from plentar.store.errors import NotFound
from plentar.store.models import Account
from plentar.store.people import choose_password, link_mark, person_by_link
from plentar.web.answer import Answer
from plentar.web.auth.check import Typed
from plentar.web.auth.record import note
from plentar.web.database import database
from plentar.web.entry import Form, parse_entry
from plentar.words import phrase

choose = Blueprint("choose", __name__, url_prefix="/password")
LASTS = timedelta(days=3)
SALT = "choose a password"
_ID = 32  # digits of the account's id; a short address makes a code that a camera reads well


class ChooseEntry(BaseModel):
    """The password that shall hold."""

    new: Typed = ""


def link_for(person: Account) -> str:
    token = _signer().sign(f"{person.id.hex}{link_mark(person)}").decode()
    return url_for("choose.show", token=token, _external=True)


@choose.get("/<token>")
def show(token: str) -> Answer:
    return _page(_person(token), token, Form())


@choose.post("/<token>")
def take(token: str) -> Answer:
    """From now on it holds; they sign in with it."""
    person = _person(token)
    try:
        choose_password(database(), person, parse_entry(ChooseEntry, request.form).new)
    except BadInput as bad:
        return _page(person, token, Form({}, BadInput("new", bad.reason)), 422)
    database().commit()
    note("password chosen by a link, every session ended", person.login)
    return redirect(url_for("auth.sign_in"))


def _page(person: Account, token: str, form: Form, status: int = 200) -> Answer:
    page = render_template("auth/choose.html", person=person, held=token, form=form)
    return page, status, {"Referrer-Policy": "no-referrer"}


def _person(token: str) -> Account:
    """Whose link it is; raises NotFound, and says no more, whatever is wrong with it."""
    try:
        signed = _signer().unsign(token, max_age=int(LASTS.total_seconds())).decode()
        return person_by_link(database(), uuid.UUID(signed[:_ID]), signed[_ID:])
    except (BadSignature, ValueError):
        raise NotFound(phrase("auth.choose.this-link-opens-nothing")) from None


def _signer() -> TimestampSigner:
    return TimestampSigner(current_app.secret_key or "", salt=SALT)
