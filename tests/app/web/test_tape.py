"""The tape and logged currents through the test client: presses, taking back, uploads, streams."""

from __future__ import annotations

import io
import json
import uuid

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select, text

from plentar.core.errors import BadInput
from plentar.files.visit_file import parse_visit_file
from plentar.store.models import VisitEvent, VisitLog
from plentar.store.visits import find_visit


def press(me, bench: str, what: str, **fields: object):
    data = {"client_id": str(uuid.uuid4()), **{k: str(v) for k, v in fields.items()}}
    return me.client.post(f"{bench}/tape/{what}", data=data, headers={"HX-Request": "1"})


def ago(session, bench: str, seconds: float) -> None:
    """The visit began that much earlier."""
    visit_id = bench.rsplit("/", 1)[1]
    session.execute(
        text("update visit set started_at = started_at - make_interval(secs => :s) where id = :id"),
        {"s": seconds, "id": visit_id},
    )
    session.commit()


@pytest.fixture
def standing(stored):
    """The bodies of what was not struck out."""
    return lambda bench: [e.body for e in stored(bench) if e.struck_at is None]


def lane(page: BeautifulSoup, part: str) -> str:
    rows = page.select(".lane-row")
    return next(row.select_one(".lane-said").text for row in rows if row.select_one("b").text == part)


def test_presses_are_events_at_the_time_of_the_press(somebody, session, soup, standing):
    me = somebody()
    bench = me.start_visit()
    ago(session, bench, 60)
    press(me, bench, "call", call="W1", t=5)
    entry = str(uuid.uuid4())
    for _ in range(2):
        answer = press(me, bench, "seen", part="S1.1", action="on", t=12.5, client_id=entry)
    assert "took 0:08, expected 0:01–0:20" in lane(soup(answer), "S1.1")
    assert standing(bench) == [{"t": 5, "calls": ["W1"]}, {"t": 12.5, "observe": "on", "part": "S1.1"}]
    page = soup(me.client.get(f"{bench}/tape"))
    assert "S1.2 should go on between 0:30 and 1:30 after the call" in page.select_one(".waits").text
    assert page.select_one("#press-S1\\.1").text.strip().startswith("off now")


def test_heat_without_the_blower_is_called_out(somebody, session):
    me = somebody()
    bench = me.start_visit()
    ago(session, bench, 60)
    press(me, bench, "call", call="W1", t=5)
    assert "Caution" not in me.client.get(f"{bench}/tape").text
    assert "Heat must never run without it" in press(me, bench, "seen", part="S1.1", action="on", t=9).text
    assert "Caution" not in press(me, bench, "seen", part="blower", action="on", t=30).text


def test_a_time_that_cannot_be_is_refused(somebody, session, stored):
    me = somebody()
    bench = me.start_visit()
    for t in ("500", "-3", "nan", "soon", "1e999"):
        assert press(me, bench, "seen", part="S1.1", action="on", t=t).status_code == 422
    assert press(me, bench, "seen", part="S9", action="on").status_code == 422
    assert press(me, bench, "call", call="Q").status_code == 422
    assert press(me, bench, "lead", lead_s=30).status_code == 422
    assert not stored(bench)


def test_minutes_gone_are_added_to_the_call_and_can_be_taken_off(somebody, session, soup, standing):
    me = somebody()
    bench = me.start_visit()
    ago(session, bench, 60)
    press(me, bench, "call", call="W1", t=10)
    press(me, bench, "seen", part="S1.2", action="on", t=30)
    assert "S1.2 on" in soup(me.client.get(f"{bench}/tape")).select_one(".after").text
    answer = press(me, bench, "lead", lead_s=60)
    assert "took 1:20" in lane(soup(answer), "S1.2")
    assert {"t": 10, "lead_s": 60, "calls": ["W1"]} in standing(bench)
    assert "took 0:20" in lane(soup(press(me, bench, "lead", lead_s=0)), "S1.2")
    file = json.loads(me.client.get(f"{bench}/visit.json").text)["visit"]
    assert [s["reason"] for s in file["struck"]] == ["the watch was started late"] * 2


