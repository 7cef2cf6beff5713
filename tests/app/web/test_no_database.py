"""A database that is gone, frozen or too busy: said within seconds, by pages that need none."""

from __future__ import annotations

import os
import signal
import time
import uuid

import pytest
from sqlalchemy import create_engine, text

from plentar.store.connection import FROZEN_S
from plentar.web.config import Config
from plentar.web.factory import create_app

HTMX = {"HX-Request": "1"}
PATIENCE_S = 5.0


@pytest.fixture
def own(database_url):
    """An application with connections of its own, which a test may break."""
    made = create_app(Config(database_url, "x" * 40))
    made.config.update(TESTING=True, WTF_CSRF_ENABLED=False)
    yield made
    made.extensions["plentar_sessions"].kw["bind"].dispose()


@pytest.fixture
def signed_in(own, somebody):
    """Somebody whose browser talks to that application."""
    me = somebody()
    cookie = me.client.get_cookie("plentar").value
    me.client = own.test_client()
    me.client.set_cookie("plentar", cookie)
    return me


def backend(app) -> int:
    """The server process of the one connection that the application holds."""
    with app.extensions["plentar_sessions"]() as session:
        return session.execute(text("select pg_backend_pid()")).scalar_one()


def test_a_frozen_database_is_said_to_be_so_and_nothing_typed_is_lost(own, signed_in, stored):
    bench = signed_in.start_visit()
    pid, entry = backend(own), str(uuid.uuid4())
    os.kill(pid, signal.SIGSTOP)
    try:
        began_s = time.monotonic()
        answer = signed_in.read(bench, "C1", "volts", "240", client_id=entry)
        took_s = time.monotonic() - began_s
    finally:
        os.kill(pid, signal.SIGCONT)
    assert answer.status_code == 503
    assert "Not stored" in answer.text and 'id="problem"' in answer.text
    assert FROZEN_S <= took_s < PATIENCE_S + 1
    assert not stored(bench)
    assert signed_in.read(bench, "C1", "volts", "240", client_id=entry).status_code == 200
    assert len(stored(bench)) == 1


def test_a_lock_that_is_held_too_long_is_said_to_be_so(database_url, signed_in, stored):
    bench = signed_in.start_visit()
    engine = create_engine(database_url)
    with engine.connect() as other:
        other.execute(text("select 1 from visit where id = :v for update"), {"v": bench.rsplit("/", 1)[1]})
        answer = signed_in.read(bench, "C1", "volts", "240")
    engine.dispose()
    assert answer.status_code == 503
    assert "Nothing was changed" not in answer.text
    assert not stored(bench)


def test_no_request_fails_after_the_server_closed_its_connections(own, signed_in):
    """What a restart does to connections that stand idle."""
    bench = signed_in.start_visit()
    for _ in range(3):
        os.kill(backend(own), signal.SIGTERM)
        until = time.monotonic() + 20
        while time.monotonic() < until and signed_in.client.get("/health/ready").status_code != 200:
            pass
        assert signed_in.read(bench, "C1", "volts", "240").status_code == 200


@pytest.mark.parametrize("path", ["/", "/account", "/units/new"])
def test_no_database_is_a_page_and_not_a_crash(path):
    nowhere = create_app(Config("postgresql+psycopg://p:p@127.0.0.1:9/none", "x" * 40))
    nowhere.config.update(TESTING=True, WTF_CSRF_ENABLED=False)
    client = nowhere.test_client()
    with client.session_transaction() as session:
        session["_user_id"] = str(uuid.uuid4())
    answer = client.get(path)
    assert answer.status_code == 503
    assert "does not answer" in answer.text
    assert client.get("/health/live").status_code == 200
    assert client.get("/health/ready").status_code == 503
    with client.get("/static/plentar.css") as styles:
        assert styles.status_code == 200
    assert client.get("/quick?kw=5&volts=240").status_code == 200


def test_ready_says_which_migration_is_missing(own, monkeypatch):
    assert own.test_client().get("/health/ready").text == "ready"
    monkeypatch.setattr("plentar.web.pages.routes.newest_revision", lambda: "9999")
    answer = own.test_client().get("/health/ready")
    assert answer.status_code == 503 and "not 9999" in answer.text
