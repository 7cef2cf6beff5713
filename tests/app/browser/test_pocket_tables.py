"""What a phone decides by its tables, held against the program: random visits, every point, no difference."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from random import Random
from typing import Any

import pytest
from playwright.sync_api import Browser, Page

import plentar.web
from plentar.core.door import bars_of, judge_checked
from plentar.core.expected import Asked
from plentar.core.expected.rules import expected_at
from plentar.core.quantity import Quantity
from plentar.core.safety.latch import course, standing
from plentar.core.timing.moves import Timing
from plentar.core.timing.tape import tape_of
from plentar.core.unit.points import Point, points, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Observed, Power, Reading, Settings, Visit
from plentar.core.visit.evidence import Evidence
from plentar.files.events_json import event_to_json
from plentar.store.demo.plates import plates
from plentar.web.pocket.tables import judged_by

SCRIPTS = Path(plentar.web.__file__).parent / "static" / "pocket"
VISITS_EACH = 5
#: The stops that a phone always finds by itself.
OWN = ("draw-without-call E", "element-to-ground", "live-when-off")
#: Those of several readings: a phone finds most, and none that the program would not.
TOGETHER = ("joint-heat", "ground-current", "draw-without-call C")
BARRED = """([events, t_s, asked]) =>
  asked.map((wanted) => pocket_barred(unit, events, t_s, wanted) !== null)"""
WINDOWS = "([events, t_s]) => pocket_windows(unit, events, t_s)"
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
    for name in ("judge.js", "together.js", "windows.js", "stops.js"):
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


def drawn_pairs(random: Random, unit: Unit) -> list[Event]:
    """What is clamped and read across under heat: legs, feeds ahead and behind, joints of a rung."""
    events: list[Event] = []
    names = {point.name for point in points(unit)}
    sets = [set(), {"G"}, {"W1", "G"}, unit.heat_calls, unit.heat_calls | {"G"}]
    t_s = 0.0

    def read(quantity: Quantity, at: str, value: float) -> None:
        nonlocal t_s
        t_s = round(t_s + 0.4, 1)
        if at in names:
            events.append(Reading(t_s=t_s, quantity=quantity, at=at, value=round(max(0.0, value), 2)))

    for _ in range(random.randint(3, 12)):
        t_s = round(t_s + random.choice([1, 5, 30, 100, 400]) * random.random() + 0.2, 1)
        circuit, element = random.choice(unit.circuits), random.choice(unit.elements)
        part = random.choice(element.rung)
        kind = random.random()
        if kind < 0.2 and (calls := frozenset(random.choice(sets))) <= set(unit.calls):
            events.append(Calls(t_s=t_s, calls=calls))
        elif kind < 0.25:
            one = random.choice([None, circuit.id])
            events.append(Power(t_s=t_s, state=random.choice(["on", "on", "off"]), circuit=one))
        elif kind < 0.45:
            volts = circuit.rated_volts * random.uniform(0.9, 1.05)
            read(Quantity.VOLTS, f"{circuit.id}.line", volts)
            read(Quantity.VOLTS, circuit.id, volts - random.choice([0.5, 2, 4, 9]))
        elif kind < 0.6:
            amps, apart = random.choice([0, 0.5, 3, 20, 41]), random.choice([0, 0.4, 1.5, 2.5, 7, 30])
            read(Quantity.AMPS, random.choice([circuit.id, f"{circuit.id}.l1"]), amps)
            read(Quantity.AMPS, f"{circuit.id}.l2", amps + random.choice([-1, 1]) * apart)
        elif kind < 0.8:
            read(Quantity.AMPS, element.id, random.choice([0, 0.3, 1.2, 20, 20.8, 41]))
        else:
            read(Quantity.VOLTS, part, random.choice([0, 0.1, 0.3, 0.6, 1, 2, 4, 30, 240]))
    return events


def drawn_runs(random: Random, unit: Unit) -> tuple[list[Event], float]:
    """Calls, and what is seen to act or clamped meanwhile, in any order; and when it is looked at."""
    events: list[Event] = []
    parts = [*unit.switch_by_id, "blower"]
    sets = [set(), set(), {"W1"}, {"W1", "G"}, {"G"}, unit.heat_calls | {"G"}]
    t_s = 0.0
    for _ in range(random.randint(2, 14)):
        t_s = round(t_s + random.choice([1, 10, 40, 100, 400, 900]) * random.random() + 0.2, 1)
        kind = random.random()
        if kind < 0.45 and (calls := frozenset(random.choice(sets))) <= set(unit.calls):
            events.append(Calls(t_s=t_s, calls=calls))
        elif kind < 0.85:
            action = random.choice(["on", "on", "off"])
            events.append(Observed(t_s=t_s, part=random.choice(parts), action=action))
        else:
            at = random.choice([*(e.id for e in unit.elements), "blower"])
            events.append(Reading(t_s=t_s, quantity=Quantity.AMPS, at=at, value=random.choice([0, 20.8])))
    return events, round(t_s + random.choice([0, 5, 60, 300]), 1)


def as_phone_has_it(events: list[Event]) -> list[dict[str, Any]]:
    found = [event_to_json(event) for event in events]
    return [e | ({"value": float(e["value"])} if "value" in e else {}) | {"own": True} for e in found]


def test_a_phone_says_what_the_program_says(scripts: Page) -> None:
    """Of every point in every demo unit: the same verdict, or none."""
    random = Random(7)
    told = 0
    for door, unit in plates().items():
        taken_along(scripts, unit)
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


def taken_along(scripts: Page, unit: Unit) -> None:
    data = judged_by(unit, Settings()) | {"stops": [], "visit": None}
    scripts.evaluate("(data) => { window.unit = data; }", json.loads(json.dumps(data, default=float)))


def test_stops_of_several_readings_are_the_programs(scripts: Page) -> None:
    """Joints by volts and amps, feeds by both ends, legs of a feed: none too many, and most of them found."""
    random = Random(11)
    found, missed = Counter[str](), Counter[str]()
    for unit in plates().values():
        taken_along(scripts, unit)
        for _ in range(3 * VISITS_EACH):
            events = drawn_pairs(random, unit)
            evidence = Evidence(unit, Visit(settings=Settings(), events=tuple(events)))
            shown = assert_stops(scripts, evidence, events)
            stand = {f"{s.finding.code} {s.finding.component}" for s in standing(evidence)}
            for code in TOGETHER:
                found[code] += sum(s.startswith(code) for s in shown)
                missed[code] += sum(s.startswith(code) for s in stand - shown)
    assert all(found[code] >= 25 and missed[code] < 0.35 * found[code] for code in TOGETHER), (found, missed)


def test_the_times_of_a_call_are_the_programs(scripts: Page) -> None:
    """Each move that a phone tells of is the tape's, with its word."""
    random = Random(5)
    told = Counter[str]()
    for door, unit in plates().items():
        taken_along(scripts, unit)
        for _ in range(6 * VISITS_EACH):
            events, now_s = drawn_runs(random, unit)
            moves = scripts.evaluate(WINDOWS, [as_phone_has_it(events), now_s]) or []
            run = tape_of(unit, Visit(events=tuple(events))).last
            words = {(m.part, m.action): str(m.word(now_s)) for m in (run.moves if run else ())}
            for move in moves:
                assert words.get((move["part"], move["action"])) == move["word"], (door, move, events)
                told[move["word"]] += 1
    assert told.total() > 1000, told
    assert set(told) == set(Timing), told


