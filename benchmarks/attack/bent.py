"""Requests bent at random: every route, every method, every field, and files by their own schema."""

from __future__ import annotations

import copy
import http.client
import json
import time
import uuid
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from random import Random
from typing import Any
from urllib.parse import quote, urlencode

from flask import Flask

from benchmarks.attack.place import Counted, Place, new_visit
from benchmarks.browser import Browser
from plentar.web.config import Config
from plentar.web.factory import create_app

HANDS = 6
METHODS = ("GET", "POST", "POST", "POST", "HEAD", "PUT", "DELETE", "PATCH", "OPTIONS", "BREW")
FIELDS = (
    "at",
    "quantity",
    "value",
    "client_id",
    "driven",
    "turns",
    "note",
    "state",
    "circuit",
    "proof",
    "calls",
    "raised",
    "ended",
    "power",
    "lifted",
    "after_s",
    "fresh",
    "observe",
    "component",
    "seen",
    "code",
    "how",
    "reason",
    "outcome",
    "left_note",
    "follow_up",
    "part",
    "action",
    "call",
    "t",
    "lead_s",
    "event",
    "shift",
    "from",
    "to",
    "fault",
    "minutes",
    "complaint",
    "label",
    "elements",
    "kw",
    "volts",
    "circuits",
    "control",
    "tie",
    "login",
    "password",
    "again",
    "new",
    "session",
    "theme",
    "rated_kw",
    "seen",
    "element",
)
ODD = (
    "",
    "0",
    "-1",
    "1e999",
    "nan",
    "9" * 400,
    "1" + "0" * 20,
    "20.4",
    "OL",
    "0,87k",
    "\x00",
    "a\x00b",
    "\x1b[2J",
    "\ud7ff",
    "\u202e",
    "日本語",
    "=1+1",
    "'; drop table visit; --",
    "{{7*7}}",
    "../../etc/passwd",
    "<script>",
    "x" * 5000,
    "E1",
    "C1",
    "S1.1",
    "C1:ground",
    "C1.line.l1:C1.l1",
    ":",
    "E9",
    "amps",
    "ohms",
    "on",
    "off",
    "proved-dead",
    "W1",
    "W1,G",
    "W9",
    "true",
    "[]",
    "{}",
    "0:00",
    "1:75",
    "none",
    "E1:open",
    "E1:open+S1.1:slow",
)
HEADERS = (
    ("Host", "evil.example"),
    ("Host", "a b"),
    ("Host", "127.0.0.1:99999"),
    ("HX-Request", "true"),
    ("X-Forwarded-Host", "evil.example"),
    ("X-Forwarded-For", "1.2.3.4"),
    ("Script-Name", "/x"),
    ("Content-Type", "application/json"),
    ("Content-Type", "multipart/form-data; boundary=x"),
    ("Content-Type", "text/plain"),
    ("Accept-Encoding", "gzip, br"),
    ("Range", "bytes=0-5"),
    ("If-Modified-Since", "never"),
    ("Cookie", "plentar=bent; theme=purple; device=x.y.z"),
    ("Content-Length", "-1"),
    ("Transfer-Encoding", "chunked, chunked"),
    ("Expect", "200-ok"),
)


class Bender:
    def __init__(
        self,
        rng: Random,
        rules: list[tuple[str, str]],
        values: dict[str, list[str]],
        document: dict[str, Any],
    ) -> None:
        self.rng, self._rules, self._values, self._document = rng, rules, values, document

    def request(self, token: str) -> tuple[str, str, str | bytes, dict[str, str]]:
        rng = self.rng
        if rng.random() < 0.08:
            return self._file(token)
        rule, endpoint = rng.choice(self._rules)
        path = self._path(rule)
        if rng.random() < 0.5:
            path += "?" + urlencode([self._field() for _ in range(rng.randint(1, 3))])
        method = rng.choice(METHODS)
        form = [self._field() for _ in range(rng.randint(0, 6))]
        if endpoint == "visits.read":
            form += [("at", "E1"), ("quantity", "amps"), ("value", rng.choice(ODD))]
        form.append(("client_id", str(uuid.UUID(int=rng.getrandbits(128)))))
        if rng.random() < 0.9:
            form.append(("csrf_token", token))
        headers = dict(rng.sample(HEADERS, rng.randint(1, 2))) if rng.random() < 0.25 else {}
        body = urlencode(form) if method not in ("GET", "HEAD", "OPTIONS") else ""
        return method, path, body, headers

    def _path(self, rule: str) -> str:
        rng, found = self.rng, rule
        for name, known in self._values.items():
            for written in (f"<uuid:{name}>", f"<int:{name}>", f"<{name}>"):
                if written in found:
                    odd = rng.random() < 0.15
                    value = rng.choice(ODD) if odd else rng.choice(known)
                    found = found.replace(written, quote(value[:200], safe=""))
        if rng.random() < 0.02:
            found = found.replace("/", rng.choice(("//", "/../", "/%2e%2e/", "/%00/")), 1)
        return found

    def _field(self) -> tuple[str, str]:
        rng = self.rng
        name = rng.choice(FIELDS)
        known = self._values.get(name, [])
        return name, rng.choice(known) if known and rng.random() < 0.3 else rng.choice(ODD)

    def _file(self, token: str) -> tuple[str, str, bytes, dict[str, str]]:
        """A visit file with one thing in it put otherwise, as an import."""
        rng, bent = self.rng, copy.deepcopy(self._document)
        for _ in range(rng.randint(1, 2)):
            node, key = rng.choice(list(_places(bent)))
            node[key] = rng.choice((*ODD, None, -1, 1e308, 10**20, [], {}, True, "0001-01-01T00:00:00+14:00"))
        text = json.dumps(bent, ensure_ascii=rng.random() < 0.5).encode("utf-8", "surrogatepass")
        if rng.random() < 0.1:
            text = text[: rng.randrange(len(text))]
        mark = "attack-boundary"
        parts = f'--{mark}\r\nContent-Disposition: form-data; name="csrf_token"\r\n\r\n{token}\r\n'
        parts += f'--{mark}\r\nContent-Disposition: form-data; name="file"; filename="v.json"\r\n\r\n'
        body = parts.encode() + text + f"\r\n--{mark}--\r\n".encode()
        return ("POST", "/units/import", body, {"Content-Type": f"multipart/form-data; boundary={mark}"})


