"""What a person waits for, beside a judge that is at work for others: the hand-over page, both sheets as PDF, one
and five at once, a call and a breaker switched."""

from __future__ import annotations

import statistics
import time
import uuid
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from functools import partial

from benchmarks.attack.place import new_visit, place
from benchmarks.browser import Browser
from benchmarks.load import READ, judging

#: Hands of other shops that keep the judge at work with units that are costly to judge.
ASKING = 2
TURNS, PDFS, AT_ONCE = 20, 5, 5
PAGE_S, PDF_S, SWITCH_S = 0.5, 3.0, 0.3
OK = 200


def measure() -> Iterator[str]:
    with place() as there:
        browser, units = there.somebody("waiting")
        bench = new_visit(browser, units[0])
        _worked(browser, bench)
        with judging(there, ASKING):
            yield from _pages(browser, bench)
            yield from _pdfs(browser, bench)
            yield from _switches(browser, bench)


def _worked(browser: Browser, bench: str) -> None:
    """A visit with heat called, read, a part replaced, and read again."""
    for _ in range(2):
        browser.call_heat(bench)
        for reading in READ:
            browser.read(bench, *reading)
        _post(browser, f"{bench}/did", verb="replaced", parts="E1", was_off="yes")


def _pages(browser: Browser, bench: str) -> Iterator[str]:
    times = [_timed(partial(_get, browser, f"{bench}/close")) for _ in range(TURNS)]
    yield _said("hand-over page", times, PAGE_S)


def _pdfs(browser: Browser, bench: str) -> Iterator[str]:
    sheets: tuple[str, ...] = (f"{bench}/owner.pdf", f"{bench}/report.pdf")
    for path in sheets:
        name = path.rsplit("/", 1)[1]
        yield _said(name, [_timed(partial(_get, browser, path)) for _ in range(PDFS)], PDF_S)
    hands = [browser.another_hand() for _ in range(AT_ONCE)]
    with ThreadPoolExecutor(AT_ONCE) as pool:
        times = list(pool.map(lambda hand: _timed(partial(_get, hand, sheets[0])), hands))
    yield f"{_said(f'{AT_ONCE} sheets at once', times, PDF_S)}, none refused"


def _switches(browser: Browser, bench: str) -> Iterator[str]:
    called, moved = [], []
    for _ in range(TURNS):
        called.append(_timed(lambda: _post(browser, f"{bench}/calls", calls="G")))
        called.append(_timed(lambda: _post(browser, f"{bench}/calls", calls="")))
        moved.append(_timed(lambda: _post(browser, f"{bench}/power", state="off")))
        moved.append(_timed(lambda: _post(browser, f"{bench}/power", state="on")))
    yield _said("a call", called, SWITCH_S)
    yield _said("a breaker", moved, SWITCH_S)


def _get(browser: Browser, path: str) -> None:
    answer, _ = browser.ask("GET", path)
    assert answer.status == OK, (path, answer.status)


def _post(browser: Browser, path: str, **form: str) -> None:
    answer = browser.post(path, client_id=str(uuid.uuid4()), **form)
    assert answer.status in (OK, 302), (path, answer.status)


def _timed(act: Callable[[], None]) -> float:
    began_s = time.perf_counter()
    act()
    return time.perf_counter() - began_s


def _said(what: str, times: list[float], most_s: float) -> str:
    return (
        f"{what}: median {statistics.median(times):.2f} s, slowest {max(times):.2f} s (at most {most_s:g} s)"
    )
