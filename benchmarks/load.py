"""Many at once: twenty people beside one, eight expensive units beside readings, memory over many
units. Each is held against the quiet before it, in the same run.
"""

from __future__ import annotations

import re
import statistics
import threading
import time
import uuid
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass, field
from itertools import count
from pathlib import Path
from typing import Any

from benchmarks.attack.place import Place, new_visit, place
from benchmarks.browser import Browser
from plentar.core.unit.unit import Unit
from plentar.files.unit_json import UnitJson
from plentar.store.units import make_unit

PEOPLE, THOUGHT_S, MINUTES = 20, 3.0, 2.0
LIMIT_PEOPLE, LIMIT_EXPENSIVE, LIMIT_MEMORY = 4.0, 1.5, 1.2
EXPENSIVE, POSTS = 8, 100
TECHNICIANS, EVERY_S, VISIT_MINUTES, ALONE_MINUTES = 15, 20.0, 10.0, 2.0
LIMIT_ANSWER_S, LIMIT_POSTS = 3.0, 1.5
UNITS, EARLY_S, LATE_S = 200, 120.0, 600.0
READ = (("C1", "volts", "241"), ("E1", "amps", "20.4"), ("E2", "amps", "20.2"))


def measure() -> list[str]:
    with place() as there:
        return [*technicians(there), *people(there), *expensive(there), *memory(there)]


@dataclass
class Pace:
    """What one technician met: how long posts took, s, and the first complete answer after each; how many
    answers were refused."""

    posts_s: list[float] = field(default_factory=list)
    answers_s: list[float] = field(default_factory=list)
    refused: int = 0


def technicians(there: Place, minutes: float = VISIT_MINUTES, people: int = TECHNICIANS) -> list[str]:
    """One shop at work: each on a visit of their own, a reading every twenty seconds, and each waits for what
    the judge says to it."""
    hands = there.shop_at_work(people + 1)
    benches = [(browser, new_visit(browser, unit)) for browser, unit in hands]
    alone = _at_work(*benches[0], 60 * min(ALONE_MINUTES, minutes), 2.0, 0.0)
    with ThreadPoolExecutor(people) as pool:
        working = [
            pool.submit(_at_work, *bench, 60 * minutes, EVERY_S, EVERY_S * number / people)
            for number, bench in enumerate(benches[1:])
        ]
        found = [done.result() for done in working]
    posts = [took for one in found for took in one.posts_s]
    answers = [took for one in found for took in one.answers_s]
    refused = sum(one.refused for one in found)
    ratio = _p95(posts) / _p95(alone.posts_s)
    return [
        f"{people} technicians of one shop, {minutes:g} min, a reading every {EVERY_S:g} s each: {len(posts)} posts",
        f"answers refused: {refused} (none)",
        f"first complete answer: median {statistics.median(answers):.2f} s, p95 {_p95(answers):.2f} s"
        f" (at most {LIMIT_ANSWER_S:g})",
        f"posts: p95 {1e3 * _p95(posts):.0f} ms, alone {1e3 * _p95(alone.posts_s):.0f} ms:"
        f" {ratio:.2f} times (at most {LIMIT_POSTS:g})",
    ]


def _at_work(browser: Browser, bench: str, seconds: float, every_s: float, after_s: float) -> Pace:
    time.sleep(after_s)
    browser.call_heat(bench)
    found = Pace()
    began_s = time.monotonic()
    for number in count():
        due_s = began_s + number * every_s
        if due_s - began_s > seconds:
            return found
        time.sleep(max(0.0, due_s - time.monotonic()))
        at, quantity, value = READ[number % len(READ)]
        started_s = time.monotonic()
        browser.read(bench, at, quantity, f"{float(value) + 0.1 * (number % 7):.1f}")
        found.posts_s.append(time.monotonic() - started_s)
        found.refused += _wait_for_the_judge(browser, bench)
        found.answers_s.append(time.monotonic() - started_s)
    raise AssertionError