def test_the_newest_entry_is_taken_back_and_stays_on_record(somebody, session, stored, soup, standing):
    me = somebody()
    bench = me.start_visit()
    press(me, bench, "call", call="W1")
    press(me, bench, "seen", part="S1.1", action="on")
    first, second = stored(bench)
    assert press(me, bench, "undo", event=first.id).status_code == 404
    assert press(me, bench, "undo", event=second.id).status_code == 200
    assert press(me, bench, "undo", event=first.id).status_code == 200
    assert standing(bench) == []
    assert [e.struck_reason for e in stored(bench)] == ["undone on the tape"] * 2
    assert "struck" in str(soup(me.client.get(bench)).select_one("#log"))
    exported = me.client.get(f"{bench}/visit.json").data
    file = parse_visit_file(exported)
    assert [s.event.t for s in file.visit.struck] == [e.body["t"] for e in (first, second)]
    assert not file.to_core()[1].events
    taken = json.loads(exported)
    taken["visit"]["struck"][0]["event"] = {"t": 1, "power": "on"}
    with pytest.raises(BadInput, match="struck out"):
        parse_visit_file(json.dumps(taken))


def test_runs_of_one_visit_are_laid_over_each_other(somebody, session, soup):
    me = somebody()
    bench = me.start_visit()
    ago(session, bench, 1500)
    for call_at, on_at, end_at in ((100, 150, 420), (700, 730, 1100)):
        press(me, bench, "call", call="W1", t=call_at)
        press(me, bench, "seen", part="S1.2", action="on", t=on_at)
        press(me, bench, "call", call="W1", t=end_at)
    page = soup(me.client.get(f"{bench}/tape"))
    row = page.select_one(".repeats tbody tr")
    assert [b.text for b in row.select("td b")] == ["0:50", "0:30"]
    assert "warm, 4:40 after the last" in page.select_one(".repeats ol").text


def log_of(me, bench: str, events: int = 1) -> str:
    """The simulated clamp's log of the visit so far."""
    answer = me.client.get(f"{bench}/clamp.csv?fault=S1.2:stuck-open")
    assert answer.status_code == 200 and answer.text.startswith("seconds,C1\n")
    return answer.text


def upload(me, bench: str, csv: str | bytes, **more: str):
    data = {
        "client_id": str(uuid.uuid4()),
        **more,
        "log": (io.BytesIO(csv.encode() if isinstance(csv, str) else csv), "attic.csv"),
    }
    return me.client.post(f"{bench}/logs", data=data, content_type="multipart/form-data")


def test_a_log_enters_the_visit_when_it_is_confirmed(somebody, session, soup, standing):
    me = somebody()
    bench = me.start_visit()
    ago(session, bench, 900)
    press(me, bench, "call", call="W1", t=20)
    shown = upload(me, bench, log_of(me, bench))
    assert shown.status_code == 302
    page = soup(me.client.get(shown.location))
    assert page.select_one("svg.plot .window") and page.select_one("svg.plot path.curve")
    assert "E1" in page.select_one("tbody tr th").text
    assert len(standing(bench)) == 1, "nothing enters by itself"
    zoomed = me.client.get(f"{shown.location}?from=10&to=40", headers={"HX-Request": "1"})
    assert soup(zoomed).select_one("svg.plot")["data-to"] == "40.000"
    ticked = {"client_id": str(uuid.uuid4()), "shift": "0", "event": ["0"]}
    assert me.client.post(f"{shown.location}/confirm", data=ticked).status_code == 302
    assert me.client.post(f"{shown.location}/confirm", data=ticked).status_code == 302
    (seen,) = [e for e in standing(bench) if "observe" in e]
    assert (seen["part"], seen["observe"]) == ("S1.1", "on")
    assert me.client.get(f"{shown.location}.csv").text.startswith("seconds,C1\n")
    late = ticked | {"client_id": str(uuid.uuid4()), "shift": "99999"}
    assert me.client.post(f"{shown.location}/confirm", data=late).status_code == 422


