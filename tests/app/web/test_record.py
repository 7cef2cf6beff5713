"""What was done is told to the program, struck out, and shown where people look."""

from __future__ import annotations

import uuid

import pytest

from plentar.core.unit.points import points

#: It was done with the power off, and nobody recorded that.
OFF = {"was_off": "yes"}


def post(me, path: str, **form):
    data = {"client_id": str(uuid.uuid4())} | form
    return me.client.post(path, data=data, headers={"HX-Request": "1"})


def test_work_is_an_event_on_each_part_and_struck_out_like_a_reading(somebody, stored, soup):
    me = somebody()
    bench = me.start_visit()
    answer = post(me, f"{bench}/did", verb="tightened", parts=["C1.l1", "C1.l2"], note="both lugs", **OFF)
    assert answer.status_code == 200
    assert [e.body["part"] for e in stored(bench)] == ["C1.l1", "C1.l2"]
    row = soup(answer).find("li", string=None, class_="event-row")
    assert "Heater lug L2 of circuit C1 tightened: both lugs" in row.text
    assert row.select_one("a.strike")
    first = stored(bench)[0]
    struck = post(me, f"{bench}/readings/{first.id}/strike", reason="the other lug")
    assert struck.status_code == 200
    assert "the other lug" in soup(me.client.get(f"{bench}/log")).text
    report = soup(me.client.get(f"{bench}/report")).text
    assert "Heater lug L2 of circuit C1 tightened" in report
    assert "C1.l1 tightened" not in report


@pytest.mark.parametrize(
    "wrong",
    [
        {"verb": "polished", "parts": "S1"},
        {"verb": "replaced"},
        {"verb": "replaced", "parts": "S9"},
        {"verb": "stage-off", "parts": "S1"},
        {"verb": "cleaned", "parts": "S1", "by": "contactor"},
        {"verb": "replaced", "parts": "E1", "by": "contactor"},
        {"verb": "replaced", "parts": "S1", "by": "valve"},
    ],
)
def test_work_that_does_not_fit_is_refused_and_nothing_stored(somebody, stored, wrong):
    me = somebody()
    bench = me.start_visit()
    assert post(me, f"{bench}/did", **OFF, **wrong).status_code == 422
    assert not stored(bench)


def test_sent_twice_it_is_stored_once(somebody, stored):
    me = somebody()
    bench = me.start_visit()
    entry = str(uuid.uuid4())
    for _ in range(2):
        sent = post(me, f"{bench}/did", client_id=entry, verb="replaced", parts=["S1", "BR"], **OFF)
        assert sent.status_code == 200
    assert [e.body["replaced"] for e in stored(bench)] == ["S1", "BR"]


def test_the_second_clear_part_keeps_its_button_when_the_first_is_done(somebody, soup):
    me = somebody()
    bench = me.start_visit()
    after = soup(post(me, f"{bench}/did", verb="replaced", parts="S1", clear="S1,BR", **OFF))
    judge = after.select_one("#judge")["data-hx-get"]
    assert judge.endswith("todo=BR")
    left = soup(me.client.get(judge, headers={"HX-Request": "1"}))
    assert "BR replaced" in [button.text for button in left.select(".clear-cut button")]


def test_a_breaker_that_was_off_is_switched_on_and_not_replaced(somebody, soup):
    me = somebody()
    bench = me.start_visit("no-power")
    for at, volts in (("C1", "0"), ("C1.line", "242"), ("R", "0")):
        me.read(bench, at, "volts", volts)
    said = soup(me.client.get(f"{bench}/judge", headers={"HX-Request": "1"}))
    buttons = [button.text for button in said.select(".clear-cut button")]
    assert buttons[0] == "C1 switched on"
    assert post(me, f"{bench}/did", verb="switched-on", parts="C1").status_code == 200


def test_a_stop_answered_with_its_breaker_off_offers_to_set_the_power_to_off(somebody, soup, earlier):
    me = somebody()
    bench = me.start_visit()
    me.read(bench, "E1", "amps", "20.4")
    form = {"code": "draw-without-call", "component": "E1"}
    for how, offered in (("wire cut back", 0), ("breaker is off and locked", 1)):
        answer = soup(post(me, f"{bench}/answer", how=how, **form))
        found = answer.find_all("button", string=lambda said: said and "set it to off" in said)
        assert len(found) == offered
        earlier(bench, 5)
        me.read(bench, "E1", "amps", "20.4")  # it draws again: the stop opens again


