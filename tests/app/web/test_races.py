"""Every gate of a visit, raced: what decides is what is committed, not what a page showed.

One connection of the test's own holds the visit and writes; a post through the application then
comes to the lock, and is seen waiting there; only then is the first write committed.
"""

from __future__ import annotations

import json
import threading
import time
import uuid

import pytest
from sqlalchemy import create_engine, text

from plentar.store.models import now
from tests.app.conftest import PASSWORD

HTMX = {"HX-Request": "1"}
DEAD = ["off-C1", "known-live", "all-dead", "known-live-again"]


@pytest.fixture
def race(database_url, session):
    """``race(bench, body, post)``: the answer to ``post()``, which waited while ``body`` went in."""
    engine = create_engine(database_url)

    def run(bench, body, post):
        visit_id = bench.rsplit("/", 1)[1]
        answers = []
        with engine.connect() as first:
            row = first.execute(
                text("select shop_id, opened_by, started_at from visit where id = :v for update"),
                {"v": visit_id},
            ).one()
            waiting = threading.Thread(target=lambda: answers.append(post()))
            waiting.start()
            _wait_for_the_lock(engine)
            t_s = round((now() - row.started_at).total_seconds(), 1)
            first.execute(
                text(
                    "insert into visit_event (shop_id, visit_id, client_id, t_s, body, recorded_by,"
                    " recorded_at) values (:s, :v, :c, :t, cast(:b as jsonb), :by, now())"
                ),
                {
                    "s": row.shop_id,
                    "v": visit_id,
                    "c": str(uuid.uuid4()),
                    "t": t_s,
                    "b": json.dumps({"t": t_s, **body}),
                    "by": row.opened_by,
                },
            )
            first.commit()
        waiting.join()
        session.rollback()
        return answers[0]

    yield run
    engine.dispose()


def _wait_for_the_lock(engine):
    """Until some backend of this database waits for a row that is locked."""
    waits = text(
        "select count(*) from pg_stat_activity where wait_event_type = 'Lock'"
        " and datname = current_database()"
    )
    deadline = time.monotonic() + 60
    with engine.connect() as watching:
        while not watching.execute(waits).scalar_one():
            watching.rollback()
            assert time.monotonic() < deadline, "nobody came to the lock"


@pytest.fixture
def send():
    """Posts a form to a bench as htmx does."""

    def post(me, bench, where, **form):
        data = {"client_id": str(uuid.uuid4())} | form
        return me.client.post(f"{bench}/{where}", data=data, headers=HTMX)

    return post


def test_ohms_do_not_slip_in_behind_a_breaker(somebody, race, send, stored):
    me = somebody()
    bench = me.start_visit()
    assert send(me, bench, "power", state="proved-dead", proof=DEAD).status_code == 200
    answer = race(bench, {"power": "on"}, lambda: me.read(bench, "E1", "ohms", "11.2"))
    assert answer.status_code == 422
    assert [e.body for e in stored(bench) if "read" in e.body] == []


def test_two_hands_that_call_at_once_both_get_their_call(somebody, race, send, stored):
    me = somebody()
    bench = me.start_visit()
    answer = race(bench, {"calls": ["G"]}, lambda: send(me, bench, "calls", raised="W1"))
    assert answer.status_code == 200
    assert stored(bench)[-1].body["calls"] == ["G", "W1"]
    answer = race(
        bench,
        {"calls": ["G"]},
        lambda: me.client.post(f"{bench}/tape/call", data={"client_id": str(uuid.uuid4()), "call": "W2"}),
    )
    assert stored(bench)[-1].body["calls"] == ["G", "W2"]


def test_a_unit_is_not_left_in_service_past_a_stop_that_came_first(somebody, race, send, stored):
    me = somebody()
    bench = me.start_visit()
    drawn = {"read": "amps", "at": "E1", "value": 20.4}
    answer = race(bench, drawn, lambda: send(me, bench, "close", outcome="in-service"))
    assert answer.status_code == 422
    assert "stop-now" in answer.text


def test_heat_is_not_called_past_a_stop_that_came_first(somebody, race, send, stored):
    """Air that leaves at 210 °F is on record before the call is: no heat is called."""
    me = somebody()
    bench = me.start_visit()
    hot = {"read": "temp_f", "at": "supply-air", "value": 210}
    answer = race(bench, hot, lambda: send(me, bench, "calls", raised="W1"))
    assert answer.status_code == 422
    assert not [e for e in stored(bench) if "calls" in e.body]