def _wait_for_the_judge(browser: Browser, bench: str) -> int:
    """Until its answer is whole, asked for again as the page asks by itself; how often it was refused."""
    refused = 0
    while True:
        answer, page = browser.ask("GET", f"{bench}/judge", headers={"HX-Request": "true"})
        assert answer.status == 200, answer.status
        again = re.search(r"load delay:(\d)s", page)
        if again is None:
            return refused
        refused += again[1] == "3"
        time.sleep(float(again[1]))


def people(there: Place, minutes: float = MINUTES) -> list[str]:
    """One, then twenty with three seconds of thought: reading posts, and the judge after each."""
    hands = [there.somebody(f"person{n}") for n in range(PEOPLE)]
    benches = [(browser, new_visit(browser, units[0])) for browser, units in hands]
    alone = _work(*benches[0], 30 * minutes)
    with ThreadPoolExecutor(PEOPLE) as pool:
        working = [pool.submit(_work, *hand, 60 * minutes) for hand in benches]
        found = [done.result() for done in working]
    together = [took for times in found for took in times]
    ratio = _p95(together) / _p95(alone)
    return [
        f"one person: {len(alone)} reading posts, p95 {1e3 * _p95(alone):.0f} ms",
        f"{PEOPLE} people: {len(together)} reading posts, p95 {1e3 * _p95(together):.0f} ms, no errors",
        f"ratio: {ratio:.1f} (at most {LIMIT_PEOPLE:g})",
    ]


def _work(browser: Browser, bench: str, seconds: float) -> list[float]:
    """Read, look at what the judge says, think; how long each reading's post took, s."""
    browser.call_heat(bench)
    times: list[float] = []
    until_s = time.monotonic() + seconds
    for number in count():
        if time.monotonic() > until_s:
            return times
        began_s = time.monotonic()
        browser.read(bench, *READ[number % len(READ)])
        times.append(time.monotonic() - began_s)
        answer, _ = browser.ask("GET", f"{bench}/judge", headers={"HX-Request": "true"})
        assert answer.status == 200, answer.status
        time.sleep(THOUGHT_S)
    raise AssertionError


def _p95(times: list[float]) -> float:
    return statistics.quantiles(times, n=20)[-1]


def expensive(there: Place) -> list[str]:
    """Readings by themselves, and while eight of the largest units are judged without a pause."""
    browser, units = there.somebody("reader", 3)
    _posts(browser, units[0])  # the first of all, when nothing is loaded yet
    quiet = _posts(browser, units[1])
    with judging(there):
        busy = _posts(browser, units[2])
    ratio = statistics.median(busy) / statistics.median(quiet)
    return [
        f"reading post, alone {1e3 * statistics.median(quiet):.1f} ms, beside {EXPENSIVE} expensive units"
        f" {1e3 * statistics.median(busy):.1f} ms",
        f"ratio: {ratio:.2f} (at most {LIMIT_EXPENSIVE:g})",
    ]


def _posts(browser: Browser, unit_id: uuid.UUID) -> list[float]:
    bench = new_visit(browser, unit_id)
    browser.call_heat(bench)
    times = []
    for number in range(POSTS):
        began_s = time.perf_counter()
        browser.read(bench, *READ[number % len(READ)])
        times.append(time.perf_counter() - began_s)
    return times


@contextmanager
def judging(there: Place, hands_asking: int = EXPENSIVE) -> Iterator[None]:
    """So many hands of as many shops, each asking for the judge on a unit that is costly to judge."""
    enough = threading.Event()
    hands = [_with_unit(there, costly(n), f"costly{n}") for n in range(hands_asking)]

    def ask(hand: tuple[Browser, str]) -> None:
        browser, bench = hand
        while not enough.is_set():
            _, page = browser.ask("GET", f"{bench}/judge", headers={"HX-Request": "true"})
            again = re.search(r"load delay:(\d)s", page)  # as the page does by itself
            enough.wait(float(again[1]) if again else 0.0)

    with ThreadPoolExecutor(hands_asking) as pool:
        asking = [pool.submit(ask, hand) for hand in hands]
        time.sleep(5)
        try:
            yield
        finally:
            enough.set()
        for done in asking:
            done.result()


