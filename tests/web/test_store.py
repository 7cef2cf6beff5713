"""Migrations, demo data, and what survives a kill."""

from __future__ import annotations

import http.client
import os
import re
import signal
import subprocess
import threading
import time
import uuid
from urllib.parse import urlencode

import pytest
from alembic.autogenerate import compare_metadata
from alembic.runtime.migration import MigrationContext
from sqlalchemy import select, text
from sqlalchemy.exc import IntegrityError

from plentar.cli.serve import gunicorn_command
from plentar.core.events import Reading, Replaced
from plentar.core.judge import judge
from plentar.core.timing.moves import moves_of
from plentar.core.timing.years import over_the_years
from plentar.store.cluster import free_port
from plentar.store.demo.load import load_demo
from plentar.store.demo.rounds import ROUNDS
from plentar.store.models import Base, Shop, Unit, Visit, VisitEvent
from plentar.store.units import find_unit, list_units
from plentar.store.visits import find_visit, newest_round, records_of_unit, visits_of_round
from plentar.web.lane.view import lane_view


def test_migrations_make_the_models(sessions):
    with sessions.kw["bind"].connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


def test_no_row_can_point_into_another_shop(somebody, session):
    mine, theirs = somebody(), somebody()
    visit = Visit(
        shop_id=mine.account.shop_id, unit_id=theirs.unit_id, version_id=theirs.record.version.id,
        opened_by=mine.account.id, settings={},
    )  # fmt: skip
    session.add(visit)
    with pytest.raises(IntegrityError):
        session.flush()


def test_demo_is_loaded_once_the_same_and_half_done(session):
    assert load_demo(session)
    assert not load_demo(session)
    shop = session.scalar(select(Shop).where(Shop.name == "Brindlemoor Comfort"))
    round_ = newest_round(session, shop.id)
    units = list_units(session, shop.id)
    view = lane_view(units, round_, visits_of_round(session, round_))
    assert [len(view.odd), len(view.even), view.others] == [7, 7, []]
    assert {s: n for s, _, n in view.counts} == {
        "done": 7,
        "in-progress": 1,
        "due": 4,
        "follow-up": 2,
    }
    answers = {}
    for unit in units:
        row = visits_of_round(session, round_).get(unit.row.id)
        if row is not None:
            record = find_visit(session, shop.id, row.id)
            answers[unit.row.door] = judge(record.unit, record.core())
    assert set(answers) == set(ROUNDS[-1].plans)
    troubled = {door for door, answer in answers.items() if answer.findings}
    # 2: a slow stage; 3: sag; 5: a dead element; 7: 62 A of elements on one circuit
    assert troubled == {2, 3, 5, 7}
    assert [f.code for f in answers[2].findings] == ["slow-stage"]
    assert [f.code for f in answers[3].findings] == ["supply-sag"]
    assert {e.id: str(e.word) for e in answers[5].elements}["E2"] == "dead"
    assert all(str(e.word) == "in-band" for e in answers[8].elements), "208 V is not low"
    _earlier_rounds_tell(session, shop, {unit.row.door: unit.row.id for unit in units})
    session.execute(
        text("update shop set name = name || ' (test)' where id = :id"), {"id": shop.id}
    )
    session.commit()


def _earlier_rounds_tell(session, shop, units) -> None:
    """Each year's condition shows: a stage grows slow, a relay was welded, a tie got lost."""
    records = {door: records_of_unit(session, shop.id, units[door]) for door in units}
    assert {door: len(found) for door, found in records.items() if len(found) != 3} == {
        9: 2, 10: 2, 13: 2, 14: 2,
    }  # fmt: skip
    years = {
        door: over_the_years(
            [(r.row.started_at.isoformat(), moves_of(r.unit, r.core())) for r in some]
        )
        for door, some in records.items()
    }
    slower = {(door, s.part, s.action) for door, some in years.items() for s in some if s.slower}
    assert slower == {(2, "S1.2", "on")}
    second = next(s for s in years[2] if (s.part, s.action) == ("S1.2", "on"))
    assert [str(timed.word) for timed in second.times] == ["in-window", "in-window", "late"]
    welded = records[7][1]
    assert [e.component for e in welded.core().of_kind(Replaced)] == ["K1", "K2", "K3"]
    first = [e for e in welded.core().of_kind(Reading) if e.at == "E1"]
    assert first[0].value > 15 and not judge(welded.unit, welded.core()).stops
    assert records[13][0].unit.blower.interlock.kind == "nc-contact"
    assert find_unit(session, shop.id, units[13]).unit.blower.interlock.kind == "none"
    standing = {
        (door, finding.code)
        for door, some in records.items() for r in some for finding in judge(r.unit, r.core()).stops if r.row.outcome == "in-service"
    }  # fmt: skip
    assert not standing