def assert_stops(scripts: Page, evidence: Evidence, events: list[Event]) -> set[str]:
    """None that the program never raised; every one of those that a phone knows, and for as long at least."""
    shown = set(scripts.evaluate(STOPS, as_phone_has_it(events)))
    ever = {f"{s.finding.code} {s.finding.component}" for stops in course(evidence) for s in stops}
    stand = {f"{s.finding.code} {s.finding.component}" for s in standing(evidence)}
    assert shown <= ever, (shown - ever, events)
    assert not {s for s in stand - shown if s.startswith("live-when-off")}, events
    known_state = len({*evidence.state_at(events[-1].t_s).power.values()}) <= 1 if events else True
    if known_state:
        missed = {s for s in stand - shown if s.startswith(OWN)}
        assert not missed, (missed, events)
    if shown == stand:
        assert_bars(scripts, evidence, events)
    return shown


def assert_bars(scripts: Page, evidence: Evidence, events: list[Event]) -> None:
    """The same stops bar the same: each call raised or ended, every breaker closed."""
    unit, t_s = evidence.unit, (events[-1].t_s if events else 0.0) + 1
    state = evidence.state_at(t_s)
    bars = bars_of(judge_checked(unit, evidence.visit))
    calls = [state.calls ^ {call} for call in unit.calls]
    circuits = [circuit.id for circuit in unit.circuits]
    asked: list[dict[str, Any]] = [{"power": "on"}, *({"power": "on", "circuit": c} for c in circuits)]
    asked += [{"calls": sorted(some)} for some in calls]
    found = scripts.evaluate(BARRED, [as_phone_has_it(events), t_s, asked])
    due = [bars.refusal(state, circuits), *(bars.refusal(state, [c]) for c in circuits)]
    due += [bars.refusal(state, (), some) for some in calls]
    assert found == [bool(refused) for refused in due], (due, events)
