"""The queue of a phone against a server: schedules of cuts, lost answers, duplicates and crashes; what is taken along,
and how long the application takes to open without signal beside with it."""

from __future__ import annotations

import json
import statistics
import time
import uuid
from collections.abc import Iterator
from typing import Any

from playwright.sync_api import Page, sync_playwright
from sqlalchemy import select
from sqlalchemy.orm import Session

from benchmarks.schedules import DRAIN, NETWORK, SCHEDULE
from benchmarks.server import fresh_database, server
from benchmarks.shots import CHROMIUM, PHONE
from plentar.store.database import connect
from plentar.store.demo.load import PASSWORD, load_demo
from plentar.store.demo.plates import plates
from plentar.store.models import Account, Round, RoundUnit, Visit, VisitEvent
from plentar.store.units import make_unit
from plentar.web.server import APPLICATION

SCHEDULES, RELOADED_EVERY = 1000, 5
UNITS, MOST_MB, LOADS, MOST_RATIO = 40, 4.0, 9, 1.5


def measure() -> Iterator[str]:
    """On a server, a database and a browser of its own."""
    url = fresh_database(f"outbox_{uuid.uuid4().hex[:8]}")
    sessions = connect(url)
    with sessions() as session:
        load_demo(session)
        _route_of_forty(session)
    env = {"PLENTAR_DATABASE_URL": url, "PLENTAR_SECRET_KEY": "x" * 40, "PLENTAR_LOG_LEVEL": "warning"}
    with server(APPLICATION, env) as port, sync_playwright() as playwright, sessions() as session:
        browser = playwright.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
        page = browser.new_context(viewport=PHONE).new_page()
        base = f"http://127.0.0.1:{port}"
        page.goto(f"{base}/sign-in")
        page.fill("#login", "ines")
        page.fill("#password", PASSWORD)
        page.click("button.main")
        page.wait_for_url(f"{base}/")
        page.evaluate("navigator.serviceWorker.ready.then(() => true)")
        yield from _taken_along(page)
        yield from _first_loads(page, base)
        yield from _schedules(page, base, session)
        browser.close()


def _route_of_forty(session: Session) -> None:
    """The demo's kinds of unit over and over, on a route of their own."""
    lead = session.scalars(select(Account).where(Account.login == "ines")).one()
    newest = session.scalars(select(Round).order_by(Round.opened_on.desc())).first()
    assert newest is not None
    kinds = list(plates().values())
    for number in range(UNITS):
        unit = make_unit(session, lead.shop_id, kinds[number % len(kinds)])
        session.add(RoundUnit(shop_id=lead.shop_id, round_id=newest.id, unit_id=unit.row.id))
    session.commit()


def _taken_along(page: Page) -> Iterator[str]:
    begun_s = time.monotonic()
    count = page.evaluate("Outbox.take_along()")
    taken_s = time.monotonic() - begun_s
    size = page.evaluate(
        "Outbox.db().then((db) => db.getAll('units'))"
        ".then((all) => all.reduce((sum, one) => sum + one.body.size + JSON.stringify(one).length, 0))"
    )
    yield (
        f"taken along: {count} units, {size / 1e6:.1f} MB, {40 * size / count / 1e6:.1f} MB of forty (at most"
        f" {MOST_MB:.0f}), in {taken_s:.0f} s"
    )


def _first_loads(page: Page, base: str) -> Iterator[str]:
    """Opening the bench of what is on board, by turns with signal and without."""
    with_s: list[float] = []
    without_s: list[float] = []
    for _ in range(LOADS):
        for offline, times in ((False, with_s), (True, without_s)):
            page.context.set_offline(offline)
            page.goto("about:blank")
            begun_s = time.monotonic()
            page.goto(base)
            page.wait_for_selector("#units li" if offline else ".houses li")
            times.append(time.monotonic() - begun_s)
    page.context.set_offline(False)
    a, b = statistics.median(without_s), statistics.median(with_s)
    yield f"first page without signal {1000 * a:.0f} ms, with {1000 * b:.0f} ms: {a / b:.2f} × (at most {MOST_RATIO})"


def _schedules(page: Page, base: str, session: Session) -> Iterator[str]:
    page.goto(f"{base}/pocket")
    lead = session.scalars(select(Account).where(Account.login == "ines")).one()
    plate = plates()[1]
    wrong, entries = 0, 0
    for seed in range(1, SCHEDULES + 1):
        unit_id = make_unit(session, lead.shop_id, plate).row.id
        session.commit()
        page.evaluate(NETWORK, seed)
        began_ms = page.evaluate("Date.now()") - 3_600_000
        told = page.evaluate(SCHEDULE, [str(unit_id), 1 + seed % 6, began_ms])
        if seed % RELOADED_EVERY == 0:
            page.reload()
        left: list[Any] = page.evaluate(DRAIN)
        wanted = [(client_id, n) for n, client_id in enumerate(told, 1)]
        entries += len(wanted)
        if left or _stored(session, unit_id) != wanted:
            wrong += 1
            yield f"schedule {seed}: {json.dumps(left)[:300]}"
    yield f"{SCHEDULES} schedules, {entries:,} entries: {wrong} lost or doubled something"


def _stored(session: Session, unit_id: uuid.UUID) -> list[tuple[str, float]]:
    session.rollback()
    found = session.execute(
        select(VisitEvent.client_id, VisitEvent.body)
        .join(Visit, Visit.id == VisitEvent.visit_id)
        .where(Visit.unit_id == unit_id)
        .order_by(VisitEvent.id)
    )
    return [(str(client_id), body["value"]) for client_id, body in found]