class Poster(threading.Thread):
    """Posts readings as fast as they are acknowledged, and remembers which were."""

    def __init__(self, port: int, cookie: str, token: str, bench: str) -> None:
        super().__init__(daemon=True)
        self.port, self.cookie, self.token, self.bench = port, cookie, token, bench
        self.acknowledged: list[str] = []

    def run(self) -> None:
        connection = http.client.HTTPConnection("127.0.0.1", self.port, timeout=10)
        try:
            while True:
                entry = str(uuid.uuid4())
                body = urlencode({"csrf_token": self.token, "client_id": entry, "at": "C1",
                                  "quantity": "volts", "value": "240"})  # fmt: skip
                headers = {"Cookie": self.cookie, "HX-Request": "1", "Referer": f"http://127.0.0.1:{self.port}/",
                           "Content-Type": "application/x-www-form-urlencoded"}  # fmt: skip
                connection.request("POST", f"{self.bench}/readings", body, headers)
                answer = connection.getresponse()
                answer.read()
                if answer.status == 200:
                    self.acknowledged.append(entry)
        except (OSError, http.client.HTTPException):
            connection.close()


def start(database_url: str, port: int) -> subprocess.Popen[bytes]:
    env = os.environ | {"PLENTAR_DATABASE_URL": database_url, "PLENTAR_SECRET_KEY": "x" * 40}
    server = subprocess.Popen(gunicorn_command(port), env=env, start_new_session=True)
    for _ in range(200):
        try:
            with_server(port, "GET", "/health")
        except OSError:
            time.sleep(0.1)
        else:
            return server
    raise AssertionError("the server did not start")


def with_server(port: int, method: str, path: str, body: str = "", cookie: str = ""):
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=10)
    headers = {"Cookie": cookie, "Content-Type": "application/x-www-form-urlencoded"}
    connection.request(method, path, body, headers)
    answer = connection.getresponse()
    text = answer.read().decode()
    connection.close()
    return answer, text


def test_every_acknowledged_reading_survives_a_kill(database_url, somebody, session):
    me = somebody()
    bench = me.start_visit()
    port = free_port()
    server = start(database_url, port)
    try:
        answer, page = with_server(port, "GET", "/sign-in")
        cookie = answer.headers["Set-Cookie"].split(";")[0]
        token = re.search(r'name="csrf_token" value="([^"]+)"', page)[1]
        form = {
            "csrf_token": token,
            "login": me.account.login,
            "password": "a long enough password",
        }
        answer, _ = with_server(port, "POST", "/sign-in", urlencode(form), cookie)
        cookie = answer.headers["Set-Cookie"].split(";")[0]
        answer, page = with_server(port, "GET", bench, cookie=cookie)
        cookie = answer.headers["Set-Cookie"].split(";")[0]
        token = re.search(r'name="csrf_token" value="([^"]+)"', page)[1]
        posters = [Poster(port, cookie, token, bench) for _ in range(3)]
        for poster in posters:
            poster.start()
        time.sleep(1.5)
    finally:
        os.killpg(server.pid, signal.SIGKILL)
        server.wait()
    for poster in posters:
        poster.join(10)
    acknowledged = [entry for poster in posters for entry in poster.acknowledged]
    assert len(acknowledged) > 20
    server = start(database_url, port)
    try:
        _, page = with_server(port, "GET", f"{bench}/log", cookie=cookie)
        assert page.count('class="reading-row') >= len(acknowledged)
    finally:
        os.killpg(server.pid, signal.SIGTERM)
        server.wait()
    visit_id = uuid.UUID(bench.rsplit("/", 1)[1])
    kept = session.scalars(
        select(VisitEvent.client_id).where(VisitEvent.visit_id == visit_id)
    ).all()
    assert len(kept) == len(set(kept))
    assert set(map(uuid.UUID, acknowledged)) <= set(kept)
    assert session.get(Unit, me.unit_id) is not None
