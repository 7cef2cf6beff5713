"""From a finding to a unit that is handed over, on the screens themselves; and by the keyboard alone."""

from __future__ import annotations

import io

import pypdf
from playwright.sync_api import Page, expect

from tests.app.browser.conftest import PHONE, sign_in
from tests.app.browser.test_journey import AXE, RULES
from tests.app.calls import LOCKED
from tests.app.conftest import PASSWORD
from tests.app.touching import Touching, press_close

HEAT = " with G W1"


def test_a_welded_relay_is_made_safe_replaced_with_its_fellow_and_read_again_until_all_passes(
    page, base, newcomer, earlier
):
    sign_in(page, base, newcomer().account.login, PASSWORD)
    hands = Touching(earlier, page=page, base=base, form="wide")
    hands.kit("81 Saltmarsh Lane, attic", control="relays-ac")
    hands.begin("heat-will-not-stop")
    hands.read("C1", "volts", 240)
    hands.amps(E1=20.6, E2=0.0)
    hands.off()
    assert hands.made_safe(LOCKED) == 1
    hands.dead()
    hands.read("K1.1", "ohms", 0.1)
    hands.did("replaced", "K1", "K2", note="one welded, its fellow as old")
    page.goto(f"{base}{hands.bench}/close")
    expect(page.locator("#retest")).to_contain_text("open")
    page.locator("[id='outcome-in-service']").check()
    press_close(page)
    expect(page.locator(".complaint")).to_contain_text("Not while a stop is open")
    page.get_by_role("button", name="Read it on the drawing").click()
    expect(page.locator(".guided h2")).to_contain_text("Retest")
    good = {
        "ohms K1.1": "OL",
        "ohms K1.2": "OL",
        "ohms K2.1": "OL",
        "ohms K2.2": "OL",
        f"amps E1{HEAT}": 20.5,
        f"amps E2{HEAT}": 20.6,
        f"volts K1.1{HEAT}": 0.1,
        f"volts K2.1{HEAT}": 0.1,
        f"volts C1{HEAT}": 239,
        "amps blower with G": 2.2,
        "amps blower with W1": 2.2,
        "amps C1": 0,
        "amps E1 with G": 0,
        "amps E2 with G": 0,
        "ohms E2": 11.6,
        "ohms E2.in:ground": "OL",
    }
    hands.retest(good | {f"amps E2{HEAT}": 0.0})
    page.goto(f"{base}{hands.bench}/close")
    failed = page.locator("#retest tr.is-fail")
    expect(failed).to_have_count(1)
    expect(failed).to_contain_text("Element E2, amps")
    hands.off()
    hands.dead()
    hands.did("remade", "E2", note="its spade had slipped off")
    hands.retest(good)
    page.goto(f"{base}{hands.bench}/close")
    expect(page.locator("#retest input[name=line]")).to_have_count(0)
    report = hands.close(note="Both relays are new.")
    assert "in service" in report.text
    page.get_by_role("link", name="Owner’s sheet").click()
    expect(page.locator(".left")).to_have_text("The unit is in service.")
    raw = page.request.get(f"{base}{hands.bench}/owner.pdf").body()
    text = " ".join(" ".join(p.extract_text() for p in pypdf.PdfReader(io.BytesIO(raw)).pages).split())
    for words in (
        "81 Saltmarsh Lane, attic",
        "The heat would not stop",
        "Put right: Heating element E1 heated although the thermostat did not ask for it.",
        "Heat relay K1: replaced by a new one",
        "Heating element E2: new connection made",
        "Heating element E2 heat on 0 A 20.6 A",
        "The unit is in service.",
    ):
        assert words in text, (words, text)
    assert "Danger" not in text, "what is put right is no danger beside a unit in service"


def tab_to(page: Page, selector: str) -> None:
    """By the tabulator alone."""
    for _ in range(200):
        if page.evaluate("s => document.activeElement.matches(s)", selector):
            return
        page.keyboard.press("Tab")
    raise AssertionError(f"{selector} is not reached by the keyboard")