def test_runs_of_two_logs_are_laid_over_each_other(somebody, session, soup):
    me = somebody()
    bench = me.start_visit()
    ago(session, bench, 1200)
    press(me, bench, "call", call="W1", t=20)
    press(me, bench, "call", call="W1", t=400)
    press(me, bench, "call", call="W1", t=700)
    first = upload(me, bench, log_of(me, bench))
    page = soup(me.client.get(first.location))
    over = page.find("h2", string="Runs over each other, from the call on").parent
    assert "run 1 at C1" in over.text and "run 2 at C1" in over.text
    assert len(over.select("svg.plot path.curve")) == 2
    ticked = {"client_id": str(uuid.uuid4()), "event": ["0"]}
    assert me.client.post(f"{first.location}/confirm", data=ticked).status_code == 302
    second = upload(me, bench, log_of(me, bench))
    assert "run 1 at C1 (attic.csv)" in me.client.get(second.location).text


@pytest.mark.parametrize(
    ("csv", "said"),
    [
        ("0,1\n1,2\n", "line 1: A header"),
        ("seconds,C1\n0,1\n1,2\n2,x\n3,1\n4,1\n", "line 4: “x”"),
        (b"\xff\xfe\x00", "line 1: Not UTF-8"),
        ("", "line 1"),
    ],
)
def test_a_bad_log_is_refused_with_its_line_and_nothing_is_kept(somebody, session, csv, said, soup):
    me = somebody()
    bench = me.start_visit()
    answer = upload(me, bench, csv)
    assert answer.status_code == 422
    assert said in soup(answer).select_one("#log-error").text
    visit_id = uuid.UUID(bench.rsplit("/", 1)[1])
    assert not session.scalars(select(VisitLog).where(VisitLog.visit_id == visit_id)).all()


def test_a_log_may_be_large_and_nothing_else_may(somebody):
    me = somebody()
    bench = me.start_visit()
    rows = "".join(f"{n / 10},0.1\n" for n in range(300_000))
    assert len(rows) > 2_200_000
    body = (
        f'--b\r\nContent-Disposition: form-data; name="client_id"\r\n\r\n{uuid.uuid4()}\r\n--b\r\n'
        'Content-Disposition: form-data; name="log"; filename="long.csv"\r\n\r\n'
        f"seconds,C1\n{rows}\r\n--b--\r\n"
    ).encode()
    kind = "multipart/form-data; boundary=b"
    assert me.client.post(f"{bench}/logs", data=body, content_type=kind).status_code == 302
    assert me.client.post(f"{bench}/look", data={"seen": "x" * 2_300_000}).status_code == 413


def test_logs_belong_to_their_shop(somebody, session):
    mine, theirs = somebody(), somebody()
    bench = mine.start_visit()
    shown = upload(mine, bench, log_of(mine, bench) + "1,0\n2,0\n3,0\n4,0\n5,0\n")
    for path in ("", ".csv"):
        assert theirs.client.get(f"{shown.location}{path}").status_code == 404
    other = theirs.start_visit()
    moved = shown.location.replace(bench.rsplit("/", 1)[1], other.rsplit("/", 1)[1])
    assert theirs.client.get(moved).status_code == 404
    assert theirs.client.get(f"{bench}/clamp").status_code == 404


def test_the_simulated_clamp_streams_what_the_calls_make(somebody, session):
    me = somebody()
    bench = me.start_visit()
    ago(session, bench, 400)
    press(me, bench, "call", call="W1", t=10)
    answer = me.client.get(f"{bench}/clamp?fault=E2:open&at=E1&at=E2", buffered=False)
    assert answer.mimetype == "text/event-stream"
    first = next(iter(answer.response))
    sample = json.loads(first.decode().removeprefix("data: "))
    answer.close()
    assert sample["amps"]["E1"] > 15 and sample["amps"]["E2"] < 1
    visit_id = uuid.UUID(bench.rsplit("/", 1)[1])
    record = find_visit(session, me.account.shop_id, visit_id)
    assert sample["t"] == pytest.approx(record.elapsed_s, abs=5)
    assert len(session.scalars(select(VisitEvent).where(VisitEvent.visit_id == visit_id)).all()) == 1
    assert me.client.get(f"{bench}/clamp?fault=E9:open").status_code == 422
    assert me.client.get(f"{bench}/clamp?at=supply-air").status_code == 422
    alone = me.client.get(f"/units/{me.unit_id}/clamp", buffered=False)
    assert next(iter(alone.response)).decode().startswith('data: {"t": 0.0')
    alone.close()
    log = me.client.get(f"/units/{me.unit_id}/clamp.csv?minutes=3&at=E1").text
    assert log.startswith("seconds,E1\n") and log.count("\n") > 300