def test_a_jumper_is_not_landed_behind_a_breaker(somebody, race, send, stored):
    me = somebody()
    bench = me.start_visit()
    send(me, bench, "power", state="off")
    answer = race(bench, {"power": "on"}, lambda: send(me, bench, "wires", state="lifted"))
    assert answer.status_code == 422
    assert not [e for e in stored(bench) if "wires" in e.body]


def test_nothing_enters_a_visit_that_was_closed_meanwhile(somebody, session, database_url, stored):
    me = somebody()
    bench = me.start_visit()
    visit_id = bench.rsplit("/", 1)[1]
    engine, answers = create_engine(database_url), []
    with engine.connect() as first:
        first.execute(text("select 1 from visit where id = :v for update"), {"v": visit_id})
        reading = threading.Thread(target=lambda: answers.append(me.read(bench, "C1", "volts", "240")))
        reading.start()
        _wait_for_the_lock(engine)
        first.execute(
            text("update visit set closed_at = now(), outcome = 'left-off' where id = :v"), {"v": visit_id}
        )
        first.commit()
    reading.join()
    engine.dispose()
    assert answers[0].status_code == 409
    assert not stored(bench)


@pytest.mark.parametrize(
    ("where", "field", "form", "row"),
    [
        (
            "/rounds",
            "title",
            {"title": "Spring"},
            "insert into round (id, shop_id, title, opened_on)"
            " values (gen_random_uuid(), :shop, 'Spring', now())",
        ),
        (
            "/shop/people",
            "login",
            {"name": "N", "login": "two-at-once", "again": PASSWORD},
            "insert into account (id, shop_id, login, name, role, password_hash)"
            " values (gen_random_uuid(), :shop, 'two-at-once', 'N', 'lead', '')",
        ),
    ],
)
def test_a_name_that_two_take_at_once_is_taken(somebody, database_url, soup, where, field, form, row):
    me = somebody()
    engine, answers = create_engine(database_url), []
    with engine.connect() as first:
        first.execute(text(row), {"shop": me.account.shop_id})
        second = threading.Thread(target=lambda: answers.append(me.client.post(where, data=form)))
        second.start()
        _wait_for_the_lock(engine)
        first.commit()
    second.join()
    engine.dispose()
    assert answers[0].status_code == 422
    assert soup(answers[0]).select_one(f"#{field}-error")


# -- the clock ---------------------------------------------------------------------------------


@pytest.mark.parametrize("back_s", [5, 4000])
def test_a_clock_that_is_set_back_opens_no_gate(somebody, earlier, send, stored, back_s, soup):
    """Proved dead, clock back, breaker on: ohms are refused, and the step is on record."""
    me = somebody()
    bench = me.start_visit()
    earlier(bench, 5000)
    assert send(me, bench, "power", state="proved-dead", proof=DEAD).status_code == 200
    assert me.read(bench, "E1", "ohms", "11.2").status_code == 200
    earlier(bench, -back_s)
    assert send(me, bench, "power", state="on").status_code == 200
    assert me.read(bench, "E2", "ohms", "11.2").status_code == 422
    events = stored(bench)
    assert [e.t_s for e in events] == sorted(e.t_s for e in events)
    page = soup(me.client.get(bench))
    assert "clock" in page.select_one("#log").text
    assert "clock" in me.client.get(f"{bench}/report").text
    exported = json.loads(me.client.get(f"{bench}/visit.json").text)["visit"]
    [step] = exported["clock_steps"]
    assert step["back_s"] == pytest.approx(back_s, abs=30)


def test_a_press_that_comes_late_moves_no_switch_before_the_last(somebody, earlier, send, stored):
    """A call pressed at 60 s and sent at 100 s, after a breaker was switched off at 90 s."""
    me = somebody()
    bench = me.start_visit()
    earlier(bench, 90)
    send(me, bench, "power", state="off")
    off_s = stored(bench)[-1].t_s
    late = {"client_id": str(uuid.uuid4()), "call": "W1", "t": "60"}
    assert me.client.post(f"{bench}/tape/call", data=late).status_code == 302
    assert stored(bench)[-1].t_s >= off_s
