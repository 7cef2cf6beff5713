"""A whole visit in an attic without signal: on the phone, the browser killed twice, then sent."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import time
import uuid
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, Page, expect

from plentar.core.door import judge
from plentar.core.judge.diagnosis import diagnose
from plentar.core.visit.evidence import Evidence
from plentar.files.visit_file import parse_visit_file
from tests.app.browser.conftest import ARGUMENTS, DESK, PHONE, sign_in
from tests.app.browser.test_journey import AXE, RULES
from tests.app.conftest import PASSWORD, Somebody

PICTURE = Path(__file__).resolve().parents[3] / "src/plentar/web/static/icon-192.png"
SMALL = {"width": 360, "height": 640}


class Phone:
    """One person's phone: its browser keeps what it has in a folder, also when it is killed."""

    def __init__(self, base: str, folder: Path, browser: Browser, size: dict[str, int], locale: str) -> None:
        self.base, self.folder, self.browser, self.size, self.locale = base, folder, browser, size, locale
        #: What went wrong in a script of its pages.
        self.errors: list[str] = []
        self.context = self.opened()

    def opened(self) -> BrowserContext:
        made = self.browser.browser_type.launch_persistent_context(
            str(self.folder),
            executable_path="/usr/bin/chromium",
            args=ARGUMENTS,
            viewport=self.size,
            locale=self.locale,
            has_touch=True,
            is_mobile=True,
        )
        made.pages[0].on("pageerror", lambda error: self.errors.append(error.stack or str(error)))
        return made

    @property
    def page(self) -> Page:
        return self.context.pages[0]

    def killed(self) -> None:
        """At once, with all its processes, and opened again without signal."""
        found = subprocess.run(["pgrep", "-f", str(self.folder)], capture_output=True, text=True, check=True)
        for pid in found.stdout.split():
            with_pid = int(pid)
            if with_pid != os.getpid():
                os.kill(with_pid, signal.SIGKILL)
        time.sleep(0.5)
        for lock in self.folder.glob("Singleton*"):
            lock.unlink()
        self.context = self.opened()
        self.context.set_offline(True)

    def at(self, when: datetime) -> None:
        """The phone's clock, from now on."""
        self.page.clock.install(time=when)


@pytest.fixture
def phone_of(base: str, tmp_path: Path, browser: Browser) -> Iterator[Callable[..., Any]]:
    made: list[Phone] = []

    def opened(size: dict[str, int] = PHONE, locale: str = "en-US") -> Phone:
        made.append(Phone(base, tmp_path / f"phone{len(made)}", browser, size, locale))
        return made[-1]

    yield opened
    for phone in made:
        phone.context.close()
        assert not phone.errors


@pytest.fixture
def context(browser: Browser) -> Iterator[BrowserContext]:
    made = browser.new_context(viewport=DESK)
    yield made
    made.close()


def take_along(phone: Phone, me: Somebody) -> None:
    sign_in(phone.page, phone.base, me.account.login, PASSWORD)
    phone.page.goto(f"{phone.base}/units/{me.unit_id}")
    phone.page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    phone.page.locator("[data-along]").click()
    expect(phone.page.locator("[data-along]")).to_contain_text(re.compile(r"^\d+ "))


def along(page: Page, base: str, me: Somebody) -> None:
    """Signed in, with the unit of the visit that is open on board."""
    sign_in(page, base, me.account.login, PASSWORD)
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.locator("[data-along]").click()
    expect(page.locator("[data-along]")).to_contain_text("1 units")


def begun_before(me: Somebody, complaint: str) -> tuple[str, datetime]:
    """The bench of a visit that began an hour ago, and when."""
    begun = datetime.now(UTC) - timedelta(hours=1)
    headers = {"Plentar-Taken": str(round(1000 * begun.timestamp())), "Plentar-Outbox": "1"}
    data = {"client_id": str(uuid.uuid4()), "complaint": complaint}
    answer = me.client.post(f"/units/{me.unit_id}/visits", data=data, headers=headers)
    return f"/visits/{answer.get_json()['visit']}", begun


