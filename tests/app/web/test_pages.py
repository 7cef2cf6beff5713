"""Pages and writes through the test client: what is stored, refused, scoped and escaped."""

from __future__ import annotations

import io
import json
import re
import uuid
from concurrent.futures import ThreadPoolExecutor

import pytest
from flask import Flask
from sqlalchemy import select

from plentar.store.models import UnitVersion
from plentar.web import showing
from plentar.web.config import BadConfiguration, Config
from plentar.web.pages.help import OF_SCREEN, PAGES
from plentar.web.security import POLICY
from tests.app.conftest import HOME


def test_a_class_is_of_one_component():
    """A second file that styles a whole class of another's hides or moves what it does not know of."""
    files: dict[str, set[str]] = {}
    for path in (HOME / "assets").glob("*.css"):
        if path.stem not in ("base", "print"):
            for name in re.findall(r"^\.([a-z][\w-]*) \{", path.read_text(), re.MULTILINE):
                files.setdefault(name, set()).add(path.name)
    assert {name: where for name, where in files.items() if len(where) > 1} == {}


def test_a_reading_is_stored_once_and_judged(somebody, session, stored, soup):
    me = somebody()
    bench = me.start_visit()
    entry = str(uuid.uuid4())
    for _ in range(3):
        answer = me.read(bench, "C1", "volts", "239,5", client_id=entry)
        assert answer.status_code == 200
    assert [e.body["value"] for e in stored(bench)] == [239.5]
    assert me.read(bench, "C1", "volts", "238", client_id=entry).status_code == 409
    page = soup(me.client.get(bench))
    assert page.select_one("#wide--C1 .badge.tone-good .read").text == "240 V"
    assert "in range" in page.select_one("#log .reading-row").text


def test_bad_readings_keep_what_was_typed_and_change_nothing(somebody, session, stored, soup):
    me = somebody()
    bench = me.start_visit()
    for typed in ("", "twenty", "1,2.3", "-4", "OL"):
        answer = me.read(bench, "E1", "amps", typed)
        assert answer.status_code == 422
        field = soup(answer).select_one("#value")
        assert field["value"] == typed
        assert soup(answer).select_one(f"#{field['aria-describedby']}").text
    for at, quantity, code in [("E9", "amps", 422), ("E1", "temp_f", 422), ("E1", "parsecs", 422)]:
        assert me.read(bench, at, quantity, "5").status_code == code
    assert me.read(bench, "E1", "amps", "5", client_id="not-an-id").status_code == 422
    assert not stored(bench)


def test_ohms_wait_for_proved_dead(somebody, session, stored, soup):
    me = somebody()
    bench = me.start_visit()
    answer = me.read(bench, "E1", "ohms", "11.2")
    assert answer.status_code == 422
    assert soup(answer).select_one(".gate")
    proof = ["off-C1", "known-live", "all-dead", "known-live-again"]
    form = {"client_id": str(uuid.uuid4()), "state": "proved-dead"}
    for missing in proof:
        ticked = [p for p in proof if p != missing]
        assert me.client.post(f"{bench}/power", data=form | {"proof": ticked}).status_code == 422
    assert not stored(bench)
    assert me.client.post(f"{bench}/power", data=form | {"proof": proof}).status_code == 302
    assert me.read(bench, "E1", "ohms", "11.2").status_code == 200
    on = {"client_id": str(uuid.uuid4()), "state": "on"}
    assert me.client.post(f"{bench}/power", data=on).status_code == 302
    assert me.read(bench, "E1", "ohms", "11.2").status_code == 422
    assert ["read" if "read" in e.body else "power" for e in stored(bench)] == ["power", "read", "power"]


def test_struck_readings_stay_on_record_and_out_of_the_evidence(somebody, session, stored, soup):
    me = somebody()
    bench = me.start_visit()
    me.read(bench, "C1", "volts", "24")
    (event,) = stored(bench)
    assert me.client.post(f"{bench}/readings/{event.id}/strike", data={"reason": " "}).status_code == 422
    strike = {"reason": "read on the wrong <pair>"}
    assert me.client.post(f"{bench}/readings/{event.id}/strike", data=strike).status_code == 302
    page = soup(me.client.get(bench))
    assert "struck out: read on the wrong <pair>" in page.select_one(".struck").text
    assert not page.select_one("#wide--C1 .badge")
    exported = json.loads(me.client.get(f"{bench}/visit.json").text)["visit"]
    assert exported["events"] == []
    assert exported["struck"][0]["reason"] == strike["reason"]
    rows = me.client.get(f"{bench}/readings.csv").text.splitlines()
    assert "read on the wrong <pair>" in rows[1]


