"""What each setting would do under each fault, what each stop bars, and what it asks for first: as last looked at.

As with the judge's record, a difference is to be looked at; what was meant is recorded anew:

    PYTHONPATH=src:. python -m tests.core.test_recorded_safety
"""

from __future__ import annotations

import json
from collections import defaultdict
from dataclasses import replace
from pathlib import Path
from typing import Any

import pytest

from plentar.core.circuit.faults import Fault, faults_of
from plentar.core.circuit.solved import Networks
from plentar.core.circuit.wiring import wire_up
from plentar.core.judgement import Finding, GuardedStep, Level, Setting
from plentar.core.safety.acts import make_safe
from plentar.core.safety.bars import Bars
from plentar.core.safety.harm import harm_of_setting, ran_without_air
from plentar.core.safety.table import STOPS
from plentar.core.unit.kits import Kit
from plentar.core.unit.parts import Interlock
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON
from plentar.core.visit.evidence import Evidence
from tests.cases import CALL, DEAD, TWO, visit_of
from tests.kits import build_kit

RECORD = Path(__file__).with_name("recorded_safety.json")
#: Without a fuse and without a tie; and with a fan delay, two circuits, an outdoor unit's call.
BARE = replace(
    TWO,
    control_power=replace(TWO.control_power, fuse_amps=None),
    blower=replace(TWO.blower, interlock=Interlock("none")),
)
APART = build_kit(
    Kit((5000.0, 5000.0), 240, "single-sequencers", circuits=2, relay="time-delay", apart=True), "apart", ""
)
UNITS = {"two": TWO, "bare": BARE, "apart": APART}
G, W, BOTH = frozenset({"G"}), frozenset({"W1"}), frozenset({"G", "W1"})
SETTINGS = {
    "as it stands": Setting(),
    "as it stands, in two minutes": Setting(after_s=120.0),
    "the fan": Setting(calls=G, after_s=60.0),
    "heat": Setting(calls=W, after_s=200.0),
    "heat with the fan": Setting(calls=BOTH, after_s=200.0),
    "heat, just called": Setting(calls=W, after_s=0.0, fresh=True),
    "heat by jumper": Setting(calls=W, lifted=True, after_s=200.0),
    "cooling": Setting(calls=frozenset({"Y", "G"}), after_s=30.0),
    "power": Setting(power=ON),
    "its coil driven": Setting(power="proved-dead", driven=True),
    "heat alone for ten seconds": Setting(calls=W, guard=GuardedStep(begins=BOTH, at_most_s=10.0, ends=G)),
}
COURSES: dict[str, list[dict[str, Any]]] = {
    "at rest": [],
    "under heat": [CALL],
    "under heat with the fan": [{"t": 5, "calls": ["G", "W1"]}],
    "heat ended": [{"t": 5, "calls": ["G", "W1"]}, {"t": 400, "calls": ["G"]}],
    "proved dead": DEAD,
    "cooled": [{"t": 5, "calls": ["G", "Y"]}, {"t": 390, "calls": []}],
}
NOW_S = 500.0
ASKED = {"power": (("C1",), None), "all power": (("C1", "C2", "C3"), None)} | {
    " ".join(sorted(calls)) or "nothing": ((), calls)
    for calls in (frozenset[str](), G, W, BOTH, frozenset("Y"))
}


#: Where time has a say in what a setting does.
TIMED = ("the fan", "heat", "heat with the fan", "cooling")


def one_of_each(unit: Unit) -> list[Fault]:
    """The first fault of each kind and part's kind."""
    return list({(fault.kind.of, fault.mode): fault for fault in reversed(list(faults_of(unit)))}.values())


def harms() -> dict[str, Any]:
    """By unit, course and setting: what the faults do that do any harm."""
    found: dict[str, Any] = {}
    for name, unit in UNITS.items():
        networks = Networks(wire_up(unit))
        for course, events in COURSES.items():
            if name != "two" and course != "at rest":
                continue
            visit = visit_of(*events)
            for what in SETTINGS if course == "at rest" else TIMED:
                does = defaultdict(list)
                for fault in one_of_each(unit):
                    if said := harm_of_setting(unit, visit.events, NOW_S, SETTINGS[what], [fault], networks):
                        does[said].append(fault.id)
                found[f"{name}, {course}: {what}"] = does
    visit = visit_of(CALL)
    found["without air under heat"] = {
        fault.id: s
        for fault in faults_of(TWO)
        if (s := ran_without_air(TWO, visit.events, NOW_S, [fault])) is not None
    }
    return found


def bars() -> dict[str, Any]:
    """By stop, course and what is asked: why it is refused."""
    found: dict[str, Any] = {}
    for code, row in STOPS.items():
        for part in ("E1", "C1", "S1", "W1", "blower", "supply-air"):
            asked = Bars(APART, [Finding(code, Level.STOP_NOW, part, "so", {})])
            said = found[f"{code} at {part}"] = {}
            for course, events in COURSES.items():
                state = Evidence(APART, visit_of(*events)).state_at(NOW_S)
                for what, (power, calls) in ASKED.items():
                    closing = [c.id for c in APART.circuits if c.id in power]
                    if refused := asked.refusal(state, closing, calls):
                        said[f"{course}: {what}"] = refused
            said["dead work"] = asked.dead_work_refusal()
            said["row"] = sorted(map(str, row.bars))
    return found


def acts() -> dict[str, Any]:
    """By stop and course: the acts and who may do the work."""
    found: dict[str, Any] = {}
    for code in STOPS:
        for part in ("E1", "C1", "S1", "W1", "blower", "supply-air"):
            stop = Finding(code, Level.STOP_NOW, part, "so", {})
            for course, events in COURSES.items():
                evidence = Evidence(APART, visit_of(*events))
                safe = make_safe(evidence, evidence.state_at(NOW_S), stop)
                found.setdefault(
                    " / ".join(
                        [
                            *safe.acts,
                            safe.before,
                            safe.who,
                            " ".join(sorted(safe.ends)),
                            " ".join(safe.opens),
                            safe.way_back,
                        ]
                    ),
                    [],
                ).append(f"{code} at {part}, {course}")
    return found


TABLES = {"harms": harms, "bars": bars, "acts": acts}


@pytest.mark.parametrize("table", TABLES)
def test_it_is_as_it_was_looked_at(table):
    now = json.loads(json.dumps(TABLES[table]()))
    recorded = json.loads(RECORD.read_text())[table]
    assert list(now) == list(recorded)
    for key, value in now.items():
        assert value == recorded[key], key


if __name__ == "__main__":
    RECORD.write_text(
        json.dumps({n: make() for n, make in TABLES.items()}, indent=0, ensure_ascii=False) + "\n"
    )
