"""The same hands in a real browser: the drawing is touched, the pad is typed into."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from typing import Any

from bs4 import BeautifulSoup
from playwright.sync_api import Page, TimeoutError, expect

from plentar.words import phrase
from tests.app.hands import KIT, NOTHING, Hands

#: As long as a judge may be busy with others' questions beside a whole run.
BUSY_MS = 240_000


def press_close(page: Page) -> None:
    """As a person closes a visit: beside a busy judge once more, when it has answered."""
    for _ in range(5):
        with page.expect_navigation():
            page.get_by_role("button", name="Close the visit").click()
        if "are not checked yet" not in page.content():
            return
        checked = page.locator("#left [role=status]")
        expect(checked).to_contain_text("The newest readings are checked", timeout=BUSY_MS)


@dataclass
class Touching(Hands):
    """A real browser: the drawing is touched, the pad is typed into."""

    page: Page = field(kw_only=True)
    base: str = field(kw_only=True)
    form: str = field(kw_only=True)

    def __post_init__(self) -> None:
        self.page.expose_binding("countTouch", self._touched)
        self.page.add_init_script("addEventListener('pointerdown', () => countTouch(), true)")

    def _touched(self, _source: object) -> None:
        self.touches += 1

    def kit(self, label: str, **chosen: str) -> None:
        expect(self.page.get_by_text("No units yet")).to_be_visible()
        self.page.get_by_role("link", name="New unit").click()
        self.page.get_by_label("Where it is").fill(label)
        for name, value in (KIT | chosen).items():
            self.page.locator(f"[id='{name}-{value}']").check()
        self.page.get_by_role("button", name="Add unit").click()
        expect(self.page.locator("#plate-bar")).to_be_visible()
        self.unit = self.page.url.removeprefix(self.base)

    def part(self, part: str, **values: str) -> None:
        """A part's panel, some of its values chosen or typed."""
        self.page.goto(f"{self.base}{self.unit}?part={part}")
        for name, value in values.items():
            field = self.page.locator(f"#panel [name='{name.replace('__', '.')}']").first
            if not field.is_visible():
                self.page.locator("#panel summary").click()
            if field.evaluate("field => field.tagName") == "SELECT":
                field.select_option(value)
            else:
                field.fill(value)
        before = self.page.locator("#plate-bar .text-soft").inner_text()
        self.page.locator("#panel form").first.locator("button.main").click()
        expect(self.page.locator("#plate-bar .text-soft")).not_to_have_text(before)

    def touch(self, point: str) -> None:
        drawn = self.page.locator(f"svg.{self.form} a[id$='-{point}']").first
        for side in self.page.locator(".sides button").all() if self.form == "narrow" else ():
            if not drawn.is_visible():
                side.click()
        drawn.click()

    def begin(self, complaint: str) -> None:
        self.page.goto(f"{self.base}{self.unit}")
        self.page.get_by_label("Reason for the call").select_option(complaint)
        self.page.get_by_role("button", name="Start a visit").click()
        expect(self.page.locator("#bench")).to_be_visible()
        self.bench = self.page.url.removeprefix(self.base)
        self.called = NOTHING
        self.visits += 1

    def look_again(self) -> None:
        """The bench, as it stands now."""
        self.page.goto(f"{self.base}{self.bench}")

    def at_bench(self, at: str) -> None:
        """The bench, not loaded anew where nothing lies over its drawing and no pad of this point is open."""
        here = self.form == "wide" and self.page.url == f"{self.base}{self.bench}"
        if not here or self.page.locator(f".pad[data-point='{at}']").count():
            self.look_again()

    def calls(self, *asked: str) -> None:
        self.look_again()
        for call in sorted({*asked} ^ {*self.called}):
            button = self.page.locator(f"#strip button[value='{call}']")
            button.click()
            pressed = "true" if call in asked else "false"
            expect(button).to_have_attribute("aria-pressed", pressed)
        self.called = asked

    def read(self, at: str, quantity: str, value: float | str, **more: str) -> None:
        self.at_bench(at)
        drawn = self.page.locator(f"svg.{self.form} a[id$='-{at}']")
        pad = self.page.locator(f".pad[data-point='{at}']")
        if drawn.count():
            self.touch(at)
            try:
                pad.wait_for(timeout=15_000)
            except TimeoutError:  # what was touched was just being drawn anew
                self.touch(at)
        else:
            self.page.goto(f"{self.base}{self.bench}?at={at}")
        expect(pad).to_be_visible()
        tab = self.page.locator(".tabs").get_by_role("link", name=phrase(f"quantity.{quantity}"), exact=True)
        if tab.get_attribute("aria-current") != "true":
            tab.click()
            expect(tab).to_have_attribute("aria-current", "true")
        if more.get("driven"):
            self.page.get_by_label("coil alone, fed from an isolated 24 V bench supply").check()
        if quantity == "tone":
            self.page.locator(f".pad button[name=value][value='{value}']").click()
        else:
            self.page.locator("#value").fill(str(value))
            self.page.locator(".store").click()
        self.readings += 1
        expect(self.page.locator("#verdict .says")).to_contain_text("stored")

    def coil_wires(self, at: str, state: str) -> None:
        self.page.goto(f"{self.base}{self.bench}?at={at}&quantity=ohms")
        said = "are off" if state == "lifted" else "Both are back on"
        self.page.locator(".pad").get_by_role("button", name=said).click()
        shown = "Both are back on" if state == "lifted" else "are off"
        expect(self.page.locator(".pad").get_by_role("button", name=shown)).to_be_visible()

    def off(self) -> None:
        self.look_again()
        if self.page.get_by_role("button", name="Open breakers").count():
            self._strip("Open breakers", "power off")

    def on(self) -> None:
        self.look_again()
        if self.page.get_by_role("button", name="Power back on").count():
            self._strip("Power back on", "power on")

    def _strip(self, button: str, shows: str) -> None:
        self.look_again()
        self.page.locator("#strip").get_by_role("button", name=button).click()
        expect(self.page.locator("#strip")).to_contain_text(shows)

    def dead(self) -> None:
        self.off()
        if "proved dead" in self.page.locator("#strip").inner_text():
            return
        self.page.locator("#strip").get_by_role("link", name="Prove dead").click()
        self.page.locator(".gate").wait_for()
        for check in self.page.locator(".gate input[type=checkbox]").all():
            check.check()
        self.page.get_by_role("button", name="Proved dead").click()
        expect(self.page.locator("#strip")).to_contain_text("proved dead")

    def look(self, item: str, state: str) -> None:
        self.look_again()
        look = self.page.locator("details.look")
        look.wait_for()
        if look.get_attribute("open") is None:
            look.locator("summary").click()
        button = look.locator(f"button[value='{item}:{state}']")
        button.click()
        expect(button).to_have_attribute("aria-pressed", "true")

    def wires(self, state: str) -> None:
        self.look_again()
        self.touch("handle-lifted")
        shown = "jumpers" if state == "lifted" else "wires"
        expect(self.page.locator(f"svg.{self.form} a[id$='-handle-lifted']")).to_contain_text(shown)

    def saw(self, part: str, action: str) -> None:
        if action in ("cycling", "steady"):
            self.look_again()
            self.touch(part)
            self.page.locator(f".pad button[name=observe][value={action}]").click()
            expect(self.page.locator(".pad")).to_have_count(0)
            return
        self.page.goto(f"{self.base}{self.bench}/tape")
        self.page.get_by_role("button", name=f"{part} {action} now", exact=True).click()
        expect(self.page.locator("#tape")).to_contain_text("Undo")

    def lead(self, seconds: float) -> None:
        self.page.goto(f"{self.base}{self.bench}/tape")
        self.page.locator(f"button[name=lead_s][value='{seconds}']").click()
        expect(self.page.locator("#tape")).to_contain_text("before the watch started")

    def did(self, verb: str, *parts: str, by: str = "", note: str = "") -> None:
        self.look_again()
        self.page.locator("#strip").get_by_role("link", name="Log work").click()
        self.page.locator(f"[id='verb-{verb}']").check()
        for part in parts:
            self.page.locator(f"[id='part-{part}']").check()
        if by:
            self.page.get_by_label("Replaced with").select_option(by)
        self.page.locator("#did-note").fill(note)
        self.page.locator(".work [name=was_off]").check()
        self.page.get_by_role("button", name="Log work", exact=True).click()
        expect(self.page.locator("#log")).to_contain_text(note or parts[-1])

    def note(self, part: str, text: str) -> None:
        self.page.goto(f"{self.base}{self.bench}/work?part={part}")
        self.page.locator("#note-text").fill(text)
        self.page.get_by_role("button", name="Keep note").click()
        expect(self.page.locator("#log")).to_contain_text(text)

    def act(self, part: str, act: str, chosen: str = "") -> None:
        self.page.goto(f"{self.base}{self.unit}?part={part}")
        before = self.page.locator("#plate-bar .text-soft").inner_text()
        button = self.page.locator(f"#panel button[name=act][value='{act}']")
        if chosen:
            button.locator("xpath=..").locator("select").select_option(chosen)
        button.click()
        expect(self.page.locator("#plate-bar .text-soft")).not_to_have_text(before)

    def use_plate(self) -> None:
        self.look_again()
        self.page.get_by_role("button", name="Use new plate").click()
        expect(self.page.get_by_role("button", name="Use new plate")).to_have_count(0)

    def made_safe(self, how: str) -> int:
        self.look_again()
        found = 0
        while self.page.locator("#stops .stop").count():
            left = self.page.locator("#stops .stop").count()
            self.page.get_by_label("How it was made safe").first.fill(how)
            self.page.locator("#stops").get_by_role("button", name="Log it").first.click()
            expect(self.page.locator("#stops .stop")).to_have_count(left - 1)
            found += 1
        return found

    def log(self) -> str:
        self.page.goto(f"{self.base}{self.bench}/log")
        return self.page.locator("#log").inner_text().replace("\u202f", " ")

    def close(self, outcome: str = "in-service", note: str = "", follow_up: str = "") -> BeautifulSoup:
        self.look_again()
        self.page.get_by_role("link", name="Close out").click()
        self.page.locator("#left").wait_for()
        boxes = self.page.locator("#retest input[name=line]")
        for box in boxes.all():
            box.check()
        if boxes.count():
            self.page.get_by_label("Why the marked lines").fill("read by hand before")
            self.page.get_by_role("button", name="Leave the marked ones out").click()
            expect(self.page.locator("#retest")).to_contain_text("left out")
            expect(boxes).to_have_count(0)
        self.page.locator(f"[id='outcome-{outcome}']").check()
        self.page.get_by_label("What was done and left").fill(note)
        self.page.get_by_label("To follow up").fill(follow_up)
        press_close(self.page)
        self.page.locator("article.report").wait_for()
        return BeautifulSoup(self.page.content(), "html.parser")

    def seen(self, path: str) -> BeautifulSoup:
        return BeautifulSoup(self.page.request.get(f"{self.base}{path}").text(), "html.parser")

    def open_lines(self) -> list[str]:
        self.page.goto(f"{self.base}{self.bench}/close")
        boxes = self.page.locator("#retest input[name=line]").all()
        return [box.get_attribute("value") or "" for box in boxes]

    def file(self) -> dict[str, Any]:
        return json.loads(self.page.request.get(f"{self.base}{self.bench}/visit.json").text())

    def plate(self) -> dict[str, Any]:
        return json.loads(self.page.request.get(f"{self.base}{self.unit}/unit.json").text())["unit"]