def touch(page: Page, at: str) -> None:
    """A part in the drawing, on whichever side of the unit it is drawn."""
    for side in ("line", "control", "around"):
        page.locator(f"[data-shows={side}]").click()
        part = page.locator(f"[data-drawn={side}] svg a[href='#at={at}']:visible")
        if part.count():
            part.first.click()
            return
    page.locator("details:has(#points):not([open]) summary").click()
    page.locator(f"#points [data-point='{at}']").click()


def read(page: Page, at: str, quantity: str, keys: str) -> None:
    touch(page, at)
    page.locator(f"#pad [data-reads={quantity}]").click()
    for key in keys:
        page.locator(f"#pad [data-key='{key}']").click()
    page.locator("#pad .store").click()
    # The newest of them is this one, not the one before it.
    expect(page.locator("#rows li").first).to_contain_text(at.partition(".")[0])
    expect(page.locator("#rows li").first.locator(".kept-state.kept")).to_be_visible()
    page.locator("#pad [data-shut]").click()


def suspects(document: str) -> tuple[dict[str, float], list[str], str]:
    """What the judge makes of a visit file: suspects above a hundredth, findings, how sure it is."""
    file = parse_visit_file(document)
    unit, visit = file.unit.to_core(), file.visit.to_core()
    judgement, diagnosis = judge(unit, visit), diagnose(Evidence(unit, visit))
    shares = {s.fault: round(s.probability, 2) for s in diagnosis.suspects if s.probability > 0.01}
    return shares, [f.code for f in judgement.findings], f"{diagnosis.state} {diagnosis.parts}"


def all_sent(page: Page) -> None:
    """The queue itself says so: a list that is empty may be one that is not drawn yet."""
    for _ in range(300):
        left = page.evaluate("Outbox.unsent().then((waits) => waits.map((one) => one.reason))")
        assert not any(left), left
        if not left:
            return
        page.wait_for_timeout(200)
    raise AssertionError("it is not sent")


DONE = [
    (20, {"read": "volts", "at": "C1", "value": 240}),
    (40, {"calls": ["G", "W1"]}),
    (240, {"read": "amps", "at": "E1", "value": 20.8}),
    (260, {"read": "amps", "at": "E2", "value": 0}),
    (320, {"read": "volts", "at": "S1.2", "value": 240}),
    (330, {"observe": "on", "part": "blower"}),
    (400, {"calls": []}),
    (420, {"power": "off"}),
]


