"""A touch of the simulated meter beside a reading's post on a usual visit, turn by turn in one run, fifty practices
open meanwhile."""

from __future__ import annotations

import http.client
import statistics
import time
import uuid
from collections.abc import Iterator
from itertools import cycle
from urllib.parse import urlencode

from benchmarks.browser import PASSWORD, Browser
from benchmarks.server import fresh_database, server
from plentar.core.unit.kits import Kit, build_kit
from plentar.store.accounts import make_account, make_shop
from plentar.store.database import connect
from plentar.store.units import make_unit
from plentar.web.server import APPLICATION

PRACTICES, TOUCHES, WARM_UP, LIMIT = 50, 60, 10, 5.0


def measure() -> Iterator[str]:
    """On a server and a database of its own."""
    url = fresh_database("practice")
    login = f"bench-{uuid.uuid4().hex[:8]}"
    with connect(url)() as session:
        shop = make_shop(session, login)
        make_account(session, shop, login, "Bench", PASSWORD)
        unit = build_kit(Kit((5000.0,) * 3, 240, "double-sequencers"), "bench", "Bench")
        unit_id = make_unit(session, shop.id, unit).row.id
        session.commit()
    with server(APPLICATION, {"PLENTAR_DATABASE_URL": url, "PLENTAR_SECRET_KEY": "x" * 40}) as port:
        browser = Browser(port)
        browser.sign_in(login)
        visit = browser.post(f"/units/{unit_id}/visits", complaint="check-up").headers["Location"]
        browser.token_from(visit)
        browser.call_heat(visit)
        bases = [
            browser.post("/practice", client_id=str(uuid.uuid4()), unit=str(unit_id), seed=str(n)).headers[
                "Location"
            ]
            for n in range(PRACTICES)
        ]
        turns = cycle(bases)
        for base in bases:
            _act(browser, base, act="call", call="W1")
            _act(browser, base, act="wait", seconds="300")
        points = cycle(("E1", "E2", "E3"))
        touches, posts = [], []
        for turn in range(TOUCHES + WARM_UP):
            point = next(points)
            began = time.perf_counter()
            _act(browser, next(turns), act="read", at=point, quantity="amps")
            touched = time.perf_counter()
            browser.read(visit, point, "amps", "20.4")
            posted = time.perf_counter()
            if turn >= WARM_UP:
                touches.append(touched - began)
                posts.append(posted - touched)
        touch_s, post_s = statistics.median(touches), statistics.median(posts)
        yield f"a touch of the meter, median of {TOUCHES}: {1e3 * touch_s:.1f} ms"
        yield f"a reading's post, same run:       {1e3 * post_s:.1f} ms"
        yield f"ratio: {touch_s / post_s:.2f} (at most {LIMIT:g})"


def _act(browser: Browser, base: str, **said: str) -> None:
    form = {"csrf_token": browser.token, "client_id": str(uuid.uuid4())} | said
    answer, text = browser.ask("POST", f"{base}/act", urlencode(form), {"HX-Request": "true"})
    assert answer.status == http.client.OK, (base, text[-600:])