def test_a_melted_lug_is_left_for_the_electrician_and_taken_up_on_the_next_visit(
    page, base, newcomer, earlier
):
    """On a phone; the page on which the visit ends by the keyboard alone."""
    page.set_viewport_size(PHONE)
    sign_in(page, base, newcomer().account.login, PASSWORD)
    hands = Touching(earlier, page=page, base=base, form="narrow")
    hands.kit("82 Saltmarsh Lane, closet")
    hands.begin("breaker-trips-or-burnt")
    hands.look("lugs", "burnt")
    hands.off()
    assert hands.made_safe(LOCKED) == 1
    page.goto(f"{base}{hands.bench}/close")
    tab_to(page, "#work .suggested .when-now select")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("Tab")
    page.keyboard.press("Enter")
    line = page.locator("#work > .todo:not(.suggested) > li.when-now")
    expect(line).to_contain_text("meanwhile No electric heat")
    tab_to(page, "#work > .todo:not(.suggested) li.when-now details summary")
    page.keyboard.press("Enter")
    tab_to(page, "#work > .todo input[name=text]")
    page.keyboard.press("Control+a")
    page.keyboard.type("Electrician: new lugs and breaker")
    tab_to(page, "#work > .todo select[name=parts]")
    page.keyboard.type("part on order")
    tab_to(page, "#work > .todo details button")
    page.keyboard.press("Enter")
    expect(line).to_contain_text("Electrician: new lugs and breaker")
    expect(line).to_contain_text("part on order")
    tab_to(page, "#left input[name=outcome]")
    page.keyboard.press("Space")
    page.keyboard.press("ArrowRight")
    page.keyboard.press("ArrowRight")
    tab_to(page, "#left_note")
    page.keyboard.type("The lugs are melted.")
    tab_to(page, "#told")
    page.keyboard.type("M. Somebody")
    tab_to(page, "#left button.main")
    page.keyboard.press("Enter")
    page.locator("article.report").wait_for()
    expect(page.locator("article.report")).to_contain_text("heat disabled")
    expect(page.locator("article.report")).to_contain_text("M. Somebody")
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]

    hands.begin("no-heat")
    page.goto(f"{base}{hands.bench}/close")
    expect(line).to_contain_text("Electrician: new lugs and breaker")
    expect(page.locator("#left")).to_contain_text("E1 is left off.")
    expect(page.locator("#left")).to_contain_text("Open the breakers on the bench")
    assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"]
    hands.off()
    page.goto(f"{base}{hands.bench}/close")
    page.get_by_role("button", name="E1 is connected again").click()
    page.get_by_role("button", name="E2 is connected again").click()
    expect(page.locator("#left")).not_to_contain_text("left off.")
    hands.dead()
    hands.did("replaced", "C1", note="by the electrician")
    hands.look("lugs", "fine")
    hands.retest(
        {
            f"amps E1{HEAT}": 20.5,
            f"amps E2{HEAT}": 20.6,
            f"volts C1{HEAT}": 239,
            f"volts C1.line{HEAT}": 240,
            f"amps C1{HEAT}": 43.4,
            "amps C1": 0,
        }
    )
    page.goto(f"{base}{hands.bench}/close")
    line.get_by_role("button", name="Done").click()
    expect(page.locator("#work > .todo > li.done")).to_have_count(1)
    assert "in service" in hands.close(note="New lugs and breaker.").text


def test_nothing_on_the_way_out_is_out_of_reach(browser, base, newcomer, earlier):
    """The page on which a visit ends, both sheets: no violation, in light and dark, desk and phone."""
    context = browser.new_context(viewport=PHONE, bypass_csp=True)
    page = context.new_page()
    sign_in(page, base, newcomer().account.login, PASSWORD)
    hands = Touching(earlier, page=page, base=base, form="narrow")
    hands.kit("83 Saltmarsh Lane")
    hands.begin("no-heat")
    hands.look("filter", "poor")
    hands.did("reset", "C1")
    hands.did("replaced", "E1", note="new strip")
    found = []
    for path in (f"{hands.bench}/close", f"{hands.bench}/owner", f"{hands.bench}/report", "/account"):
        page.goto(f"{base}{path}")
        if path.endswith("close"):
            page.locator("#work summary").last.click()
        page.add_script_tag(path=AXE)
        for theme, rules in RULES.items():
            page.emulate_media(color_scheme=theme)
            for violation in page.evaluate("some => axe.run({runOnly: some})", rules)["violations"]:
                where = [node["target"] for node in violation["nodes"]][:3]
                found.append(f"{path} in {theme}: {violation['id']} {where}")
        assert page.evaluate("document.documentElement.scrollWidth") <= PHONE["width"], path
    context.close()
    assert not found, found