@pytest.mark.parametrize(
    ("size", "locale", "words"),
    [
        (PHONE, "en-US", ["Visit begun", "in range", "no current", "seen on"]),
        (SMALL, "es-US", ["Visita empezada", "en rango", "sin corriente", "se vio"]),
    ],
    ids=["phone", "small"],
)
def test_a_whole_visit_without_signal(
    size: dict[str, int],
    locale: str,
    words: list[str],
    somebody: Callable[[], Somebody],
    phone_of: Callable[..., Phone],
) -> None:
    me, phone = somebody(), phone_of(size, locale)
    me.client.post("/account/language", data={"own_language": locale[:2]})
    begins, in_range, dead, seen = words
    take_along(phone, me)
    begun = datetime.now(UTC) - timedelta(hours=1)
    phone.context.set_offline(True)
    phone.page.clock.install(time=begun)

    # The address of today's page, as somebody opens it in the attic.
    phone.page.goto(phone.base)
    expect(phone.page.locator("#along")).to_contain_text("1 ")
    phone.page.locator("#units a").click()
    phone.page.locator("#complaint").select_option("not-enough-heat")
    phone.page.locator("[data-begin]").click()
    expect(phone.page.locator("#rows")).to_contain_text(begins)

    def until(seconds: float) -> None:
        phone.page.clock.set_fixed_time(begun + timedelta(seconds=seconds))

    until(20)
    read(phone.page, "C1", "volts", "240")
    until(40)
    for call in ("W1", "G"):
        phone.page.locator(f"[data-call={call}]").click()
        expect(phone.page.locator(f"[data-call={call}]")).to_have_attribute("aria-pressed", "true")

    phone.killed()
    phone.page.clock.install(time=begun + timedelta(seconds=230))
    phone.page.goto(f"{phone.base}/units/{me.unit_id}")
    expect(phone.page.locator("#rows .kept-state")).to_have_count(4)
    until(240)
    read(phone.page, "E1", "amps", "20.8")
    # 20.8 A by 5000 W at 240 V read: in range; nothing where as much is due: dead.
    assert in_range in phone.page.locator("#rows li").first.inner_text()
    until(260)
    read(phone.page, "E2", "amps", "0")
    assert dead in phone.page.locator("#rows li").first.inner_text()

    phone.killed()
    phone.page.clock.install(time=begun + timedelta(seconds=310))
    phone.page.goto(f"{phone.base}/units/{me.unit_id}")
    until(320)
    read(phone.page, "S1.2", "volts", "240")
    until(330)
    touch(phone.page, "blower")
    phone.page.locator("[data-acts=on]").click()
    expect(phone.page.locator("#rows li").first).to_contain_text(seen)
    phone.page.locator("#pad [data-shut]").click()
    until(400)
    for call in ("W1", "G"):
        phone.page.locator(f"[data-call={call}]").click()
        expect(phone.page.locator(f"[data-call={call}]")).to_have_attribute("aria-pressed", "false")
    until(420)
    phone.page.locator("[data-power=off]").click()
    phone.page.locator("details:has(#close) summary").click()
    phone.page.locator("#photo [type=file]").set_input_files(PICTURE)
    phone.page.locator("#photo button").click()
    expect(phone.page.locator("#rows li").first).to_contain_text("Foto" if locale == "es-US" else "Photo")
    phone.page.locator("#outcome-left-off").check(force=True)
    phone.page.locator("#left_note").fill("breaker off")
    phone.page.locator("#close button").click()
    expect(phone.page.locator("#queue li")).to_have_count(13)
    assert not phone.page.locator("#queue .refused").count()

    # Down the ladder: signal, and today's clock.
    phone.killed()
    phone.context.set_offline(False)
    phone.page.goto(phone.base)
    if phone.page.locator("#login").count():
        sign_in(phone.page, phone.base, me.account.login, PASSWORD)
    phone.page.goto(f"{phone.base}/pocket")
    all_sent(phone.page)
    report = me.client.get(f"/units/{me.unit_id}").text
    visit = report.partition("/visits/")[2][:36]
    sent = me.client.get(f"/visits/{visit}/visit.json").text
    assert_same(json.loads(sent), sent)


def assert_same(document: dict[str, Any], sent: str) -> None:
    """Every entry once and at its time, and judged as the same visit typed into a file."""
    stored = document["visit"]["events"]
    # W1 and G were touched one after the other, as two calls.
    twice = {"calls": [["W1"], ["G", "W1"], ["G"], []]}
    assert [e["calls"] for e in stored if "calls" in e] == twice["calls"]
    wanted = [(t, e) for t, e in DONE if "calls" not in e]
    found = [(e["t"], {k: v for k, v in e.items() if k != "t"}) for e in stored if "calls" not in e]
    assert [e for _, e in found] == [e for _, e in wanted]
    assert all(abs(a - b) < 3 for (a, _), (b, _) in zip(found, wanted, strict=True)), found
    typed = {**document, "visit": document["visit"] | {"events": [{"t": t, **e} for t, e in DONE]}}
    assert suspects(sent) == suspects(json.dumps(typed))
    assert len(document["visit"]["photos"]) == 1
    assert document["visit"]["closed"]["outcome"] == "left-off"


