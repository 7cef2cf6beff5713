"""The first slice as a technician walks it, on the real screens."""

from __future__ import annotations

import io
import json
import uuid
from pathlib import Path

from bs4 import BeautifulSoup
from playwright.sync_api import Page, expect

from plentar.core.door import judge
from plentar.core.judge.diagnosis import diagnose
from plentar.files.judgement_json import judgement_to_json
from plentar.files.visit_file import parse_visit_file
from tests.app.browser.conftest import DESK, PHONE, sign_in
from tests.app.conftest import PASSWORD
from tests.app.touching import press_close

LAYOUT = Path(__file__).with_name("layout.js").read_text().strip().rstrip(";")
AXE = Path(__file__).resolve().parents[3] / "node_modules/axe-core/axe.min.js"


def make_unit(page: Page, base: str, label: str) -> None:
    page.goto(f"{base}/units/new")
    page.get_by_label("Where it is").fill(label)
    page.get_by_label("a two-pole contactor for each element").check()
    expect(page.locator("#kit a[id$='K1.2']").first).to_be_visible()
    page.get_by_role("button", name="Add unit").click()
    expect(page.get_by_role("heading", level=1)).to_have_text(label)


def read(page: Page, part: str, value: str) -> None:
    """Touch a part on the drawing, press the keys, store."""
    page.locator(f"svg.wide a[id$='-{part}']").first.click()
    expect(page.locator(".pad form.reading [name=at]")).to_have_value(part)
    for key in value:
        page.locator(f"[data-key='{key}']").click()
    page.locator(".store").click()
    expect(page.locator(".says")).to_contain_text("stored")


def test_from_sign_in_to_the_same_judgement_in_another_shop(page, base, somebody, tmp_path, start_visit):
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    make_unit(page, base, "3 Try Street, attic")

    page.locator("svg.wide a[id$='-E2']").click()
    expect(page.locator("#panel")).to_contain_text("20.83 A")
    page.get_by_label("Rated power").fill("4,8")
    page.get_by_role("button", name="Save values").click()
    expect(page.locator("svg.wide a[id$='-E2']")).to_contain_text("4.8 kW")
    expect(page.locator("#panel")).to_contain_text("20.00 A")

    start_visit(page)
    page.locator(".calls button", has_text="W1").click()
    expect(page.locator(".calls button[aria-pressed=true]")).to_have_text("W1")
    page.wait_for_timeout(1300)  # a contactor's window

    read(page, "E1", "17.9")
    expect(page.locator(".says")).to_contain_text("in range, provisional")
    read(page, "C1", "208")
    e1 = page.locator("svg.wide a[id$='-E1']")
    expect(e1).to_have_attribute("aria-label", "E1 5 kW · 240 V 17.9\u202fA, element, in range")
    page.locator("#log .reading-row", has_text="208 V").locator(".strike").click()
    page.locator("#log form.strike [name=reason]").fill("probes on the wrong lugs")
    page.locator("#log form.strike button").click()
    expect(page.locator("#log .struck")).to_contain_text("probes on the wrong lugs")
    read(page, "C1", "241")
    expect(e1).to_have_attribute("aria-label", "E1 5 kW · 240 V 17.9\u202fA, element, low")
    read(page, "E2", "0")
    expect(page.locator(".says")).to_contain_text("no current")
    page.locator("#verdict .why summary").click()
    expect(page.locator("#verdict .why")).to_contain_text("4800 W × 241 V ÷ (240 V)²")

    page.locator(".tabs a", has_text="ohms").click()
    expect(page.locator(".store")).to_have_count(0)
    for box in page.locator(".gate input[type=checkbox]").all():
        box.check()
    page.locator(".gate button", has_text="Proved dead").click()
    expect(page.locator("#strip")).to_contain_text("proved dead")
    page.locator("[data-key='OL']").click()
    page.locator(".store").click()
    expect(page.locator(".says")).to_contain_text("open")

    page.get_by_role("link", name="Close out").click()
    page.get_by_label("left off").check()
    page.get_by_label("What was done and left").fill("E2 is broken.")
    press_close(page)
    expect(page.get_by_role("heading", name="Found and left")).to_be_visible()
    elements = page.locator(".report table").first.inner_text()
    assert "no current" in elements
    assert "low" in elements

    pdf = page.pdf(prefer_css_page_size=True)
    assert 1 <= pdf.count(b"/Type /Page\n") + pdf.count(b"/Type/Page/") <= 2
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Visit file").click()
    file = tmp_path / "visit.json"
    waiting.value.save_as(file)
    text = file.read_text(encoding="utf-8")
    assert json.loads(text)["visit"]["struck"][0]["reason"] == "probes on the wrong lugs"

    other = somebody()
    page.get_by_role("button", name="Sign out").click()
    sign_in(page, base, other.account.login, PASSWORD)
    page.get_by_role("link", name="Import a visit file").click()
    page.get_by_label("Visit file").set_input_files(file)
    page.get_by_role("button", name="Import").click()
    expect(page.get_by_role("heading", name="Found and left")).to_be_visible()
    assert page.locator(".report table").first.inner_text() == elements
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Visit file").click()
    waiting.value.save_as(tmp_path / "again.json")
    again = (tmp_path / "again.json").read_text(encoding="utf-8")
    judged = [judge(*parse_visit_file(t).to_core()) for t in (text, again)]
    answers = [judgement_to_json(j, diagnose(j.evidence)) for j in judged]
    assert answers[0] == answers[1]


