"""Practice through the screens: with hints to the end, something unsafe, a lesson, and one scene by two people."""

from __future__ import annotations

import itertools
import re
import uuid
from collections.abc import Callable
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect
from sqlalchemy.orm import Session

from plentar.files.unit_json import unit_to_json
from plentar.practice.scene import drawn
from plentar.stand_ins.wider.specimen import filled
from plentar.store.accounts import make_account
from plentar.store.models import Practice, Shop
from plentar.store.units import find_unit
from tests.app.browser.conftest import DESK, PHONE, sign_in
from tests.app.browser.test_journey import AXE, RULES
from tests.app.conftest import PASSWORD, Somebody


def begin(page: Page, base: str, **chosen: str) -> None:
    page.goto(f"{base}/practice")
    for name, value in chosen.items():
        field = page.locator(f"#{name}")
        if name == "seed":
            field.fill(value)
        else:
            field.select_option(value)
    page.locator("form:has(#theme) button.main").click()
    page.wait_for_url(re.compile(r"/practice/[0-9a-f-]{36}"))


def touch(page: Page, words: str) -> None:
    """A button of the strip or the meter, and what it did is there."""
    with page.expect_response(lambda answer: answer.url.endswith("/act")):
        page.get_by_role("button", name=words, exact=True).first.click()


def at(page: Page, point: str) -> None:
    page.goto(f"{page.url.partition('?')[0]}?at={point}")


def hint(page: Page) -> None:
    """The judge's next card; a judge that is busy beside other tests says so, and is asked again."""
    for _ in range(10):
        with page.expect_response(lambda answer: answer.url.endswith("/hint")):
            page.get_by_role("button", name="A hint").click()
        expect(page.locator("#coach .hint, #coach h3").first).to_be_visible()
        if "busy" not in page.locator("#coach").inner_text():
            return


def seed_of(session: Session, me: Somebody, fault: str) -> str:
    """A word whose scene of the shop's unit hides this fault alone."""
    plate = unit_to_json(find_unit(session, me.account.shop_id, me.unit_id).unit)
    return next(
        word
        for word in map(str, itertools.count())
        if drawn(plate, "sequencers", 1, "", word).faults == (fault,)
    )


def end(page: Page, *named: str) -> None:
    page.locator("details:has(#part) summary").click()
    for part in named:
        page.locator(f"#named-{part}").check(force=True)
    page.locator("form[action$='/end'] button").click()
    page.wait_for_url(re.compile("/debrief$"))


def assert_within_reach(page: Page) -> None:
    page.add_script_tag(path=AXE)
    for theme, rules in RULES.items():
        page.emulate_media(color_scheme=theme)
        violations = page.evaluate("some => axe.run({runOnly: some})", rules)["violations"]
        assert not violations, [(v["id"], [n["target"] for n in v["nodes"]][:3]) for v in violations]
    assert page.evaluate("document.documentElement.scrollWidth - innerWidth") <= 0


@pytest.mark.parametrize("size", [PHONE, DESK], ids=["phone", "desk"])
def test_a_beginners_scene_with_hints_to_the_end(
    browser: Browser, base: str, somebody: Callable[[], Somebody], session: Session, size: Any
) -> None:
    me = somebody()
    context = browser.new_context(viewport=size, bypass_csp=True, service_workers="block")
    page = context.new_page()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(base)
    page.get_by_role("link", name="Practice").first.click()
    expect(page.locator(".practice-word")).to_contain_text("Nothing here is a visit")
    assert_within_reach(page)
    begin(page, base, theme="sequencers", seed=seed_of(session, me, "S1.1:stuck-open"))
    expect(page.locator(".practice-word")).to_be_visible()
    hint(page)
    expect(page.locator("#coach h3")).not_to_be_empty()
    touch(page, "G")
    touch(page, "W1")
    touch(page, "+5:00")
    expect(page.locator("#practice")).to_contain_text("the blower runs")
    at(page, "E2")
    touch(page, "amps")
    expect(page.locator(".meter .num")).to_have_text(re.compile(r"^[\d.]+"))
    shown = page.locator(".meter .num").inner_text()
    # With a hand on the wrong wheel: it says what would have been.
    touch(page, "ohms")
    expect(page.locator("[role=alert].stop")).to_contain_text("the meter would burn in your hand")
    assert page.locator(".meter .num").inner_text() == shown
    assert_within_reach(page)
    if size == PHONE:
        page.locator("#pad [aria-label='Close pad']").click()
    end(page, "S1")
    expect(page.locator(".verdict-line")).to_contain_text("Hints: 1")
    expect(page.locator("main")).to_contain_text("the meter would burn in your hand")
    expect(page.locator("main")).to_contain_text("bits")
    assert_within_reach(page)
    context.close()


