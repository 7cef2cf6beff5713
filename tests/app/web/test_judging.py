"""The judge's routes: what a touch stores, what it refuses, and the gates at closing."""

from __future__ import annotations

import json
import uuid
from datetime import timedelta

from sqlalchemy import update

from plentar.core.judge.diagnosis import diagnose
from plentar.core.judgement import Hazard, NextReading, Setting
from plentar.core.quantity import Quantity
from plentar.core.unit.kits import Kit, build_kit
from plentar.core.visit.evidence import Evidence
from plentar.files.visit_file import parse_visit_file
from plentar.store.models import Visit
from plentar.store.units import make_unit
from plentar.web.visits.judging import card_of


def post(me, address: str, **data):
    entry = {"client_id": str(uuid.uuid4())} | data
    return me.client.post(address, data=entry, headers={"HX-Request": "1"})


def test_the_bench_asks_for_the_judge_and_the_judge_answers(somebody, soup):
    me = somebody()
    bench = me.start_visit("not-enough-heat")
    place = soup(me.client.get(bench)).select_one("#judge")
    assert place["data-hx-get"] == f"{bench}/judge"
    fragment = soup(me.client.get(f"{bench}/judge", headers={"HX-Request": "1"}))
    assert not fragment.select("html")
    assert fragment.select_one(".next.first form")["action"] == f"{bench}/take"
    assert fragment.select_one(".next.first button.main").text == "Set up, read"
    assert "sequencer S1, switch 2 does not close" in fragment.select_one(".suspects").text
    whole = soup(me.client.get(f"{bench}/judge"))
    assert whole.select_one("main .next.first")


def test_once_it_is_clear_what_else_is_asked_for_and_told(somebody, session, soup):
    me, other = somebody(), somebody()
    bench = me.start_visit("not-enough-heat")
    assert not soup(me.client.get(f"{bench}/judge")).select(".what-else")
    post(me, f"{bench}/calls", calls="W1")
    visit = update(Visit).where(Visit.id == uuid.UUID(bench.rsplit("/", 1)[1]))
    session.execute(visit.values(started_at=Visit.started_at - timedelta(seconds=400)))
    session.commit()
    for at, quantity, value in (
        ("E1", "amps", "20.6"),
        ("E2", "amps", "0"),
        ("S1.coil", "volts", "25.1"),
        ("S1.2", "volts", "239"),
        ("S1.2", "volts", "239"),
    ):
        me.read(bench, at, quantity, value)
    fragment = soup(me.client.get(f"{bench}/judge", headers={"HX-Request": "1"}))
    assert fragment.select_one(".clear-cut h2").text == "Sequencer S1, switch 2 does not close"
    assert fragment.select_one(".what-else")["data-hx-get"] == f"{bench}/what-else"
    for headers, inside in (({"HX-Request": "1"}, "article.next"), ({}, "main article.next")):
        card = soup(me.client.get(f"{bench}/what-else", headers=headers)).select_one(inside)
        assert card.select_one("form")["action"] == f"{bench}/take"
        assert "nothing more" in card.select_one("table").text
    assert other.client.get(f"{bench}/what-else").status_code == 404


def test_readings_of_no_unit_at_all_lead_to_no_part(somebody, soup, stored):
    me = somebody()
    bench = me.start_visit("no-heat")
    for value in ("0.3", "240", "75", "0", "140", "24", "75", "400") * 3:
        assert me.read(bench, "R", "volts", value).status_code == 200
    fragment = soup(me.client.get(f"{bench}/judge", headers={"HX-Request": "1"}))
    assert "No known fault" in fragment.select_one(".contradiction").text
    assert " leads" not in fragment.select_one(".hint").text
    for event in stored(bench):  # as it says
        if event.body["value"] != 24:
            strike = f"{bench}/readings/{event.id}/strike"
            me.client.post(strike, data={"reason": "another wire"})
    fragment = soup(me.client.get(f"{bench}/judge", headers={"HX-Request": "1"}))
    assert not fragment.select(".contradiction")
    assert fragment.select_one("article.next")


def test_a_stored_reading_calls_the_judge_again(somebody):
    me = somebody()
    bench = me.start_visit()
    assert me.read(bench, "C1", "volts", "240").headers["HX-Trigger"] == "judged"


