"""The people of a shop: asked in, let go, and the links by which they choose a password."""

from __future__ import annotations

import io
import re
import threading
import uuid
from datetime import timedelta

import pytest
from itsdangerous import TimestampSigner
from sqlalchemy import select

from plentar.cli.main import main
from plentar.core.errors import BadInput
from plentar.store.accounts import make_account, make_shop
from plentar.store.models import Account, now
from plentar.store.people import find_person, let_go
from plentar.web.auth.choose import link_for
from tests.app.conftest import PASSWORD

CHOSEN = "otter gravel teaspoon"


@pytest.fixture
def ask_in(soup):
    """``ask_in(me, login)``: asks somebody in; the path of the link that the lead is shown."""

    def ask(me, login, role="technician"):
        form = {"name": "New Hand", "login": login, "role": role, "again": PASSWORD}
        answer = me.client.post("/shop/people", data=form)
        assert answer.status_code == 200, answer.text
        return re.search(r"http://[^/]+(/password/\S+?)<", answer.text)[1]

    return ask


@pytest.fixture
def hand(app, ask_in):
    """``hand(me)``: a technician of the same shop who has chosen a password: login, and a client
    that is signed in."""

    def make(me, role="technician"):
        login = f"hand-{uuid.uuid4().hex[:8]}"
        client = app.test_client()
        link = ask_in(me, login, role)
        assert client.post(link, data={"new": CHOSEN}).status_code == 302
        assert sign_in(client, login, CHOSEN) == 302
        return login, client

    return make


def sign_in(client, login, password):
    return client.post("/sign-in", data={"login": login, "password": password}).status_code


def account(session, login):
    session.rollback()
    return session.scalars(select(Account).where(Account.login == login)).one()


def change(me, person, what, again=PASSWORD):
    return me.client.post(f"/shop/people/{person.id}", data={"what": what, "again": again})


def test_somebody_new_chooses_a_password_by_the_link_and_signs_in(app, somebody, ask_in, soup):
    me, phone, login = somebody(), app.test_client(), f"new-{uuid.uuid4().hex[:8]}"
    link = ask_in(me, login.upper())
    for nothing in ("", PASSWORD):
        assert sign_in(phone, login, nothing) == 422
    page = phone.get(link)
    assert login in page.text
    assert page.headers["Referrer-Policy"] == "no-referrer"
    for poor in ("short", "password1", "New Hand 1"):
        refused = phone.post(link, data={"new": poor})
        assert refused.status_code == 422
        assert soup(refused).select_one("#new-error")
    assert phone.post(link, data={"new": CHOSEN}).status_code == 302
    assert sign_in(phone, login, CHOSEN) == 302
    assert phone.get(f"/units/{me.unit_id}").status_code == 200
    for path in ("/shop/people", "/shop/archive"):
        assert phone.get(path).status_code == 403
    again = app.test_client()
    assert again.get(link).status_code == 404
    assert again.post(link, data={"new": "another three words"}).status_code == 404
    assert sign_in(again, login, CHOSEN) == 302


def test_who_is_let_go_is_out_at_once_and_keeps_the_name_on_record(app, somebody, session, hand):
    me = somebody()
    login, client = hand(me)
    started = client.post(f"/units/{me.unit_id}/visits", data={"complaint": "check-up"})
    person = account(session, login)
    link = re.search(r"/password/\S+?(?=<)", change(me, person, "link").text)[0]
    assert change(me, person, "let-go").status_code == 302
    assert client.get("/").location.startswith("/sign-in")
    assert sign_in(client, login, CHOSEN) == 422
    assert client.get(link).status_code == 404
    assert change(me, person, "link").status_code == 422
    assert "deactivated" in me.client.get("/shop/people").text
    assert "New Hand" in me.client.get(f"{started.location}/report").text
    assert change(me, person, "let-in").status_code == 302
    assert sign_in(client, login, CHOSEN) == 302


def test_who_signs_in_while_being_let_go_is_not_signed_in(app, somebody, session, hand):
    me = somebody()
    login, client = hand(me)
    let_go(session, account(session, login))  # holds the account until it commits
    answers = []
    phone = app.test_client()
    signing = threading.Thread(target=lambda: answers.append(sign_in(phone, login, CHOSEN)))
    signing.start()
    signing.join(1.0)
    assert signing.is_alive(), "it waits"
    session.commit()
    signing.join()
    assert answers == [422]
    assert phone.get("/account").status_code == 302
    assert client.get("/account").status_code == 302


def test_a_forgotten_password_is_chosen_anew_and_every_session_ends(app, somebody, session, hand):
    me = somebody()
    login, client = hand(me)
    shown = change(me, account(session, login), "link").text
    link = re.search(r"/password/\S+?(?=<)", shown)[0]
    assert client.get("/account").status_code == 200, "the link alone changes nothing"
    assert app.test_client().post(link, data={"new": "kettle under moss"}).status_code == 302
    assert client.get("/account").status_code == 302
    assert sign_in(client, login, CHOSEN) == 422
    assert sign_in(client, login, "kettle under moss") == 302