def test_a_stop_without_signal_bars_until_it_is_made_safe(
    page: Page, base: str, somebody: Callable[[], Somebody]
) -> None:
    """20 A with nothing called: latched at once, also when nothing is read there next; and what was refused by a
    colleague who has begun a visit meanwhile is put into theirs."""
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.goto(f"{base}/units/{me.unit_id}")
    page.locator("[data-along]").click()
    expect(page.locator("[data-along]")).to_contain_text("1 units")
    page.context.set_offline(True)
    page.goto(f"{base}/units/{me.unit_id}")
    page.locator("[data-begin]").click()
    for value in ("20.4", "0"):
        touch(page, "E1")
        page.locator("#pad [data-reads=amps]").click()
        page.locator("#value").fill(value)
        page.locator("#pad .store").click()
        expect(page.locator("#stops")).to_contain_text("Open the breaker")
    page.locator("[data-call=W1]").click()
    expect(page.locator("#alert")).to_contain_text("Not now")
    expect(page.locator("[data-call=W1]")).to_have_attribute("aria-pressed", "false")
    page.locator("[data-power=off]").click()
    page.locator("[data-power=on]").click()
    expect(page.locator("#stands")).to_contain_text("Breakers open")
    # Ohms wait for their gate, and that for every tick.
    touch(page, "E1")
    page.locator("#pad [data-reads=ohms]").click()
    expect(page.locator("#pad .reading")).to_be_hidden()
    page.locator(".made-safe input").fill("breaker locked, owner told")
    page.locator(".made-safe button").click()
    expect(page.locator("#stops section")).to_have_count(0)

    bench = me.start_visit()
    page.context.set_offline(False)
    page.goto(f"{base}/pocket")
    expect(page.locator("#queue .refused")).to_have_count(1)
    page.locator("#queue [data-act=join]").click()
    expect(page.locator("#queue .refused")).to_have_count(0)
    all_sent(page)
    document = me.client.get(f"{bench}/visit.json").get_json(force=True)["visit"]
    # They were done before their colleague's visit began: at its beginning, in their order.
    assert [e.get("value", e.get("power")) for e in document["events"]] == [20.4, 0, "off"]
    assert [a["how"] for a in document["answered"]] == ["breaker locked, owner told"]


def test_work_without_signal_wire_by_wire(page: Page, base: str, somebody: Callable[[], Somebody]) -> None:
    """The sequencer goes out, wire by wire; no power before the last is on; then its times and the retest."""
    me = somebody()
    bench, begun = begun_before(me, "not-enough-heat")
    along(page, base, me)
    page.context.set_offline(True)
    page.clock.install(time=begun)
    page.goto(f"{base}{bench}")
    page.locator("#wires-of-device summary").click()
    page.locator("#device").select_option("S1")
    page.locator("[data-swaps=begin]").click()
    wires = page.locator("#wires li")
    wires.first.locator("button").click()
    expect(page.locator("#alert")).to_contain_text("prove dead first")
    page.locator("[data-power=off]").click()
    touch(page, "E1")
    page.locator("#pad [data-reads=ohms]").click()
    for tick in page.locator("#pad .gate [type=checkbox]").all():
        tick.check()
    page.locator("#pad .gate .main").click()
    expect(page.locator("#stands")).to_contain_text("Proved dead")
    wires.nth(0).locator("[data-act-of-wire=off]").click()
    wires.nth(1).locator("[data-act-of-wire=off]").click()
    expect(page.locator("#alert")).to_contain_text("One wire at a time")
    page.locator("[data-power=on]").click()
    expect(page.locator("#alert")).to_contain_text("no power before every wire is on")
    wires.nth(0).locator("[data-act-of-wire=on]").click()
    for n in range(1, wires.count()):
        wires.nth(n).locator("[data-act-of-wire=off]").click()
        wires.nth(n).locator("[data-act-of-wire=on]").click()
    page.locator("[data-swaps=finish]").click()
    expect(page.locator("#read-again")).to_be_visible()
    expect(page.locator("#retest")).to_contain_text("○ not read")
    page.locator("[data-power=on]").click()
    page.locator("[data-call=W1]").click()
    page.locator("[data-call=G]").click()
    expect(page.locator("[data-call=G]")).to_have_attribute("aria-pressed", "true")
    page.clock.set_fixed_time(begun + timedelta(seconds=400))
    page.locator("#retest [data-point=E1]").first.click()
    page.locator("#value").fill("20.6")
    page.locator("#pad .store").click()
    expect(page.locator("#retest li", has_text="Element E1, amps").first).to_contain_text("20.6")

    page.context.set_offline(False)
    page.goto(f"{base}/pocket")
    all_sent(page)
    document = me.client.get(f"{bench}/visit.json").get_json(force=True)
    events = document["visit"]["events"]
    moved = [(e["wire"], e["is"]) for e in events if "wire" in e]
    assert len(moved) == 2 * len({wire for wire, _ in moved}) > 8
    assert [e["replaced"] for e in events if "replaced" in e] == ["S1"]
    assert "20.6" in me.client.get(f"{bench}/close").text.partition('id="retest"')[2]


