"""What the judge said of these visits when it was last looked at, to the sixth figure.

The numbers are the program's own: they say nothing of what is right (the files beside this do), and
everything of what a change has changed. Where one is meant, look at each difference and record anew:

    PYTHONPATH=src:. python -m tests.core.test_recorded
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from plentar.core.judge.diagnosis import diagnosis_of
from plentar.core.judge.plan.around import look_around
from plentar.core.judge.plan.dead import cold_readings
from plentar.core.judge.plan.known import known_of
from plentar.core.judge.plan.live import readings_at
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.readable import readable_states
from plentar.core.judge.plan.survivors import survivors_of
from plentar.core.judge.plan.whole import whole_plan
from plentar.core.judge.shown.workspace import Workspace, workspace_of
from plentar.core.judge.weigh.pairs import together
from plentar.core.judge.weigh.posterior import Posterior, posterior
from plentar.core.judge.weigh.reasons import Reasons, contradictions
from plentar.core.unit import kits
from plentar.core.unit.parts import CALLS
from plentar.core.visit.evidence import Evidence
from plentar.files.diagnosis_json import diagnosis_to_json
from plentar.store.demo.plates import plates
from tests.cases import CALL, DEAD, TWO, VOLTS, amps, visit_of
from tests.kits import Kit, build_kit

RECORD = Path(__file__).with_name("recorded.json")
#: Visits to simulated units, followed for a while, with a reading of the technician's own here and there.
FOLLOWED = json.loads(Path(__file__).with_name("recorded_visits.json").read_text())
DC = build_kit(Kit((5000.0,), 240, "relays-dc", tie="g-with-w"), "dc", "One on a DC relay")
UNITS = {
    "two": TWO,
    "dc": DC,
    "poles": build_kit(Kit((5000.0,), 208, "contactors", relay="dpdt"), "poles", "One on two poles"),
    # Of this one nobody has read a print.
    "unread": kits.build_kit(Kit((4800.0,), 230, "single-sequencers"), "unread", "One as it came"),
    "switch": build_kit(
        Kit((5000.0,), 240, "stacked-sequencer", tie="sequencer-switch", relay="time-delay", apart=True),
        "switch",
        "One with the blower on its sequencer",
    ),
} | {f"home {n}": plates()[n] for n in (3, 5, 11)}
OFF = {"t": 700, "calls": []}
LOOKED_AROUND = ("an open switch", "a check-up", "poles: E1:open", "unread: C1:low-volts")


def read(t: float, quantity: str, at: str, value: Any, **more: Any) -> dict[str, Any]:
    return {"t": t, "read": quantity, "at": at, "value": value, **more}


SECOND_DEAD = [VOLTS, CALL, amps(310, "E1", 20.4), amps(320, "E2", 0.0)]
#: By name: the unit, the complaint, and what was done.
VISITS: dict[str, tuple[str, str | None, list[dict[str, Any]]]] = {
    "nothing yet": ("two", "no-heat", []),
    "a dead strip": ("two", "not-enough-heat", SECOND_DEAD),
    "before its window": ("two", "not-enough-heat", [VOLTS, CALL, amps(25, "C1", 22.4)]),
    "an open switch": (
        "two",
        "not-enough-heat",
        [*SECOND_DEAD, read(340, "volts", "S1.coil", 25.1), read(350, "volts", "S1.2", 238)],
    ),
    "a joint": ("two", "not-enough-heat", [*SECOND_DEAD[:3], read(330, "volts", "S1.1", 2.31)]),
    "a check-up": ("two", "check-up", [VOLTS, CALL, amps(310, "E1", 20.6), amps(330, "E2", 20.5)]),
    "draws on": (
        "two",
        "heat-will-not-stop",
        [*SECOND_DEAD[:2], amps(310, "C1", 43.5), OFF, amps(1000, "E2", 20.4)],
    ),
    "a blown fuse": (
        "two",
        "control-fuse-blows",
        [VOLTS, CALL, read(310, "volts", "R", 0.0), read(320, "volts", "transformer", 26.3)],
    ),
    "a limit that cycles": (
        "two",
        "clicking",
        [VOLTS, CALL, amps(310, "E1", 20.2), {"t": 900, "observe": "cycling", "part": "E1"}],
    ),
    "too little air": (
        "two",
        "clicking",
        [VOLTS, CALL, read(905, "temp_f", "return-air", 68), read(910, "temp_f", "supply-air", 128)],
    ),
    "two at once": (
        "two",
        "no-heat",
        [VOLTS, CALL, amps(310, "C1", 2.3), read(320, "volts", "E1", 239), read(330, "volts", "S1.2", 239)],
    ),
    "to the frame": (
        "two",
        "breaker-trips-or-burnt",
        [VOLTS, *DEAD, read(530, "ohms", "E1", 11.1), read(540, "ohms", "E2.in:ground", 52.0)],
    ),
    "seen late": (
        "two",
        "slow-to-start",
        [CALL, {"t": 30, "observe": "on", "part": "S1.1"}, {"t": 260, "observe": "on", "part": "S1.2"}],
    ),
    "mended": (
        "two",
        "not-enough-heat",
        [
            *SECOND_DEAD,
            *DEAD,
            {"t": 600, "replaced": "S1"},
            {"t": 640, "power": "on"},
            {"t": 700, "calls": ["W1"]},
            amps(1000, "E2", 20.3),
        ],
    ),
    "no fan": ("two", "blower-will-not-run", [{"t": 5, "calls": ["G"]}, amps(60, "blower", 0.0)]),
    "by jumper": (
        "two",
        "no-heat",
        [VOLTS, {"t": 5, "calls": ["W1"], "lifted": True}, amps(310, "E1", 20.5)],
    ),
    "what can't be": (
        "two",
        "not-enough-heat",
        [*SECOND_DEAD, read(330, "volts", "E2", 238), *DEAD, read(540, "ohms", "E2", 11.2)],
    ),
    "a rectifier": (
        "dc",
        "no-heat",
        [VOLTS, CALL, read(310, "volts", "K1.rectifier", 25.4), read(320, "volts_dc", "K1.coil", 0.0)],
    ),
    "a low transformer": (
        "dc",
        "no-heat",
        [VOLTS, CALL, read(310, "volts", "R", 17.1), read(320, "amps", "R", 0.62, turns=10)],
    ),
}
VISITS |= {name: (one["unit"], one["complaint"], one["events"]) for name, one in FOLLOWED.items()}


def _proposal(one: Proposal) -> dict[str, Any]:
    setting = vars_of(one.setting)
    gain = one.gain
    return {
        "read": [str(one.quantity or one.observe), one.at, str(one.hazard), setting],
        "minutes": one.minutes,
        "gain": [gain.on_decision, gain.on_fault, gain.decisive],
        "outcomes": [[o.low, o.high, o.probability, [list(d) for d in o.decisions]] for o in one.outcomes],
    }


def _ordered(plain: Any) -> Any:
    """Sets of calls in their order."""
    if isinstance(plain, list):
        ordered = [_ordered(one) for one in plain]
        return sorted(ordered) if all(one in CALLS for one in ordered) else ordered
    return {k: _ordered(v) for k, v in plain.items()} if isinstance(plain, dict) else plain


def _sum(values: np.ndarray) -> float:
    """Each with a weight of its own, so that no two changes make up for each other."""
    flat = np.asarray(values, dtype=float).ravel()
    return float(np.tanh(flat / 20) @ np.cos(np.arange(len(flat))))


def vars_of(one: Any) -> dict[str, Any]:
    """A frozen record's fields that say something, its sets in order."""
    found = {name: value for name in one.__slots__ if (value := getattr(one, name)) not in (None, False)}
    return {
        name: sorted(value)
        if isinstance(value, frozenset)
        else vars_of(value)
        if hasattr(value, "__slots__") and not isinstance(value, str)
        else value
        for name, value in found.items()
    }