def test_taking_a_proposal_sets_the_unit_and_opens_the_pad(somebody, session, stored, soup):
    me = somebody()
    bench = me.start_visit("not-enough-heat")
    entry = str(uuid.uuid4())
    for _ in range(2):
        answer = post(
            me, f"{bench}/take", client_id=entry, at="E2", quantity="amps", calls="W1", after_s="95"
        )
        assert answer.status_code == 200
    assert [e.body.get("calls") for e in stored(bench)] == [["W1"]]
    page = soup(answer)
    assert page.select_one(".pad")["data-point"] == "E2"
    assert 90 < float(page.select_one(".wait")["data-until"]) <= 95
    later = post(me, f"{bench}/take", at="S1.2", quantity="volts")
    assert not soup(later).select(".wait")
    assert len(stored(bench)) == 1
    gate = post(me, f"{bench}/take", at="E2", quantity="ohms", power="proved-dead")
    assert soup(gate).select_one(".gate")
    assert len(stored(bench)) == 1, "proving is ticked by hand, never taken over"


PROOF = ["off-C1", "known-live", "all-dead", "known-live-again"]


def fields(form) -> dict[str, str]:
    """What a browser would send of a form as it stands."""
    ticked = [i for i in form.select("input[name]") if i.get("type") != "checkbox" or i.has_attr("checked")]
    return {i["name"]: i.get("value", "") for i in ticked}


def test_a_contact_read_with_its_coil_driven_stays_so_from_card_to_judge(somebody, session, stored, soup):
    """0.1 Ω across a normally-open contact is right while driven, and a weld at rest."""
    me = somebody()
    bench = me.start_visit("not-enough-heat")
    post(me, f"{bench}/power", state="proved-dead", proof=PROOF)
    card = NextReading(Quantity.OHMS, "S1.1", Setting(driven=True), Hazard.DEAD, 3.0, "", ())
    taken = soup(post(me, f"{bench}/take", **card_of(me.record.unit, card, "Next", first=True).fields))
    pad = taken.select_one(".pad form.reading")
    assert pad.select_one("[name=driven]").has_attr("checked")
    due = me.client.get(f"{bench}/preview", query_string=fields(pad) | {"value": "0.1"})
    assert soup(due).select_one(".verdict.tone-good")
    wired = post(me, f"{bench}/readings", **fields(pad) | {"value": "0.1"})
    assert wired.status_code == 422 and "line volts at the transformer" in " ".join(wired.text.split())
    lifted = soup(post(me, f"{bench}/wires", state="lifted", part="S1.coil", at="S1.1"))
    pad = lifted.select_one(".pad form.reading")
    assert post(me, f"{bench}/readings", **fields(pad) | {"value": "0.1"}).status_code == 200
    (event,) = [e for e in stored(bench) if "read" in e.body]
    assert event.body["driven"] is True
    unit, visit = parse_visit_file(me.client.get(f"{bench}/visit.json").text).to_core()
    suspects = {s.fault: s.probability for s in diagnose(Evidence(unit, visit)).suspects}
    assert suspects.get("S1.1:stuck-closed", 0.0) < 0.05
    assert "welded" not in me.client.get(f"{bench}/log").text


def test_fresh_first_drops_everything_out(somebody, session, stored):
    me = somebody()
    bench = me.start_visit()
    post(me, f"{bench}/calls", calls="W1")
    post(me, f"{bench}/take", at="E1", quantity="amps", calls="W1", fresh="True", after_s="95")
    assert [e.body["calls"] for e in stored(bench)] == [["W1"], []]


def test_an_observation_is_one_touch(somebody, session, stored, soup):
    me = somebody()
    bench = me.start_visit("clicking")
    post(me, f"{bench}/take", at="E1", observe="cycling")
    (event,) = stored(bench)
    assert {k: event.body[k] for k in ("observe", "part")} == {"observe": "cycling", "part": "E1"}
    assert "limit cycles" in soup(me.client.get(bench)).select_one("#noted").text


