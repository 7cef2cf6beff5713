"""Signing in and out: guessing is slowed down and locks nobody out, sessions end on the server."""

from __future__ import annotations

import json
import uuid
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from sqlalchemy import select, update

from plentar.core.errors import BadInput
from plentar.store import signing_in
from plentar.store.accounts import make_account, make_shop, right_password
from plentar.store.models import SignIn, SignInTry, now
from tests.app.conftest import PASSWORD

WRONG = "wrong wrong wrong"


@pytest.fixture
def tries(app, session):
    """Sends so many tries; their status codes. Those of other tests are forgotten first."""
    session.query(SignInTry).delete()
    session.commit()

    def send(login, password=WRONG, times=1, client=None):
        client = client or app.test_client()
        form = {"login": login, "password": password}
        return [client.post("/sign-in", data=form) for _ in range(times)]

    return send


def codes(answers):
    return [answer.status_code for answer in answers]


def test_guessing_is_slowed_down_and_the_wait_grows(somebody, session, tries):
    login = somebody().account.login
    assert codes(tries(login, times=6)) == [422] * 5 + [429]
    [refused] = tries(login, PASSWORD)
    assert refused.status_code == 429, "the right password does not help before the wait is over"
    assert 1 <= int(refused.headers["Retry-After"]) <= 2
    of_login = SignInTry.login == login
    session.execute(update(SignInTry).where(of_login).values(at=now() - timedelta(seconds=2.1)))
    session.commit()
    assert codes(tries(login, PASSWORD)) == [302], "nobody is locked out: a wait, not a lock"
    assert signing_in.wait_after(9, 5) == 2 * signing_in.wait_after(8, 5)
    assert signing_in.wait_after(500, 5) == signing_in.LONGEST_WAIT_S


def test_signing_in_is_on_record_and_makes_no_line_of_its_own(somebody, tries, caplog):
    login = somebody().account.login
    tries(login, PASSWORD)
    tries("nobody\u2028sam signed in\x1b[2J")
    tries(login, times=6)
    said = [entry.getMessage() for entry in caplog.records if entry.name == "plentar.security"]
    assert said[0] == f"signed in: '{login}' from '127.0.0.1'"
    assert [line.split(":")[0] for line in said[-6:]] == ["wrong name or password"] * 5 + ["tried too often"]
    assert all(line.isascii() and line.isprintable() and PASSWORD not in line for line in said)


def test_tries_at_once_are_counted_one_by_one(somebody, tries, monkeypatch):
    login, moment = somebody().account.login, now()
    monkeypatch.setattr(signing_in, "now", lambda: moment)  # however long the hashing takes
    with ThreadPoolExecutor(8) as pool:
        answers = list(pool.map(lambda _: tries(login)[0].status_code, range(40)))
    assert sorted(answers) == [422] * 5 + [429] * 35


def test_a_browser_that_was_here_before_gets_in_while_others_guess(app, somebody, tries):
    me = somebody()
    me.client.get("/")  # the page after signing in marks the browser
    me.client.post("/sign-out")
    assert codes(tries(me.account.login, times=6))[-1] == 429
    assert codes(tries(me.account.login, PASSWORD, client=me.client)) == [302]
    other = somebody()
    other.client.get("/")
    stolen = me.client.get_cookie("device")
    thief = app.test_client()
    thief.set_cookie("device", stolen.value)
    tries(other.account.login, times=5)
    assert codes(tries(other.account.login, PASSWORD, client=thief)) == [429], "its mark is another's"


def test_an_address_behind_which_many_sign_in_slows_down_and_never_stops(somebody, session, tries):
    session.add_all(SignInTry(login=f"x{n}", address="127.0.0.1") for n in range(60))
    session.commit()
    login = somebody_of(somebody, session).account.login
    assert codes(tries(login)) == [429]
    old = now() - signing_in.WINDOW - timedelta(seconds=1)
    session.execute(update(SignInTry).values(at=old))
    session.commit()
    assert codes(tries(login)) == [422]
    assert not session.scalars(select(SignInTry).where(SignInTry.at <= old)).all(), "purged"


def somebody_of(somebody, session):
    """Signs in past the slowed address: the test is of those who come after."""
    held = [(t.login, t.address) for t in session.scalars(select(SignInTry))]
    session.query(SignInTry).delete()
    session.commit()
    me = somebody()
    session.add_all(SignInTry(login=login, address=address) for login, address in held)
    session.commit()
    return me


def test_sign_out_ends_the_session_for_whoever_has_its_cookie(app, somebody):
    me = somebody()
    kept = me.client.get_cookie("plentar").value
    me.client.post("/sign-out")
    thief = app.test_client()
    thief.set_cookie("plentar", kept)
    assert thief.get("/account").status_code == 302, "to the sign-in page"


