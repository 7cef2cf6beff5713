"""Guided tests and circuits in a real browser, each to its end: on a desk, on a phone."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from tests.app.browser.conftest import PHONE, sign_in
from tests.app.conftest import PASSWORD
from tests.app.touching import Touching

LATER_S = 700.0


@pytest.fixture
def hands(page: Page, base: str, newcomer, earlier, request) -> Touching:
    form = getattr(request, "param", "wide")
    if form == "narrow":
        page.set_viewport_size(PHONE)
    sign_in(page, base, newcomer().account.login, PASSWORD)
    return Touching(earlier, page=page, base=base, form=form)


def begin_test(hands: Touching, complaint: str, words: str) -> None:
    hands.begin(complaint)
    hands.page.locator("summary", has_text="Tests").click()
    hands.page.get_by_role("form", name="Tests").get_by_role("button", name=words).click()
    expect(hands.page.locator(".guided h2")).to_contain_text(words)


def posted(page: Page, button: Locator) -> None:
    """Touched, and answered: what stands on the page then is the answer."""
    with page.expect_response(lambda answer: answer.request.method == "POST"):
        button.click()
    page.wait_for_timeout(150)


def take(hands: Touching, value: float | str, after_s: float = 0.0) -> str:
    """The step that comes next, as its card says; which point it was."""
    page, card = hands.page, hands.page.locator(".guided .next")
    at = card.get_attribute("data-at") or ""
    done = page.locator(".guided h2 small").inner_text()
    posted(page, card.get_by_role("button"))
    expect(page.locator(f".pad[data-point='{at}']")).to_be_visible()
    if page.locator(".gate").count():
        if page.get_by_role("button", name="Open breakers").count():
            posted(page, page.get_by_role("button", name="Open breakers"))
            expect(page.locator("#strip")).to_contain_text("power off")
            posted(page, page.locator(".guided .next").get_by_role("button"))
            expect(page.locator(".gate")).to_be_visible()
        for check in page.locator(".gate input[type=checkbox]").all():
            check.check()
        page.get_by_role("button", name="Proved dead").click()
        expect(page.locator("#strip")).to_contain_text("proved dead")
    if after_s:
        hands.wait(after_s)
    page.locator("#value").fill(str(value))
    page.locator(".store").click()
    expect(page.locator("#verdict .says, #verdict .meaning").first).to_be_visible()
    expect(page.locator(".guided h2 small")).not_to_have_text(done)
    return at


def result(hands: Touching):
    return hands.page.locator(".guided .result")


def test_the_sag_test_finds_a_burnt_lug(hands):
    """238.5 V ahead, 232.4 V at the lugs, 42.4 A, 35 ft of 6 AWG: 190 W as read, 72.1 W at least."""
    hands.kit("21 Saltmarsh Lane, attic")
    hands.part(
        "C1", breaker_amps="60", conductor__awg="6", conductor__material="copper", conductor__length_ft="35"
    )
    begin_test(hands, "breaker-trips-or-burnt", "Sag test C1")
    assert [take(hands, 241.0), take(hands, 240.9)] == ["C1.line", "C1"]
    assert take(hands, 42.4, LATER_S) == "C1"
    assert [take(hands, 238.5), take(hands, 232.4)] == ["C1.line", "C1"]
    expect(hands.page.get_by_role("alert").filter(has_text="Stop the test here")).to_contain_text(
        "72.1 W at least"
    )
    expect(hands.page.locator(".guided .next")).to_have_count(0)
    expect(result(hands)).to_contain_text("190 W as read")
    expect(hands.page.locator("#stops")).to_contain_text("lock and tag")
    hands.off()
    hands.made_safe("breaker off, locked, lug to be remade")
    hands.did("remade", "C1.l2", note="L2 lug burnt, new wire end and lug")
    hands.on()
    for value, after_s in ((241.0, LATER_S), (240.9, 0), (42.4, LATER_S), (238.5, 0), (237.0, 0)):
        take(hands, value, after_s)
    assert [take(hands, 119.4), take(hands, 117.6)] == ["C1.l1:ground", "C1.l2:ground"]
    expect(result(hands)).to_contain_text("1.5 % apart")
    expect(hands.page.get_by_role("status").filter(has_text="All read")).to_be_visible()
    assert "All read" in hands.page.locator(".guided").inner_text()


@pytest.mark.parametrize("hands", ["narrow"], indirect=True)
def test_one_call_at_a_time_finds_a_shorted_coil_and_drives_nothing_into_it(hands):
    hands.kit("22 Saltmarsh Lane, closet")
    begin_test(hands, "control-fuse-blows", "One-call test")
    assert take(hands, 2.1) == "S1.coil"
    expect(hands.page.get_by_role("alert").filter(has_text="Stop the test here")).to_contain_text(
        "Let nothing drive it"
    )
    hands.did("replaced", "S1", note="coil shorted")
    hands.look_again()
    cold = [take(hands, value) for value in (42.0, 41.0, 30.0, "OL", "OL")]
    assert cold == ["S1.coil", "S2.coil", "BR.coil", "W1:ground", "G:ground"]
    assert [take(hands, value) for value in (0.02, 0.21, 0.5, 0.7)] == ["R"] * 4
    assert take(hands, 25.8) == "R"
    expect(hands.page.get_by_role("status").filter(has_text="All read")).to_be_visible()
    expect(result(hands)).to_contain_text("of 40 VA")


def test_the_rise_test_finds_too_little_air(hands):
    """238 V × (20.4 + 20.6 + 2.3) A are 10.3 kW; by a rise of 44 °F that is 740 CFM, 247 a ton."""
    hands.kit("23 Saltmarsh Lane, crawl space")
    hands.part("blower", tons="3", rated_cfm="1200", fla="3.4")
    begin_test(hands, "check-up", "Rise test")
    points = [take(hands, 20.4, LATER_S)]
    points += [take(hands, value) for value in (20.6, 238, 2.3, 66, 110)]
    assert points == ["E1", "E2", "C1", "blower", "return-air", "supply-air"]
    expect(result(hands)).to_contain_text("740")
    expect(result(hands)).to_contain_text(re.compile(r"247\sCFM a ton"))
    expect(hands.page.locator("#noted")).to_contain_text("Check filter, coil, wheel")
    hands.page.get_by_role("button", name="Back to next reading").click()
    expect(hands.page.locator("#judge .suspects")).to_be_visible()


@pytest.mark.parametrize("hands", ["narrow"], indirect=True)
def test_a_unit_without_a_plate_is_worked_out_from_ohms(hands):
    page = hands.page
    page.get_by_role("link", name="Quick numbers").click()
    page.get_by_role("link", name="No plate").click()
    page.get_by_label("Cold ohms of each element").fill("11.3, 11.2, 11.4")
    expect(page.locator(".huge")).to_contain_text("15.0 kW")
    expect(page.locator("#answer")).to_contain_text("5 kW may be 4.8 or 5.2")
    page.get_by_role("link", name="Start a unit").click()
    page.get_by_label("Where it is").fill("24 Saltmarsh Lane, attic")
    page.get_by_role("button", name="Add unit").click()
    expect(page.locator("#plate-bar")).to_be_visible()
    hands.unit = page.url.removeprefix(hands.base)
    expect(page.locator("svg.narrow a[id$='-E3']").first).to_contain_text("5 kW · 240 V")


def test_a_thin_wire_leaves_a_stage_off_and_the_owner_reads_it(hands):
    """41.7 A on 10 AWG: 30 A at most by 60 °C terminals, 20.8 A with one strip."""
    hands.kit("25 Saltmarsh Lane, annex")
    hands.part("C1", breaker_amps="60", conductor__awg="10", conductor__material="copper")
    hands.begin("check-up")
    hands.off()
    hands.made_safe("one strip left off, electrician called")
    hands.page.locator("summary", has_text="Tests").click()
    hands.page.get_by_role("link", name="Circuits", exact=True).click()
    section = hands.page.get_by_role("region", name="Circuit C1")
    expect(section).to_contain_text("leave E1 off")
    expect(section.locator("svg.ampere .bad")).not_to_have_count(0)
    section.get_by_role("button", name="E1 is left off").click()
    expect(hands.page.locator("#strip")).to_be_visible()
    report = hands.close(
        "in-service", "One strip is left off until the wire is larger.", "electrician: 6 AWG to the kit"
    )
    assert "E1 left off" in report.text
    assert "One strip is left off until the wire is larger." in report.text
    assert "Would pass" in report.text
