"""A stop on the bench: found, made safe, answered, contradicted, and what it bars meanwhile."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Page, expect

from tests.app.browser.conftest import sign_in
from tests.app.conftest import PASSWORD
from tests.app.touching import press_close


@pytest.fixture
def on_a_visit(page: Page, base: str, somebody) -> Callable[..., tuple]:
    """Somebody before an open unit: who, the bench's path, and a way to look at it again."""
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    bench = me.start_visit("not-enough-heat")

    def look() -> None:
        page.goto(f"{base}{bench}")

    look()
    return me, bench, look


def test_heat_without_the_blower_is_made_safe_mended_and_closed(page, on_a_visit, earlier):
    me, bench, look = on_a_visit
    page.locator("#strip").get_by_role("button", name="W1").click()
    expect(page.locator("#strip")).to_contain_text("since the call")
    earlier(bench, 400)
    me.read(bench, "C1", "volts", "240")
    me.read(bench, "C1", "amps", "41.2")
    me.read(bench, "BR.nc", "amps", "0")
    look()
    stop = page.locator("#stops .stop")
    expect(stop).to_contain_text("heat without air")
    expect(stop.locator("li").first).to_have_text(re.compile("^End the call: W1"))
    stop.get_by_role("button", name="End the call: W1").click()
    expect(page.locator("#strip")).not_to_contain_text("since the call")
    page.locator("#strip").get_by_role("button", name="W1").click()
    expect(page.locator("#alert")).to_contain_text("Do not call heat")
    page.locator("#strip").get_by_role("button", name="Open breakers").click()
    expect(page.locator("#strip")).to_contain_text("power off")
    page.get_by_label("How it was made safe").fill("breaker off and locked; relay replaced")
    page.get_by_role("button", name="Log it").click()
    expect(page.locator("#stops .stop")).to_have_count(0)
    expect(page.locator("#stops .answered").last).to_contain_text("relay replaced")
    expect(page.locator("#stops")).to_contain_text("Made safe, still open")
    page.get_by_role("link", name="Close out").click()
    page.get_by_label("in service").check()
    press_close(page)
    expect(page.locator("main")).to_contain_text("Not while a stop is open")
    page.get_by_label("left off").check()
    page.get_by_label("What was done and left").fill("The heat is off until it has air.")
    press_close(page)
    expect(page.get_by_role("heading", name="Found and left")).to_be_visible()


def test_a_jumper_is_landed_and_taken_off_by_acts_of_their_own(page, base, on_a_visit):
    _, bench, look = on_a_visit
    look()
    page.locator("#strip").get_by_role("button", name="Open breakers").click()
    expect(page.locator("#strip")).to_contain_text("power off")
    page.locator("#wide-handle-lifted").click()
    expect(page.locator("#wide-handle-lifted")).to_contain_text("○ jumpers")
    page.locator("#strip").get_by_role("button", name="Power back on").click()
    expect(page.locator("#strip")).to_contain_text("power on")
    page.locator("#wide-handle-G").click()
    expect(page.locator("#wide-handle-lifted")).to_contain_text("○ jumpers")
    page.goto(f"{base}{bench}/close")
    expect(page.locator(".stop")).to_contain_text("Jumper in, wires lifted")
    look()
    page.locator("#strip").get_by_role("button", name="Open breakers").click()
    expect(page.locator("#strip")).to_contain_text("power off")
    page.locator("#wide-handle-lifted").click()
    expect(page.locator("#wide-handle-lifted")).to_contain_text("● wires")
    page.goto(f"{base}{bench}/close")
    expect(page.locator(".stop")).to_have_count(0)


def test_an_answered_stop_opens_again_when_a_later_reading_says_the_same(page, on_a_visit, earlier):
    me, bench, look = on_a_visit
    me.read(bench, "E1", "amps", "20.5")
    look()
    expect(page.locator("#stops .stop")).to_contain_text("nothing calling it")
    page.get_by_label("How it was made safe").fill("breaker off and locked")
    page.get_by_role("button", name="Log it").click()
    expect(page.locator("#stops .stop")).to_have_count(0)
    earlier(bench, 60)
    me.read(bench, "E1", "amps", "20.4")
    look()
    expect(page.locator("#stops .stop")).to_contain_text("nothing calling it")
