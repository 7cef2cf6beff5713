"""A reading's post on a busy visit, over real servers, against the floor."""

from __future__ import annotations

import http.client
import re
import statistics
import time
import uuid
from collections.abc import Callable
from itertools import cycle
from urllib.parse import urlencode

from sqlalchemy import text

from plentar.benchmarks.server import server
from plentar.core.kits import Kit, build_kit
from plentar.store.accounts import make_account, make_shop
from plentar.store.database import connect
from plentar.store.units import make_unit
from plentar.web.server import APPLICATION

#: Each visit has 12 readings when the clock starts and 21 when it stops: a usual check.
POSTS, WARM_UP, BUSY_AT, VISITS = 120, 15, 12, 15
PASSWORD = "only for this benchmark"
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
        with server("plentar.benchmarks.floor:application()", floor_env) as floor_port:
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


def _alternate(
    one: Callable[[], object], two: Callable[[], object]
) -> tuple[list[float], list[float]]:
    """Times of both, taken turn by turn so that the machine's moods strike both."""
    times: tuple[list[float], list[float]] = ([], [])
    for turn in range(POSTS + WARM_UP):
        for call, kept in zip((one, two), times, strict=True):
            began = time.perf_counter()
            call()
            if turn >= WARM_UP:
                kept.append(time.perf_counter() - began)
    return times


class Browser:
    """As much of a browser as posts need: one kept connection, one cookie, the page's token."""

    def __init__(self, port: int) -> None:
        self._connection = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
        self._cookie = ""
        self._token = ""

    def get(self, path: str) -> str:
        """A page's text."""
        return self._ask("GET", path, "")[1]

    def token_from(self, path: str) -> None:
        """Load a page and keep its token."""
        found = re.search(r'name="csrf_token" value="([^"]+)"', self.get(path))
        assert found is not None, path
        self._token = found[1]

    def sign_in(self, login: str) -> None:
        """Sign in; the session's token is new afterwards."""
        self.token_from("/sign-in")
        self.post("/sign-in", login=login, password=PASSWORD)
        self.token_from("/")

    def post(self, path: str, **form: str) -> http.client.HTTPResponse:
        """Post a form."""
        return self._ask("POST", path, urlencode({"csrf_token": self._token} | form))[0]

    def call_heat(self, bench: str) -> None:
        """Heat with the fan, as a check has it: elements that draw uncalled would be stops."""
        form = {"csrf_token": self._token, "client_id": str(uuid.uuid4()), "calls": "W1,W2,G"}
        self._ask("POST", f"{bench}/calls", urlencode(form))

    def read(self, bench: str, at: str, quantity: str, value: str) -> str:
        """Post one reading as the pad does; the fragment."""
        form = {"csrf_token": self._token, "client_id": str(uuid.uuid4()), "at": at,
                "quantity": quantity, "value": value}  # fmt: skip
        answer, text = self._ask("POST", f"{bench}/readings", urlencode(form))
        assert answer.status == 200, answer.status
        return text

    def _ask(self, method: str, path: str, body: str) -> tuple[http.client.HTTPResponse, str]:
        headers = {"HX-Request": "true"} if path.endswith("/readings") else {}
        headers |= {"Cookie": self._cookie, "Content-Type": "application/x-www-form-urlencoded"}
        self._connection.request(method, path, body, headers)
        answer = self._connection.getresponse()
        text = answer.read().decode()
        for name, value in answer.getheaders():
            if name == "Set-Cookie" and value.startswith("plentar="):
                self._cookie = value.split(";")[0]
        return answer, text
