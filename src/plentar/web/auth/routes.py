"""Sign in, sign out, sessions and password, choose a theme."""

from __future__ import annotations

import uuid
from typing import Annotated

from flask import Blueprint, current_app, redirect, render_template, request, session, url_for
from flask_login import current_user, login_user, logout_user
from pydantic import BaseModel, Field

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.files.sheet_settings import SCALES, SheetSettings
from plentar.files.visit_file import parse_model
from plentar.files.visit_json import SettingsJson
from plentar.store import signing_in
from plentar.store.accounts import set_judging, set_language, set_password, set_sheets, set_timezone
from plentar.store.demo.load import PASSWORD, PEOPLE
from plentar.store.people import find_person
from plentar.web.answer import Answer, wants_fragment
from plentar.web.auth.check import Password, Typed, account_of, address, check_again
from plentar.web.auth.device import A_YEAR_S
from plentar.web.auth.record import note
from plentar.web.database import database
from plentar.web.entry import Form, Number, parse_entry, required
from plentar.web.people import Person, me, my_session, signed_in
from plentar.web.showing import THEMES
from plentar.words import LANGUAGES, measures
from plentar.words.measures import AIR, LENGTHS
from plentar.words.numbers import NARROW, plain

auth = Blueprint("auth", __name__)


class SignInEntry(BaseModel):
    login: Annotated[str, Field(max_length=100), required(say("required.sign-in-name"))]
    password: Password


class EndEntry(BaseModel):
    """The session to end."""

    session: uuid.UUID


class EndOthersEntry(BaseModel):
    """The password again, to end every other session."""

    again: Password


class ZoneEntry(BaseModel):
    """The name of a time zone."""

    timezone: Annotated[str, Field(max_length=60)] = ""


class JudgingEntry(BaseModel):
    """How high the shop's units lie, and by which band it judges amps."""

    altitude_ft: Number = 0.0
    band: str = "plate"


class SheetsEntry(BaseModel):
    phone: Annotated[str, Field(max_length=60)] = ""
    language: str = "en"
    scale: str = "F"
    air: str = "CFM"
    length: str = "ft"
    screens: str = "en"
    currency: Annotated[str, Field(max_length=8)] = ""


class PasswordEntry(BaseModel):
    password: Password
    new: Typed = ""


@auth.get("/sign-in")
def sign_in() -> Answer:
    if current_user.is_authenticated:
        return redirect(url_for("lane.show"))
    return _page(Form())


@auth.post("/sign-in")
def check_in() -> Answer:
    """Hold the password against the account's. Goes to the lane afterwards, never where a request
    says."""
    try:
        entry = parse_entry(SignInEntry, request.form)
        login = entry.login.strip().lower()
        account_id = account_of(login, entry.password)
        browser = request.headers.get("User-Agent", "")
        session_id = signing_in.begin(database(), account_id, address(), browser)
    except BadInput as bad:
        return _page(Form({"login": request.form.get("login", "")}, bad)), 422
    account = signing_in.who_is(database(), session_id)
    assert account is not None
    database().commit()
    session.clear()
    session.permanent = True
    login_user(Person(account, session_id))
    note("signed in", login)
    return redirect(url_for("lane.show"))


def _page(form: Form) -> str:
    demo = (PEOPLE, PASSWORD) if current_app.config["PLENTAR_DEMO"] else None
    return render_template("auth/sign_in.html", form=form, demo=demo)


@auth.post("/sign-out")
@signed_in
def sign_out() -> Answer:
    """End the session, here and on the server."""
    signing_in.end(database(), me().id, my_session())
    database().commit()
    note("signed out", me().login)
    logout_user()
    session.clear()
    return redirect(url_for("auth.sign_in"))


@auth.get("/account")
@signed_in
def account() -> Answer:
    """Where this account is signed in, and its password."""
    return _account_page(Form())


def _account_page(form: Form) -> str:
    judging = SettingsJson.model_validate(me().shop_settings).model_dump()
    sheets = SheetSettings.model_validate(me().shop_sheets).model_dump()
    standing = {name: str(value) for name, value in (judging | sheets).items()}
    standing["altitude_ft"] = plain(judging["altitude_ft"], "ft").split(NARROW)[0]
    standing["own_language"] = me().own_language or ""
    typed = Form(standing | dict(form.typed), form.bad)
    return render_template(
        "auth/account.html",
        form=typed,
        sessions=signing_in.sessions_of(database(), me().id),
        this=my_session(),
        languages=LANGUAGES,
        own_languages={"": say("page.auth.account.as-shop"), **LANGUAGES},
        scales=SCALES,
        airs={one: one for one in AIR},
        lengths={one: one for one in LENGTHS},
    )


