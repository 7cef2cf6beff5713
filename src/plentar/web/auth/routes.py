"""Sign in, sign out, choose a theme."""

from __future__ import annotations

from typing import Annotated

from flask import Blueprint, current_app, redirect, render_template, request, session, url_for
from flask_login import current_user, login_user, logout_user
from pydantic import BaseModel, Field

from plentar.core.errors import BadInput
from plentar.store.accounts import find_account
from plentar.store.accounts import sign_in as check_password
from plentar.store.demo.load import PASSWORD, PEOPLE
from plentar.web.answer import Answer, wants_fragment
from plentar.web.database import database
from plentar.web.entry import Form, parse_entry, required
from plentar.web.people import Person, signed_in
from plentar.web.showing import THEMES

auth = Blueprint("auth", __name__)
A_YEAR_S = 31_536_000


class SignInEntry(BaseModel):
    """Who, and the password."""

    login: Annotated[str, Field(max_length=100), required("your sign-in name")]
    password: Annotated[str, Field(max_length=200), required("your password")]


@auth.get("/sign-in")
def sign_in() -> Answer:
    """The sign-in page."""
    if current_user.is_authenticated:
        return redirect(url_for("lane.show"))
    return _page(Form())


@auth.post("/sign-in")
def check_in() -> Answer:
    """Hold the password against the account's. Goes to the lane afterwards, never where a request
    says."""
    try:
        entry = parse_entry(SignInEntry, request.form)
        account = check_password(
            database(), entry.login, entry.password, request.remote_addr or "?"
        )
        if account is None:
            raise BadInput("password", "name or password is wrong")
    except BadInput as bad:
        return _page(Form({"login": request.form.get("login", "")}, bad)), 422
    session.clear()
    session.permanent = True
    known = find_account(database(), account.id)
    assert known is not None
    login_user(Person(known))
    return redirect(url_for("lane.show"))


def _page(form: Form) -> str:
    demo = (PEOPLE, PASSWORD) if current_app.config["PLENTAR_DEMO"] else None
    return render_template("auth/sign_in.html", form=form, demo=demo)


@auth.post("/sign-out")
@signed_in
def sign_out() -> Answer:
    """End the session."""
    logout_user()
    session.clear()
    return redirect(url_for("auth.sign_in"))


@auth.post("/theme")
def choose_theme() -> Answer:
    """Keep the theme in a cookie of this browser, and go back to the start."""
    chosen = request.form.get("theme", "")
    response = redirect(url_for("lane.show" if current_user.is_authenticated else "quick.show"))
    if chosen in THEMES:
        response.set_cookie("theme", chosen, max_age=A_YEAR_S, samesite="Lax", httponly=True)
    if wants_fragment():
        response.status_code = 204
        response.headers["HX-Refresh"] = "true"
        del response.headers["Location"]
    return response
