"""plentar shots: take the pictures in docs/screenshots again, from fresh demo data."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Literal

from benchmarks.server import fresh_database, server
from plentar.cli.command import command
from plentar.operate.installation import home
from plentar.store.database import connect
from plentar.store.demo.load import PASSWORD, load_demo
from plentar.web.server import APPLICATION

if TYPE_CHECKING:
    from playwright.sync_api import ViewportSize

DESK: ViewportSize = {"width": 1280, "height": 800}
PHONE: ViewportSize = {"width": 390, "height": 844}
Theme = Literal["light", "dark"]
CHROMIUM = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-sync",
    "--disable-background-networking",
    "--disable-component-update",
]


@command("shots")
def shots() -> None:
    """Serve a fresh demo and photograph each main view into docs/screenshots."""
    from playwright.sync_api import sync_playwright  # noqa: PLC0415

    url = fresh_database(f"shots_{uuid.uuid4().hex[:8]}")
    with connect(url)() as session:
        load_demo(session)
    env = {"PLENTAR_DATABASE_URL": url, "PLENTAR_SECRET_KEY": "x" * 40, "PLENTAR_DEMO": "1"}
    with server(APPLICATION, env) as port, sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        for name, size, theme, steps in SHOTS:
            context = browser.new_context(viewport=size, color_scheme=theme, has_touch=size is PHONE)
            page = context.new_page()
            page.goto(f"http://127.0.0.1:{port}/sign-in")
            _sign_in(page)
            steps(page)
            page.wait_for_timeout(400)
            page.screenshot(path=home() / "docs/screenshots" / f"{name}.png")
            context.close()
        browser.close()


def _sign_in(page: Any) -> None:
    page.fill("#login", "tobias")
    page.fill("#password", PASSWORD)
    page.click("button.main")
    page.wait_for_url("**/")


def _house(door: int) -> Callable[[Any], None]:
    def go(page: Any) -> None:
        page.click(f".house:has(.door:text-is('{door}'))")
        page.wait_for_load_state()

    return go


def _bench(page: Any, form: str = "wide") -> None:
    _house(5)(page)
    page.click(f"svg.{form} a[id$='-E1']")
    page.wait_for_selector(".pad")
    page.fill("#value", "20.4")
    page.wait_for_selector(".says")


def _judge(page: Any) -> None:
    _house(5)(page)
    page.wait_for_selector(".next.first")
    page.locator(".next.first .why summary").click()
    page.locator(".suspects .why summary").first.click()


def _handover(page: Any) -> None:
    """Home 12: high volts, a poor filter, a sequencer replaced and not read again yet."""
    _house(12)(page)
    page.select_option("#complaint", "not-enough-heat")
    page.click("button:has-text('Start a visit')")
    page.wait_for_load_state()
    bench = page.url
    with page.expect_response(lambda answer: answer.url.endswith("/look")):
        page.locator("details.look button[value='filter:poor']").click()
    _read(page, bench, "C1", "volts", "257")
    page.goto(f"{bench}/work")
    page.check("[id='part-S1']")
    page.get_by_role("button", name="Log work", exact=True).click()
    page.wait_for_load_state()
    page.goto(f"{bench}/close")
    page.locator(".suggested button").last.click()
    page.wait_for_load_state()
    page.evaluate("scrollTo(0, 0)")


def _read(page: Any, bench: str, at: str, quantity: str, value: str) -> None:
    page.goto(f"{bench}?at={at}&quantity={quantity}")
    page.fill("#value", value)
    page.click(".store")
    page.wait_for_selector(".says")


def _owner(page: Any) -> None:
    """The same visit for its owner."""
    _house(12)(page)
    page.goto(f"{page.url.split('?')[0]}/owner")


def _make_safe(page: Any) -> None:
    """Home 8: nothing is called, and an element draws."""
    _house(8)(page)
    page.select_option("#complaint", "heat-will-not-stop")
    page.click("button:has-text('Start a visit')")
    page.wait_for_load_state()
    bench = page.url
    page.goto(f"{bench}?at=E1&quantity=amps")
    page.fill("#value", "20.4")
    page.click(".store")
    page.wait_for_selector(".says")
    page.goto(bench)
    page.wait_for_selector(".stop")


def _wiring(page: Any) -> None:
    """Home 5's relay with L1 on its common: the way of the harm."""
    _house(5)(page)
    on = "".join(f"&on={each}" for each in ("A:G", "B:C", "1:L1", "2:blower", "3:heat"))
    page.goto(f"{page.url.split('?')[0]}/devices/BR?face=wiring&part=relay-dpdt{on}&at=1")


def _transfer(page: Any) -> None:
    """Three wires of home 5's sequencer moved, one of them in the hand."""
    _house(5)(page)
    bench = page.url.split("?")[0]
    page.locator("#strip").get_by_role("button", name="Open breakers").click()
    page.wait_for_timeout(500)
    page.goto(f"{bench}/devices/S1?face=swap&part=sequencer-3")
    page.get_by_role("button", name="Start wire transfer").click()
    for number, acts in enumerate((("Take off", "Landed"), ("Take off", "Landed"), ("Take off",))):
        for act in acts:
            page.locator(".wires li").nth(number).get_by_role("button", name=act).click()
            page.wait_for_timeout(400)


