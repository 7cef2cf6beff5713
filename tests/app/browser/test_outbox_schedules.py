"""The queue against the real server: cuts, lost answers, duplicates, requests that arrive late, crashes, kills."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import uuid
from collections.abc import Callable
from typing import Any

from playwright.sync_api import Page
from sqlalchemy import select
from sqlalchemy.orm import Session

from benchmarks.schedules import DRAIN, NETWORK, SCHEDULE
from plentar.store.cluster import free_port
from plentar.store.models import Visit, VisitEvent
from plentar.store.units import make_unit
from tests.app.browser.conftest import sign_in
from tests.app.conftest import PASSWORD, Somebody
from tests.kits import Kit, build_kit

SCHEDULES, RELOADED_EVERY = 60, 5


def stored(session: Session, unit_id: uuid.UUID) -> list[tuple[str, float, float]]:
    """The readings of a unit's visits: id, value, time."""
    session.rollback()
    found = session.execute(
        select(VisitEvent.client_id, VisitEvent.body, VisitEvent.t_s)
        .join(Visit, Visit.id == VisitEvent.visit_id)
        .where(Visit.unit_id == unit_id)
        .order_by(VisitEvent.id)
    )
    return [(str(client_id), body["value"], t_s) for client_id, body, t_s in found]


def test_no_schedule_loses_or_doubles(
    page: Page, base: str, somebody: Callable[[], Somebody], session: Session
) -> None:
    me = somebody()
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}/pocket")
    plate = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "Two strips")
    for seed in range(1, SCHEDULES + 1):
        unit_id = make_unit(session, me.account.shop_id, plate).row.id
        session.commit()
        page.evaluate(NETWORK, seed)
        began_ms = page.evaluate("Date.now()") - 3_600_000
        count = 1 + seed % 6
        told = page.evaluate(SCHEDULE, [str(unit_id), count, began_ms])
        if seed % RELOADED_EVERY == 0:
            page.reload()
        left = page.evaluate(DRAIN)
        assert not left, (seed, json.dumps(left))
        wanted = [(client_id, n, 10.0 * n) for n, client_id in enumerate(told, 1)]
        assert stored(session, unit_id) == wanted, seed


def test_killed_while_hundreds_are_sent(
    page: Page,
    start_server: Callable[[int], subprocess.Popen[bytes]],
    somebody: Callable[[], Somebody],
    session: Session,
) -> None:
    me, port = somebody(), free_port()
    base, count = f"http://127.0.0.1:{port}", 400
    server = start_server(port)
    sign_in(page, base, me.account.login, PASSWORD)
    page.goto(f"{base}/pocket")
    page.evaluate("() => { window.turn = () => 1; }")
    began_ms = page.evaluate("Date.now()") - 7_200_000
    told = page.evaluate(SCHEDULE, [str(me.unit_id), count, began_ms])
    sending: Any = page.evaluate("() => { Outbox.send(); return true; }")
    assert sending
    seen = 0
    for turn in range(1, 3):
        while len(stored(session, me.unit_id)) < min(count, 160 * turn):
            page.wait_for_timeout(50)
            page.evaluate("() => { Outbox.send(); }")
        os.killpg(server.pid, signal.SIGKILL)
        server.wait()
        seen = len(stored(session, me.unit_id))
        server = start_server(port)
    try:
        assert seen < count, "it was over before it was killed"
        assert not page.evaluate(DRAIN)
        assert stored(session, me.unit_id) == [(i, n, 10.0 * n) for n, i in enumerate(told, 1)]
    finally:
        os.killpg(server.pid, signal.SIGTERM)
        server.wait()