def test_leaving_in_service_is_refused_while_something_says_stop(somebody, session, soup):
    me = somebody()
    bench = me.start_visit()
    proof = ["off-C1", "known-live", "all-dead", "known-live-again"]
    form = {"client_id": str(uuid.uuid4()), "state": "proved-dead", "proof": proof}
    me.client.post(f"{bench}/power", data=form)
    me.read(bench, "E1.in:ground", "ohms", "400k")
    assert "Stop now" in soup(me.client.get(bench)).select_one("#stops .stop").text
    closing = {"outcome": "in-service", "left_note": "fine"}
    assert me.client.post(f"{bench}/close", data=closing).status_code == 422
    assert me.client.post(f"{bench}/close", data={"outcome": "left-off"}).status_code == 422
    left = {"outcome": "left-off", "left_note": "Element to ground."}
    assert me.client.post(f"{bench}/close", data=left).status_code == 302
    assert me.read(bench, "E1", "amps", "20").status_code == 409
    assert "left off" in me.client.get(f"{bench}/report").text


def test_a_visit_keeps_the_plate_it_was_judged_by(somebody, session, soup):
    me = somebody()
    bench = me.start_visit()
    plate = f"/units/{me.unit_id}/plate/E1"
    answer = me.client.post(plate, data={"rated_kw": "3,5", "rated_volts": "240", "seen": "1"})
    assert answer.status_code == 302
    session.rollback()
    numbers = select(UnitVersion.number).where(UnitVersion.unit_id == me.unit_id)
    assert sorted(session.scalars(numbers)) == [1, 2]
    assert "5 kW" in soup(me.client.get(bench)).select_one("#wide-E1-E1 .plate").text
    unit = soup(me.client.get(f"/units/{me.unit_id}"))
    assert "3.5 kW" in unit.select_one("#wide-E1-E1 .plate").text
    stale = me.client.post(plate, data={"rated_kw": "4.8", "rated_volts": "240", "seen": "1"})
    assert stale.status_code == 409


def test_plate_errors_stand_beside_the_field(somebody, soup):
    me = somebody()
    for part, data, field in [
        ("E1", {"rated_kw": "0", "rated_volts": "240"}, "rated_kw"),
        ("E1", {"rated_kw": "x", "rated_volts": "240"}, "rated_kw"),
        ("S1.1", {"on_s[0]": "1", "on_s[1]": "9999"}, "on_s[1]"),
        ("C1", {"rated_volts": "240", "breaker_amps": "-5"}, "breaker_amps"),
    ]:
        answer = me.client.post(f"/units/{me.unit_id}/plate/{part}", data={"seen": "1"} | data)
        assert answer.status_code == 422
        invalid = soup(answer).select_one("[aria-invalid=true]")
        assert invalid["name"] == field
        assert invalid["value"] == data[field]
    assert me.client.get(f"/units/{me.unit_id}?part=E9").status_code == 422


def test_parts_move_along_their_rung_and_limits_can_go(somebody):
    me = somebody()
    act = f"/units/{me.unit_id}/plate/TL1/act"
    me.client.post(act, data={"act": "earlier", "element": "E1", "seen": "1"})
    unit = json.loads(me.client.get(f"/units/{me.unit_id}/unit.json").text)["unit"]
    assert unit["elements"][0]["rung"] == ["S1.1", "FL1", "TL1", "E1"]
    me.client.post(act, data={"act": "out", "element": "E1", "seen": "2"})
    unit = json.loads(me.client.get(f"/units/{me.unit_id}/unit.json").text)["unit"]
    assert unit["elements"][0]["rung"] == ["S1.1", "FL1", "E1"]
    own = f"/units/{me.unit_id}/plate/E1/act"
    assert me.client.post(own, data={"act": "out", "element": "E1"}).status_code == 422


def test_kits_become_units(somebody, soup):
    me = somebody()
    kit = {
        "label": "Shed",
        "elements": "3",
        "kw": "4.8",
        "volts": "240",
        "control": "relays-dc",
        "circuits": "2",
        "tie": "none",
    }
    answer = me.client.post("/units", data=kit)
    assert answer.status_code == 302
    assert len(soup(me.client.get(answer.location)).select("svg.unit.wide .heater")) == 3
    assert me.client.post("/units", data=kit | {"tie": "sequencer-switch"}).status_code == 422
    assert me.client.post("/units", data=kit | {"elements": "9"}).status_code == 422
    assert me.client.post("/units", data=kit | {"label": " "}).status_code == 422


