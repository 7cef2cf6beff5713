"""Practice on its pages: begun, worked on, ended; its person's and the lead's, and nowhere among the visits."""

from __future__ import annotations

import io
import json
import tomllib
import uuid
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pypdf
import pytest
from bs4 import BeautifulSoup
from flask import Flask
from sqlalchemy import select, text
from sqlalchemy.orm import Session
from werkzeug.test import TestResponse

from plentar.core.judgement import NEXT_LEFT_OUT, Diagnosis
from plentar.core.said import say
from plentar.practice.lesson import SHIPPED
from plentar.store.models import Account, Base, Practice
from plentar.store.people import people_of
from plentar.web.judge_pool import Busy, JudgePool
from tests.app.conftest import Somebody


def begun(me: Somebody, **chosen: str) -> str:
    data = {"client_id": str(uuid.uuid4()), "unit": str(me.unit_id), "seed": "oak", "faults": "1"} | chosen
    answer = me.client.post("/practice", data=data)
    assert answer.status_code == 302, answer.text
    return answer.location


def act(me: Somebody, base: str, act: str, **more: str):
    data = {"client_id": str(uuid.uuid4()), "act": act} | more
    return me.client.post(f"{base}/act", data=data, headers={"HX-Request": "1"})


def row_of(session: Session, base: str) -> Practice:
    session.rollback()
    session.expire_all()
    return session.scalars(select(Practice).where(Practice.id == uuid.UUID(base.rpartition("/")[2]))).one()


def test_a_scene_from_its_beginning_to_what_is_told(
    somebody: Callable[[], Somebody], session: Session
) -> None:
    me = somebody()
    base = begun(me, theme="strips", coaching="off")
    row = row_of(session, base)
    [fault] = row.scene["faults"]
    for call in ("G", "W1"):
        act(me, base, "call", call=call)
    act(me, base, "wait", seconds="200")
    page = act(me, base, "read", at="E1", quantity="amps")
    assert page.status_code == 200
    meter = BeautifulSoup(page.text, "html.parser").select_one(".meter .num")
    assert meter is not None
    read = row_of(session, base).acts[-1]
    assert f"{read['value']:.3g}"[:3] in meter.text
    unsafe = act(me, base, "read", at="E1", quantity="ohms")
    assert "the meter would burn" in unsafe.text
    assert row_of(session, base).acts[-1] == read
    part = fault.partition(":")[0]
    ended = me.client.post(f"{base}/end", data={"client_id": str(uuid.uuid4()), "named": part})
    assert ended.location == f"{base}/debrief"
    page = me.client.get(ended.location).text
    assert "● found" in page
    assert "the meter would burn" in page
    told = me.client.get(f"{base}/told").text
    assert "bits" in told
    assert act(me, base, "wait", seconds="10").status_code == 409
    assert me.client.get(base).status_code == 302


def test_a_touch_is_done_once_and_a_wrong_one_not_at_all(
    somebody: Callable[[], Somebody], session: Session
) -> None:
    me = somebody()
    base = begun(me)
    same = {"client_id": str(uuid.uuid4()), "act": "call", "call": "W1"}
    for _ in range(2):
        assert me.client.post(f"{base}/act", data=same).status_code == 200
    assert [a["calls"] for a in row_of(session, base).acts] == [["W1"]]
    for wrong in (
        {"act": "read", "at": "attic", "quantity": "amps"},
        {"act": "read", "at": "E1"},
        {"act": "read", "at": "E1", "quantity": "miles"},
        {"act": "wait", "seconds": "inf"},
        {"act": "wait", "seconds": "1e9"},
        {"act": "call", "call": "W9"},
        {"act": "replace", "part": "attic"},
        {"act": "power", "state": "proved-dead"},
        {"act": "melt"},
    ):
        answer = act(me, base, **wrong)
        assert answer.status_code == 422, wrong
        assert "complaint" in answer.text
    assert len(row_of(session, base).acts) == 1
    end = me.client.post(f"{base}/end", data={"client_id": str(uuid.uuid4()), "named": ["none", "E1"]})
    assert end.status_code == 422
    again = {"client_id": str(uuid.uuid4()), "unit": str(me.unit_id)}
    assert (
        me.client.post("/practice", data=again).location == me.client.post("/practice", data=again).location
    )
    assert me.client.post("/practice", data=again | {"faults": "9"}).status_code == 422
    assert (
        me.client.post(
            "/practice", data={**again, "client_id": str(uuid.uuid4()), "unit": str(uuid.uuid4())}
        ).status_code
        == 422
    )