def test_by_keyboard_alone(page: Page, base: str, somebody: Callable[[], Somebody]) -> None:
    """A part of the drawing has its name, the meter says what it shows, a switch is pressed or not."""
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    begin(page, base, theme="strips", seed="oak", coaching="off")
    call = page.get_by_role("button", name="G", exact=True)
    call.focus()
    with page.expect_response(lambda answer: answer.url.endswith("/act")):
        page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="● G", exact=True)).to_have_attribute("aria-pressed", "true")
    part = page.get_by_role("link", name=re.compile("^blower, motor")).first
    part.focus()
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile(r"at=blower"))
    button = page.get_by_role("button", name="amps", exact=True).first
    button.focus()
    page.keyboard.press("Enter")
    meter = page.get_by_role("status", name="Meter")
    expect(meter).to_contain_text("A")


def test_a_lesson_asks_and_says_afterwards(page: Page, base: str, somebody: Callable[[], Somebody]) -> None:
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}/practice")
    page.get_by_role("button", name="Begin the lesson Prove dead").click()
    expect(page.locator("#practice")).to_contain_text("What comes before the meter is set to ohms?")
    touch(page, "Open breakers")
    touch(page, "Prove dead")
    at(page, "E1")
    touch(page, "ohms")
    expect(page.locator(".meter .num")).to_contain_text(re.compile("Ω|OL"))
    end(page, "none")
    expect(page.locator("main")).to_contain_text("the meter on a live source")
    expect(page.locator("main")).to_contain_text("None.")


def hand_of(session: Session, lead: Somebody) -> str:
    """The login of a technician of the same shop."""
    shop = session.get_one(Shop, lead.account.shop_id)
    login = f"hand{lead.account.login}"
    make_account(session, shop, login, "A Hand", PASSWORD, "technician")
    session.commit()
    return login


def test_one_scene_by_two_people_side_by_side(
    page: Page, base: str, somebody: Callable[[], Somebody], session: Session
) -> None:
    """A lead's scene goes on as a link; the lead sees both, the technician their own."""
    lead = somebody()
    login = hand_of(session, lead)
    sign_in(page, base, lead.account.login, PASSWORD)
    begin(page, base, theme="strips", seed="ash", coaching="off")
    end(page, "none")
    link = page.get_by_role("link", name="The same scene again").get_attribute("href")
    page.context.clear_cookies()
    sign_in(page, base, login, PASSWORD)
    page.goto(f"{base}{link}")
    assert page.locator("#seed").input_value() == "ash"
    page.locator("form:has(#theme) button.main").click()
    page.wait_for_url(re.compile(r"/practice/[0-9a-f-]{36}"))
    end(page, "none")
    expect(page.locator("main")).not_to_contain_text("side by side")
    page.context.clear_cookies()
    sign_in(page, base, lead.account.login, PASSWORD)
    page.goto(f"{base}/practice")
    page.locator("a.line", has_text="A Hand").click()
    expect(page.locator("table", has_text="A Hand")).to_contain_text("A Lead")