def test_import_refuses_by_path_and_changes_nothing(somebody, soup):
    me = somebody()
    unit = me.client.get(f"/units/{me.unit_id}/unit.json").text
    bad = unit.replace('"rated_kw": 5,', '"rated_kw": 500,', 1)
    before = soup(me.client.get("/")).main.text
    for text, path in [(bad, "unit.elements[0].rated_kw"), ("{", ""), ("", "")]:
        upload = {"file": (__import__("io").BytesIO(text.encode()), "unit.json")}
        answer = me.client.post("/units/import", data=upload)
        assert answer.status_code == 422
        assert path in soup(answer).select_one("#file-error").text
    assert soup(me.client.get("/")).main.text == before


def routes(app: Flask):
    skipped = {
        "static",
        "auth.sign_in",
        "auth.check_in",
        "auth.choose_theme",
        "quick.show",
        "pages.help_page",
        "pages.figures",
        "pages.health",
        "pocket.contact",
        "pocket.manifest",
        "pocket.show",
        "pocket.worker",
        "owner.by_link",  # whoever holds a link; tests/app/web/test_owner_links.py
        "owner.pdf_by_link",
        "choose.show",  # likewise; tests/app/web/test_people.py
        "choose.take",
    }
    for rule in app.url_map.iter_rules():
        if rule.endpoint not in skipped:
            for method in rule.methods & {"GET", "POST"}:
                yield rule, method


def test_every_route_as_a_stranger_and_as_nobody(app, somebody, session, stored):
    """A foreign id answers 404 on every route that takes one; nobody gets to the sign-in page."""
    owner, stranger = somebody(), somebody()
    bench = owner.start_visit()
    owner.read(bench, "C1", "volts", "240")
    visit_id = bench.rsplit("/", 1)[1]
    csv = owner.client.get(f"/units/{owner.unit_id}/clamp.csv?minutes=1").data
    kept = {"client_id": str(uuid.uuid4()), "log": (io.BytesIO(csv), "log.csv")}
    log_id = owner.client.post(f"{bench}/logs", data=kept).location.rsplit("/", 1)[1]
    planned = owner.client.post("/rounds", data={"title": "All"}).location
    round_id = planned.rsplit("/", 1)[1]
    scene = {"client_id": str(uuid.uuid4()), "unit": str(owner.unit_id)}
    practice_id = owner.client.post("/practice", data=scene).location.rsplit("/", 1)[1]
    values = {
        "account_id": owner.account.id,
        "practice_id": practice_id,
        "unit_id": owner.unit_id,
        "visit_id": visit_id,
        "part": "E1",
        "log_id": log_id,
        "event_id": stored(bench)[0].id,
        "device_id": "BR",
        "name": "own-part",
        "key": "0" * 64,
        "round_id": round_id,
    }
    form = {
        "client_id": str(uuid.uuid4()),
        "at": "E1",
        "quantity": "amps",
        "value": "1",
        "state": "on",
        "reason": "because",
        "complaint": "check-up",
        "outcome": "left-off",
        "call": "W1",
        "action": "on",
        "lead_s": "5",
        "event": "1",
        "left_note": "x",
        "when": "now",
        "text": "some work",
        "key": "0" * 64,
        "rated_kw": "5",
        "rated_volts": "240",
        "to": "later",
        "act": "wait",
        "named": "none",
    }
    before = len(stored(bench))
    walked = 0
    for rule, method in routes(app):
        with app.test_request_context():
            path = app.url_for(rule.endpoint, **{k: v for k, v in values.items() if k in rule.arguments})
        sent = {"data": form} if method == "POST" else {}
        if path.startswith("/health"):
            continue
        nobody = app.test_client().open(path, method=method, **sent)
        assert nobody.status_code == 302, path
        assert nobody.location.startswith("/sign-in"), path
        if rule.arguments:
            walked += 1
            answer = stranger.client.open(path, method=method, **sent)
            assert answer.status_code == 404, f"{method} {path}: {answer.status_code}"
    assert walked > 12
    assert len(stored(bench)) == before