def test_what_is_left_open_shows_on_the_unit_in_the_list_and_on_the_next_bench(somebody, soup):
    me = somebody()
    bench = me.start_visit()
    done = {"outcome": "left-off", "left_note": "Lug burnt.", "follow_up": "electrician"}
    assert me.client.post(f"{bench}/close", data=done).status_code == 302
    for path in ("/", f"/units/{me.unit_id}"):
        assert "electrician" in soup(me.client.get(path)).main.text
    again = me.start_visit()
    page = soup(me.client.get(again))
    assert "Lug burnt." in page.select_one(".left-open").text
    assert "power off" in page.select_one("#strip").text


def test_times_are_the_shops_own(somebody, soup):
    me = somebody()
    bench = me.start_visit()
    assert "UTC" in soup(me.client.get(f"{bench}/report")).header.find_next("article").text
    assert me.client.post("/account/timezone", data={"timezone": "Mars/Base"}).status_code == 422
    assert me.client.post("/account/timezone", data={"timezone": "Asia/Kolkata"}).status_code == 302
    assert "IST" in soup(me.client.get(f"{bench}/report")).select_one("article.report").text


def test_tone_is_two_buttons_and_waits_for_proved_dead(somebody, stored, soup):
    me = somebody()
    bench = me.start_visit()
    assert me.read(bench, "S1.1", "tone", "1").status_code == 422
    proof = ["off-C1", "known-live", "all-dead", "known-live-again"]
    post(me, f"{bench}/power", state="proved-dead", proof=proof)
    pad = soup(me.client.get(f"{bench}?at=S1.1&quantity=tone"))
    values = [button["value"] for button in pad.select(".pad button[name=value]")]
    assert values == ["1", "0"]
    assert me.read(bench, "S1.1", "tone", "1").status_code == 200
    assert stored(bench)[-1].body["value"] is True
    assert "beep" in soup(me.client.get(bench)).select_one("#log .reading-row").text


def test_every_pad_leads_to_the_plate_of_its_part(somebody, soup):
    me = somebody()
    bench = me.start_visit()
    pairs = ["C1.line.l1:C1.l1", "E1.in:ground", "S1.coil:ground", "W1:ground", "C:E1.in"]
    for at in (*(point.name for point in points(me.record.unit)), *pairs):
        pad = soup(me.client.get(f"{bench}?at={at}", headers={"HX-Request": "1"}))
        link = pad.find("a", string="Its plate")["href"]
        assert me.client.get(link).status_code == 200, at


def test_a_bridge_is_landed_with_the_power_off_and_never_left_in(somebody, soup):
    me = somebody()
    bench = me.start_visit()
    assert post(me, f"{bench}/did", verb="bridged", parts="TL1").status_code == 422
    post(me, f"{bench}/power", state="off")
    shown = post(me, f"{bench}/did", verb="bridged", parts="TL1", note="hand on the disconnect")
    assert "TL1 bridged" in soup(shown).select_one("#strip").text
    for left in ("in-service", "left-off", "heat-disabled"):
        form = {"outcome": left, "left_note": "as it is"}
        refused = me.client.post(f"{bench}/close", data=form)
        assert refused.status_code == 422
        assert "TL1" in soup(refused).select_one(".complaint").text
    assert "bridge removed" in soup(me.client.get(f"{bench}/close")).select_one(".stop").text
    assert post(me, f"{bench}/did", verb="unbridged", parts="TL1").status_code == 200
    closed = me.client.post(f"{bench}/close", data={"outcome": "in-service"})
    assert closed.status_code == 302


def test_a_stage_is_unhooked_and_connected_with_the_power_off(somebody):
    me = somebody()
    bench = me.start_visit()
    assert post(me, f"{bench}/did", verb="stage-off", parts="E2").status_code == 422
    post(me, f"{bench}/power", state="off")
    assert post(me, f"{bench}/did", verb="stage-off", parts="E2").status_code == 200


