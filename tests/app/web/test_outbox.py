"""What a phone kept and sends later: taken at its own time, once, or not counted until somebody says so."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from typing import Any

from sqlalchemy.orm import Session
from werkzeug.test import TestResponse

from plentar.files.visit_file import parse_visit_file
from tests.app.conftest import Somebody

LATE = "late"


def millis(at: datetime) -> str:
    return str(round(1000 * at.timestamp()))


def sent(me: Somebody, path: str, when: datetime, client_id: str = "", **data: Any) -> TestResponse:
    """One entry as the queue sends it."""
    headers = {"Plentar-Taken": millis(when), "Plentar-Outbox": "1"}
    fields = {"client_id": client_id or str(uuid.uuid4())} | data
    return me.client.post(path, data=fields, headers=headers)


def amps(me: Somebody, bench: str, when: datetime, value: str, client_id: str = "") -> TestResponse:
    return sent(me, f"{bench}/readings", when, client_id, at="E1", quantity="amps", value=value)


def exported(me: Somebody, bench: str) -> dict[str, Any]:
    answer = me.client.get(f"{bench}/visit.json")
    assert answer.status_code == 200, answer.text
    parse_visit_file(answer.text)  # the file is one that would come in again
    found: dict[str, Any] = answer.get_json(force=True)["visit"]
    return found


def begun(me: Somebody, at: datetime) -> str:
    """A visit that was begun without signal."""
    answer = sent(me, f"/units/{me.unit_id}/visits", at, complaint="not-enough-heat")
    assert answer.get_json()["state"] == "stored", answer.text
    assert answer.headers["Cache-Control"] == "no-store"
    return f"/visits/{answer.get_json()['visit']}"


def test_what_waited_is_taken_at_its_own_time(somebody: Callable[[], Somebody]) -> None:
    """A whole call that was done an hour ago has the times of then, also where it is sent twice."""
    me, then = somebody(), datetime.now(UTC) - timedelta(hours=1)
    bench = begun(me, then)
    steps = [
        ("calls", 10, {"calls": "W1,G"}),
        ("readings", 200, {"at": "E1", "quantity": "amps", "value": "20.4"}),
        ("power", 260, {"state": "off"}),
    ]
    entries = [(f"{bench}/{path}", then + timedelta(seconds=s), str(uuid.uuid4()), d) for path, s, d in steps]
    for path, when, client_id, data in [*entries, *entries]:
        assert sent(me, path, when, client_id, **data).get_json()["state"] == "stored"
    visit = exported(me, bench)
    assert [(e["t"], *[k for k in e if k in ("calls", "read", "power")]) for e in visit["events"]] == [
        (10.0, "calls"),
        (200.0, "read"),
        (260.0, "power"),
    ]
    assert "struck" not in visit
    # A switch that has been moved is a fact; the record says that nobody looked at it before.
    assert any("not checked" in note["text"].lower() for note in visit["notes"])


def test_what_came_late_is_no_evidence_until_somebody_says_so(somebody: Callable[[], Somebody]) -> None:
    me, then = somebody(), datetime.now(UTC) - timedelta(hours=1)
    bench = begun(me, then)
    assert amps(me, bench, then + timedelta(seconds=300), "20.4").get_json()["state"] == "stored"
    late = amps(me, bench, then + timedelta(seconds=100), "0.0")
    assert late.get_json()["state"] == LATE
    visit = exported(me, bench)
    assert [e["value"] for e in visit["events"]] == [20.4]
    [struck] = visit["struck"]
    assert (struck["event"]["t"], struck["event"]["clock"], struck["reason"]) == (300.0, 100.0, LATE)
    page = me.client.get(bench).text
    assert "It came late: it was done at 1:40" in page
    confirm = page.partition("/confirm")[0].rpartition('action="')[2] + "/confirm"
    assert me.client.post(confirm).status_code == 302
    visit = exported(me, bench)
    assert [(e["t"], e.get("clock"), e["value"]) for e in visit["events"]] == [
        (300.0, None, 20.4),
        (300.0, 100.0, 0.0),
    ]
    assert "struck" not in visit
    assert me.client.post(confirm).status_code == 409  # it waits no more
    # Struck out by hand, with whatever word, an entry does not wait.
    me.read(bench, "C1", "volts", "240")
    page = me.client.get(bench).text
    strike = page.partition('/strike"')[0].rpartition('href="')[2] + "/strike"
    assert me.client.post(strike, data={"reason": LATE}).status_code == 302
    assert "/confirm" not in me.client.get(bench).text


def test_a_call_on_the_tape_that_waited_is_a_fact(somebody: Callable[[], Somebody]) -> None:
    """20 A with nothing called bars W1 for whoever stands there, and not the record of what was done."""
    me, then = somebody(), datetime.now(UTC) - timedelta(hours=1)
    bench = begun(me, then)
    assert amps(me, bench, then + timedelta(seconds=300), "20.4").get_json()["state"] == "stored"
    now_there = {"client_id": str(uuid.uuid4()), "call": "W1"}
    assert me.client.post(f"{bench}/tape/call", data=now_there).status_code == 422
    waited = sent(me, f"{bench}/tape/call", then + timedelta(seconds=310), call="W1")
    assert waited.get_json()["state"] == "stored", waited.text
    assert exported(me, bench)["events"][-1]["calls"] == ["W1"]


def test_a_switch_that_came_late_moves_nothing(somebody: Callable[[], Somebody]) -> None:
    me, then = somebody(), datetime.now(UTC) - timedelta(hours=1)
    bench = begun(me, then)
    sent(me, f"{bench}/power", then + timedelta(seconds=300), state="on")
    late = sent(me, f"{bench}/power", then + timedelta(seconds=100), state="off")
    assert late.get_json()["state"] == LATE
    visit = exported(me, bench)
    assert [e["power"] for e in visit["events"]] == ["on"]
    assert any("came late and moved nothing" in note["text"] for note in visit["notes"])


def test_stored_is_stored_whatever_stands_now(somebody: Callable[[], Somebody]) -> None:
    """Its answer was lost: sent again when the visit is closed, or its gate has shut, it is stored and once."""
    me, then = somebody(), datetime.now(UTC) - timedelta(hours=1)
    bench = begun(me, then)
    known = str(uuid.uuid4())
    at = then + timedelta(seconds=60)
    assert amps(me, bench, at, "20.4", known).get_json()["state"] == "stored"
    closing = {"outcome": "left-off", "left_note": "nobody home"}
    for _ in range(2):
        closed = sent(me, f"{bench}/close", then + timedelta(seconds=90), **closing)
        assert closed.get_json()["state"] == "stored", closed.text
    assert amps(me, bench, at, "20.4", known).get_json()["state"] == "stored"
    refused = amps(me, bench, at, "20.4")
    assert refused.status_code == 409
    assert "closed" in refused.get_json()["reason"]
    assert len(exported(me, bench)["events"]) == 1


def test_refused_says_why(somebody: Callable[[], Somebody]) -> None:
    me, then = somebody(), datetime.now(UTC) - timedelta(hours=1)
    bench = begun(me, then)
    ohms = sent(me, f"{bench}/readings", then + timedelta(seconds=9), at="E1", quantity="ohms", value="11")
    assert ohms.status_code == 422
    assert "Prove dead first" in ohms.get_json()["reason"]
    # Somebody else has begun a visit there: the phone is told which.
    again = sent(me, f"/units/{me.unit_id}/visits", then, complaint="check-up")
    assert again.status_code == 409
    assert f"/visits/{again.get_json()['visit']}" == bench
    for bad in ("soon", "1", str(10**40)):
        headers = {"Plentar-Taken": bad, "Plentar-Outbox": "1"}
        data = {"client_id": str(uuid.uuid4()), "at": "E1", "quantity": "amps", "value": "1"}
        assert me.client.post(f"{bench}/readings", data=data, headers=headers).status_code == 422
    assert exported(me, bench)["events"] == []


def test_no_entry_comes_from_the_future(somebody: Callable[[], Somebody]) -> None:
    """A phone whose clock runs ahead: the server's own time is the latest that there is."""
    me, begin = somebody(), datetime.now(UTC)
    bench = begun(me, begin + timedelta(days=2))
    assert amps(me, bench, begin + timedelta(days=3), "20.4").get_json()["state"] == "stored"
    [event] = exported(me, bench)["events"]
    assert event["t"] < 60