@auth.post("/account/end")
@signed_in
def end_session() -> Answer:
    signing_in.end(database(), me().id, parse_entry(EndEntry, request.form).session)
    database().commit()
    note("a session ended", me().login)
    return redirect(url_for("auth.account"))


@auth.post("/account/end-others")
@signed_in
def end_others() -> Answer:
    """End every other session; the password is asked for again."""
    try:
        check_again(parse_entry(EndOthersEntry, request.form).again)
    except BadInput as bad:
        return _account_page(Form({}, bad)), 422
    signing_in.end_others(database(), me().id, my_session())
    database().commit()
    note("the other sessions ended", me().login)
    return redirect(url_for("auth.account"))


@auth.post("/account/timezone")
@signed_in
def choose_timezone() -> Answer:
    """By which time the shop reads; its lead says."""
    try:
        set_timezone(database(), me().shop_id, parse_entry(ZoneEntry, request.form).timezone)
    except BadInput as bad:
        return _account_page(Form(request.form, bad)), 422
    database().commit()
    return redirect(url_for("auth.account"))


@auth.post("/account/judging")
@signed_in
def choose_judging() -> Answer:
    """By what new visits are judged; the shop's lead says."""
    try:
        entry = parse_entry(JudgingEntry, request.form)
        asked = entry.model_dump() | {"altitude_ft": measures.kept(entry.altitude_ft, "ft")}
        settings = parse_model(SettingsJson, me().shop_settings | asked)
    except BadInput as bad:
        return _account_page(Form(request.form, bad)), 422
    set_judging(database(), me().shop_id, settings.model_dump())
    database().commit()
    return redirect(url_for("auth.account"))


@auth.post("/account/sheets")
@signed_in
def choose_sheets() -> Answer:
    """What the sheets say that leave with a visit; the shop's lead says."""
    try:
        settings = parse_model(SheetSettings, parse_entry(SheetsEntry, request.form).model_dump())
    except BadInput as bad:
        return _account_page(Form(request.form, bad)), 422
    set_sheets(database(), me().shop_id, settings)
    database().commit()
    return redirect(url_for("auth.account"))


class LanguageEntry(BaseModel):
    """A person's own language; empty for the shop's."""

    own_language: str = ""


@auth.post("/account/language")
@signed_in
def choose_language() -> Answer:
    """What this person reads."""
    chosen = parse_entry(LanguageEntry, request.form).own_language
    if chosen and chosen not in LANGUAGES:
        return _account_page(Form(request.form, BadInput("own_language", say("auth.routes.language")))), 422
    set_language(database(), me().id, chosen or None)
    database().commit()
    return redirect(url_for("auth.account"))


@auth.post("/account/password")
@signed_in
def change_password() -> Answer:
    """Change the password: with the old one, and every other session ends."""
    try:
        entry = parse_entry(PasswordEntry, request.form)
        account_of(me().login, entry.password)
        try:
            set_password(find_person(database(), me().shop_id, me().id), entry.new)
        except BadInput as bad:
            raise BadInput("new", bad.reason) from None
    except BadInput as bad:
        return _account_page(Form({}, bad)), 422
    signing_in.end_others(database(), me().id, my_session())
    database().commit()
    note("password changed, the other sessions ended", me().login)
    return redirect(url_for("auth.account"))


@auth.post("/theme")
def choose_theme() -> Answer:
    """Keep the theme in a cookie of this browser, and go back to the start."""
    chosen = request.form.get("theme", "")
    response = redirect(url_for("lane.show" if current_user.is_authenticated else "quick.show"))
    if chosen in THEMES:
        response.set_cookie(
            "theme",
            chosen,
            max_age=A_YEAR_S,
            samesite="Lax",
            httponly=True,
            secure=bool(current_app.config["SESSION_COOKIE_SECURE"]),
        )
    if wants_fragment():
        response.status_code = 204
        response.headers["HX-Refresh"] = "true"
        del response.headers["Location"]
    return response
