"""The tape on a phone, its clock faked: a late start, two stages, the way out too early and again.

Browser and visit move on together: the page's clock by Playwright, the visit by moving its
beginning back. What a slow machine takes besides counts too, so times have a least and a most.
"""

from __future__ import annotations

import re
import time
import uuid

from playwright.sync_api import Locator, Page, expect
from sqlalchemy import text

from tests.app.browser.conftest import PHONE, sign_in
from tests.app.conftest import PASSWORD

PATIENCE_S = 20.0


class Watch:
    """The clock of a page and of its visit."""

    def __init__(self, page: Page, session) -> None:
        self.page, self.session = page, session
        self.visit_id = uuid.UUID(page.url.split("/visits/")[1].split("/")[0])
        self._began = time.monotonic()

    def expect_s(self, of: Locator, least_s: int, most_s: int | None = None) -> None:
        """A time comes to be told: so long by the faked clock, or longer by what the test itself
        has taken."""
        until = time.monotonic() + PATIENCE_S
        while True:
            found = re.search(r"(?:took )?(\d+):(\d\d)", of.inner_text())
            told_s = 60 * int(found[1]) + int(found[2]) if found else -1
            slow_s = 1 + time.monotonic() - self._began
            if least_s <= told_s <= (least_s + slow_s if most_s is None else most_s):
                return
            assert time.monotonic() < until, of.inner_text()
            self.page.wait_for_timeout(100)

    def wait(self, seconds: int) -> None:
        """Both go on by so much."""
        self.session.execute(
            text("update visit set started_at = started_at - make_interval(secs => :s) where id = :id"),
            {"s": seconds, "id": self.visit_id},
        )
        self.session.commit()
        self.page.clock.fast_forward(1000 * seconds)
        self.page.wait_for_load_state("networkidle")

    def press(self, label: str) -> None:
        """One of the large buttons."""
        button = self.page.get_by_role("button", name=label, exact=True)
        expect(button).to_be_visible()
        large = "[...document.querySelectorAll('.press button')].every(b => Math.min(b.offsetWidth, b.offsetHeight) >= 44)"
        self.page.wait_for_function(large)
        with self.page.expect_response(lambda answer: answer.request.method == "POST"):
            button.click()
        self.page.wait_for_load_state("networkidle")


def said(page: Page, part: str):
    return page.locator(".lane-row", has=page.locator(f"b:text-is('{part}')")).locator(".lane-said")


def test_a_late_start_two_stages_and_the_way_out(page, base, somebody, session):
    me = somebody()
    page.set_viewport_size(PHONE)
    page.clock.install()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}{me.start_visit()}/tape")
    watch = Watch(page, session)
    watch.press("W1 on now")
    watch.wait(5)
    watch.press("S1.1 on now")
    # The call had been there for a minute before the watch.
    page.get_by_role("button", name="+1:00", exact=True).click()
    expect(said(page, "S1.1")).to_contain_text("late")
    expect(page.locator(".waits")).to_contain_text("S1.2 should go on between 0:30 and 1:30")
    page.get_by_role("button", name="None", exact=True).click()
    expect(said(page, "S1.1")).to_contain_text("in its window")
    page.get_by_role("button", name="+0:30", exact=True).click()
    expect(said(page, "S1.1")).to_contain_text("late")

    # A held view stands still; the clock and the visit go on.
    page.get_by_role("button", name="Hold the view").click()
    before = page.locator(".lanes .now").first.get_attribute("x1")
    clock = page.locator(".clock b").first
    watch.wait(10)
    assert page.locator(".lanes .now").first.get_attribute("x1") == before
    watch.expect_s(clock, 45)
    page.get_by_role("button", name="Hold the view").click()

    watch.press("S1.2 on now")
    expect(said(page, "S1.2")).to_contain_text("in its window")
    expect(said(page, "S1.2")).to_contain_text("expected 0:30–1:30")
    watch.expect_s(said(page, "S1.2"), 45)
    expect(page.locator(".waits")).to_contain_text("The off test counts from 5:00 energized")

    # Too early on the way out: the time tells little.
    watch.wait(60)
    watch.press("W1 off now")
    watch.wait(40)
    watch.press("S1.2 off now")
    expect(said(page, "S1.2")).to_contain_text("in its window, provisional")
    expect(said(page, "S1.2")).to_contain_text("energized")
    page.get_by_role("button", name="Undo: S1.2 off").click()
    expect(said(page, "S1.2")).not_to_contain_text("provisional")

    # Again, long enough, and everything survives a reload.
    watch.wait(200)
    watch.press("W1 on now")
    watch.wait(50)
    page.keyboard.press("4")
    watch.expect_s(said(page, "S1.2"), 50)
    watch.wait(300)
    expect(page.locator(".waits")).not_to_contain_text("the off test counts")
    watch.press("W1 off now")
    watch.wait(95)
    watch.press("S1.2 off now")
    page.reload()
    expect(said(page, "S1.2")).to_contain_text("off late")
    expect(page.locator(".repeats")).to_contain_text("warm")
    page.goto(page.url.removesuffix("/tape"))
    expect(page.locator("#noted")).to_contain_text("switch 2 let go late")


def test_a_press_without_signal_keeps_its_time(page, base, somebody, session):
    me = somebody()
    page.set_viewport_size(PHONE)
    page.clock.install()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}{me.start_visit()}/tape")
    watch = Watch(page, session)
    watch.press("W1 on now")
    # A look that was asked for before the press comes back after it: the press stays.
    late = []
    page.route(
        "**/tape",
        lambda asked: (
            late.append((asked, asked.fetch())) if asked.request.method == "GET" else asked.continue_()
        ),
    )
    watch.wait(8)
    while not late:
        page.wait_for_timeout(50)
    page.context.set_offline(True)
    page.get_by_role("button", name="S1.1 on now").click()
    expect(page.locator(".press.pending")).to_contain_text("send again")
    for asked, answer in late:
        asked.fulfill(response=answer)
    page.unroute("**/tape")
    page.wait_for_timeout(200)
    page.context.set_offline(False)
    watch.wait(30)
    page.locator(".press.pending button").click()
    watch.expect_s(said(page, "S1.1"), 8, 8 + 29)


def test_the_simulated_clamp_plays_and_its_log_is_looked_at(page, base, somebody, tmp_path):
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}{me.start_visit()}/tape")
    page.locator("#clamp summary").click()
    page.get_by_role("button", name="Play it live").click()
    expect(page.locator("#live")).to_contain_text("C1, simulated")
    page.get_by_role("button", name="Stop").click()
    log = tmp_path / "log.csv"
    log.write_text(me.client.get(f"/units/{me.unit_id}/clamp.csv?minutes=6").text)
    page.set_input_files("#log", log)
    page.get_by_role("button", name="Look for stages").click()
    plot = page.locator("#plot svg.plot")
    expect(plot).to_be_visible()
    whole = plot.get_attribute("data-to")
    box = plot.bounding_box()
    page.mouse.move(box["x"] + 40, box["y"] + 100)
    page.mouse.down()
    page.mouse.move(box["x"] + 200, box["y"] + 100)
    page.mouse.up()
    expect(plot).not_to_have_attribute("data-to", whole)
    page.get_by_role("link", name="Whole").click()
    expect(plot).to_have_attribute("data-to", whole)
    expect(page.get_by_role("heading", name="Stages")).to_be_visible()