def said_of(name: str, workspaces: dict[str, Workspace]) -> dict[str, Any]:
    """Suspects from a thousandth on, the plan, what speaks for the leader, and what else to look at."""
    of, complaint, events = VISITS[name]
    evidence = Evidence(UNITS[of], visit_of(*events, complaint=complaint))
    said = posterior(evidence, workspaces[of])
    plan = whole_plan(said)
    order = np.argsort(-said.probabilities[:-1])
    suspects = {
        said.hypotheses[n].id: float(said.probabilities[n]) for n in order if said.probabilities[n] > 1e-3
    }
    found: dict[str, Any] = {
        "suspects": suspects,
        "other": float(said.probabilities[-1]),
        "sure": [str(plan.sure.state), list(plan.sure.parts)],
        "next": [_proposal(one) for one in plan.proposals],
        "alike": [[said.hypotheses[n].id for n in group] for group in plan.alike],
        "reasons": [str(one) for one in Reasons(said).of(said.leader)],
        "contradictions": [finding.numbers for finding in contradictions(said)],
        "held": None if plan.held is None else [plan.held[0].at, str(plan.held[1])],
    }
    # Every variant's weight, how each item is told, and the supply, in sums that a change of any moves.
    singles = said.singles
    found["weights"] = {
        "variants": _sum(singles.log_variant),
        "items": [[_sum(i.log), _sum(i.bad_day), int(i.explained.sum()), i.misread] for i in singles.items],
        "supply": _sum(singles.supply),
        "pairs": [[pair.ensemble.hypotheses[0].id, float(pair.log[0])] for pair in said.pairs[:6]],
    }
    found["in words"] = _ordered(diagnosis_to_json(diagnosis_of(said)))
    if of in ("two", "dc", "poles"):
        found["steps"] = _steps(said)
    if name in LOOKED_AROUND:
        around = look_around(said)
        found["around"] = [[_proposal(one) for one in around.readings], around.chance]
        found["hidden"] = [fault.id for fault in around.hidden]
    return found


