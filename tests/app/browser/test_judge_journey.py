"""Three calls, each followed by the cards alone to a named part, on the real screens.

The meter is the simulated unit; a wait is passed by moving the visit's beginning back.
"""

from __future__ import annotations

import re
import uuid
from dataclasses import replace
from datetime import timedelta

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import update

from plentar.core.circuit.shown_by_meter import TEMP
from plentar.core.quantity import Quantity
from plentar.stand_ins.hidden import hidden_unit
from plentar.store.models import Visit
from plentar.store.visits import find_visit
from tests.app.browser.conftest import DESK, PHONE, sign_in
from tests.app.conftest import PASSWORD

CALLS = [
    ("Not enough heat", "E2:open", "Element E2 is open", DESK),
    ("Heat will not stop", "S1.2:stuck-closed", r"Sequencer S1, switch [12] is welded closed", PHONE),
    ("Blower will not run", "BR:no-stuck-open", "Blower relay", DESK),
]
MOST_CARDS = 12


class Call:
    """One visit on screen, and the unit behind it."""

    def __init__(self, page: Page, session, me, *faults: str) -> None:
        self.page, self.session, self.me = page, session, me
        self.simulated = hidden_unit(replace(me.record.unit, id="two"), faults, 3)  # the same in every run
        self.visit_id = uuid.UUID(page.url.rsplit("/", 1)[1].split("?")[0])

    def pass_time(self, seconds: float) -> None:
        """The visit began that much earlier."""
        self.session.rollback()
        record = find_visit(self.session, self.me.account.shop_id, self.visit_id)
        began = record.row.started_at - timedelta(seconds=seconds)
        self.session.execute(update(Visit).where(Visit.id == self.visit_id).values(started_at=began))
        self.session.commit()

    def meter(self, quantity: str, at: str, driven: bool = False) -> str:
        """What the meter shows now."""
        self.session.rollback()
        record = find_visit(self.session, self.me.account.shop_id, self.visit_id)
        events, now_s = record.core().events, record.elapsed_s
        value = self.simulated.read(Quantity(quantity), at, events, now_s, driven=driven)
        if value == float("inf"):
            return "OL"
        return f"{value / 1e6:.1f}M" if value >= 1e6 else f"{value:g}"  # as a meter scales it

    def take_card(self) -> None:
        """Do as the first card says: take it, wait as told, prove dead if asked, read, store."""
        card = self.page.locator(".next.first").first
        fields = card.locator("form").evaluate("form => Object.fromEntries(new FormData(form))")
        if card.locator("button", has_text="Comes and goes").count():
            self.pass_time(620)
            card.locator("button", has_text="Steady ten minutes").click()
            expect(self.page.locator("#log")).to_contain_text("seen: steady")
            return
        card.get_by_role("button", name="Set up, read").click()
        # The pad may show the reading before at the same point until the new one comes.
        asked = f"input[name='quantity'][value='{fields['quantity']}']"
        pad = self.page.locator(f".pad[data-point='{fields['at']}']:has({asked}, .gate)")
        expect(pad).to_be_visible()
        expect(pad.locator(".says", has_text="stored")).to_have_count(0)
        if fields.get("after_s"):
            self.pass_time(float(fields["after_s"]) + 2)
        if pad.locator(".gate").count():
            for box in pad.locator(".gate input[type=checkbox]").all():
                box.check()
            pad.get_by_role("button", name="Proved dead").click()
            expect(self.page.locator("#strip")).to_contain_text("proved dead")
        if fields.get("driven"):
            pad.get_by_role("button", name="are off").click()
            expect(pad.get_by_role("button", name="Both are back on")).to_be_visible()
        assert fields["quantity"] != TEMP, "no probe in this journey"
        self.page.locator("#value").fill(self.meter(fields["quantity"], fields["at"], "driven" in fields))
        self.page.wait_for_load_state("networkidle")  # the judge of before has answered
        with self.page.expect_response(lambda answer: answer.url.endswith("/judge")):
            self.page.locator(".store").click()
        expect(self.page.locator(".says")).to_contain_text("stored")
        if fields.get("driven"):
            self.page.locator("#stops").get_by_role("button", name="They are back on").click()
            expect(self.page.locator("#stops").get_by_role("button", name="They are back on")).to_have_count(
                0
            )


@pytest.mark.parametrize(("complaint", "fault", "named", "size"), CALLS)
def test_following_the_cards_names_the_part(page, base, somebody, session, complaint, fault, named, size):
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    page.set_viewport_size(size)
    page.goto(f"{base}/units/{me.unit_id}")
    page.get_by_label("Reason for the call").select_option(label=complaint)
    page.get_by_role("button", name="Start a visit").click()
    call = Call(page, session, me, fault)
    found = page.locator(".judge > .clear-cut h2")
    for _ in range(MOST_CARDS):
        page.locator(".next.first, .clear-cut").first.wait_for(state="attached")
        if found.count():
            break
        call.take_card()
        page.wait_for_load_state("networkidle")
        page.wait_for_timeout(200)  # what came is put in its place
        page.locator("#judge:not(.htmx-request)").wait_for(state="attached")
    expect(found).to_have_text(re.compile(named))
    leading = page.locator(".suspects li").first
    leading.locator("summary").click()
    expect(leading.locator(".why li").first).to_be_visible()
    also = page.locator(".what-else .next", has_text="Set up, read").first
    also.wait_for(state="attached", timeout=60_000)
    at = also.get_attribute("data-at")
    also.get_by_role("button", name="Set up, read").click()
    expect(page.locator(f".pad[data-point='{at}']")).to_be_visible()
    off = page.locator("#strip").get_by_role("button", name="Open breakers")
    if off.count():  # hands go in with the power off
        off.click()
        expect(page.locator("#strip")).to_contain_text("power off")
    part = page.locator(".clear-cut button").first
    part.click()
    expect(page.locator("#log")).to_contain_text("replaced")


def test_a_suspect_is_shown_on_the_drawing_and_the_look_is_one_touch(page, base, somebody):
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(base + me.start_visit("not-enough-heat"))
    expect(page.locator("svg.wide .part.proposed").first).to_be_visible()
    page.get_by_role("button", name="loose strands needs attention").click()
    expect(page.locator("#noted")).to_contain_text("Loose strands: needs attention")
    page.locator(".suspects .who-is a").first.click()
    expect(page.locator("#fault")).to_have_value("S1.2:stuck-open")
    expect(page.locator(".drawing")).to_have_count(2)