def test_what_can_not_be_taken_is_refused(somebody, session, stored):
    me = somebody()
    bench = me.start_visit()
    for bad in (
        {"at": "E9", "quantity": "amps"},
        {"at": "E1", "calls": "W7"},
        {"at": ""},
        {"at": "E1", "power": "proved"},
        {"at": "E1", "after_s": "-5"},
        {"at": "C1", "observe": "cycling"},
        {"at": "E1", "observe": "on"},
    ):
        assert post(me, f"{bench}/take", **bad).status_code == 422, bad
    assert post(me, f"{bench}/did", verb="replaced", parts="E9").status_code == 422
    assert post(me, f"{bench}/look", seen="filter:burnt-out").status_code == 422
    assert post(me, f"{bench}/look", seen="roof:fine").status_code == 422
    assert post(me, f"{bench}/answer", code="x", component="y", how="so").status_code == 422
    assert not stored(bench)


def test_a_repair_is_an_event(somebody, session, stored, soup):
    me = somebody()
    bench = me.start_visit("not-enough-heat")
    post(me, f"{bench}/did", verb="replaced", parts="S1", was_off="yes")
    assert stored(bench)[0].body["replaced"] == "S1"
    me.read(bench, "E1", "amps", "0")
    post(me, f"{bench}/did", verb="replaced", parts="E1", was_off="yes")
    read, mended = (event.body["t"] for event in stored(bench)[1:])
    assert mended > read, "what was read just before is told from what is read after"
    assert "S1 replaced" in soup(me.client.get(bench)).select_one("#log").text


def test_the_look_around_feeds_findings_and_never_blocks(somebody, soup):
    me = somebody()
    bench = me.start_visit()
    answer = soup(post(me, f"{bench}/look", seen="filter:poor"))
    assert "Filter: needs attention" in answer.select_one("#noted").text
    assert answer.select_one("button[aria-label='filter needs attention']")["aria-pressed"] == "true"
    closed = me.client.post(f"{bench}/close", data={"outcome": "in-service"})
    assert closed.status_code == 302


def test_stop_now_stays_until_it_is_answered(somebody, soup):
    me = somebody()
    bench = me.start_visit()
    assert "burnt or melted" in soup(post(me, f"{bench}/look", seen="lugs:burnt")).select_one("#stops").text
    refused = me.client.post(f"{bench}/close", data={"outcome": "in-service"})
    assert refused.status_code == 422
    assert post(me, f"{bench}/answer", code="whole-unit", component="lugs", how="  ").status_code == 422
    answered = soup(
        post(me, f"{bench}/answer", code="whole-unit", component="lugs", how="breaker off and locked")
    )
    assert not answered.select(".stop")
    assert "breaker off and locked A Lead" in " ".join(answered.select_one("#stops").text.split())
    still = me.client.post(f"{bench}/close", data={"outcome": "in-service"})
    assert still.status_code == 422 and "Not while a stop is open" in still.text, "answered is not ended"
    left = {"outcome": "left-off", "left_note": "A lug is burnt."}
    assert me.client.post(f"{bench}/close", data=left).status_code == 302
    assert "Made safe" in me.client.get(f"{bench}/report").text


def test_no_closing_with_a_jumper_in(somebody):
    me = somebody()
    bench = me.start_visit()
    assert post(me, f"{bench}/wires", state="lifted").status_code == 422, "not under power"
    post(me, f"{bench}/power", state="off")
    post(me, f"{bench}/wires", state="lifted")
    post(me, f"{bench}/power", state="on")
    for calls in ("G,W1", ""):
        post(me, f"{bench}/calls", calls=calls)  # no call puts the wires back in passing
    for outcome in ("in-service", "left-off"):
        data = {"outcome": outcome, "left_note": "left"}
        refused = me.client.post(f"{bench}/close", data=data)
        assert refused.status_code == 422
        assert "jumper" in refused.text
    post(me, f"{bench}/power", state="off")
    post(me, f"{bench}/wires", state="restored")
    assert me.client.post(f"{bench}/close", data={"outcome": "in-service"}).status_code == 302