def test_sessions_are_listed_and_ended_by_their_owner_alone(app, somebody, session, soup):
    me, other = somebody(), somebody()
    elsewhere = app.test_client()
    elsewhere.post(
        "/sign-in", data={"login": me.account.login, "password": PASSWORD}, headers={"User-Agent": "A phone"}
    )
    assert "A phone" in soup(me.client.get("/account")).select_one("main").text
    mine = session.scalars(select(SignIn).where(SignIn.account_id == me.account.id)).all()
    theirs = {"session": str(next(one.id for one in mine if one.browser == "A phone"))}
    assert other.client.post("/account/end", data=theirs).status_code == 404
    assert elsewhere.get("/account").status_code == 200
    assert me.client.post("/account/end", data=theirs).status_code == 302
    assert elsewhere.get("/account").status_code == 302
    assert me.client.post("/account/end", data={"session": str(uuid.uuid4())}).status_code == 404


@pytest.mark.parametrize("what", ["end-others", "password"])
def test_what_matters_asks_for_the_password_again(app, somebody, session, what, soup):
    me = somebody()
    elsewhere = app.test_client()
    elsewhere.post("/sign-in", data={"login": me.account.login, "password": PASSWORD})
    wrong = me.client.post(f"/account/{what}", data={"again": WRONG, "password": WRONG, "new": "x" * 12})
    assert wrong.status_code == 422
    assert "wrong" in soup(wrong).select_one(".complaint").text
    assert elsewhere.get("/account").status_code == 200
    for poor in ("short", "Passw0rd1", me.account.login * 2):
        asked = {"password": PASSWORD, "new": poor, "again": PASSWORD}
        refused = me.client.post("/account/password", data=asked)
        assert refused.status_code == 422
        assert soup(refused).select_one("#new-error")
    right = {"again": PASSWORD, "password": PASSWORD, "new": "another long one"}
    assert me.client.post(f"/account/{what}", data=right).status_code == 302
    assert elsewhere.get("/account").status_code == 302
    assert me.client.get("/account").status_code == 200
    holds = "another long one" if what == "password" else PASSWORD
    assert right_password(session, me.account.login, holds) == me.account.id


def test_an_old_session_is_over(somebody, session):
    me = somebody()
    long_ago = now() - signing_in.LASTS - timedelta(minutes=1)
    session.execute(update(SignIn).where(SignIn.account_id == me.account.id).values(made_at=long_ago))
    session.commit()
    assert me.client.get("/account").status_code == 302


#: Each was among the most used when somebody counted, or is one of these as people vary them, or
#: what somebody knows who knows the shop.
TRIED_FIRST = [
    "password",
    "12345678",
    "qwertyuiop",
    "iloveyou1",
    "P@ssw0rd",
    "Football1",
    "aaaaaaaaaaaa",
    "abcabcabcabc",
    "1q2w3e4r5t",
    "Saltings Heat",
    "wren.ferry",
    "Plentar2026",
    "letmein" * 20,
]


@pytest.mark.parametrize("password", ["short", *TRIED_FIRST])
def test_a_password_that_is_tried_first_is_refused(session, password):
    shop = make_shop(session, "Saltings Heat")
    with pytest.raises(BadInput) as refused:
        make_account(session, shop, "wren.ferry", "Wren Ferry", password)
    assert refused.value.path == "password"
    session.rollback()


@pytest.mark.parametrize(
    "password", ["otter gravel teaspoon", "kettle-hvac-moss", "ü" * 4 + "zq8Lw", "vR7#qLp2"]
)
def test_others_are_taken_and_right_again(session, password):
    shop = make_shop(session, "Saltings Heat")
    made = make_account(session, shop, f"new-{uuid.uuid4().hex[:6]}", "N", password)
    assert right_password(session, made.login, password) == made.id
    assert right_password(session, made.login, password + " ") is None
    assert right_password(session, "nobody-of-this-name", password) is None


def test_a_taken_login_is_refused(somebody, session):
    me = somebody()
    with pytest.raises(BadInput):
        make_account(session, make_shop(session, "Another"), me.account.login.upper(), "N", PASSWORD)
    session.rollback()


def test_a_lead_says_by_what_the_shop_judges(somebody):
    me = somebody()
    asked = {"altitude_ft": "5200", "band": "house"}
    bad = me.client.post("/account/judging", data=asked | {"altitude_ft": "90000"})
    assert bad.status_code == 422
    assert "altitude_ft-error" in bad.text
    assert me.client.post("/account/judging", data=asked).status_code == 302
    assert 'value="5200' in me.client.get("/account").text
    bench = me.start_visit()
    told = json.loads(me.client.get(f"{bench}/visit.json").text)["visit"]["settings"]
    assert told == {"altitude_ft": 5200, "band": "house"}
