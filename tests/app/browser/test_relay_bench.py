"""The relay bench in a real browser: a relay tested, swapped, proved, tested again."""

from __future__ import annotations

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.app.browser.conftest import PHONE, sign_in
from tests.app.conftest import PASSWORD
from tests.app.touching import Touching


@pytest.fixture
def hands(page: Page, base: str, newcomer, earlier, request) -> Touching:
    form = getattr(request, "param", "wide")
    if form == "narrow":
        page.set_viewport_size(PHONE)
    sign_in(page, base, newcomer().account.login, PASSWORD)
    return Touching(earlier, page=page, base=base, form=form)


def face(hands: Touching, name: str, more: str = "") -> None:
    hands.page.goto(f"{hands.base}{hands.bench}/devices/BR?face={name}{more}")


def touched(page: Page, button: Locator) -> None:
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        button.click()
    page.wait_for_timeout(120)


def row(page: Page, title: str, pair: str) -> Locator:
    group = page.locator(f"h2:text-is('{title}') ~ form.pair-row")
    return group.filter(has_text=pair).first


def answer(page: Page, title: str, pair: str, tone: bool) -> None:
    touched(
        page, row(page, title, pair).get_by_role("button", name="Beep" if tone else "No beep", exact=True)
    )


def off_without_signal(page: Page, line: Locator) -> None:
    """The signal is gone as the wire is taken off; sent again, it is stored once."""
    page.context.set_offline(True)
    line.get_by_role("button", name="Take off").click()
    expect(line.get_by_role("button", name="Not sent")).to_be_visible()
    page.context.set_offline(False)
    touched(page, line.get_by_role("button", name="Not sent"))


def swap(hands: Touching, kind: str) -> None:
    """Take the first line's verdict, begin the sheet, and move every wire, one at a time."""
    page = hands.page
    face(hands, "swap")
    page.get_by_role("link", name=kind, exact=True).click()
    touched(page, page.get_by_role("button", name="Start wire transfer"))
    lines = page.locator(".wires li")
    for number in range(lines.count()):
        if number == 1:
            off_without_signal(page, lines.nth(number))
        else:
            touched(page, lines.nth(number).get_by_role("button", name="Take off"))
        expect(lines.nth(number)).to_contain_text("loose")
        page.reload()  # the phone went dark, or the signal did
        touched(page, lines.nth(number).get_by_role("button", name="Landed on"))
    expect(page.get_by_role("status")).to_contain_text("Wires off = wires on")


def test_both_sets_of_a_dpdt_are_bad_it_is_swapped_proved_and_tested_again(hands):
    page = hands.page
    hands.kit("41 Saltmarsh Lane, attic", relay="dpdt")
    hands.begin("blower-will-not-stop")
    hands.dead()
    hands.touch("BR.no")
    page.get_by_role("link", name="Relay bench").click()
    touched(
        page, page.locator("form:has([value='leads:leads'])").get_by_role("button", name="Beep", exact=True)
    )
    expect(page.get_by_text("leads are good")).to_be_visible()
    for pair in ("COM1 – NO1", "COM2 – NO2"):
        answer(page, "At rest", pair, True)
    expect(page.locator(".verdict-line")).to_contain_text("both sets are bad")
    swap(hands, "DPDT relay")
    touched(page, page.get_by_role("button", name="BR is replaced: every wire is on"))
    face(hands, "wiring")
    expect(page.get_by_role("status")).to_contain_text("Right.")
    face(hands, "contacts")
    page.get_by_label("Ohms of the coil").fill("31")
    coil = page.locator("form.pair-row").filter(has_text="coil,")
    touched(page, coil.get_by_role("button", name="Store Ω"))
    touched(page, page.get_by_role("button", name="Both wires of the coil are off"))
    for title, closed in (
        ("At rest", ("COM1 – NC1", "COM2 – NC2")),
        ("Coil driven", ("COM1 – NO1", "COM2 – NO2")),
    ):
        for pair in ("COM1 – NO1", "COM1 – NC1", "COM2 – NO2", "COM2 – NC2"):
            answer(page, title, pair, pair in closed)
    expect(page.locator(".verdict-line")).to_contain_text("every set is good")
    touched(page, page.get_by_role("button", name="Both wires of the coil are back on"))
    hands.on()
    expect(page.locator("#strip")).to_contain_text("power on")


@pytest.mark.parametrize("hands", ["narrow"], indirect=True)
def test_an_spdt_is_swapped_for_a_dpdt_with_the_tie_through_normally_closed(hands):
    page = hands.page
    hands.kit("42 Saltmarsh Lane, closet")
    hands.begin("blower-will-not-run")
    hands.dead()
    swap(hands, "DPDT relay")
    touched(page, page.get_by_role("button", name="BR is replaced: every wire is on"))
    expect(page.get_by_role("heading", name="BR · DPDT relay")).to_be_visible()
    face(hands, "wiring")
    expect(page.get_by_role("status")).to_contain_text("Right.")
    # What if the tie were on the wrong set: terminal 3 given up for 6.
    page.get_by_role("link", name="Terminal NC1: heat side").click()
    page.get_by_role("link", name="nothing", exact=True).click()
    expect(page.locator(".wrongs")).to_contain_text("heat alone does not bring the blower on")
    hands.on()
    hands.dead()