def _places(node: Any) -> Any:
    keys = list(node) if isinstance(node, dict) else range(len(node))
    for key in keys:
        yield node, key
        if isinstance(node[key], dict | list) and node[key]:
            yield from _places(node[key])


def _rules(app: Flask) -> list[tuple[str, str]]:
    """Every route but those that hold a connection, or end the session that the attack uses."""
    leave = {
        "clamps.visit_stream",
        "clamps.unit_stream",
        "auth.sign_out",
        "auth.end_session",
        "auth.change_password",
        "auth.end_others",
        "people.change",
    }
    return [(rule.rule, rule.endpoint) for rule in app.url_map.iter_rules() if rule.endpoint not in leave]


def bent_requests(there: Place, count: int, seed: int) -> Counted:
    """So many bent requests from several hands at once; none may end in a crash or in silence."""
    rules = _rules(create_app(Config(there.url, "x" * 40)))
    answered: Counter[str] = Counter()
    wrong: list[str] = []
    began_s = time.monotonic()

    hands = []
    for number in range(HANDS):
        browser, units = there.somebody(f"hand{number}", 3)
        existing = _existing(browser, units, *there.somebody(f"foreign{number}"))
        hands.append((browser, Bender(Random(f"{seed}/{number}"), rules, *existing)))

    def attack(hand: tuple[Browser, Bender]) -> None:
        browser, bender = hand
        for _ in range(count // HANDS):
            _send(browser, bender.request(browser.token), answered, wrong)

    with ThreadPoolExecutor(HANDS) as pool:
        list(pool.map(attack, hands))
    spread = ", ".join(f"{name} {answered[name]:,}" for name in sorted(answered))
    lines = [
        f"bent requests: {answered.total():,} over {len(rules)} routes in"
        f" {time.monotonic() - began_s:.0f} s ({spread})"
    ]
    return Counted(lines, wrong)


def _existing(
    browser: Browser, units: list[uuid.UUID], other: Browser, foreign: list[uuid.UUID]
) -> tuple[dict[str, list[str]], dict[str, Any]]:
    """What the requests name, own and another shop's, and a visit file."""
    benches = [new_visit(browser, unit) for unit in units]
    theirs = new_visit(other, foreign[0])
    for bench in benches:
        browser.call_heat(bench)
        browser.read(bench, "C1", "volts", "241")
        browser.read(bench, "E1", "amps", "20.4")
    document = json.loads(browser.get(f"{benches[0]}/visit.json"))
    visits = [bench.rsplit("/", 1)[1] for bench in (*benches, theirs)]
    values = {
        "visit_id": visits,
        "unit_id": [str(unit) for unit in (*units, *foreign)],
        "part": ["E1", "C1", "S1", "BR", "blower", "L1"],
        "event_id": ["1", "2", "9" * 12],
        "log_id": [str(uuid.uuid4())],
        "filename": ["plentar.css", "../secret"],
        "at": ["E1", "C1", "S1.1"],
        "quantity": ["amps", "volts", "ohms"],
        "state": ["on", "off"],
        "raised": ["W1", "G"],
    }
    return values, document


def _send(
    browser: Browser,
    request: tuple[str, str, str | bytes, dict[str, str]],
    answered: Counter[str],
    wrong: list[str],
) -> None:
    method, path, body, headers = request
    try:
        status = browser.ask(method, path, body, headers)[0].status
    except (OSError, http.client.HTTPException, ValueError):
        # What breaks the protocol itself may be hung up on; the client says ValueError before sending.
        answered["hung up"] += 1
        if not headers and method != "BREW":
            wrong.append(f"no answer: {method} {path[:120]}")
        return
    answered[f"{status // 100}xx"] += 1
    if status >= http.client.INTERNAL_SERVER_ERROR and status != http.client.NOT_IMPLEMENTED:
        wrong.append(f"{status}: {method} {path[:200]} {body[:200]!r}")
