"""Every gate of a visit, raced by two hands over the real server, so many times."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from threading import Barrier
from typing import TypeVar

from sqlalchemy import select

from benchmarks.attack.place import Counted, Place, new_visit
from benchmarks.browser import Browser
from plentar.store.models import Visit, VisitEvent

DEAD = ("off-C1", "known-live", "all-dead", "known-live-again")
Act = Callable[[Browser, str], object]
_T = TypeVar("_T")


def _entry() -> str:
    return str(uuid.uuid4())


def _call(terminal: str) -> Act:
    return lambda b, bench: b.post(f"{bench}/calls", client_id=_entry(), raised=terminal)


def _power(state: str) -> Act:
    return lambda b, bench: b.post(f"{bench}/power", client_id=_entry(), state=state)


def _dead(browser: Browser, bench: str) -> object:
    proof = "&".join(f"proof={mark}" for mark in DEAD)
    body = f"csrf_token={browser.token}&client_id={_entry()}&state=proved-dead&{proof}"
    return browser.ask("POST", f"{bench}/power", body)


def _ohms(browser: Browser, bench: str) -> object:
    return browser.try_to_read(bench, "E1", "ohms", "11.2")


def _stop(browser: Browser, bench: str) -> object:
    return browser.try_to_read(bench, "E1", "amps", "20.4")


def _close(browser: Browser, bench: str) -> object:
    return browser.post(f"{bench}/close", outcome="in-service")


def _lift(browser: Browser, bench: str) -> object:
    return browser.post(f"{bench}/wires", client_id=_entry(), state="lifted")


def _both_called(events: list[VisitEvent], _visit: Visit) -> bool:
    return events[-1].body.get("calls") == ["G", "W1"]


def _no_ohms_live(events: list[VisitEvent], _visit: Visit) -> bool:
    dead = False
    for event in events:
        if "power" in event.body:
            dead = event.body["power"] == "proved-dead"
        if event.body.get("read") == "ohms" and not dead:
            return False
    return True


def _not_in_service(events: list[VisitEvent], visit: Visit) -> bool:
    """In service only where the stop was refused, not where it stands on record."""
    return visit.outcome != "in-service" or not any("read" in event.body for event in events)


def _no_jumper_live(events: list[VisitEvent], _visit: Visit) -> bool:
    live = True
    for event in events:
        if "power" in event.body:
            live = event.body["power"] == "on"
        if event.body.get("wires") == "lifted" and live:
            return False
    return True


#: Gate: what goes before, the two acts at once, and what must hold of the record afterwards.
GATES: dict[str, tuple[tuple[Act, ...], Act, Act, Callable[[list[VisitEvent], Visit], bool]]] = {
    "two calls at once": ((), _call("W1"), _call("G"), _both_called),
    "ohms and a breaker": ((_dead,), _ohms, _power("on"), _no_ohms_live),
    "closing and a stop": ((), _close, _stop, _not_in_service),
    "a jumper and a breaker": ((_power("off"),), _lift, _power("on"), _no_jumper_live),
}


def races(there: Place, trials: int) -> Counted:
    """Each gate so many times; how often it was passed wrongly."""
    lines, wrong = [], []
    for name, (before, one, two, holds) in GATES.items():
        hands = [there.somebody("racer")]
        first, units = hands[0]
        second = first.another_hand()
        passed = 0
        for _ in range(trials):
            bench = new_visit(first, units[0])
            for act in before:
                act(first, bench)
            _at_once(partial(one, first, bench), partial(two, second, bench))
            with there.sessions() as session:
                visit = session.get_one(Visit, uuid.UUID(bench.rsplit("/", 1)[1]))
                query = select(VisitEvent).where(VisitEvent.visit_id == visit.id)
                events = list(session.scalars(query.order_by(VisitEvent.id)))
                passed += not holds(events, visit)
            first.post(f"{bench}/wires", client_id=_entry(), state="restored")
            first.post(f"{bench}/power", client_id=_entry(), state="off")
            first.post(f"{bench}/wires", client_id=_entry(), state="restored")
            first.post(f"{bench}/close", outcome="left-off", left_note="raced")
        lines.append(f"race, {name}: passed wrongly {passed} of {trials}")
        wrong += [f"gate passed wrongly: {name}"] * passed
    lines.append(_twice(there, trials, wrong))
    return Counted(lines, wrong)


def _twice(there: Place, trials: int, wrong: list[str]) -> str:
    """The same form sent twice at once makes one unit."""
    browser, _ = there.somebody("twice")
    other = browser.another_hand()
    doubled = 0
    for _ in range(trials):
        kit = {
            "label": "Once",
            "elements": "2",
            "kw": "5",
            "volts": "240",
            "circuits": "1",
            "control": "double-sequencers",
            "tie": "nc-contact",
            "client_id": _entry(),
        }
        answers = _at_once(partial(browser.post, "/units", **kit), partial(other.post, "/units", **kit))
        doubled += len({answer.headers["Location"] for answer in answers}) != 1
    wrong += ["a unit was made twice"] * doubled
    return f"race, one form sent twice: doubled {doubled} of {trials}"


def _at_once(one: Callable[[], _T], two: Callable[[], _T]) -> list[_T]:
    gate = Barrier(2)

    def run(act: Callable[[], _T]) -> _T:
        gate.wait()
        return act()

    with ThreadPoolExecutor(2) as pool:
        return [done.result() for done in [pool.submit(run, one), pool.submit(run, two)]]