@pytest.mark.parametrize("size", [PHONE, DESK], ids=["phone", "desk"])
def test_two_faults_are_found_mended_and_read_again(
    page: Page, base: str, somebody: Callable[[], Somebody], session: Session, size: Any
) -> None:
    """Both strips are seen by the clamp, read dead, replaced with their wires marked, and draw again."""
    me = somebody()
    page.set_viewport_size(size)
    sign_in(page, base, me.account.login, PASSWORD)
    row = two_open_strips(session, me)
    page.goto(f"{base}/practice/{row.id}?at=C1")
    touch(page, "Leave clamp on")
    for words in ("G", "W1", "+5:00"):
        touch(page, words)
    expect(page.get_by_role("region", name="What the clamp shows")).to_contain_text("at most")
    shown = page.locator("section[aria-label='What the clamp shows'] li").last.inner_text()
    assert float(shown.split()[-2]) < 6, "the motor alone"
    touch(page, "● W1")
    touch(page, "● G")
    touch(page, "Open breakers")
    touch(page, "Prove dead")
    for strip in ("E1", "E2"):
        at(page, strip)
        touch(page, "ohms")
        expect(page.locator(".meter .num")).to_contain_text("OL")
        page.locator("details:has(#part) summary").click()
        page.locator("#part").select_option(strip)
        page.get_by_label("Wires marked, and moved one at a time").check()
        touch(page, "Replace it")
    page.locator("details:has(#part) summary").click()
    expect(page.locator("#practice")).to_contain_text("To be read again after the repair")
    for words in ("Power back on", "G", "W1", "+5:00"):
        touch(page, words)
    for strip in ("E1", "E2"):
        at(page, strip)
        touch(page, "amps")
        expect(page.locator(".meter")).to_contain_text("in range")
    if size == PHONE:
        page.locator("#pad [aria-label='Close pad']").click()
    end(page, "E1", "E2")
    expect(page.locator(".verdict-line")).to_contain_text("● found")
    expect(page.locator("main")).to_contain_text("None.")
    expect(page.locator("#ways table")).to_contain_text("The customary order", timeout=120_000)
    assert "Replaced in vain" not in page.locator("main").inner_text()


def two_open_strips(session: Session, me: Somebody) -> Practice:
    """A scene of the shop's unit with both strips open, as two faults of one scene are."""
    record = find_unit(session, me.account.shop_id, me.unit_id)
    faults = ("E1:open", "E2:open")
    made = {"theme": "strips", "faults": 2, "kind": "", "lesson": "", "seed": "oak", "unit": str(me.unit_id)}
    plate = filled(unit_to_json(record.unit))
    scene = {"plate": plate, "faults": faults, "seed": "oak", "complaint": "no-heat", "lesson": ""}
    row = Practice(
        id=uuid.uuid4(),
        shop_id=me.account.shop_id,
        account_id=me.account.id,
        coaching="off",
        scene=scene | {"label": record.unit.label, "again": made},
    )
    session.add(row)
    session.commit()
    return row


def test_a_lead_sets_a_scene_that_another_finds_among_theirs(
    page: Page, base: str, somebody: Callable[[], Somebody], session: Session
) -> None:
    lead = somebody()
    login = hand_of(session, lead)
    sign_in(page, base, lead.account.login, PASSWORD)
    page.goto(f"{base}/practice")
    page.locator("#theme").select_option("strips")
    for name in ("A Hand", "A Lead"):
        page.get_by_role("checkbox", name=name).check()
    page.locator("form:has(#theme) button.main").click()
    page.locator("a.line").filter(has_not_text="A Hand").click()
    end(page, "none")
    page.context.clear_cookies()
    sign_in(page, base, login, PASSWORD)
    page.goto(f"{base}/practice")
    expect(page.locator("fieldset", has_text="For whom")).to_have_count(0)
    expect(page.locator("a.line")).to_contain_text("set by A Lead")
    page.locator("a.line").click()
    touch(page, "G")
    end(page, "none")
    page.context.clear_cookies()
    sign_in(page, base, lead.account.login, PASSWORD)
    page.goto(f"{base}/practice")
    page.locator("a.line", has_text="A Hand").click()
    expect(page.locator("table", has_text="A Hand")).to_contain_text("A Lead")
