"""Fixtures: a database of this run's own, an application on it, shops that share nothing."""

from __future__ import annotations

import http.client
import itertools
import os
import subprocess
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from sqlalchemy import text
from sqlalchemy.orm import Session, sessionmaker
from werkzeug.test import TestResponse

from plentar.operate.bring_up import bring_up
from plentar.store.accounts import make_account, make_shop
from plentar.store.cluster import project_cluster
from plentar.store.database import connect, drop_database
from plentar.store.models import Account
from plentar.store.units import UnitRecord, make_unit
from plentar.web.config import Config
from plentar.web.factory import create_app
from plentar.web.server import gunicorn_command
from tests.kits import Kit, build_kit

# What is compared is words and numbers, not which space is between a number and its unit.
TestResponse.text = property(lambda self: self.get_data(as_text=True).replace("\u202f", " "))  # type: ignore[assignment]

HOME = Path(__file__).resolve().parents[2]
PASSWORD = "a long enough password"
_numbers = itertools.count(1)


@pytest.fixture(scope="session")
def database_url() -> Iterator[str]:
    """A fresh, migrated database on the project's own test server, as the role that the program has."""
    cluster = project_cluster(HOME, "test-postgres")
    cluster.start()
    name = f"test_{os.getpid()}"
    addresses = cluster.addresses(name)
    bring_up(addresses)
    yield addresses.rows
    drop_database(cluster.url("postgres"), name)


@pytest.fixture(scope="session")
def start_server(database_url: str) -> Callable[[int], subprocess.Popen[bytes]]:
    """Starts the real server at a port, in a process group of its own."""
    env = os.environ | {"PLENTAR_DATABASE_URL": database_url, "PLENTAR_SECRET_KEY": "x" * 40}

    def start(port: int) -> subprocess.Popen[bytes]:
        server = subprocess.Popen(gunicorn_command(port), env=env, start_new_session=True)
        for _ in range(900):
            try:
                with closing(http.client.HTTPConnection("127.0.0.1", port, timeout=60)) as asked:
                    asked.request("GET", "/health")
                    asked.getresponse().read()
            except OSError:
                time.sleep(0.1)
            else:
                return server
        raise AssertionError("the server did not start")

    return start


@pytest.fixture(scope="session")
def sessions(database_url: str) -> Iterator[sessionmaker[Session]]:
    made = connect(database_url)
    yield made
    made.kw["bind"].dispose()


@pytest.fixture
def session(sessions: sessionmaker[Session]) -> Iterator[Session]:
    with sessions() as opened:
        yield opened


@pytest.fixture(scope="session")
def app(database_url: str) -> Iterator[Flask]:
    made = create_app(Config(database_url, "x" * 40, judge_here=True))
    made.config.update(TESTING=True, WTF_CSRF_ENABLED=False)
    yield made
    made.extensions["plentar_sessions"].kw["bind"].dispose()


@dataclass
class Somebody:
    """A shop's lead, signed in, with one unit of two 5 kW strips."""

    account: Account
    client: FlaskClient
    record: UnitRecord | None = None

    @property
    def unit_id(self) -> uuid.UUID:
        assert self.record is not None
        return self.record.row.id

    def start_visit(self, complaint: str = "check-up") -> str:
        """The address of a new visit's bench."""
        answer = self.client.post(f"/units/{self.unit_id}/visits", data={"complaint": complaint})
        assert answer.status_code == 302, answer.text
        return answer.location

    def read(self, bench: str, at: str, quantity: str, value: str, **more: str):
        """Post one reading as htmx does."""
        data = {"client_id": str(uuid.uuid4()), "at": at, "quantity": quantity, "value": value}
        return self.client.post(f"{bench}/readings", data=data | more, headers={"HX-Request": "1"})


@pytest.fixture
def somebody(app: Flask, session: Session) -> Callable[[], Somebody]:
    """Makes people of shops of their own."""

    def make() -> Somebody:
        number = next(_numbers)
        shop = make_shop(session, f"Shop {number}")
        account = make_account(session, shop, f"lead{number}", "A Lead", PASSWORD, "lead")
        unit = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "Two strips")
        record = make_unit(session, shop.id, unit)
        session.commit()
        client = app.test_client()
        answer = client.post("/sign-in", data={"login": account.login, "password": PASSWORD})
        assert answer.status_code == 302
        return Somebody(account, client, record)

    return make


@pytest.fixture
def newcomer(app: Flask, session: Session) -> Callable[[], Somebody]:
    """Makes people of shops that have no unit yet."""

    def make() -> Somebody:
        number = next(_numbers)
        shop = make_shop(session, f"New shop {number}")
        account = make_account(session, shop, f"new{number}", "A Lead", PASSWORD, "lead")
        session.commit()
        client = app.test_client()
        answer = client.post("/sign-in", data={"login": account.login, "password": PASSWORD})
        assert answer.status_code == 302
        return Somebody(account, client)

    return make


@pytest.fixture
def earlier(session: Session) -> Callable[[str, float], None]:
    return moved_back(session)


def moved_back(session: Session) -> Callable[[str, float], None]:
    """Moves the start of the visit at a bench back, as if so many seconds had gone by."""

    def move(bench: str, seconds: float) -> None:
        for table, key in (("visit", "id"), ("digest", "visit_id")):
            session.execute(
                text(
                    f"update {table} set started_at = started_at - make_interval(secs => :s)"
                    f" where {key} = :id"
                ),
                {"s": seconds, "id": bench.rsplit("/", 1)[1]},
            )
        session.commit()

    return move