def test_the_pad_by_keyboard_and_while_typing(page, base, somebody, start_visit):
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}/units/{me.unit_id}")
    start_visit(page)
    page.locator("#wide--C1").focus()
    page.keyboard.press("Enter")
    expect(page.locator("#value")).to_be_focused()
    page.keyboard.type("0,24k")
    expect(page.locator("#verdict .says")).to_contain_text("in range")
    expect(page.locator("#verdict .mark")).to_have_count(1)
    page.keyboard.type("k")
    expect(page.locator("#verdict .complaint")).to_be_visible()
    page.keyboard.press("Backspace")
    expect(page.locator("#verdict .says")).to_contain_text("in range")
    page.keyboard.press("Enter")
    expect(page.locator("#log .reading-row")).to_contain_text("240 V")


def test_phone_shows_the_chosen_part_above_the_pad(browser, base, somebody, start_visit):
    me = somebody()
    context = browser.new_context(viewport=PHONE, has_touch=True, is_mobile=True)
    page = context.new_page()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}/units/{me.unit_id}")
    start_visit(page)
    page.locator("svg.narrow a[id$='-E2']").tap()
    expect(page.locator(".store")).to_be_visible()
    page.wait_for_timeout(300)
    part = page.locator("svg.narrow a[id$='-E2'] .touch").bounding_box()
    pad = page.locator(".dock").bounding_box()
    assert part["y"] >= 0
    assert part["y"] + part["height"] <= pad["y"]
    assert min(part["width"], part["height"]) >= 44
    for target in page.locator(".keys button:visible").all():
        assert min(target.bounding_box()["width"], target.bounding_box()["height"]) >= 44
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    context.close()


RULES = {
    "light": {"type": "tag", "values": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]},
    "dark": {"type": "rule", "values": ["color-contrast", "link-in-text-block"]},
}


def addresses(me, bench: str) -> list[str]:
    unit = f"/units/{me.unit_id}"
    return [
        "/",
        "/units/new",
        "/units/import",
        unit,
        f"{unit}?part=E1",
        f"{unit}?part=C1",
        bench,
        f"{bench}?at=E1",
        f"{bench}?at=E1&quantity=ohms",
        f"{bench}/close",
        f"{bench}/report",
        f"{bench}/what-if?fault=S1:slow",
        f"{bench}/log",
        f"{bench}/tape",
        log_address(me, bench),
        "/shop/people",
        f"/shop/people/{me.account.id}",
        "/account",
        "/quick",
        "/help",
        "/nowhere",
    ]


