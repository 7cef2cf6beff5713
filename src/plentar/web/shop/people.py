"""The people of a shop, for its leads: asked in, let go and let in again, links for a password."""

from __future__ import annotations

import uuid
from typing import Annotated, Literal

from flask import Blueprint, redirect, render_template, request, url_for
from pydantic import BaseModel, Field

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.store.accounts import make_account
from plentar.store.models import Account, Shop, now
from plentar.store.people import end_links, find_person, last_signed_in, let_go, let_in, make_role, people_of
from plentar.web.answer import Answer
from plentar.web.auth.check import Password, check_again
from plentar.web.auth.choose import LASTS, link_for
from plentar.web.auth.record import note
from plentar.web.code import code_of
from plentar.web.database import database
from plentar.web.entry import Form, parse_entry, required
from plentar.web.people import me, signed_in
from plentar.words import phrase

people = Blueprint("people", __name__, url_prefix="/shop/people")
ROLE_TILES = {"technician": say("choice.technician"), "lead": say("shop.people.lead-plans-corrects-sees")}


class AskInEntry(BaseModel):
    name: Annotated[str, Field(max_length=100), required(say("required.their-name"))]
    login: Annotated[str, Field(max_length=60), required(say("required.their-sign-in-name"))]
    role: Literal["technician", "lead"] = "technician"
    again: Password


class ChangeEntry(BaseModel):
    """What is done about somebody, and the password of whoever does it."""

    what: Literal["link", "let-go", "let-in", "lead", "technician"]
    again: Password


@people.get("")
@signed_in
def show() -> str:
    return _page(Form({"role": "technician"}))


@people.post("")
@signed_in
def ask_in() -> Answer:
    """An account for somebody new, and the link by which they choose its password."""
    try:
        entry = parse_entry(AskInEntry, request.form)
        check_again(entry.again)
        shop = database().get_one(Shop, me().shop_id)
        person = make_account(database(), shop, entry.login, entry.name.strip(), None, entry.role)
    except BadInput as bad:
        return _page(Form(request.form, bad)), 422
    database().commit()
    note(f"{me().login} asked in as {entry.role}", person.login)
    return _person_page(person, Form(), link_for(person))


@people.get("/<uuid:account_id>")
@signed_in
def one(account_id: uuid.UUID) -> str:
    return _person_page(find_person(database(), me().shop_id, account_id), Form())


@people.post("/<uuid:account_id>")
@signed_in
def change(account_id: uuid.UUID) -> Answer:
    person = find_person(database(), me().shop_id, account_id)
    try:
        entry = parse_entry(ChangeEntry, request.form)
        check_again(entry.again)
        link = _do(person, entry.what)
    except BadInput as bad:
        database().rollback()
        person = find_person(database(), me().shop_id, account_id)
        return _person_page(person, Form({}, bad)), 422
    database().commit()
    note(f"{me().login}: {entry.what}", person.login)
    if link:
        return _person_page(person, Form(), link)
    myself = person.id == me().id  # perhaps no lead any more
    return redirect(url_for("auth.account" if myself else "people.show"))


def _do(person: Account, what: str) -> str:
    """Do it; the link where one was asked for."""
    if what == "link":
        if person.ended_at is not None:
            raise BadInput("what", phrase("shop.people.let-them-again-first"))
        end_links(person)
        return link_for(person)
    if what == "let-go":
        let_go(database(), person)
    elif what == "let-in":
        let_in(person)
    else:
        make_role(database(), person, what)
    return ""


def _page(form: Form) -> str:
    shop_id = me().shop_id
    return render_template(
        "shop/people.html",
        form=form,
        people=people_of(database(), shop_id),
        last=last_signed_in(database(), shop_id),
        roles=ROLE_TILES,
    )


def _person_page(person: Account, form: Form, link: str = "") -> str:
    return render_template(
        "shop/person.html",
        person=person,
        form=form,
        link=link,
        code=code_of(link) if link else "",
        until=now() + LASTS,
    )
