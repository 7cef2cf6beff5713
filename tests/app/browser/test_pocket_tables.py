"""What a phone decides by its tables, held against the program: random visits, every point, no difference."""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from random import Random
from typing import Any

import pytest
from playwright.sync_api import Browser, Page

import plentar.web
from plentar.core.expected import Asked
from plentar.core.expected.rules import expected_at
from plentar.core.quantity import Quantity
from plentar.core.safety.latch import course, standing
from plentar.core.unit.points import Point, points, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Power, Reading, Settings, Visit
from plentar.core.visit.evidence import Evidence
from plentar.files.events_json import event_to_json
from plentar.store.demo.plates import plates
from plentar.web.pocket.tables import judged_by

SCRIPTS = Path(plentar.web.__file__).parent / "static" / "pocket"
VISITS_EACH = 5
#: The stops that a phone finds by itself, but for those that a feed's amps raise.
OWN = ("draw-without-call E", "element-to-ground", "live-when-off")
ASK = """([events, t_s, asked]) => asked.map(([at, quantity, value]) => {
  const due = pocket_due(unit, events, t_s, at, quantity);
  if (!due) return null;
  const found = due.spans.length ? pocket_verdict(due, value) : { word: "not-judged", good: null };
  return [found.word, found.good, due.provisional];
})"""
STOPS = "(events) => pocket_stops(unit, events).map((stop) => `${stop.code} ${stop.component}`)"


@pytest.fixture(scope="module")
def scripts(browser: Browser) -> Iterator[Page]:
    page = browser.new_page()
    for name in ("judge.js", "stops.js"):
        page.add_script_tag(path=SCRIPTS / name)
    yield page
    page.close()


def every_point(unit: Unit) -> list[Point]:
    return [*points(unit), *(resolve(unit, f"{e.id}.in:ground") for e in unit.elements)]


def drawn_value(random: Random, quantity: Quantity) -> float:
    if quantity is Quantity.TONE:
        return random.choice([0.0, 1.0])
    value = random.choice([0.0, random.uniform(0, 30), random.uniform(0, 260), 10 ** random.uniform(-1, 7)])
    return round(value, 2)


def drawn_visit(random: Random, unit: Unit) -> tuple[list[Event], float]:
    """Switches and readings in any order, the usual settings most of all; and when it is looked at."""
    events: list[Event] = []
    sets = [{"G"}, {"W1"}, {"W1", "G"}, unit.heat_calls, unit.heat_calls | {"G"}, {"Y", "G"}, set()]
    t_s = 0.0

    def later() -> float:
        return round(t_s + random.choice([0.5, 3, 20, 100, 400, 2000]) * random.random() + 0.1, 1)

    for _ in range(random.randint(0, 8)):
        t_s = later()
        kind = random.random()
        if kind < 0.35:
            calls = frozenset(random.choice(sets))
            if calls <= set(unit.calls):
                events.append(Calls(t_s=t_s, calls=calls))
        elif kind < 0.5:
            events.append(Power(t_s=t_s, state=random.choice(["on", "on", "off", "proved-dead"])))
        elif kind < 0.75:
            circuit = random.choice(unit.circuits)
            volts = round(
                circuit.rated_volts * random.choice([random.uniform(0.85, 1.1), random.random()]), 1
            )
            events.append(Reading(t_s=t_s, quantity=Quantity.VOLTS, at=circuit.id, value=volts))
        else:
            point = random.choice(every_point(unit))
            quantity = random.choice(point.quantities)
            value = drawn_value(random, quantity)
            events.append(Reading(t_s=t_s, quantity=quantity, at=point.name, value=value))
    return events, later()


def as_phone_has_it(events: list[Event]) -> list[dict[str, Any]]:
    found = [event_to_json(event) for event in events]
    return [e | ({"value": float(e["value"])} if "value" in e else {}) | {"own": True} for e in found]


def test_a_phone_says_what_the_program_says(scripts: Page) -> None:
    """Of every point in every demo unit: the same verdict, or none."""
    random = Random(7)
    told = 0
    for door, unit in plates().items():
        data = judged_by(unit, Settings()) | {"stops": [], "visit": None}
        scripts.evaluate("(data) => { window.unit = data; }", json.loads(json.dumps(data, default=float)))
        for _ in range(VISITS_EACH):
            events, t_s = drawn_visit(random, unit)
            evidence = Evidence(unit, Visit(settings=Settings(), events=tuple(events)))
            asked = [(p, q, drawn_value(random, q)) for p in every_point(unit) for q in p.quantities]
            found = scripts.evaluate(
                ASK, [as_phone_has_it(events), t_s, [[p.name, q, v] for p, q, v in asked]]
            )
            state = evidence.state_at(t_s)
            for (point, quantity, value), said in zip(asked, found, strict=True):
                if said is None:
                    continue
                told += 1
                due = expected_at(evidence, Asked(point, quantity, state)).judge(value)
                assert said == [due.word, due.good, due.provisional], (
                    door,
                    point.name,
                    quantity,
                    value,
                    events,
                )
            assert_stops(scripts, evidence, events)
    assert told > 1500, told  # of some 6,500 asked; the others wait for signal


def assert_stops(scripts: Page, evidence: Evidence, events: list[Event]) -> None:
    """None that the program never raised; every one of those that a phone knows, and for as long at least."""
    shown = set(scripts.evaluate(STOPS, as_phone_has_it(events)))
    ever = {f"{s.finding.code} {s.finding.component}" for stops in course(evidence) for s in stops}
    stand = {f"{s.finding.code} {s.finding.component}" for s in standing(evidence)}
    assert shown <= ever, (shown - ever, events)
    known_state = len({*evidence.state_at(events[-1].t_s).power.values()}) <= 1 if events else True
    if known_state:
        missed = {s for s in stand - shown if s.startswith(OWN)}
        assert not missed, (missed, events)