def log_address(me, bench: str) -> str:
    """A visit in the middle of a test, with two runs seen and a log kept."""
    entry = lambda: {"client_id": str(uuid.uuid4())}  # noqa: E731
    for path, form in (
        ("call", {"call": "W1"}),
        ("seen", {"part": "S1.1", "action": "on"}),
        ("call", {"call": "W1"}),
        ("call", {"call": "W1"}),
    ):
        me.client.post(f"{bench}/tape/{path}", data=entry() | form)
    csv = me.client.get(f"/units/{me.unit_id}/clamp.csv?fault=TL2:weak").data
    file = {"log": (io.BytesIO(csv), "log.csv")}
    return me.client.post(f"{bench}/logs", data=entry() | file).location


def test_no_accessibility_violations(browser, base, somebody, start_visit):
    """Every rule in the light theme; those of colour in the dark one too."""
    me = somebody()
    bench = me.start_visit()
    for at, quantity, value in [("E1", "amps", "12"), ("C1", "volts", "244"), ("FL1", "volts", "240")]:
        me.read(bench, at, quantity, value)
    context = browser.new_context(viewport=DESK, bypass_csp=True)
    page = context.new_page()
    found = []

    def check(path: str) -> None:
        page.goto(f"{base}{path}")
        page.add_script_tag(path=AXE)
        for theme, rules in RULES.items():
            page.emulate_media(color_scheme=theme)
            for violation in page.evaluate("some => axe.run({runOnly: some})", rules)["violations"]:
                where = [node["target"] for node in violation["nodes"]][:3]
                found.append(f"{path} in {theme}: {violation['id']} {where}")
        page.emulate_media(color_scheme="light")

    check("/sign-in")
    sign_in(page, base, me.account.login, PASSWORD)
    for path in addresses(me, bench):
        check(path)
    page.set_viewport_size(PHONE)
    for path in ("/", f"{bench}?at=E1", f"{bench}/tape"):
        check(path)
    context.close()
    assert not found


def test_the_visit_page_is_light(browser, base, somebody, start_visit):
    """At most 150 KB for the first load without fonts, 40 KB after, as transferred."""
    me = somebody()
    bench = me.start_visit()
    # Behind a service worker the browser tells sizes as unpacked.
    context = browser.new_context(viewport=DESK, service_workers="block")
    page = context.new_page()
    sign_in(page, base, me.account.login, PASSWORD)

    def transferred() -> int:
        page.goto(f"{base}{bench}")
        return page.evaluate(
            "[...performance.getEntriesByType('navigation'), ...performance.getEntriesByType('resource')]"
            ".filter(e => !e.name.includes('/fonts/')).reduce((sum, e) => sum + e.transferSize, 0)"
        )

    session = context.new_cdp_session(page)
    session.send("Network.clearBrowserCache")
    assert transferred() <= 150_000
    assert transferred() <= 40_000
    assert BeautifulSoup(page.content(), "html.parser").select("svg.unit")
    context.close()


def test_no_text_is_cut_or_lies_over_another(browser, base, somebody):
    """In the longer language, at a desk and on a phone; a page on which both happen is told of both."""
    me = somebody()
    bench = me.start_visit()
    for at, quantity, value in [("E1", "amps", "12"), ("C1", "volts", "244"), ("FL1", "volts", "240")]:
        me.read(bench, at, quantity, value)
    paths = [
        *addresses(me, bench),
        f"{bench}/circuits",
        "/board",
        "/search",
        "/rounds",
        "/parts",
        "/help/readings",
    ]
    page = browser.new_context(viewport=DESK, locale="es-US").new_page()
    sign_in(page, base, me.account.login, PASSWORD)
    found = []
    for path in paths:
        page.goto(f"{base}{path}")
        page.wait_for_load_state("networkidle")
        for size in (PHONE, DESK):
            page.set_viewport_size(size)
            found += [f"{path} at {size['width']}: {one}" for one in page.evaluate(LAYOUT)]
    assert not found
    page.goto("about:blank")
    page.set_content("""<p style="width: 3em; overflow: hidden; white-space: nowrap">much too long for it</p>
        <p>below</p><p style="margin-top: -2.2em; width: 1900px">above</p>""")
    assert {one.split(":")[0] for one in page.evaluate(LAYOUT)} == {"cut", "over each other", "page"}
