"""What a shop remembers, on the screens: a drift found at the pad, and the first day of a new shop."""

from __future__ import annotations

import io

import segno
from PIL import Image
from playwright.sync_api import expect

from tests.app.browser.conftest import PHONE, sign_in
from tests.app.conftest import PASSWORD
from tests.app.hands import Posting
from tests.app.touching import Touching

YEAR_S = 365.25 * 86400


def test_a_drift_is_found_on_the_pad_told_on_the_report_and_leads_to_its_visits(
    page, base, newcomer, earlier
):
    me = newcomer()
    before = Posting(earlier, client=me.client)
    before.kit("131 Saltmarsh Lane", control="relays-ac")
    for years, amps in ((3, 20.8), (2, 19.8), (1, 18.9)):
        before.begin("check-up")
        before.read("C1", "volts", 240)
        before.calls("W1", "G")
        before.wait(700)
        before.amps(E1=amps, E2=20.6)
        before.calls()
        before.close()
        earlier(before.bench, years * YEAR_S)
    page.set_viewport_size(PHONE)
    sign_in(page, base, me.account.login, PASSWORD)
    hands = Touching(earlier, page=page, base=base, form="narrow", unit=before.unit)
    hands.begin("not-enough-heat")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(700)
    page.goto(f"{base}{hands.bench}?at=E1&quantity=amps")
    expect(page.locator(".pad .past")).to_contain_text("last time 18.9 A")
    expect(page.locator(".pad .past")).to_contain_text("▲ falls by")
    hands.amps(E1=17.9, E2=20.6)
    hands.calls()
    hands.close("left-off", "The first strip is worn.")
    expect(page.locator("main")).to_contain_text("Element E1, amps at rated volts: ▲ falls by")
    page.goto(f"{base}{hands.unit}")
    page.get_by_role("link", name="All readings over the years").click()
    worn = page.locator(".histories section").first
    expect(worn).to_contain_text("E1")
    expect(worn).to_contain_text("leaves its range")
    worn.locator("svg a").first.click()
    page.wait_for_url("**/report")
    expect(page.locator("main")).to_contain_text("20.8 A")


def dark_modules(picture: bytes) -> list[list[bool]]:
    """What a camera would see of a label's code."""
    seen = Image.open(io.BytesIO(picture)).convert("L")
    count = 45  # of an address of this length, with the quiet zone around it
    step = seen.width / count
    middles = [int((n + 0.5) * step) for n in range(count)]
    return [[seen.getpixel((x, y)) < 128 for x in middles] for y in middles]


TABLE = """label,place,door,elements,kw,tags
1 Marram Row,Marram Row,1,2,5,north
2 Marram Row,Marram Row,2,{elements},5,north
3 Marram Row,Marram Row,3,1,5,north
4 Marram Row,Marram Row,4,2,5,north
Plant room,,,3,5,
"""


def test_the_first_day_of_a_shop_and_a_round_half_done_and_carried_over(
    page, base, newcomer, earlier, tmp_path
):
    sign_in(page, base, newcomer().account.login, PASSWORD)
    page.get_by_role("link", name="Import units").click()
    for elements, said in (("ninety", "line"), ("2", "5 are ready")):
        page.goto(f"{base}/shop/archive")
        path = tmp_path / "units.csv"
        path.write_text(TABLE.format(elements=elements))
        page.get_by_label("Table of units").set_input_files(path)
        page.get_by_role("button", name="Preview units").click()
        expect(page.locator("main")).to_contain_text(said)
    page.goto(f"{base}/shop/archive")
    page.get_by_label("Table of units").set_input_files(path)
    page.get_by_role("button", name="Add units").click()
    expect(page.locator("a.line")).to_have_count(5)
    page.get_by_role("link", name="Routes").click()
    page.get_by_label("Name").fill("Autumn")
    page.get_by_label("Units that match these words").fill("north")
    page.get_by_role("button", name="Plan route").click()
    expect(page.locator("tbody tr")).to_have_count(4)
    page.get_by_role("link", name="Plentar, start page").click()
    expect(page.locator(".lane .house")).to_have_count(4)
    page.locator(".house", has_text="to do").first.click()
    hands = Touching(earlier, page=page, base=base, form="wide", unit=page.url.removeprefix(base))
    page.get_by_role("link", name="Print label").click()
    code = page.locator("svg.code")
    code.evaluate("code => { code.nextElementSibling.remove(); code.style.width = '450px' }")
    assert dark_modules(code.screenshot()) == [
        [bool(module) for module in row]
        for row in segno.make(f"{base}{hands.unit}", error="m", micro=False).matrix_iter(border=4)
    ]
    hands.begin("check-up")
    hands.read("C1", "volts", 240)
    page.goto(base)
    expect(page.locator(".house.is-in-progress")).to_have_count(1)
    hands.close(note="All well.")
    page.goto(f"{base}/rounds")
    expect(page.locator("a.line")).to_contain_text("1 of 4")
    page.get_by_label("Name").fill("Winter")
    page.get_by_label("Or the rest of a route").select_option(label="3 left of Autumn")
    page.get_by_role("button", name="Plan route").click()
    expect(page.locator("tbody th")).to_have_text(["2 Marram Row", "3 Marram Row", "4 Marram Row"])