def _with_unit(there: Place, unit: Unit, name: str) -> tuple[Browser, str]:
    browser, _ = there.somebody(name)
    account = browser.login
    with there.sessions() as session:
        record = make_unit(session, there.shop_of(session, account), unit)
        session.commit()
        unit_id: uuid.UUID = record.row.id
    bench = new_visit(browser, unit_id)
    browser.call_heat(bench)
    browser.read(bench, "E1", "amps", "0.0")
    return browser, bench


def costly(number: int) -> Unit:
    """A legal plate, as large as it may be; each number another."""
    return UnitJson.model_validate(chained(8, 5, rated_kw=4 + number / 10)).to_core()


def chained(devices: int, switches: int, elements: int = 8, rated_kw: float = 5.0) -> dict[str, Any]:
    """A plate of devices in a chain, each with so many switches, as a visit file has it."""
    controls = [
        {
            "id": f"S{n}",
            "type": "sequencer",
            "call": {"through": f"S{n - 1}.{switches}"} if n > 1 else "W1",
            "switches": [
                {"id": f"S{n}.{k}", "role": "auxiliary" if k == switches else "element"}
                for k in range(1, switches + 1)
            ],
        }
        for n in range(1, devices + 1)
    ]
    own = [f"S{n}.{k}" for n in range(1, devices + 1) for k in range(1, switches)]
    rungs = [[*own[n::elements][:6], f"E{n + 1}"] for n in range(elements)]
    return {
        "id": "chained",
        "circuits": [{"id": f"C{n}", "rated_volts": 240} for n in (1, 2)],
        "controls": controls,
        "elements": [
            {
                "id": rung[-1],
                "rated_kw": rated_kw,
                "rated_volts": 240,
                "circuit": f"C{n % 2 + 1}",
                "rung": rung,
            }
            for n, rung in enumerate(rungs)
        ],
    }


def memory(there: Place, early_s: float = EARLY_S, late_s: float = LATE_S) -> list[str]:
    """Two hundred units read and judged over and over: what the processes hold, early and late."""
    hands = [there.somebody(f"many{n}", UNITS // 4) for n in range(4)]
    enough = threading.Event()

    def work(hand: tuple[Browser, list[uuid.UUID]]) -> None:
        browser, units = hand
        for unit in units * 1000:
            if enough.is_set():
                return
            bench = new_visit(browser, unit)
            browser.call_heat(bench)
            for reading in READ:
                browser.read(bench, *reading)
                browser.ask("GET", f"{bench}/judge", headers={"HX-Request": "true"})
            browser.post(f"{bench}/close", outcome="left-off", left_note="done")

    with ThreadPoolExecutor(4) as pool:
        working = [pool.submit(work, hand) for hand in hands]
        time.sleep(early_s)
        early = _held_bytes(there)
        time.sleep(late_s - early_s)
        late = _held_bytes(there)
        enough.set()
        for done in working:
            done.result()
    return [
        f"memory of all processes: {early / 1e6:.0f} MB after {early_s / 60:g} min, {late / 1e6:.0f} MB after"
        f" {late_s / 60:g} min over {UNITS} units",
        f"ratio: {late / early:.2f} (at most {LIMIT_MEMORY:g})",
    ]


def _held_bytes(there: Place) -> int:
    """Of the server, its workers and their judges; what they share is counted once."""
    assert there.server is not None
    found = [there.server.pid]
    for pid in found:
        children = Path(f"/proc/{pid}/task/{pid}/children")
        found += [int(child) for child in children.read_text().split()] if children.exists() else []
    return sum(map(_own_bytes, found))


def _own_bytes(pid: int) -> int:
    try:
        rollup = Path(f"/proc/{pid}/smaps_rollup").read_text()
    except OSError:
        return 0
    return 1024 * int(next(line.split()[1] for line in rollup.splitlines() if line.startswith("Pss:")))