def test_contact_tells_who_and_when(somebody: Callable[[], Somebody], session: Session, app: Any) -> None:
    me = somebody()
    told = me.client.get("/outbox").get_json()
    assert told["account"] == str(me.account.id)
    assert abs(told["now_ms"] - 1000 * datetime.now(UTC).timestamp()) < 60_000
    stranger = app.test_client()
    for account, gone in ((str(me.account.id), False), (str(uuid.uuid4()), True), ("", False)):
        answer = stranger.get(f"/outbox?account={account}")
        assert (answer.status_code, answer.get_json()["gone"]) == (401, gone)
    me.account.ended_at = datetime.now(UTC)
    session.add(me.account)
    session.commit()
    assert stranger.get(f"/outbox?account={me.account.id}").get_json()["gone"] is True
    # Signed out, an entry waits for its account: it is neither stored nor refused.
    me.client = stranger
    assert amps(me, f"/visits/{uuid.uuid4()}", datetime.now(UTC), "1").status_code == 401


def test_a_unit_is_taken_along(somebody: Callable[[], Somebody]) -> None:
    """With what was done on its open visit, and nothing of another shop."""
    me, other = somebody(), somebody()
    bench = me.start_visit()
    me.read(bench, "C1", "volts", "238")
    [one] = me.client.get("/pocket/route.json").get_json()["units"]
    along = me.client.get(one["at"]).get_json()
    assert along["visit"]["id"] == bench.rsplit("/", 1)[1]
    assert [e["value"] for e in along["visit"]["events"]] == [238]
    assert {p["name"] for p in along["points"]} >= {"E1", "C1", "E1.in:ground"}
    assert other.client.get(one["at"]).status_code == 404
    # A year later, what was read last time goes along.
    me.client.post(f"{bench}/close", data={"outcome": "left-off", "left_note": "nobody home"})
    along = me.client.get(one["at"]).get_json()
    assert along["visit"] is None
    assert "238" in along["past"]["C1 volts false"]