def _steps(said: Posterior) -> dict[str, Any]:
    """The steps between: the switches as runs know them, what two faults would show, where one may read and
    what each reading there would tell, what is left of the unknowns."""
    survivors = survivors_of(said)
    states = list(readable_states(said, survivors))
    asked = [probe.key for probe in said.workspace.rows.table.probes]
    live = [p for state in states[:3] for p in readings_at(survivors, state, asked)]
    cold = list(cold_readings(survivors))
    return {
        "switched": [sorted(map(str, vars_of(event).values())) for event in said.history.switched],
        "began": said.history.began_s,
        "guessed": _sum(together(said.workspace, said.history, said.items)),
        "states": [
            [
                sorted(s.calls),
                s.minutes,
                _sum(s.weights),
                s.heats,
                s.heats_long,
                [sorted(c) for c in s.cycling[:20]],
            ]
            for s in states
        ],
        "live": _sum(
            [[p.minutes, p.late, p.gain.on_decision, p.gain.on_fault] for p in live if p.gain.on_fault > 0]
        ),
        "cold": [_sum([p.minutes, p.gain.on_decision, p.gain.on_fault]) for p in cold],
        "left": [[k.name, _sum(np.array(left))] for k, left in sorted(known_of(survivors).items(), key=str)],
    }


@pytest.fixture(scope="module")
def workspaces() -> dict[str, Workspace]:
    return {name: workspace_of(unit) for name, unit in UNITS.items()}


#: On units that take a second or more each to begin with.
LARGE = pytest.mark.slow


@pytest.mark.parametrize(
    "name",
    [
        pytest.param(name, marks=LARGE if of in ("home 3", "home 5") else ())
        for name, (of, *_) in VISITS.items()
    ],
)
def test_the_judge_says_what_it_said(name, workspaces):
    recorded = json.loads(RECORD.read_text())[name]
    now = json.loads(json.dumps(said_of(name, workspaces)))
    differences = list(_differences(recorded, now))
    assert not differences, "\n".join(differences[:8])


def _differences(old: Any, new: Any, at: str = "") -> Iterator[str]:
    if isinstance(old, dict) and isinstance(new, dict) and old.keys() == new.keys():
        for key in old:
            yield from _differences(old[key], new[key], f"{at}.{key}")
    elif isinstance(old, list) and isinstance(new, list) and len(old) == len(new):
        for n, (one, other) in enumerate(zip(old, new, strict=True)):
            yield from _differences(one, other, f"{at}[{n}]")
    elif isinstance(old, float) and isinstance(new, (int, float)):
        if new != pytest.approx(old, rel=1e-4, abs=1e-6, nan_ok=True):
            yield f"{at}: {old} → {new}"
    elif old != new:
        yield f"{at}: {old} → {new}"


if __name__ == "__main__":
    kept = {name: workspace_of(unit) for name, unit in UNITS.items()}
    everything = {name: said_of(name, kept) for name in VISITS}
    lines = [
        f" {json.dumps(name)}: {{\n"
        + ",\n".join(f"  {json.dumps(k)}: {json.dumps(v, ensure_ascii=False)}" for k, v in said.items())
        + "\n }"
        for name, said in everything.items()
    ]
    RECORD.write_text("{\n" + ",\n".join(lines) + "\n}\n")