def test_a_practice_is_its_persons_and_the_leads(somebody: Callable[[], Somebody], session: Session) -> None:
    me, other = somebody(), somebody()
    base = begun(me)
    assert other.client.get(base).status_code == 404
    assert act(other, base, "wait", seconds="10").status_code == 404
    # Somebody else's of the same shop, as its lead: to look at, not to go on with.
    hand = Account(
        shop_id=me.account.shop_id,
        login=f"hand{uuid.uuid4().hex[:6]}",
        name="A Hand",
        role="technician",
        password_hash="",
    )
    session.add(hand)
    session.flush()
    theirs = row_of(session, base)
    session.add(hand)
    session.flush()
    theirs.account_id = hand.id
    session.commit()
    assert me.client.get(base).status_code == 200
    assert "A Hand" in me.client.get("/practice").text
    assert act(me, base, "wait", seconds="10").status_code == 404
    assert hand.id in {one.id for one in people_of(session, me.account.shop_id)}


def stored_but_practice(session: Session) -> dict[str, list[str]]:
    """Every row of every table that is none of practice's, as the database writes it."""
    session.rollback()
    tables = [t.name for t in Base.metadata.sorted_tables if not t.name.startswith("practice")]
    return {
        t: sorted(map(str, session.execute(text(f"select t::text from {t} t")).scalars())) for t in tables
    }


def said_by(answer: TestResponse) -> str:
    """All that an answer says: of an archive what is in each of its files."""
    data = answer.data
    if data[:2] == b"PK":
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            data = b"".join(packed.read(name) for name in packed.namelist())
    elif data[:4] == b"%PDF":
        return " ".join(page.extract_text() for page in pypdf.PdfReader(io.BytesIO(data)).pages)
    return data.decode(errors="replace")


def test_nothing_of_it_is_among_the_visits_and_nothing_of_them_in_it(
    app: Flask, somebody: Callable[[], Somebody], session: Session
) -> None:
    """Every row and every page, sheet, file, list and figure: with a practice gone through to its end, and a visit of
    the same unit."""
    me = somebody()
    visit = me.start_visit("no-heat")
    me.read(visit, "E1", "amps", "13.37")
    csv = me.client.get(f"/units/{me.unit_id}/clamp.csv?minutes=1").data
    kept = {"client_id": str(uuid.uuid4()), "log": (io.BytesIO(csv), "log.csv")}
    log = me.client.post(f"{visit}/logs", data=kept).location
    planned = me.client.post("/rounds", data={"title": "All"}).location
    before = stored_but_practice(session)
    base = begun(me, coaching="hints", seed="zzyzxwords", kind="stuck-open")
    for done, more in (
        ("call", {"call": "W1"}),
        ("read", {"at": "E1", "quantity": "amps"}),
        ("power", {"state": "off"}),
    ):
        assert act(me, base, done, **more).status_code == 200
    assert me.client.post(f"{base}/hint", data={}).status_code == 200
    assert (
        me.client.post(f"{base}/end", data={"client_id": str(uuid.uuid4()), "named": "S1"}).status_code == 302
    )
    assert stored_but_practice(session) == before
    marks = {
        "practice": (base.rpartition("/")[2], "zzyzxwords", "is stuck open", "never closes"),
        "visit": (visit.rpartition("/")[2], "13.37", "13.4"),
    }
    values = {
        "account_id": me.account.id,
        "practice_id": marks["practice"][0],
        "visit_id": marks["visit"][0],
        "unit_id": me.unit_id,
        "part": "E1",
        "log_id": log.rpartition("/")[2],
        "round_id": planned.rpartition("/")[2],
        "device_id": "BR",
        "name": "05-the-tie",
    }
    seen = {True: 0, False: 0}
    for rule in app.url_map.iter_rules():
        if (
            "GET" not in rule.methods
            or not rule.arguments <= set(values)
            or rule.endpoint in ("auth.sign_out", "static")
        ):
            continue
        with app.test_request_context():
            path = app.url_for(rule.endpoint, **{k: v for k, v in values.items() if k in rule.arguments})
        if "stream" in rule.endpoint:
            continue
        answer = me.client.get(path)
        said = said_by(answer)
        answer.close()
        if answer.status_code != 200:
            continue
        own = rule.endpoint.startswith("practice.")
        foreign = [mark for mark in marks["visit" if own else "practice"] if mark in said]
        assert not foreign, (path, foreign)
        if (
            own
            and answer.mimetype == "text/html"
            and rule.endpoint not in ("practice.what_was_told", "practice.other_ways")
        ):
            assert "Nothing here is a visit" in said, path
        seen[own] += 1
    assert seen[False] > 50 and seen[True] > 4, seen


