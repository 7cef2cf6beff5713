"""The drawing as the bench's heart: switches on it, what if, keys, the file."""

from __future__ import annotations

from xml.etree import ElementTree

import pytest
from bs4 import BeautifulSoup
from playwright.sync_api import Page, expect

from tests.app.browser.conftest import PHONE, sign_in
from tests.app.conftest import PASSWORD


@pytest.fixture
def bench(page: Page, base: str, start_visit):
    """Signs somebody in, starts a visit, and says where its bench is."""

    def start(me, on: Page = page) -> str:
        sign_in(on, base, me.account.login, PASSWORD)
        on.goto(f"{base}/units/{me.unit_id}")
        start_visit(on)
        return on.url

    return start


def flat(page: Page, part: str) -> bool:
    """The lever of a contact lies between its posts: it is closed."""
    lever = page.locator(f"svg.wide a[id$='-{part}'] .lever")
    return lever.get_attribute("d") == "M-15 0L15 0"


def test_breaker_calls_and_wires_are_switches_on_the_drawing(page, base, somebody, bench):
    me = somebody()
    address = bench(me)
    assert not flat(page, "W1")
    page.locator("#wide-handle-W1").click()
    expect(page.locator("#wide-handle-W1")).to_contain_text("● W1")
    assert flat(page, "W1")
    expect(page.locator("#wide-W1-W1")).to_be_visible()
    page.locator("#wide-handle-lifted").click()
    expect(page.locator("#alert")).to_contain_text("Open the breakers first")
    page.locator("#wide-handle-C1").click()
    expect(page.locator("#wide-handle-C1")).to_contain_text("○ breaker")
    page.locator("#wide-handle-lifted").focus()
    page.keyboard.press(" ")
    expect(page.locator("#wide-handle-lifted")).to_contain_text("○ jumpers")
    expect(page.locator("#strip")).to_contain_text("power off")
    events = page.request.get(f"{address}/visit.json").json()["visit"]["events"]
    told = [{k: v for k, v in event.items() if k != "t"} for event in events]
    assert told == [{"calls": ["W1"]}, {"power": "off", "circuit": "C1"}, {"wires": "lifted"}]
    drawn = BeautifulSoup(page.content(), "html.parser").select("#drawing svg.wide")
    behind = [one for one in drawn if not one["aria-label"].startswith("Supply and air")]
    assert not [w for one in behind for w in one.select(".wire.live")], "nothing behind it is live"
    [ahead] = [one for one in drawn if one not in behind]
    assert ahead.select(".wire.live"), "and its line side stays so"


def test_what_if_stands_beside_due_and_read(page, base, somebody, bench):
    me = somebody()
    address = bench(me)
    page.locator("#wide-handle-G").click()
    expect(page.locator("#wide-handle-G")).to_contain_text("● G")
    page.wait_for_timeout(1200)
    me.read(address.removeprefix(base), "E1", "amps", "20.5")
    page.locator("summary", has_text="What if").click()
    page.get_by_role("link", name="What if…").click()
    page.get_by_label("Suppose").select_option("BR:nc-welded")
    page.get_by_role("button", name="Show").click()
    row = page.locator("tr", has=page.get_by_role("rowheader", name="Element E1, amps"))
    cells = row.locator("td").all_inner_texts()
    cells = [cell.replace("\u202f", " ") for cell in cells]
    assert cells[0] == "0 A"
    assert cells[1].startswith("● 20.")
    assert cells[2] == "20.5 A"
    assert flat(page, "BR.nc")
    expect(page.locator("svg.wide a[id$='-E1'] .badge")).to_contain_text("20.")


def test_arrow_keys_go_from_part_to_part_and_enter_reads(page, base, somebody, bench):
    me = somebody()
    bench(me)
    page.locator("#wide-E1-S1\\.1").focus()
    seen = []
    for key in ("ArrowRight", "ArrowRight", "ArrowDown", "ArrowLeft", "ArrowUp"):
        page.keyboard.press(key)
        seen.append(page.evaluate("document.activeElement.id"))
    assert seen == ["wide-E1-FL1", "wide-E1-E1", "wide-E2-E2", "wide-E2-FL2", "wide-E1-FL1"]
    page.keyboard.press("Enter")
    expect(page.locator(".pad h2")).to_have_text("Fusible link FL1")
    expect(page.locator(".pad p.due")).to_contain_text("V")


def test_the_drawing_as_a_file_stands_alone(page, base, somebody, bench):
    me = somebody()
    address = bench(me)
    me.read(address.removeprefix(base), "C1", "volts", "241")
    svg = page.request.get(f"{address}/drawing.svg").text()
    root = ElementTree.fromstring(svg)
    assert root.tag == "{http://www.w3.org/2000/svg}svg"
    words = " ".join(root.itertext()).replace("\u202f", " ")
    assert "241 V" in words
    assert "S1.coil" in words
    assert "href" not in svg


def test_on_the_phone_a_side_is_one_touch_and_stays_as_it_was_left(browser, base, somebody, bench):
    me = somebody()
    context = browser.new_context(viewport=PHONE, has_touch=True, is_mobile=True)
    page = context.new_page()
    bench(me, page)
    expect(page.locator("svg.narrow a[id$='-S1.coil']")).to_be_hidden()
    page.get_by_role("button", name="24 V", exact=True).tap()
    expect(page.locator("svg.narrow a[id$='-S1.coil']")).to_be_visible()
    expect(page.locator("svg.narrow a[id$='-E1']")).to_be_hidden()
    page.get_by_role("button", name="W1").first.tap()
    expect(page.locator("#strip .timer")).to_be_visible()
    expect(page.locator("svg.narrow a[id$='-S1.coil']")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    context.close()
