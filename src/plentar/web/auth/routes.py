"""Sign in, sign out, choose a theme."""

from __future__ import annotations

from flask import Blueprint, current_app, redirect, render_template, request, session, url_for
from flask_login import current_user, login_required, login_user, logout_user
from flask_wtf import FlaskForm
from werkzeug import Response
from wtforms import PasswordField, StringField
from wtforms.validators import InputRequired, Length

from plentar.store.accounts import find_account
from plentar.store.accounts import sign_in as check_password
from plentar.store.demo.load import PASSWORD, PEOPLE
from plentar.web.database import database
from plentar.web.people import Person
from plentar.web.showing import THEMES

auth = Blueprint("auth", __name__)
A_YEAR_S = 31_536_000


class SignInForm(FlaskForm):
    """Who, and the password."""

    login = StringField("Name", [InputRequired("your sign-in name"), Length(max=100)])
    password = PasswordField("Password", [InputRequired("your password"), Length(max=200)])


@auth.route("/sign-in", methods=["GET", "POST"])
def sign_in() -> tuple[str, int] | str | Response:
    """The sign-in page. Goes to the lane afterwards, never where a request says."""
    if current_user.is_authenticated:
        return redirect(url_for("lane.show"))
    form = SignInForm()
    demo = (PEOPLE, PASSWORD) if current_app.config["PLENTAR_DEMO"] else None
    if not form.is_submitted():
        return render_template("auth/sign_in.html", form=form, demo=demo)
    if form.validate():
        account = check_password(
            database(), form.login.data, form.password.data, request.remote_addr or "?"
        )
        if account is not None:
            session.clear()
            session.permanent = True
            person = find_account(database(), account.id)
            assert person is not None
            login_user(Person(person))
            return redirect(url_for("lane.show"))
        form.password.errors = ["name or password is wrong"]
    return render_template("auth/sign_in.html", form=form, demo=demo), 422


@auth.post("/sign-out")
@login_required
def sign_out() -> Response:
    """End the session."""
    logout_user()
    session.clear()
    return redirect(url_for("auth.sign_in"))


@auth.post("/theme")
def choose_theme() -> Response:
    """Keep the theme in a cookie of this browser, and go back to the start."""
    chosen = request.form.get("theme", "")
    response = redirect(url_for("lane.show" if current_user.is_authenticated else "quick.show"))
    if chosen in THEMES:
        response.set_cookie("theme", chosen, max_age=A_YEAR_S, samesite="Lax", httponly=True)
    if "HX-Request" in request.headers:
        response.status_code = 204
        response.headers["HX-Refresh"] = "true"
        del response.headers["Location"]
    return response