def test_writes_need_a_token(app, somebody):
    me = somebody()
    bench = me.start_visit()
    app.config["WTF_CSRF_ENABLED"] = True
    try:
        assert me.read(bench, "C1", "volts", "240").status_code == 400
        assert me.client.post("/sign-out").status_code == 400
    finally:
        app.config["WTF_CSRF_ENABLED"] = False


def test_headers_and_no_inline_code(app, somebody, soup):
    me = somebody()
    bench = me.start_visit()
    for path in ("/", bench, f"{bench}/report", f"/units/{me.unit_id}", "/units/new", "/quick", "/help"):
        answer = me.client.get(path)
        assert answer.status_code == 200
        assert answer.headers["Content-Security-Policy"] == POLICY
        assert "unsafe" not in POLICY
        page = soup(answer)
        assert not page.select("[style], style, script:not([src])")
        assert not re.search(r"\son[a-z]+=", answer.text)
        for link in page.select("[src], link[href]"):
            assert (link.get("src") or link["href"]).startswith(("/static/", "/app.webmanifest"))
    fresh = app.test_client().post(
        "/sign-in", data={"login": me.account.login, "password": "a long enough password"}
    )
    cookie = fresh.headers["Set-Cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=Lax" in cookie


def test_quick_numbers_without_signing_in(app, soup):
    page = soup(app.test_client().get("/quick?kw=5&volts=240&measured=208"))
    assert page.select_one(".huge span").text == "18.06"
    assert app.test_client().get("/quick?kw=five&volts=240").status_code == 422


def test_odd_requests_never_crash(somebody):
    me = somebody()
    bench = me.start_visit()
    for path in (
        f"{bench}?at=E9",
        f"{bench}?at=:",
        f"{bench}?at=E1&quantity=x",
        f"{bench}/preview",
        f"{bench}/preview?at=E1&value=%00",
        "/units/new?elements=x",
        "/nowhere",
        f"/visits/{uuid.uuid4()}",
        "/visits/7",
    ):
        assert me.client.get(path, headers={"HX-Request": "1"}).status_code < 500
    for path in (f"{bench}/calls", f"{bench}/power", f"{bench}/close", f"/units/{me.unit_id}/visits"):
        assert 400 <= me.client.post(path, data={"calls": "X9", "state": "?"}).status_code < 500


@pytest.mark.parametrize(("url", "key"), [("sqlite://", "x" * 40), ("postgresql+psycopg://x", "short")])
def test_bad_configuration_stops_the_start(url, key):
    with pytest.raises(BadConfiguration):
        Config(url, key)


def test_the_same_entry_sent_at_once_from_two_hands_is_stored_once(somebody, session, stored):
    me = somebody()
    bench = me.start_visit()
    entry = str(uuid.uuid4())
    with ThreadPoolExecutor(6) as pool:
        sent = [pool.submit(me.read, bench, "C1", "volts", "240", client_id=entry) for _ in range(12)]
        assert {answer.result().status_code for answer in sent} == {200}
    assert len(stored(bench)) == 1


def test_readings_from_many_hands_are_all_kept_in_order(somebody, session, stored):
    me = somebody()
    bench = me.start_visit()
    with ThreadPoolExecutor(6) as pool:
        sent = [pool.submit(me.read, bench, "E1", "amps", str(n)) for n in range(24)]
        assert {answer.result().status_code for answer in sent} == {200}
    events = stored(bench)
    assert sorted(e.body["value"] for e in events) == list(range(24))
    times = [e.t_s for e in sorted(events, key=lambda e: e.id)]
    assert times == sorted(times)


def test_notes_do_not_become_formulas_in_a_spreadsheet(somebody):
    me = somebody()
    bench = me.start_visit()
    me.read(bench, "C1", "volts", "240", note="=HYPERLINK(1)")
    rows = me.client.get(f"{bench}/readings.csv").text.splitlines()
    assert rows[0].startswith("t_s,point,quantity,unit,value")
    assert "'=HYPERLINK(1)" in rows[1].split(",")


def test_a_closed_visit_with_a_follow_up_shows_on_its_unit(somebody):
    me = somebody()
    bench = me.start_visit()
    left = {"outcome": "heat-disabled", "left_note": "Waiting.", "follow_up": "Sequencer on order"}
    assert me.client.post(f"{bench}/close", data=left).status_code == 302
    assert me.client.get(bench).location.endswith("/report")
    assert "follow-up" in me.client.get(f"/units/{me.unit_id}").text
    report = me.client.get(f"{bench}/report").text
    assert "Sequencer on order" in report
    assert "heat disabled, heat pump only" in report
    assert me.start_visit("no-heat") != bench


def test_one_open_visit_a_unit(somebody):
    me = somebody()
    me.start_visit()
    again = me.client.post(f"/units/{me.unit_id}/visits", data={"complaint": "check-up"})
    assert again.status_code == 409


HOSTILE = '"><script>alert(1)</script>{{7*7}}&amp;\u202e=cmd()'


def test_a_hostile_plate_is_text_everywhere(somebody, soup):
    """A label from somewhere else is shown as it is: no tag, no template, no formula of its own."""
    me = somebody()
    made = me.client.post(
        "/units",
        data={
            "label": HOSTILE,
            "elements": "2",
            "kw": "5",
            "volts": "240",
            "circuits": "1",
            "control": "double-sequencers",
            "tie": "nc-contact",
        },
    )
    unit = made.location
    opened = me.client.post(f"{unit}/visits", data={"complaint": "check-up"})
    bench = opened.location
    me.read(bench, "E1", "amps", "20.5", note=HOSTILE)
    for path in (unit, bench, f"{bench}/report", f"{bench}/tape", f"{bench}/what-if", "/"):
        page = soup(me.client.get(path))
        assert not [s for s in page.select("script") if "alert" in s.text], path
        assert "49" not in page.select_one("h1").text or path == "/"
    assert HOSTILE.strip() in soup(me.client.get(bench)).select_one("h1").text
    svg = me.client.get(f"{bench}/drawing.svg").text
    assert "<script" not in svg
    kept = json.loads(me.client.get(f"{bench}/visit.json").text)["unit"]["label"]
    assert kept == HOSTILE


@pytest.mark.parametrize(
    ("change", "path"),
    [
        ({"circuits": []}, "unit"),
        ({"elements": [{"id": "E1", "rated_kw": 1e9, "rated_volts": 240}]}, "rated_kw"),
        ({"circuits": [{"id": "C1", "rated_volts": -240}]}, "rated_volts"),
        ({"controls": "many"}, "controls"),
        ({"control_power": {"va": "NaN"}}, "va"),
    ],
)
def test_hostile_plates_are_refused_with_their_path(somebody, soup, change, path):
    me = somebody()
    document = json.loads(me.client.get(f"/units/{me.unit_id}/unit.json").text)
    document["unit"] |= change
    file = (io.BytesIO(json.dumps(document).encode()), "unit.json")
    answer = me.client.post("/units/import", data={"file": file})
    assert answer.status_code == 422
    assert path in soup(answer).select_one("#file-error").text


def test_help_is_ten_short_pages_found_by_words_and_from_where_they_are_needed(somebody, soup, monkeypatch):
    me = somebody()
    bench = me.start_visit()

    def page(path):
        return soup(me.client.get(path))

    links = page("/help").select(".topics nav a")[:-1]
    assert len(links) == 10 and page("/help").select_one(".sheet h2").text.strip() == "Safety"
    for link in links:
        lines = page(link["href"]).select(".sheet li")
        assert 5 <= len(lines) <= 16 and all(len(line.text) < 200 for line in lines), link
    assert page("/help?words=GROUND+tape").select_one("[role=status]"), "no page has both"
    found = page("/help?words=CAPACITOR")
    assert [h.text.strip() for h in found.select("h2")] == ["Safety"] and len(found.select(".sheet li")) == 1
    monkeypatch.setattr(showing, "_asked_for", lambda: "es")
    assert [h.text.strip() for h in page("/help?words=ultimas").select("h2")] == ["Cierre"], (
        "without its accent"
    )
    monkeypatch.undo()
    for path, name in ((bench, "drawing"), (f"{bench}/tape", "tape"), (f"/units/{me.unit_id}", "plate")):
        assert page(path).select_one(f"header a[href='/help/{name}']"), path
    apart = {"static", "pages", "owner", "clamps", "choose"}  # files, the help itself, who is not signed in
    assert set(me.client.application.blueprints) - apart <= set(OF_SCREEN) and set(OF_SCREEN.values()) <= set(
        PAGES
    )
    me.read(bench, "C1", "volts", "240")
    assert page(f"{bench}/judge").select_one("a[href='/help/causes']")
    assert me.client.get("/help/nothing").status_code == 404