def test_the_times_of_a_call_without_signal(page: Page, base: str, somebody: Callable[[], Somebody]) -> None:
    """What acts is one touch beside its window: in it, or late."""
    me = somebody()
    bench, begun = begun_before(me, "slow-to-start")
    along(page, base, me)
    page.context.set_offline(True)
    page.clock.install(time=begun)
    page.goto(f"{base}{bench}")
    page.clock.set_fixed_time(begun + timedelta(seconds=10))
    page.locator("[data-call=W1]").click()
    row = page.locator("#windows li", has_text="switch 1").first
    expect(row).to_contain_text("0:01 to 0:20 after W1")
    expect(row).to_contain_text("○")
    page.clock.set_fixed_time(begun + timedelta(seconds=10 + 12))
    row.locator("button").click()
    expect(row).to_contain_text(re.compile("0:1[12]"))
    expect(row).to_contain_text("● in its window")
    page.clock.set_fixed_time(begun + timedelta(seconds=10 + 400))
    late = page.locator("#windows li", has_text="switch 2").first
    late.locator("button").click()
    expect(late).to_contain_text("▲ late")
    page.context.set_offline(False)
    page.clock.set_fixed_time(datetime.now(UTC))
    page.goto(f"{base}/pocket")
    all_sent(page)
    tape = me.client.get(f"{bench}/tape").text
    assert "in its window" in tape
    assert "late" in tape


def test_a_form_that_leads_elsewhere_is_kept_too(
    page: Page, base: str, somebody: Callable[[], Somebody]
) -> None:
    """Closing out as the signal goes: kept, sent when it is back; and what is refused says so beside its field."""
    me = somebody()
    bench = me.start_visit()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}{bench}/close")
    page.locator("#left button.main").click()
    expect(page.locator("#left .complaint")).to_be_visible()
    page.locator("#outcome-left-off").check(force=True)
    page.locator("#left_note").fill("left off at the disconnect")
    page.context.set_offline(True)
    page.locator("#left button.main").click()
    expect(page.locator("#alert")).to_contain_text("Kept on this phone")
    assert "closed" not in me.client.get(f"{bench}/visit.json").get_json(force=True)["visit"]
    page.context.set_offline(False)
    page.evaluate("Outbox.send({ ifAvailable: false })")
    all_sent(page)
    closed = me.client.get(f"{bench}/visit.json").get_json(force=True)["visit"]["closed"]
    assert closed["note"] == "left off at the disconnect"


