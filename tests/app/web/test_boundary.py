"""Whatever is accepted can be shown, judged, exported and imported again; the rest is refused by
path, and nothing is changed."""

from __future__ import annotations

import copy
import io
import json
from random import Random
from typing import Any
from urllib.parse import unquote

import pytest

from plentar.files.unit_json import unit_to_json
from plentar.store.demo.plates import plates
from tests.cases import CALL, DEAD, VOLTS, amps

TEXTS = [
    "Łódź 日本",
    "\u202eabc",
    "a\x00b",
    "\ud800",
    "line\nbreak",
    "\x1b[31m",
    "\ufeffx",
    "=1+1",
    "x" * 300,
]
NUMBERS = [-1, 0, 1e-9, 1e9, 1e13, 10**20, 10**25, 1e308, True, "1", None, [], {}]
TIMES = [
    "0001-01-01T00:00:00+14:00",
    "9999-12-31T23:59:59-14:00",
    "2026-02-30T00:00:00Z",
    "2026-01-01",
    "2026-01-01T00:00:00Z",
    "1969-12-31T23:59:59Z",
]
READ = [
    VOLTS,
    CALL,
    amps(310, "E1", 20.4),
    {"t": 320, "read": "volts", "at": "S1.1", "value": 0.1, "note": "as found"},
    *DEAD,
    {"t": 530, "read": "ohms", "at": "E1", "value": 11.2},
]


def document(door: int = 2) -> dict[str, Any]:
    return {
        "format": "plentar-visit",
        "version": 1,
        "unit": unit_to_json(plates()[door]),
        "visit": {
            "complaint": "no-heat",
            "started": "2026-05-05T09:00:00Z",
            "events": copy.deepcopy(READ),
            "answered": [{"t": 9, "code": "x", "component": "C1", "how": "locked"}],
        },
    }


@pytest.fixture
def bring(somebody):
    """Posts a file's bytes as an import; the sender and the answer."""

    def post(content: bytes, me=None):
        me = me or somebody()
        file = (io.BytesIO(content), "visit.json")
        return me, me.client.post("/units/import", data={"file": file})

    return post


def leaves(node: Any):
    for key in list(node) if isinstance(node, dict) else range(len(node)):
        if isinstance(node[key], dict | list):
            yield from leaves(node[key])
        else:
            yield node, key


def stands(me, report: str) -> None:
    """Every page and file of an imported visit."""
    assert report.endswith("/report")
    visit = report.removesuffix("/report")
    unit = "/units/" + me.client.get(report).text.split('href="/units/')[1].split('"')[0]
    for path in ("/", unit, report, f"{visit}/log", f"{visit}/what-if", f"{visit}/tape"):
        assert me.client.get(path).status_code == 200, path
    for path in (f"{unit}/unit.json", f"{unit}/drawing.svg", f"{visit}/readings.csv", f"{visit}/drawing.svg"):
        assert me.client.get(path).status_code == 200, path


def test_what_is_accepted_can_be_shown_exported_and_imported_again(bring, somebody):
    rng, me = Random(20261126), somebody()
    accepted = 0
    for _ in range(120):
        bent = document(rng.choice((2, 5, 14)))
        if rng.random() < 0.4:
            visit = bent["visit"]
            free = (bent["unit"], "id"), (bent["unit"], "label"), (visit["events"][3], "note")
            node, key = rng.choice([*free, (visit["answered"][0], "how")])
            node[key] = rng.choice(TEXTS)
        else:
            node, key = rng.choice(list(leaves(bent)))
            node[key] = rng.choice(NUMBERS)
        _, answer = bring(json.dumps(bent).encode(), me)
        assert answer.status_code in (302, 422), (key, node[key])
        if answer.status_code == 422:
            continue
        accepted += 1
        stands(me, answer.location)
        exported = me.client.get(answer.location.replace("/report", "/visit.json"))
        _, second = bring(exported.data, me)
        assert second.status_code == 302, second.text
        whole = me.client.get(second.location.replace("/report", "/visit.json"))
        assert json.loads(whole.data) == json.loads(exported.data)
    assert accepted >= 15


@pytest.mark.parametrize("when", TIMES)
def test_times_that_no_clock_has_are_refused_by_path(bring, soup, when):
    bent = document()
    bent["visit"]["started"] = when
    me, answer = bring(json.dumps(bent).encode())
    if when == "2026-01-01T00:00:00Z":
        stands(me, answer.location)
    else:
        assert answer.status_code == 422
        assert "visit.started" in soup(answer).select_one("#file-error").text


@pytest.mark.parametrize(
    ("change", "path"),
    [
        (lambda text: text.replace('"label": ', '"label": "twice", "label": '), "unit.label"),
        (lambda text: text.replace('"t": 310', f'"t": {"9" * 5000}'), "visit.events[2].t"),
        (lambda text: text.replace("as found", "a\\u0000b"), "visit.events[3].note"),
        (lambda text: text.replace("as found", "\\ud83d"), "visit.events[3].note"),
        (lambda text: text.replace("as found", "\\u001b[2J"), "visit.events[3].note"),
        (lambda text: text.replace('"value": 20.4', '"value": 100000000000000000000'), "visit.events[2]"),
    ],
)
def test_what_nothing_can_hold_is_refused_by_path(bring, soup, change, path):
    before = json.dumps(document(), ensure_ascii=False)
    after = change(before)
    assert after != before
    _, answer = bring(after.encode())
    assert answer.status_code == 422
    assert path in soup(answer).select_one("#file-error").text


def test_utf_8_with_or_without_its_mark_and_nothing_else(bring, soup):
    text = json.dumps(document(), ensure_ascii=False)
    me, answer = bring(text.encode("utf-8-sig"))
    stands(me, answer.location)
    for encoding in ("utf-16", "utf-16-le", "utf-32", "latin-1"):
        other = text.replace("as found", "caf\xe9 as found").encode(encoding)
        _, answer = bring(other)
        assert answer.status_code == 422, encoding
        assert "UTF-8" in soup(answer).select_one("#file-error").text or "JSON" in answer.text


@pytest.mark.parametrize("value", ["100000000000000000000", "1e9", "9" * 24, "-459", "OL", "0,0000001"])
def test_a_number_that_the_pad_takes_leaves_and_comes_back(somebody, bring, value):
    me = somebody()
    bench = me.start_visit()
    taken = [
        me.read(bench, at, quantity, value).status_code
        for at, quantity in (("E1", "amps"), ("C1", "volts"), ("supply-air", "temp_f"))
    ]
    assert set(taken) <= {200, 422}
    assert me.client.get(f"{bench}/judge").status_code == 200
    exported = me.client.get(f"{bench}/visit.json")
    _, answer = bring(exported.data, me)
    assert answer.status_code == 302


def test_texts_that_nothing_can_hold_are_refused_in_forms(somebody, stored):
    me = somebody()
    bench = me.start_visit()
    assert me.read(bench, "C1", "volts", "240", note="a\x00b").status_code == 422
    assert me.client.post("/units", data={"label": "a\x07b"}).status_code == 422
    assert not stored(bench)


@pytest.mark.parametrize("name", ["日", "Łódź", 'a"b', "a/../b", "x" * 80])
def test_files_are_named_in_every_script(bring, name):
    bent = document()
    bent["unit"]["id"] = name
    me, answer = bring(json.dumps(bent).encode())
    csv = me.client.get(answer.location.replace("/report", "/readings.csv"))
    assert csv.status_code == 200
    said = csv.headers["Content-Disposition"]
    said.encode("latin-1")
    assert name[:1] in unquote(said)