def test_notes_travel_in_the_visit_file(somebody):
    me, other = somebody(), somebody()
    bench = me.start_visit()
    post(me, f"{bench}/look", seen="lugs:burnt")
    post(me, f"{bench}/answer", code="whole-unit", component="lugs", how="cut back")
    me.read(bench, "C1", "volts", "240")
    text = me.client.get(f"{bench}/visit.json").text
    file = json.loads(text)["visit"]
    assert file["looked"][0]["item"] == "lugs"
    assert file["answered"][0]["by"] == "A Lead"
    assert parse_visit_file(text).to_core()[1].answered[0].how == "cut back"
    answer = other.client.post(
        "/units/import", data={"file": (__import__("io").BytesIO(text.encode()), "v.json")}
    )
    again = other.client.get(answer.location.replace("/report", "/visit.json")).text
    assert json.loads(again)["visit"]["answered"] == file["answered"]


def test_a_pair_can_be_supposed(somebody):
    me = somebody()
    bench = me.start_visit()
    answer = me.client.get(f"{bench}/what-if?fault=E1:open%2BS1.2:stuck-closed")
    assert answer.status_code == 200
    assert me.client.get(f"{bench}/what-if?fault=E1:open%2BE9:open").status_code == 422


def test_a_jumper_card_puts_back_on_what_was_on_and_nothing_else(somebody, stored):
    me = somebody()
    bench = me.start_visit()
    post(me, f"{bench}/power", state="off")
    post(me, f"{bench}/take", at="E1", quantity="amps", calls="G,W1", lifted="True")
    assert [e.body.get("power") for e in stored(bench) if "power" in e.body] == ["off", "off"]


def test_what_reads_live_on_a_proved_unit_stops_every_hand_until_it_is_proved_again(somebody, soup):
    """Proved dead, then 238 V at the lugs: no ohms, no wire, no jumper, no bench supply; a new proof ends it."""
    me = somebody()
    bench = me.start_visit()
    post(me, f"{bench}/power", state="off")
    post(me, f"{bench}/power", state="proved-dead", proof=PROOF)
    seen = soup(post(me, f"{bench}/readings", at="C1", quantity="volts", value="238"))
    assert "recorded off" in " ".join(seen.text.split())
    refused = {
        "readings": {"at": "E1", "quantity": "ohms", "value": "11"},
        "wires": {"state": "lifted"},
        "did": {"verb": "bridged", "parts": "TL1"},
        "devices/BR/coil-wires": {"state": "lifted"},
        "power": {"state": "on"},
    }
    for path, form in refused.items():
        assert post(me, f"{bench}/{path}", **form).status_code == 422, path
    coil = post(me, f"{bench}/wires", state="lifted", part="S1.coil")
    assert "proved dead again" in " ".join(coil.text.split())
    post(me, f"{bench}/power", state="proved-dead", proof=PROOF)
    assert post(me, f"{bench}/wires", state="lifted").status_code == 200
    assert post(me, f"{bench}/readings", at="E1", quantity="ohms", value="11").status_code == 200


def test_the_tie_is_tested_under_guard_in_two_touches(somebody, stored, soup, earlier):
    """First what it begins with comes on; taken again, the fan's call ends and the blower's pad opens. Until
    all of the heat is on the fan stays."""
    me = somebody()
    bench = me.start_visit()
    step = {"at": "blower", "quantity": "amps", "calls": "W1", "begins": "G,W1"}
    first = post(me, f"{bench}/take", **step)
    assert first.status_code == 200
    assert [e.body.get("calls") for e in stored(bench)] == [["G", "W1"]]
    assert not soup(first).select(".pad"), "nothing is read yet"
    early = post(me, f"{bench}/take", **step)
    assert early.status_code == 422
    assert "still coming on: try again in" in early.text
    assert [e.body.get("calls") for e in stored(bench)] == [["G", "W1"]]
    earlier(bench, 200)
    second = post(me, f"{bench}/take", **step)
    assert stored(bench)[-1].body["calls"] == ["W1"]
    assert soup(second).select_one(".pad")["data-point"] == "blower"


def test_what_nobody_read_is_asked_for_in_one_line(somebody, session, soup):
    """A kit whose tie nobody has followed: suspected, it is asked for, with the plate that takes it."""
    me = somebody()
    bare = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "bare", "Bare")
    me.record = make_unit(session, me.account.shop_id, bare)
    session.commit()
    bench = me.start_visit("blower-will-not-run")
    asked = soup(me.client.get(f"{bench}/judge")).select_one(".asked")
    assert "S1.1 or S1.2" in asked.text
    assert asked.a["href"].endswith("part=BR.nc")
