"""A call with one thumb: 390 × 844, thirteen readings, everything that is touched counted."""

from __future__ import annotations

from urllib.parse import parse_qsl

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.app.browser.conftest import PHONE, sign_in
from tests.app.browser.test_judge_journey import Call
from tests.app.conftest import PASSWORD

READINGS = 13
#: Beside its digits: set up and read, store; one more where a call or a power state stands between.
MOST_TOUCHES = 4
LEAST_PX = 48


class Thumb(Call):
    """One thumb: it touches what is in view, and nothing is scrolled for it."""

    touches = 0

    def touch(self, what: Locator) -> None:
        while not (box := what.bounding_box()):  # what was just put in its place is there in a moment
            what.wait_for()
        bar = self.page.locator(".reach").bounding_box()
        assert bar is not None
        assert box["y"] >= 0 and box["y"] + box["height"] <= bar["y"] + bar["height"], (what, box)
        what.tap()
        self.touches += 1

    def read(self) -> int:
        """The first card to its end; how many touches it took beside the digits."""
        before, pad, fields = self.touches, None, {}
        while pad is None:  # under guard all of the heat is called first, then the card is asked again
            card = self.page.locator("#then .next, .judge > .next").first
            fields = card.locator("form").evaluate("form => Object.fromEntries(new FormData(form))")
            if "begins" in fields:
                self.pass_time(600)
            asked = card.element_handle()
            with self.page.expect_response(lambda answer: answer.url.endswith("/take")) as answer:
                self.touch(card.get_by_role("button", name="Set up, read"))
            # What was touched counts: a judge that answers late puts another card in the place of one looked at.
            fields = dict(parse_qsl(answer.value.request.post_data or "", keep_blank_values=True))
            asked.wait_for_element_state("hidden")  # the bench is another now
            opened = self.page.locator(f".pad[data-point='{fields['at']}']")
            unread = opened.locator("form.reading:not([data-stored]), .gate")
            if "begins" not in fields or unread.count():
                unread.wait_for()
                pad = opened
            else:
                self.page.locator(".judge > .next").first.wait_for()
        self.pass_time(float(fields.get("after_s") or 0) + 2)
        if pad.locator(".gate").count():
            for box in pad.locator(".gate input[type=checkbox]").all():
                box.check()  # what is proved is proved, touch by touch: not counted as a reading
            pad.get_by_role("button", name="Proved dead").tap()
            expect(self.page.locator("#strip")).to_contain_text("proved dead")
        self.type(fields["quantity"], fields["at"])
        return self.touches - before

    def read_part(self, at: str) -> int:
        """A part of the drawing, as its pad opens."""
        before = self.touches
        drawn = self.page.locator(f"svg.narrow a[id$='-{at}']")
        drawn.scroll_into_view_if_needed()
        self.touch(drawn)
        pad = self.page.locator(f".pad[data-point='{at}']")
        pad.locator("form.reading").wait_for()
        self.type(pad.locator("[name=quantity]").input_value(), at)
        return self.touches - before

    def type(self, quantity: str, at: str) -> None:
        value = self.meter(quantity, at)
        for digit in ["OL"] if value == "OL" else value:
            self.page.locator(f".keys [data-key='{digit}']").tap()
        self.touch(self.page.locator(".store"))
        expect(self.page.locator(".says")).to_contain_text("stored")


@pytest.fixture
def phone(browser, base, somebody):
    me = somebody()
    context = browser.new_context(viewport=PHONE, has_touch=True, is_mobile=True)
    page = context.new_page()
    page.set_default_timeout(60_000)
    sign_in(page, base, me.account.login, PASSWORD)
    yield page, me
    context.close()


def test_thirteen_readings_with_a_thumb_and_nothing_is_looked_for(phone, base, session):
    page, me = phone
    page.goto(base + me.start_visit("check-up"))
    thumb = Thumb(page, session, me)
    page.locator(".judge > .next.first").wait_for()
    number, more = 0, page.locator("#then > .next")
    while not number or more.count():
        assert thumb.read() <= MOST_TOUCHES, number
        page.locator("#then > :is(.next, .clear-cut)").first.wait_for()
        number += 1
    assert number >= 5, "a sound unit is not sound after fewer"
    for at in ("E1", "E2", "S1.1", "TL1", "FL1", "TL2", "FL2", "blower")[: READINGS - number]:
        page.locator(".pad .shut").tap()
        assert thumb.read_part(at) <= MOST_TOUCHES, at
        number += 1
    assert number == READINGS
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]


def too_small(page: Page) -> list[str]:
    """What is touched and is smaller than a thumb: links within a sentence apart."""
    return page.evaluate(
        """least => [...document.querySelectorAll('button, a.button, summary, input, select, .tile label')]
            .filter(one => one.getClientRects().length && one.type !== 'hidden')
            .filter(one => !one.closest('.tile') || one.matches('label'))
            .filter(one => !one.closest('label, .sr-only, .top'))
            .map(one => [one, one.getBoundingClientRect()])
            .filter(([one, box]) => box.height < least - 0.5)
            .map(([one, box]) => `${one.outerHTML.slice(0, 90)} ${box.height}`)""",
        LEAST_PX,
    )


@pytest.mark.parametrize("where", ["", "?at=E1&quantity=ohms", "/work", "/tape", "/close", "/judge"])
def test_whatever_is_touched_on_the_way_is_as_large_as_a_thumb(phone, base, where):
    page, me = phone
    page.goto(base + me.start_visit("check-up") + where)
    page.wait_for_load_state("networkidle")
    assert not too_small(page)


def test_the_pad_gives_the_page_back_where_it_was(phone, base):
    page, me = phone
    page.goto(base + me.start_visit("check-up"))
    page.locator(".judge > .next.first").wait_for()
    page.evaluate("scrollTo(0, 240)")
    page.locator("svg.narrow a[id$='-E2']").tap()
    expect(page.locator(".pad[data-point='E2']")).to_be_visible()
    page.locator(".pad .shut").tap()
    expect(page.locator(".pad")).to_have_count(0)
    assert page.evaluate("scrollY") == 240
    page.locator("svg.narrow a[id$='-E2']").tap()
    expect(page.locator(".pad[data-point='E2']")).to_be_visible()
    page.evaluate(
        """() => { for (const [name, y] of [['touchstart', 300], ['touchend', 520]]) {
            const at = new Touch({identifier: 1, target: document.querySelector('.pad-head'), clientY: y});
            document.querySelector('.pad-head').dispatchEvent(
                new TouchEvent(name, {bubbles: true, touches: [at], changedTouches: [at]})); } }"""
    )
    expect(page.locator(".pad")).to_have_count(0)


def test_a_stop_that_a_reading_raises_stands_in_the_pad_with_its_act(phone, base, session, earlier):
    """A strip draws with nothing called: the pad itself says so, and one touch records its breaker."""
    page, me = phone
    bench = me.start_visit("heat-will-not-stop")
    page.goto(f"{base}{bench}?at=E1")
    for digit in "20.4":
        page.locator(f".keys [data-key='{digit}']").tap()
    page.locator(".store").tap()
    said = page.locator("#then .stop")
    expect(said).to_contain_text("Stop now")
    said.get_by_role("button", name="Breaker C1 is off").tap()
    expect(page.locator("#strip")).to_contain_text("power off")