def _guided(page: Any) -> None:
    """The first steps of the sag test at home 4."""
    _house(4)(page)
    if page.locator("#complaint").count():
        page.select_option("#complaint", "check-up")
        page.click("button:has-text('Start a visit')")
        page.wait_for_load_state()
    page.locator("summary", has_text="Tests").click()
    page.get_by_role("form", name="Tests").get_by_role("button", name="Sag test").click()
    for number, (at, volts) in enumerate((("C1.line", "241.2"), ("C1", "240.8")), start=1):
        page.click(".guided .next.first button")
        page.wait_for_selector(f".pad[data-point='{at}']")
        page.fill("#value", volts)
        page.click(".store")
        page.wait_for_selector(f".guided h2 small:has-text('{number} of')")
    page.click(".pad .shut")
    page.wait_for_selector(".guided .next.first")
    page.evaluate("document.querySelector('.guided').scrollIntoView()")


def _circuits(page: Any) -> None:
    _house(10)(page)
    page.select_option("#complaint", "check-up")
    page.click("button:has-text('Start a visit')")
    page.wait_for_load_state()
    page.locator("summary", has_text="Tests").click()
    page.click("a:text-is('Circuits')")
    page.wait_for_load_state()


def _tape(page: Any) -> None:
    """A new visit at home 9: heat called, the watch a little late, the first stage and the blower."""
    _house(9)(page)
    if page.locator("#complaint").count():
        page.select_option("#complaint", "check-up")
        page.click("button:has-text('Start a visit')")
        page.wait_for_load_state()
    page.click("text=Tape")
    page.wait_for_load_state()
    if page.get_by_role("button", name="W1 on now", exact=True).count():
        for button in ("W1 on now", "+0:30", "S1.1 on now", "blower on now"):
            page.get_by_role("button", name=button, exact=True).click()
            page.wait_for_timeout(500)
    page.evaluate("scrollTo(0, 0)")


def _years(page: Any) -> None:
    _house(2)(page)
    page.get_by_role("link", name="All readings over the years").click()
    page.wait_for_load_state()


def _plate(page: Any) -> None:
    _house(12)(page)
    page.click("svg.wide a[id$='-E1']")
    page.wait_for_selector("#panel .sheet")


def _report(page: Any) -> None:
    _house(3)(page)
    page.click("a.line")
    page.wait_for_load_state()


def _at(path: str) -> Callable[[Any], None]:
    def go(page: Any) -> None:
        page.goto(page.url.split("/", 3)[0] + "//" + page.url.split("/", 3)[2] + path)

    return go


def _without_signal(page: Any) -> None:
    """Taken along, and opened where nothing answers."""
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.click("[data-along]")
    page.wait_for_selector("[data-along]:has-text('on board')", timeout=120_000)
    page.context.set_offline(True)
    page.click(".house:has(.door:text-is('5'))")
    page.wait_for_selector("svg.narrow a[href='#at=E1']")
    page.click("svg.narrow a[href='#at=E1']")
    page.click("#pad [data-reads=amps]")
    page.fill("#value", "20.4")


def _practice(page: Any) -> None:
    """A scene with the heat on, a strip clamped, and the hand on the wrong wheel."""
    page.goto(f"{page.url}practice")
    page.fill("#seed", "kiln")
    page.select_option("#theme", "sequencers")
    page.click("form:has(#theme) button.main")
    for words in ("G", "W1", "+5:00"):
        with page.expect_response(lambda answer: answer.url.endswith("/act")):
            page.get_by_role("button", name=words, exact=True).first.click()
    page.goto(f"{page.url}?at=E1")
    for words in ("amps", "ohms"):
        with page.expect_response(lambda answer: answer.url.endswith("/act")):
            page.get_by_role("button", name=words, exact=True).first.click()


SHOTS: list[tuple[str, ViewportSize, Theme, Callable[[Any], Any]]] = [
    ("lane", DESK, "light", lambda _page: None),
    ("bench", DESK, "light", _bench),
    ("bench-phone", PHONE, "dark", lambda page: _bench(page, "narrow")),
    ("guided-phone", PHONE, "light", _guided),
    ("unit", DESK, "light", _plate),
    ("report", DESK, "light", _report),
    ("quick", DESK, "light", _at("/quick?kw=5&volts=240&measured=208")),
    ("help", DESK, "light", _at("/help")),
    ("judge", DESK, "light", _judge),
    ("years", DESK, "light", _years),
    ("tape", DESK, "light", _tape),
    ("circuits", DESK, "light", _circuits),
    ("relay-wiring", DESK, "light", _wiring),
    ("make-safe", PHONE, "light", _make_safe),
    ("handover", DESK, "light", _handover),
    ("owner", DESK, "light", _owner),
    ("practice", DESK, "light", _practice),
    ("without-signal", PHONE, "light", _without_signal),
    ("transfer-phone", PHONE, "dark", _transfer),  # no power before it is through: last
]