def test_the_leads_own_password_is_asked_for(somebody, session, hand, soup):
    me = somebody()
    login, client = hand(me)
    refused = change(me, account(session, login), "let-go", again="not the one")
    assert refused.status_code == 422
    assert soup(refused).select_one("#again-error")
    form = {"name": "N", "login": f"x{uuid.uuid4().hex[:8]}", "again": "not the one"}
    assert me.client.post("/shop/people", data=form).status_code == 422
    assert client.get("/account").status_code == 200
    session.rollback()
    assert session.scalar(select(Account.id).where(Account.login == form["login"])) is None


def test_a_right_password_counts_as_no_try_whatever_else_is_wrong(somebody):
    me = somebody()
    form = {"name": "N", "login": me.account.login, "again": PASSWORD}
    for _ in range(8):
        assert me.client.post("/shop/people", data=form).status_code == 422
    assert me.client.post("/shop/people", data=form | {"login": f"n{uuid.uuid4().hex}"}).status_code == 200


def test_a_shop_keeps_a_lead_who_can_sign_in(somebody, session, hand, ask_in):
    me = somebody()
    ask_in(me, f"lead-{uuid.uuid4().hex[:8]}", "lead")  # who has not chosen a password yet
    for what in ("let-go", "technician"):
        refused = change(me, me.account, what)
        assert refused.status_code == 422
        assert "lead" in refused.text
    _, other = hand(me, "lead")
    assert change(me, me.account, "technician").location == "/account"
    assert me.client.get("/shop/people").status_code == 403
    assert other.get("/shop/people").status_code == 200


def test_two_leads_who_let_each_other_go_at_once_are_not_both_gone(app, somebody, session, hand):
    me = somebody()
    login, other = hand(me, "lead")
    shop_id = me.account.shop_id
    first = account(session, login)
    let_go(session, first)  # holds the shop until it commits
    answers = []
    asked = threading.Thread(
        target=lambda: answers.append(
            other.post(f"/shop/people/{me.account.id}", data={"what": "let-go", "again": CHOSEN})
        )
    )
    asked.start()
    asked.join(0.5)
    assert asked.is_alive(), "it waits for the first"
    session.commit()
    asked.join()
    assert answers[0].status_code == 422
    assert find_person(session, shop_id, me.account.id).ended_at is None


@pytest.mark.parametrize("days", [2.9, 3.1])
def test_a_link_lasts_three_days(app, somebody, monkeypatch, days):
    me = somebody()
    signed_s = int((now() - timedelta(days=days)).timestamp())
    with monkeypatch.context() as then, app.test_request_context():
        then.setattr(TimestampSigner, "get_timestamp", lambda _self: signed_s)
        link = link_for(me.account)
    assert app.test_client().get(link).status_code == (200 if days < 3 else 404)


def test_a_link_that_was_touched_opens_nothing(app, somebody, ask_in):
    link = ask_in(somebody(), f"new-{uuid.uuid4().hex[:8]}")
    client = app.test_client()
    for bent in (link[:-1], link + "x", link.replace(".", "..", 1), "/password/x", "/password/" + "é" * 40):
        assert client.get(bent).status_code == 404
        assert client.post(bent, data={"new": CHOSEN}).status_code == 404


@pytest.mark.parametrize("login", ["", "a", "two words", "Ünal", "x" * 61, "-a", "a\u202eb", "nul\0"])
def test_a_login_of_another_form_is_refused(session, login):
    with pytest.raises(BadInput) as refused:
        make_account(session, make_shop(session, "A shop"), login, "N", PASSWORD)
    assert refused.value.path == "login"
    session.rollback()


def test_the_command_gives_an_account_a_password(app, somebody, monkeypatch, database_url, capsys):
    me = somebody()
    monkeypatch.setenv("PLENTAR_DATABASE_URL", database_url)
    for typed, code in (("password1\n", 2), (f"{CHOSEN}\n", 0)):
        monkeypatch.setattr("sys.stdin", io.StringIO(typed))
        assert main(["password", me.account.login]) == code
    assert me.client.get("/account").status_code == 302
    assert sign_in(app.test_client(), me.account.login, CHOSEN) == 302
    monkeypatch.setattr("sys.stdin", io.StringIO(f"{CHOSEN}\n"))
    assert main(["password", "nobody-so-called"]) == 2
    assert "No such sign-in name" in capsys.readouterr().err


def test_a_newer_link_ends_the_older_and_whoever_is_let_go_has_none(app, somebody, ask_in, session):
    me, login = somebody(), f"new-{uuid.uuid4().hex[:8]}"
    first = ask_in(me, login)
    person = account(session, login)

    def link():
        return re.search(r"/password/\S+?(?=<)", change(me, person, "link").text)[0]

    def opens(path):
        return app.test_client().get(path).status_code == 200

    assert opens(first)
    second = link()
    assert opens(second) and not opens(first)
    change(me, person, "let-go")
    change(me, person, "let-in")
    assert not opens(second) and not opens(first), "not even once they are back"
    third = link()
    assert app.test_client().post(third, data={"new": CHOSEN}).status_code == 302
    assert not opens(third)
