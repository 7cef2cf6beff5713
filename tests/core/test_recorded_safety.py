"""What each setting would do under each fault, what each stop bars, and what it asks for first: as last recorded.

The program's own answers, as the judge's record: they say what a change has changed, not what is right. A
difference is to be looked at; where it was meant, record anew:

    PYTHONPATH=src:. python -m tests.core.test_recorded_safety
"""

from __future__ import annotations

import json
from collections import defaultdict
from dataclasses import replace
from pathlib import Path
from random import Random
from typing import Any

import pytest

from plentar.core.circuit.faults import Fault, faults_of
from plentar.core.circuit.solved import Networks
from plentar.core.circuit.wiring import wire_up
from plentar.core.errors import BadInput
from plentar.core.judgement import Finding, GuardedStep, Level, Setting
from plentar.core.safety.acts import make_safe
from plentar.core.safety.bars import Bars
from plentar.core.safety.harm import harm_of_setting, ran_without_air
from plentar.core.safety.latch import barring, course, standing
from plentar.core.safety.table import STOPS
from plentar.core.unit.kits import Kit
from plentar.core.unit.parts import Interlock
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import ON, check_visit
from plentar.core.visit.evidence import Evidence
from tests.cases import CALL, DEAD, TWO, visit_of
from tests.kits import build_kit

RECORD = Path(__file__).with_name("recorded_safety.json")
#: Without a fuse and without a tie; and on three circuits, the fan held by a time delay.
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
        for before, events in COURSES.items():
            if name != "two" and before != "at rest":
                continue
            visit = visit_of(*events)
            for what in SETTINGS if before == "at rest" else TIMED:
                does = defaultdict(list)
                for fault in one_of_each(unit):
                    if said := harm_of_setting(unit, visit.events, NOW_S, SETTINGS[what], [fault], networks):
                        does[str(said)].append(fault.id)
                found[f"{name}, {before}: {what}"] = does
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
            for before, events in COURSES.items():
                state = Evidence(APART, visit_of(*events)).state_at(NOW_S)
                for what, (power, calls) in ASKED.items():
                    closing = [c.id for c in APART.circuits if c.id in power]
                    if refused := asked.refusal(state, closing, calls):
                        said[f"{before}: {what}"] = str(refused)
            said["dead work"] = str(asked.dead_work_refusal())
            said["row"] = sorted(map(str, row.bars))
    return found


def acts() -> dict[str, Any]:
    """By stop and course: the acts and who may do the work."""
    found: dict[str, Any] = {}
    for code in STOPS:
        for part in ("E1", "C1", "S1", "W1", "blower", "supply-air"):
            stop = Finding(code, Level.STOP_NOW, part, "so", {})
            for before, events in COURSES.items():
                evidence = Evidence(APART, visit_of(*events))
                safe = make_safe(evidence, evidence.state_at(NOW_S), stop)
                found.setdefault(
                    " / ".join(
                        [
                            *map(str, safe.acts),
                            str(safe.before),
                            str(safe.who),
                            " ".join(sorted(safe.ends)),
                            " ".join(safe.opens),
                            str(safe.way_back),
                        ]
                    ),
                    [],
                ).append(f"{code} at {part}, {before}")
    return found


def happening(dice: Random) -> dict[str, Any]:
    """Something that raises a stop, ends one, or neither."""
    reads = {
        "amps": (("E1", "E2", "blower", "C1.l1", "C2.l2", "R"), (0.0, 0.6, 2.2, 6.5, 20.4, 24.0)),
        "volts": (("C1", "C2", "S1.1", "blower", "C1.l1:ground"), (0.0, 0.02, 2.6, 62.0, 121.0, 240.0)),
        "ohms": (("E1.in:ground", "E1", "S1.1"), (0.1, 12.0, "OL")),
        "temp_f": (("supply-air",), (112.0, 176.0)),
        "tone": (("E1.in:ground",), (True, False)),
    }
    others = [
        *({"power": power} for power in ("on", "off", "proved-dead", "proved-dead")),
        {"power": "off", "circuit": "C1"},
        *({"calls": calls} for calls in ([], ["G"], ["W1"], ["G", "W1"], ["G", "W1"])),
        *({"replaced": part} for part in ("S1", "E1", "BR", "S2")),
        *({"did": verb, "part": "TL1"} for verb in ("bridged", "unbridged")),
        *({"did": verb, "part": "E1"} for verb in ("stage-off", "stage-on")),
        {"did": "remade", "part": "C1"},
        {"did": "cleaned", "part": "airflow"},
        {"observe": "on", "part": "blower"},
        *({"wires": wires, "part": "thermostat"} for wires in ("lifted", "restored")),
    ]
    if dice.random() < 0.5:
        return dice.choice(others)
    quantity = dice.choice(["amps", "amps", "volts", "volts", "ohms", "temp_f", "tone"])
    at, values = reads[quantity]
    return {"read": quantity, "at": dice.choice(at), "value": dice.choice(values)}


def courses() -> dict[str, Any]:
    """Visits of a dozen things that happen: after each the stops that stand, and how; at the end what is barred."""
    found: dict[str, Any] = {}
    for number in range(500):
        dice, t, events = Random(number), 0.0, []
        for _ in range(14):
            t += dice.choice([4.0, 25.0, 90.0, 400.0])
            events.append({"t": t, **happening(dice)})
        stop = {"code": dice.choice(["draw-without-call", "element-to-ground"]), "component": "E1"}
        answers = [{"t": t + 1, **stop, "how": "locked", "events": 14}] if number % 2 else []
        unit = APART if number % 3 else TWO
        try:
            evidence = Evidence(unit, visit_of(*events, answered=answers))
            check_visit(unit, evidence.visit)
        except BadInput:
            continue
        lines = []
        for event, stops in zip(events, course(evidence)[1:], strict=True):
            flags = ("answered", "way_back", "mended", "tried")
            said = [
                f"{s.finding.code} {s.finding.component} {' '.join(f for f in flags if getattr(s, f))}".strip()
                for s in stops
            ]
            lines.append(f"{' '.join(map(str, event.values()))} → {', '.join(said) or '-'}")
        state, barred = evidence.state_at(t), Bars(unit, barring(standing(evidence)))
        lines.append(
            f"{barred.refusal(state, [c.id for c in unit.circuits])} / {barred.refusal(state, calls=W)}"
        )
        lines += [" ".join(map(str, make_safe(evidence, state, s.finding).acts)) for s in standing(evidence)]
        found[str(number)] = lines
    return found


TABLES = {"harms": harms, "bars": bars, "acts": acts, "courses": courses}


@pytest.mark.parametrize("table", TABLES)
def test_it_is_as_it_was_recorded(table):
    now = json.loads(json.dumps(TABLES[table]()))
    recorded = json.loads(RECORD.read_text())[table]
    assert list(now) == list(recorded)
    for key, value in now.items():
        assert value == recorded[key], key


if __name__ == "__main__":
    RECORD.write_text(
        json.dumps({n: make() for n, make in TABLES.items()}, indent=0, ensure_ascii=False) + "\n"
    )