def test_the_same_scene_again_is_the_same_also_of_a_lesson(
    somebody: Callable[[], Somebody], session: Session
) -> None:
    """As its link fills the form: the plate, and what is hidden in it."""
    me = somebody()
    for chosen in ({"theme": "strips"}, {"lesson": "05-the-tie"}, {"kind": "stuck-open"}, {"kind": "sound"}):
        base = begun(me, unit="", seed="", **chosen)
        me.client.post(f"{base}/end", data={"client_id": str(uuid.uuid4()), "named": "none"})
        page = BeautifulSoup(me.client.get(f"{base}/debrief").text, "html.parser")
        link = next(a["href"] for a in page.select("a.button") if "same scene" in a.text)
        form = BeautifulSoup(me.client.get(link).text, "html.parser").select_one("form:has(#theme)")
        assert form is not None
        data = {one["name"]: one.get("value", "") for one in form.select("input[name]:not([type=checkbox])")}
        for field in form.select("select"):
            data[field["name"]] = (field.select_one("option[selected]") or field.select_one("option"))[
                "value"
            ]
        again = me.client.post("/practice", data=data).location
        one, other = row_of(session, base).scene, row_of(session, again).scene
        for key in ("plate", "faults", "seed", "complaint"):
            assert one[key] == other[key], (chosen, key)


def cut_off(*_asked: object) -> Diagnosis:
    return Diagnosis((), (), (), "", (), left_out=(NEXT_LEFT_OUT,))


def held_back(*_asked: object) -> Diagnosis:
    return Diagnosis((), (), (), "", (), held=say("judge.plan.guard.stop-stands-first-made"))


def test_where_no_card_comes_it_is_said_why(
    somebody: Callable[[], Somebody], monkeypatch: pytest.MonkeyPatch
) -> None:
    """A judge that is busy, or that was cut off in time, or that holds a reading back, does not say that all is read."""
    me = somebody()
    base = begun(me, coaching="guide")
    barred = str(say("judge.plan.guard.stop-stands-first-made"))
    for answer, said in ((busy, "The judge is busy"), (cut_off, "The judge is busy"), (held_back, barred)):
        monkeypatch.setattr(JudgePool, "diagnose", answer)
        page = me.client.get(base).text
        assert said.rstrip(".") in page
        assert "Nothing more is asked for" not in page
        assert ("Ask again</a>" in page) == (answer is not held_back)
    # Where it may be asked again there is something to touch for it.
    hinted = begun(me, coaching="hints")
    monkeypatch.setattr(JudgePool, "diagnose", busy)
    assert "A hint</button>" in me.client.post(f"{hinted}/hint", data={}).text
    monkeypatch.setattr(JudgePool, "diagnose", held_back)
    assert "A hint</button>" not in me.client.post(f"{hinted}/hint", data={}).text


def busy(*_asked: object) -> None:
    raise Busy("at work")