def test_hands_go_to_a_part_once_its_circuits_are_off_or_somebody_says_they_were(somebody, stored, soup):
    """A breaker's line side stays live whatever is off here: there it is always asked."""
    me = somebody()
    bench = me.start_visit()
    deed = {"verb": "replaced", "parts": "E1", "note": "burnt through"}
    refused = post(me, f"{bench}/did", **deed)
    assert refused.status_code == 422
    assert "C1 is on, as logged" in refused.text
    assert not stored(bench)
    assert post(me, f"{bench}/did", **deed, **OFF, ago_min="20").status_code == 200
    said = stored(bench)[-1].body["note"]
    assert said == "burnt through; with the power off, which was not logged, 20 min before it was entered"
    post(me, f"{bench}/power", state="off")
    assert post(me, f"{bench}/did", **deed).status_code == 200
    assert stored(bench)[-1].body["note"] == "burnt through", "it is recorded: nothing is to be said"
    line = {"verb": "remade", "parts": "C1.line"}
    assert post(me, f"{bench}/did", **line).status_code == 422
    assert post(me, f"{bench}/did", **line, **OFF).status_code == 200
    assert post(me, f"{bench}/did", verb="cleaned", parts="airflow").status_code == 200


def test_a_reading_that_does_not_count_says_so_where_it_was_stored(somebody, soup):
    """Ohms of a contact at once after its call: it may not have let go. Amps before the window: again in so
    many seconds."""
    me = somebody()
    bench = me.start_visit("not-enough-heat")
    post(me, f"{bench}/calls", calls="W1")
    early = soup(me.read(bench, "E2", "amps", "0"))
    assert "Too early, again in" in early.text
    post(me, f"{bench}/calls", calls="")
    post(me, f"{bench}/power", state="off")
    gate = soup(me.client.get(f"{bench}?at=S1.1&quantity=ohms")).select(".gate [name=proof]")
    proof = [box["value"] for box in gate]
    post(me, f"{bench}/power", state="proved-dead", proof=proof)
    kept = soup(me.read(bench, "S1.1", "ohms", "0.1"))
    assert "may not have let go yet" in kept.select_one("#verdict").text


def test_an_entry_of_several_parts_keeps_what_it_can_and_says_what_it_could_not(somebody, stored, soup):
    """The breaker's line side stays live with its breaker off: hands went to the switch and not there."""
    me = somebody()
    bench = me.start_visit()
    post(me, f"{bench}/power", state="off")
    form = {"verb": "remade", "parts": ["S1", "C1.line", "S9"], "note": "new ends, both"}
    said = post(me, f"{bench}/did", **form)
    assert said.status_code == 200
    assert [e.body.get("part") for e in stored(bench)[1:]] == ["S1"]
    work = soup(said).select_one(".work")
    assert "Logged: S1." in work.text and "C1.line: The line side of C1 stays live" in work.text
    assert "S9: " in work.select_one(".complaint").text
    assert work.select_one("#did-note")["value"] == "new ends, both"
    assert [box["value"] for box in work.select("input[name=parts][checked]")] == ["C1.line"]


@pytest.mark.parametrize("where", ["/work", ""])
def test_without_script_a_refused_form_comes_back_on_its_page_as_it_was_typed(somebody, stored, soup, where):
    me = somebody()
    bench = me.start_visit()
    form = {"client_id": str(uuid.uuid4()), "verb": "remade", "parts": "S1", "note": "spade burnt"}
    left = {"Referer": f"http://localhost{bench}{where}?part=S1"}
    answer = me.client.post(f"{bench}/did", data=form, headers=left)
    assert answer.status_code == 422 and not stored(bench)
    page = soup(answer)
    if where:
        assert "on, as logged" in page.select_one("#refused").text
        assert page.select_one("#did-note")["value"] == "spade burnt"
        assert page.select_one("[id='verb-remade']").has_attr("checked")
        assert page.select_one("[name=parts][checked]")["value"] == "S1"
        assert page.select_one("[autofocus]")
    else:  # no such form stands there any more
        assert "on, as logged" in page.select_one("#problem").text


def test_a_refusal_is_put_into_pages_of_this_application_alone(somebody, soup):
    me = somebody()
    bench = me.start_visit()
    form = {"client_id": str(uuid.uuid4()), "verb": "remade", "parts": "S1"}
    for left in ("http://elsewhere.example/", "http://localhost/no/such/page", "", "http://localhost:9/"):
        answer = me.client.post(f"{bench}/did", data=form, headers={"Referer": left})
        assert answer.status_code == 422 and soup(answer).select_one("#problem")