def test_what_is_typed_after_what_was_kept_is_another_entry(
    page: Page, base: str, somebody: Callable[[], Somebody]
) -> None:
    me = somebody()
    bench = me.start_visit()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}{bench}?at=C1&quantity=volts")
    page.context.set_offline(True)
    for value, waits in (("239", 1), ("241", 2)):
        page.locator("#value").fill(value)
        page.locator("form.reading .store").click()
        expect(page.locator("#unsent b")).to_have_text(str(waits))
    page.context.set_offline(False)
    page.goto(f"{base}/pocket")
    all_sent(page)
    events = me.client.get(f"{bench}/visit.json").get_json(force=True)["visit"]["events"]
    assert [e["value"] for e in events] == [239, 241]


@pytest.mark.parametrize(("size", "locale"), [(PHONE, "es-US"), (DESK, "en-US")], ids=["phone", "desk"])
def test_the_bench_without_signal_is_within_reach(
    browser: Browser, base: str, somebody: Callable[[], Somebody], size: Any, locale: str
) -> None:
    """Nothing that axe finds, nothing wider than the page, in either language; what is typed is judged."""
    me = somebody()
    bench = me.start_visit()
    me.read(bench, "C1", "volts", "240")
    context = browser.new_context(viewport=size, locale=locale, bypass_csp=True)
    page = context.new_page()
    sign_in(page, base, me.account.login, PASSWORD)
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.locator("[data-along]").click()
    expect(page.locator("[data-along]")).to_contain_text("1 ")
    context.set_offline(True)
    page.goto(f"{base}{bench}")
    expect(page.locator("#rows")).to_contain_text("240")
    page.locator("[data-call=W1]").click()
    expect(page.locator("#windows li").first).to_be_visible()
    page.evaluate("document.querySelectorAll('#visit details').forEach((one) => { one.open = true; })")
    touch(page, "E1")
    expect(page.locator("#pad .due")).not_to_be_empty()
    page.add_script_tag(path=AXE)
    for theme, rules in RULES.items():
        page.emulate_media(color_scheme=theme)
        violations = page.evaluate("some => axe.run({runOnly: some})", rules)["violations"]
        assert not violations, [(v["id"], [n["target"] for n in v["nodes"]][:3]) for v in violations]
    wide = page.evaluate("document.documentElement.scrollWidth - innerWidth")
    assert wide <= 0, wide
    context.close()


def test_what_one_has_kept_is_not_sent_by_another(
    page: Page, base: str, somebody: Callable[[], Somebody]
) -> None:
    """A shared phone: their entry waits for them, and what they took along is gone for the other."""
    me, other = somebody(), somebody()
    bench = me.start_visit()
    along(page, base, me)
    page.goto(f"{base}{bench}?at=E1&quantity=amps")
    page.context.set_offline(True)
    page.locator("#value").fill("20.4")
    page.locator("form.reading .store").click()
    expect(page.locator("#alert")).to_contain_text("Kept on this phone")
    page.goto("about:blank")
    page.context.set_offline(False)
    # Another's session on the same browser, as if the first had ended long ago.
    page.context.clear_cookies()
    sign_in(page, base, other.account.login, PASSWORD)
    page.goto(f"{base}/pocket")
    expect(page.locator("#queue .kept")).to_have_count(1)
    expect(page.locator("#along")).to_contain_text("Nothing is on board")
    page.evaluate("Outbox.send()")
    assert me.client.get(f"{bench}/visit.json").get_json(force=True)["visit"]["events"] == []
    # Leaving asks, since something waits.
    asked = []
    page.goto(base)
    expect(page.locator("#unsent")).to_be_visible()
    page.once("dialog", lambda dialog: (asked.append(dialog.message), dialog.accept()))
    page.locator("[data-leaves] button").click()
    page.wait_for_url(f"{base}/sign-in")
    assert "not sent yet" in asked[0]
    sign_in(page, base, me.account.login, PASSWORD)
    all_sent(page)
    [event] = me.client.get(f"{bench}/visit.json").get_json(force=True)["visit"]["events"]
    assert event["value"] == 20.4