def test_a_lesson_of_ones_own_asks_and_a_broken_one_is_named(
    somebody: Callable[[], Somebody], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    text = (SHIPPED / "05-the-tie.toml").read_text().replace("The tie", "Our own tie")
    (tmp_path / "00-ours.toml").write_text(text)
    (tmp_path / "01-bent.toml").write_text("faults = 5")
    monkeypatch.setenv("PLENTAR_LESSONS", str(tmp_path))
    me = somebody()
    listed = me.client.get("/practice").text
    assert "01-bent.toml/faults" in listed
    assert "Our own tie" in listed
    assert "Our own tie" in me.client.get(begun(me, lesson="00-ours")).text


def test_a_shop_writes_lessons_of_its_own_and_takes_them_away(
    somebody: Callable[[], Somebody], session: Session, soup: Callable[[Any], BeautifulSoup]
) -> None:
    me, stranger = somebody(), somebody()
    text = me.client.get("/practice/lessons/05-the-tie.toml").text
    assert text == (SHIPPED / "05-the-tie.toml").read_text()
    ours = text.replace('"The tie"', '"Ours: the tie"')
    for wrong, why in (
        (ours.replace("complaint", "complain"), "complaint"),
        (ours.replace("question", "asks", 1), "en.question"),
        (text, "Another lesson"),
        ("faults = [", "text-error"),
        ("faults = " + 5000 * "[", "text-error"),
        (ours.replace('complaint = "clicking"', "complaint = []"), "complaint"),
        ("", "text-error"),
    ):
        answer = me.client.post("/practice/lessons", data={"text": wrong})
        assert answer.status_code == 422
        field = soup(answer).select_one("#text")
        assert (field.text.strip(), why in str(soup(answer).select_one("#text-error"))) == (
            wrong.strip(),
            True,
        )
    for said in ("One question", "Another question"):  # the second time it is altered
        changed = ours.replace(tomllib.loads(ours)["en"]["question"], said)
        assert me.client.post("/practice/lessons", data={"text": changed}).status_code == 302
    base = begun(me, lesson="ours-the-tie")
    assert "Another question" in me.client.get(base).text
    assert "Ours: the tie" not in stranger.client.get("/practice").text
    assert stranger.client.get("/practice/lessons/ours-the-tie.toml").status_code == 404
    assert stranger.client.post("/practice/lessons/ours-the-tie/remove").status_code == 404
    assert me.client.post("/practice/lessons/05-the-tie/remove").status_code == 404
    assert me.client.post("/practice/lessons/ours-the-tie/remove").status_code == 302
    assert "Ours: the tie" not in me.client.get("/practice").text
    assert me.client.get(base).status_code == 200, "what was begun by it goes on"


@pytest.mark.parametrize("coaching", ["guide", "hints", "off"])
def test_help_is_given_as_chosen(somebody: Callable[[], Somebody], session: Session, coaching: str) -> None:
    me = somebody()
    base = begun(me, coaching=coaching, theme="strips")
    page = BeautifulSoup(me.client.get(base).text, "html.parser")
    assert bool(page.select("#coach .next")) == (coaching == "guide")
    assert bool(page.select(f"form[action='{base}/hint']")) == (coaching == "hints")
    assert row_of(session, base).hints == 0
    asked = me.client.post(f"{base}/hint", data={})
    assert (asked.status_code, row_of(session, base).hints) == ((200, 1) if coaching == "hints" else (404, 0))


def test_a_lesson_and_what_is_worth_meeting_once_more(
    somebody: Callable[[], Somebody], session: Session
) -> None:
    me = somebody()
    base = begun(me, lesson="02-across-a-switch", faults="0")
    assert row_of(session, base).scene["faults"][0].endswith(":stuck-open")
    page = me.client.get(base).text
    assert "Across a switch" in page
    me.client.post(f"{base}/end", data={"client_id": str(uuid.uuid4()), "named": "E1"})
    assert "The switch with the line across it does not close" in me.client.get(f"{base}/debrief").text
    listed = BeautifulSoup(me.client.get("/practice").text, "html.parser")
    again = listed.select_one("form:has(input[name=kind])")
    assert again is not None
    assert "found 0 of 1" in again.text
    assert again.select_one("input[name=kind]")["value"] == "stuck-open"
    next_one = begun(me, kind="stuck-open")
    assert row_of(session, next_one).scene["faults"][0].endswith(":stuck-open")
    for wrong in ({"lesson": "00-nothing"}, {"kind": "moth"}):
        data = {"client_id": str(uuid.uuid4())} | wrong
        assert me.client.post("/practice", data=data).status_code == 422, wrong


def test_every_tool_is_one_touch_and_what_it_shows_is_on_the_page(
    somebody: Callable[[], Somebody], session: Session
) -> None:
    me = somebody()
    base = begun(me, theme="strips", coaching="off")
    assert "The clamp stays on" in act(me, base, "clamp", at="C1").text
    for call in ("G", "W1"):
        act(me, base, "call", call=call)
    page = BeautifulSoup(act(me, base, "wait", at="C1", seconds="200").text, "html.parser")
    line, steps = page.select_one("svg.trace-line polyline"), page.select("section[aria-label] ol li")
    assert line is not None
    assert steps
    assert all(" A" in step.text for step in steps)
    jaw = BeautifulSoup(act(me, base, "misread", at="E1", way="two-wires").text, "html.parser")
    assert jaw.select_one(".meter .num").text == "0.0 A"
    assert "Wires moved at" in act(me, base, "wires", state="lifted").text
    for call in ("W1", "G"):
        act(me, base, "call", call=call)
    act(me, base, "power", state="off")
    act(me, base, "power", state="proved-dead")
    assert "the transformer turns it" in act(me, base, "drive", at="S1.1", quantity="ohms").text
    act(me, base, "wires", state="lifted", part="S1.coil")
    assert act(me, base, "power", state="on").status_code == 422
    act(me, base, "drive", at="S1.1", quantity="ohms")
    assert row_of(session, base).acts[-1]["driven"] is True
    page = BeautifulSoup(act(me, base, "replace", part="E1", marked="yes").text, "html.parser")
    asked = [one.text.strip() for one in page.select("details li a")]
    assert any("E1" in one for one in asked), "what the repair asks to be read again"
    for wrong in ({"act": "misread", "at": "E1", "way": "upside-down"}, {"act": "power", "state": "lifted"}):
        assert act(me, base, **wrong).status_code == 422
    me.client.post(f"{base}/end", data={"client_id": str(uuid.uuid4()), "named": "E1"})
    told = me.client.get(f"{base}/debrief").text
    assert "Two wires in the jaw" in told
    ways = me.client.get(f"{base}/ways").text
    for word in ("The cards", "The customary order", "bits were left in doubt"):
        assert word in ways


def test_a_new_sequencers_wires_are_chosen_kept_where_they_are_refused_proved_and_moved(
    somebody: Callable[[], Somebody], session: Session
) -> None:
    me = somebody()
    base = begun(me, theme="sequencers", coaching="guide")
    assert "Hands on" in act(me, base, "replace", part="S1").text
    for state in ("off", "proved-dead"):
        act(me, base, "power", state=state)
    before = len(row_of(session, base).acts)
    bare = BeautifulSoup(act(me, base, "replace", part="S1").text, "html.parser")
    assert not any(label.text.strip().startswith("from") for label in bare.select("#wires label")), (
        "nobody marked them"
    )
    page = BeautifulSoup(act(me, base, "replace", part="S1", marked="yes").text, "html.parser")
    assert len(row_of(session, base).acts) == before, "nothing is done before it is said where they go"
    shown = dict(one["value"].split(":") for one in page.select("#wires option[selected]"))
    assert len(shown) == len(page.select("#wires select")) >= 6
    assert all(label.text.strip().startswith("from") for label in page.select("#wires label"))

    def put(what: str, on: dict[str, str]) -> TestResponse:
        return act(me, base, what, part="S1", marked="yes", on=[f"{wire}:{at}" for wire, at in on.items()])

    first, *_, last = shown
    refused = put("replace", dict.fromkeys(shown, shown[first]))
    assert refused.status_code == 422
    chosen = BeautifulSoup(refused.text, "html.parser").select("#wires option[selected]")
    assert {one["value"].split(":")[1] for one in chosen} == {shown[first]}, "what was chosen is kept"
    astray = shown | {first: shown[last], last: shown[first]}
    assert put("replace", astray).status_code == 200
    proved = BeautifulSoup(act(me, base, "prove", part="S1").text, "html.parser")
    assert "line volts reach" in proved.select_one("details [role=status]").text
    assert "What goes in" in page.select_one("#wires").text
    there = BeautifulSoup(me.client.get(f"{base}?wires=S1").text, "html.parser")
    assert "Fitted: " in there.select_one("#wires").text, "it goes in once"
    assert dict(one["value"].split(":") for one in there.select("#wires option[selected]")) == astray
    assert put("move", shown).status_code == 200
    assert "as it should be" in act(me, base, "prove", part="S1").text
    assert put("move", astray).status_code == 200
    me.client.post(f"{base}/end", data={"client_id": str(uuid.uuid4()), "named": "S1"})
    assert "it belongs on" in me.client.get(f"{base}/debrief").text


def test_a_lead_sets_a_scene_and_sees_how_each_worked(
    somebody: Callable[[], Somebody], session: Session
) -> None:
    lead = somebody()
    hand = Account(
        shop_id=lead.account.shop_id,
        login=f"hand{uuid.uuid4().hex[:6]}",
        name="A Hand",
        role="technician",
        password_hash="",
    )
    session.add(hand)
    session.commit()
    both = {"client_id": str(uuid.uuid4()), "unit": str(lead.unit_id), "seed": "oak", "theme": "strips"}
    for _ in range(2):
        answer = lead.client.post("/practice", data=both | {"people": [str(hand.id), str(lead.account.id)]})
        assert answer.status_code == 302
    session.rollback()
    rows = session.scalars(select(Practice).where(Practice.shop_id == lead.account.shop_id)).all()
    assert {row.account_id for row in rows} == {hand.id, lead.account.id}
    assert len(rows) == 2
    theirs = next(row for row in rows if row.account_id == hand.id)
    assert theirs.scene["set_by"] == str(lead.account.id)
    assert f"set by {lead.account.name}" in lead.client.get("/practice").text
    one = {"unit": str(lead.unit_id), "people": [str(somebody().account.id)]}
    assert lead.client.post("/practice", data={"client_id": str(uuid.uuid4())} | one).status_code == 422


def test_a_scene_goes_to_another_shop_as_a_file_and_says_nothing_of_what_is_hidden(
    somebody: Callable[[], Somebody], session: Session
) -> None:
    me, other = somebody(), somebody()
    for chosen in ({"theme": "relays"}, {"kind": "sound"}, {"lesson": "05-the-tie"}):
        base = begun(me, seed="yew", **chosen)
        answer = me.client.get(f"{base}/scene.json")
        file = answer.data
        answer.close()
        made = row_of(session, base).scene
        assert not [fault for fault in made["faults"] if fault.encode() in file]
        sent = {"client_id": str(uuid.uuid4()), "scene": (io.BytesIO(file), "scene.json")}
        there = other.client.post("/practice/scene-file", data=sent)
        assert there.status_code == 302, there.text
        again = row_of(session, there.location).scene
        for key in ("plate", "faults", "seed", "complaint"):
            assert again[key] == made[key], (chosen, key)
        other.client.post(f"{there.location}/end", data={"client_id": str(uuid.uuid4()), "named": "none"})
        assert "What was in it" in other.client.get(f"{there.location}/debrief").text
    for wrong in (b"", b"{}", b"[1]", b'{"practice_scene": 2}', b"x" * 300_000):
        sent = {"client_id": str(uuid.uuid4()), "scene": (io.BytesIO(wrong), "scene.json")}
        answer = other.client.post("/practice/scene-file", data=sent)
        assert answer.status_code == 422
        assert BeautifulSoup(answer.text, "html.parser").select_one(".complaint")


def test_ones_own_export_tells_what_was_hidden_only_when_it_is_over(somebody: Callable[[], Somebody]) -> None:
    me, other = somebody(), somebody()
    begun(other)
    base = begun(me, theme="strips")
    act(me, base, "call", call="G")

    def exported() -> list[dict]:
        answer = me.client.get("/practice/mine.json")
        found = json.loads(answer.text)["practices"]
        answer.close()
        return found

    [one] = exported()
    assert "hidden" not in one
    assert [a["calls"] for a in one["acts"]] == [["G"]]
    me.client.post(f"{base}/end", data={"client_id": str(uuid.uuid4()), "named": "none"})
    [one] = exported()
    assert one["hidden"]
    assert one["named"] == []


def test_a_scene_is_as_hard_as_was_asked_for_where_there_is_one(
    somebody: Callable[[], Somebody], session: Session
) -> None:
    me = somebody()
    grades = {}
    for grade in ("easy", "hard"):
        base = begun(me, seed="fir", grade=grade)
        me.client.post(f"{base}/end", data={"client_id": str(uuid.uuid4()), "named": "none"})
        ways = BeautifulSoup(me.client.get(f"{base}/ways").text, "html.parser").select_one("p").text
        grades[grade] = float(ways.partition("first look ")[2].split()[0])
    assert grades["easy"] < grades["hard"]
    assert (
        me.client.post("/practice", data={"client_id": str(uuid.uuid4()), "grade": "cruel"}).status_code
        == 422
    )
