"""Every kind of call played in a real browser from an empty list of units to its sheets, by turns on a desk
and on a phone, each touch counted."""

from __future__ import annotations

import uuid
from collections.abc import Iterator

from playwright.sync_api import Browser, expect, sync_playwright
from sqlalchemy.orm import Session

from benchmarks.server import fresh_database, server
from benchmarks.shots import CHROMIUM, DESK, PHONE
from plentar.store.accounts import make_account, make_shop
from plentar.store.database import connect
from plentar.web.server import APPLICATION
from tests.app.calls import EACH_TOUCHES, EVERY, OTHER_TOUCHES, in_few_touches, read_back
from tests.app.conftest import moved_back
from tests.app.touching import Touching

PASSWORD = "only for this benchmark"
#: A busy machine takes its time; what does not come at all still fails.
PATIENCE_MS = 60_000


def measure() -> Iterator[str]:
    expect.set_options(timeout=PATIENCE_MS)
    url = fresh_database(f"calls_{uuid.uuid4().hex[:8]}")
    env = {"PLENTAR_DATABASE_URL": url, "PLENTAR_SECRET_KEY": "x" * 40}
    with server(APPLICATION, env) as port, sync_playwright() as playwright, connect(url)() as session:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        yield f"at most {EACH_TOUCHES} touches a reading and {OTHER_TOUCHES} beside of each visit"
        yield "call                       on     readings  touches"
        for number, call in enumerate(EVERY):
            hands = _hands(browser, session, f"http://127.0.0.1:{port}", number)
            call(hands)
            read_back(hands)
            few = "" if in_few_touches(hands) else "  too many"
            on = "phone" if hands.form == "narrow" else "desk"
            yield f"{call.__name__:26} {on:6} {hands.readings:8} {hands.touches:8}{few}"
            hands.page.context.close()


def _hands(browser: Browser, session: Session, base: str, number: int) -> Touching:
    """Somebody new in a shop without units."""
    login, phone = f"caller{number}", bool(number % 2)
    make_account(session, make_shop(session, f"Shop {number}"), login, "A Lead", PASSWORD, "lead")
    session.commit()
    page = browser.new_context(viewport=PHONE if phone else DESK, accept_downloads=True).new_page()
    page.set_default_timeout(PATIENCE_MS)
    page.goto(f"{base}/sign-in")
    page.get_by_label("Name").fill(login)
    page.get_by_label("Password").fill(PASSWORD)
    page.get_by_role("button", name="Sign in").click()
    page.wait_for_url(f"{base}/")
    return Touching(moved_back(session), page=page, base=base, form="narrow" if phone else "wide")
