"""A reading's post on a busy visit, over real servers, against the floor."""

from __future__ import annotations

import statistics
import time
import uuid
from collections.abc import Callable
from itertools import cycle

from sqlalchemy import text

from benchmarks.browser import PASSWORD, Browser
from benchmarks.server import server
from plentar.core.unit.kits import Kit, build_kit
from plentar.store.accounts import make_account, make_shop
from plentar.store.database import connect
from plentar.store.units import make_unit
from plentar.web.server import APPLICATION

#: Each visit has 12 readings when the clock starts and 21 when it stops: a usual check.
POSTS, WARM_UP, BUSY_AT, VISITS = 120, 15, 12, 15
LIMIT = 3.0


def measure(database_url: str) -> list[str]:
    """The lines to print: median times of both, their ratio, and page sizes."""
    login = f"bench-{uuid.uuid4().hex[:8]}"
    unit_ids = _prepare(database_url, login)
    env = {"PLENTAR_DATABASE_URL": database_url, "PLENTAR_SECRET_KEY": "x" * 40}
    with server(APPLICATION, env) as port:
        browser = Browser(port)
        browser.sign_in(login)
        benches = [
            browser.post(f"/units/{unit_id}/visits", complaint="check-up").headers["Location"]
            for unit_id in unit_ids
        ]
        browser.token_from(benches[0])
        for bench in benches:
            browser.call_heat(bench)
        readings = cycle([("C1", "volts", "241"), *((f"E{n}", "amps", "20.4") for n in (1, 2, 3))])
        for _ in range(BUSY_AT):
            for bench in benches:
                fragment = browser.read(bench, *next(readings))
        turns = cycle(benches)
        floor_env = env | {"PLENTAR_FLOOR_BYTES": str(len(fragment))}
        with server("benchmarks.floor:application()", floor_env) as floor_port:
            floor = Browser(floor_port)

            def post_reading() -> object:
                return browser.read(next(turns), *next(readings))

            def post_floor() -> object:
                return floor.post("/floor", body="240")

            reading_s, floor_s = _alternate(post_reading, post_floor)
        ratio = statistics.median(reading_s) / statistics.median(floor_s)
        return [
            f"reading post, median of {POSTS}: {1e3 * statistics.median(reading_s):.2f} ms",
            f"floor, same run:             {1e3 * statistics.median(floor_s):.2f} ms",
            f"ratio: {ratio:.2f} (at most {LIMIT:g})",
            f"fragment: {len(fragment):,} bytes before compression",
        ]


def _prepare(database_url: str, login: str) -> list[uuid.UUID]:
    with connect(database_url)() as session:
        shop = make_shop(session, login)
        make_account(session, shop, login, "Bench", PASSWORD)
        unit = build_kit(Kit((5000.0,) * 3, 240, "double-sequencers"), "bench", "Bench")
        records = [make_unit(session, shop.id, unit) for _ in range(VISITS)]
        session.execute(text("create table if not exists floor (id serial, body text)"))
        session.commit()
        return [record.row.id for record in records]


def _alternate(one: Callable[[], object], two: Callable[[], object]) -> tuple[list[float], list[float]]:
    """Times of both, taken turn by turn so that the machine's moods strike both."""
    times: tuple[list[float], list[float]] = ([], [])
    for turn in range(POSTS + WARM_UP):
        for call, kept in zip((one, two), times, strict=True):
            began = time.perf_counter()
            call()
            if turn >= WARM_UP:
                kept.append(time.perf_counter() - began)
    return times
