"""The laws of stops, gates and proofs, over random visits: any order of readings, switches, answers,
repairs and clocks. What each law says is worked out here by other means than the core's."""

from __future__ import annotations

import os
import re
from collections import Counter
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import HealthCheck, example, given, settings
from hypothesis import strategies as st

from plentar.core.door import all_found, bars_of, judge_evidence, judge_reading, with_acts
from plentar.core.judge.diagnosis import diagnose
from plentar.core.quantity import Quantity
from plentar.core.safety.bars import Bars
from plentar.core.safety.latch import Stop, barring, course, standing
from plentar.core.said import Said
from plentar.core.visit.events import Did, Observed, Power, Reading, Visit
from plentar.core.visit.evidence import Evidence
from tests.cases import TWO, visit_of
from tests.conftest import words
from tests.kits import Kit, build_kit

SPLIT = build_kit(Kit((4800.0, 4800.0), 240, "single-sequencers", circuits=2), "split", "Two circuits")
UNITS = (TWO, SPLIT)
#: Whatever comes before, so much is past every window of these units, s.
PAST_ALL_S = 400.0
#: In the whole run; twenty thousand take five minutes of a processor.
VISITS = int(os.environ.get("PLENTAR_STOP_VISITS", "900"))
Answers = dict[str, Any]


def read(quantity: str, at: str, *values: Any) -> st.SearchStrategy[Answers]:
    return st.sampled_from(values).map(lambda value: {"read": quantity, "at": at, "value": value})


def happenings(unit: Any) -> st.SearchStrategy[Answers]:
    """One thing that may happen, without its time."""
    circuits = [c.id for c in unit.circuits]
    last = circuits[-1]
    device = unit.controls[0].id
    switch = unit.controls[0].switches[0].id
    power = st.fixed_dictionaries(
        {"power": st.sampled_from(["on", "off", "proved-dead"])},
        optional={"circuit": st.sampled_from(circuits)},
    )
    calls = st.lists(st.sampled_from(["W1", "G"]), unique=True).map(lambda c: {"calls": sorted(c)})
    amps = [read("amps", at, 0.0, 2.2, 7.0, 20.4) for at in ("E1", "E2", "blower", "C1.l1", f"{last}.l2")]
    volts = [read("volts", at, 0.0, 3.0, 31.0, 121.0, 240.0) for at in (*circuits, switch, "blower")]
    legs = [read("volts", f"C1.{leg}:ground", 0.0, 62.0, 120.0, 178.0) for leg in ("l1", "l2")]
    ohms = [read("ohms", at, 0.1, 12.0, "OL") for at in ("E1.in:ground", "E2.in:ground", "E1", switch)]
    tone = read("tone", "E1.in:ground", True, False)
    air = read("temp_f", "supply-air", 112.0, 176.0, 214.0)
    control = read("amps", "R", 0.6, 6.5)
    work = st.sampled_from(
        [
            *({"replaced": part} for part in (device, "E1", "BR")),
            {"did": "remade", "part": "C1"},
            {"did": "cleaned", "part": "airflow"},
            *({"did": verb, "part": "TL1"} for verb in ("bridged", "unbridged")),
            *({"did": verb, "part": "E1"} for verb in ("stage-off", "stage-on")),
            *({"observe": action, "part": "blower"} for action in ("on", "off")),
            *({"wires": state, "part": f"{device}.coil"} for state in ("lifted", "restored")),
        ]
    )
    return st.one_of(power, calls, *amps, *volts, *legs, *ohms, tone, air, control, work)


@st.composite
def visits(draw: st.DrawFn) -> tuple[Any, list[Answers], list[Answers]]:
    """A unit, events in order of time, and answers to whatever may stand."""
    unit = draw(st.sampled_from(UNITS))
    events, t = [], 0.0
    for happening in draw(st.lists(happenings(unit), min_size=1, max_size=14)):
        t += draw(st.sampled_from([4.0, 25.0, 90.0, 400.0]))
        events.append({"t": t, **happening})
    answers = draw(
        st.lists(
            st.builds(
                lambda code, component, count, t: {
                    "t": t,
                    "code": code,
                    "component": component,
                    "how": "locked",
                    "events": count,
                },
                st.sampled_from(["draw-without-call", "element-to-ground", "heat-without-blower"]),
                st.sampled_from(["E1", "E2", "blower", "C1"]),
                st.integers(0, len(events)),
                st.sampled_from([0.0, 50.0, 99999.0]),
            ),
            max_size=2,
        )
    )
    return unit, events, answers


def keys(stops: tuple[Stop, ...]) -> set[tuple[str, str]]:
    return {(str(s.finding.code), s.finding.component) for s in stops}


def may_end(event: Any, code: str) -> bool:
    """What gate 3 lets end a stop: a reading as expected, its bridge off, its stage off, a new proof."""
    match event:
        case Reading() if code == "element-to-ground":
            return event.quantity is Quantity.OHMS and event.value > 1e6
        case Reading() if code == "draw-without-call":
            return event.quantity is Quantity.AMPS and event.value < 2.5
        case Reading() if code == "high-leaving-air":
            return event.quantity is Quantity.TEMP_F and event.value < 165
        case Reading() if code == "control-overload":
            return event.at == "R" and event.value < 3
        case Reading() if code in ("limit-bridged", "live-when-off"):
            return False
        case Reading():
            return True
        case Observed():
            return code == "heat-without-blower" and event.action == "on"
        case Did():
            stage = event.verb == "stage-off" and code in (
                "element-to-ground",
                "draw-without-call",
                "joint-heat",
            )
            return stage or (event.verb == "unbridged" and code == "limit-bridged")
        case Power():
            return code == "live-when-off" and event.state == "proved-dead"
    return False


def proof_stands(unit: Any, events: list[Answers]) -> list[bool]:
    """Before each event, by hand: every circuit proved dead, and nothing seen live since."""
    power = {c.id: "on" for c in unit.circuits}
    found = []
    for event in events:
        found.append(all(said == "proved-dead" for said in power.values()))
        if "power" in event:
            for cid in [event["circuit"]] if "circuit" in event else list(power):
                power[cid] = event["power"]
        dead = any(said == "proved-dead" for said in power.values())
        off_there = all(said != "on" for said in power.values())
        live = event.get("read") == "volts" and event["value"] >= 15
        live |= event.get("read") == "amps" and event["value"] >= 2
        if dead and off_there and live:
            power = {cid: "off" if said == "proved-dead" else said for cid, said in power.items()}
    return found


def way_out(unit: Any, stops: tuple[Stop, ...], t: float) -> list[Answers]:
    """What a technician does who does what is asked: all off, proved, mended, and each proof read."""
    out: list[Answers] = [
        {"t": t + 1, "calls": []},
        {"t": t + 2, "power": "off"},
        {"t": t + 400, "power": "proved-dead"},
        {"t": t + 500, "did": "unbridged", "part": "TL1"},
        {"t": t + 510, "did": "stage-on", "part": "E1"},
        {"t": t + 520, "did": "remade", "part": "C1"},
    ]
    t += 600
    for part in ("E1", "E2", "BR", *(c.id for c in unit.controls)):
        t += 1
        out.append({"t": t, "replaced": part})
    for e in ("E1", "E2"):
        t += 1
        out.append({"t": t, "read": "ohms", "at": f"{e}.in:ground", "value": "OL"})
    t += 10
    out.append({"t": t, "power": "on"})
    rest = [("volts", c.id, 240.0) for c in unit.circuits] + [("amps", e.id, 0.0) for e in unit.elements]
    rest += [("volts", f"C1.{leg}:ground", 120.0) for leg in ("l1", "l2")]
    feeds = [("amps", f"{c.id}.{leg}", 0.0) for c in unit.circuits for leg in ("l1", "l2")]
    for quantity, at, value in (*rest, *feeds):
        t += 2
        out.append({"t": t, "read": quantity, "at": at, "value": value})
    t += 10
    for asked in (["W1"], ["G", "W1"]):
        out.append({"t": t, "calls": asked})
        t += PAST_ALL_S
        heat: list[tuple[str, str, float]] = [
            ("amps", "E1", 20.0),
            ("amps", "blower", 2.2),
            ("amps", "R", 0.6),
        ]
        heat += [("temp_f", "supply-air", 112.0)]
        heat += [("volts", s.id, 0.02) for c in unit.controls for s in c.switches]
        share = 41.0 if len(unit.circuits) == 1 else 20.0
        fan = {unit.blower.circuit: 2.2}
        heat += [
            ("amps", f"{c.id}.{leg}", share + fan.get(c.id, 0.0))
            for c in unit.circuits
            for leg in ("l1", "l2")
        ]
        for quantity, at, value in heat:
            t += 2
            out.append({"t": t, "read": quantity, "at": at, "value": value})
        for c in unit.circuits:
            for at in (f"{c.id}.line", c.id):
                t += 1
                out.append({"t": t, "read": "volts", "at": at, "value": 240.0})
        t += 10
    return out


def hold(unit: Any, events: list[Answers], answers: list[Answers]) -> None:
    before: set[tuple[str, str]] = set()
    proofs, visit = proof_stands(unit, events), visit_of(*events, answered=answers)
    evidence = Evidence(unit, visit)
    for count, stops in enumerate(course(evidence)[1:], start=1):
        event = visit.events[count - 1]
        now = keys(stops)
        for code, component in before - now:
            assert may_end(event, code), f"{code} at {component} is gone after {events[count - 1]}"
        before = now
        if isinstance(event, Reading) and event.quantity.dead_only:
            counts = evidence.until(count).taken[-1].counts
            assert not counts or proofs[count - 1], f"{events[count - 1]} counts without a proof"
        state = evidence.state_at(event.t_s)
        bars = Bars(unit, barring(stops))
        for stop in stops:
            code = str(stop.finding.code)
            if stop.way_back:
                continue
            element = unit.element_by_id.get(stop.finding.component)
            cid = element.circuit if element else stop.finding.component
            if code in ("element-to-ground", "draw-without-call") and state.power[cid] != "on":
                closed = bars.refusal(state, [c.id for c in unit.circuits])
                assert closed, f"a breaker may be closed while {code} stands"
            if (
                code in ("heat-without-blower", "limit-bridged", "high-leaving-air")
                and "W1" not in state.calls
            ):
                assert bars.refusal(state, calls=state.calls | {"W1"}), (
                    f"heat may be called while {code} stands"
                )
            if code == "live-when-off":
                assert bars.reading_refusal(Quantity.OHMS)
        assert not bars.refusal(state, calls=frozenset()) or "G" in state.calls, (
            "ending calls is never barred"
        )
    if stops := standing(evidence):
        out = visit_of(*way_out(unit, stops, events[-1]["t"])).events
        left = keys(standing(Evidence(unit, replace(visit, events=(*visit.events, *out)))))
        assert not left, f"{left} do not end by what is asked"


@given(visits())
@settings(max_examples=150, deadline=None, derandomize=True)
def test_stops_gates_and_proofs_hold(visit):
    hold(*visit)


@pytest.mark.slow
@given(visits())
@settings(max_examples=VISITS, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
def test_stops_gates_and_proofs_hold_in_thousands_of_visits(visit):
    hold(*visit)


@pytest.mark.slow
@given(visits())
@settings(max_examples=200, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
def test_nothing_is_proposed_against_a_bar_and_the_act_comes_first(visit):
    unit, events, answers = visit
    evidence = Evidence(unit, visit_of(*events, answered=answers))
    judgement = judge_evidence(evidence)
    state = evidence.state_at(evidence.visit.events[-1].t_s)
    bars = bars_of(judgement)
    live = {cid for cid, power in state.power.items() if power == "on"}
    for reading in diagnose(evidence).next:
        setting = reading.setting
        powered = list(state.power) if setting.power == "on" else []
        assert not bars.refusal(state, powered, setting.calls)
        assert not bars.reading_refusal(reading.quantity)
        for stop in judgement.stops:
            element = unit.element_by_id.get(stop.component)
            fed = {element.circuit if element else stop.component}
            if stop.code in ("draw-without-call", "element-to-ground", "ground-current") and live & fed:
                assert setting.power == "proved-dead", f"first the breaker: {stop.text}"
            if stop.code == "heat-without-blower" and "W1" in state.calls and live:
                dead = setting.power == "proved-dead"
                assert dead or (setting.calls is not None and "W1" not in setting.calls)


#: What a text that names an act or a cause claims, by its words alone: (its pattern, whether it is true).
CLAIMS: dict[str, tuple[str, Any]] = {
    "calls to end are called": (
        r"End the call: ([A-Z]\d?(?: and [A-Z]\d?)*)",
        lambda said, state: set(said[1].split(" and ")) <= state.calls,
    ),
    "what stays is called": (r"Keep ([A-Z]\d?) called for two", lambda said, state: said[1] in state.calls),
    "breakers to open are closed": (
        r"Open the breakers? of (?:circuits? )?(C\d(?:, (?:circuit )?C\d)*(?: and (?:circuit )?C\d)?)",
        lambda said, state: all(state.power[c] == "on" for c in re.findall(r"C\d", said[1])),
    ),
    "its breaker is closed": (r"open its breaker", lambda said, state: " is off" not in said.string),
    "line volts stand across what is open": (
        r"([\d.]+) V across (.+?)(?: while .*)?: it is open",
        lambda said, state: float(said[1]) >= 0.8 * 240 and not re.fullmatch(r"circuit C\d", said[2]),
    ),
}


def told(unit: Any, evidence: Evidence) -> list[tuple[Said, Any]]:
    """Every text of a judgement, with the state that it is of."""
    judgement = judge_evidence(evidence)
    now = evidence.state_at(evidence.visit.events[-1].t_s)
    found = [(with_acts(judgement, finding).text, now) for finding in all_found(judgement)]
    found += [(judge_reading(evidence, t).verdict.meaning, t.state) for t in evidence.taken]
    return found + [(why, now) for suspect in diagnose(evidence).suspects for why in suspect.because]


@pytest.mark.slow
def test_what_names_an_act_or_a_cause_is_true_in_its_state():
    met: Counter[str] = Counter()

    called = [{"t": 1.0, "power": "on"}, {"t": 2.0, "calls": ["G", "W1"]}]

    @given(visits())
    @example((TWO, [*called, {"t": 90.0, "read": "amps", "at": "R", "value": 6.5}], []))
    @example((TWO, [*called, {"t": 90.0, "read": "temp_f", "at": "supply-air", "value": 214.0}], []))
    @example((TWO, [*called, {"t": 400.0, "read": "volts", "at": "S1.1", "value": 240.0}], []))
    @settings(max_examples=80, deadline=None, derandomize=True, suppress_health_check=list(HealthCheck))
    def read_all(visit):
        unit, events, answers = visit
        evidence = Evidence(unit, visit_of(*events, answered=answers))
        for text, state in told(unit, evidence):
            for claim, (pattern, holds_in) in CLAIMS.items():
                if said := re.search(pattern, words(text)):
                    met[claim] += 1
                    assert holds_in(said, state), f"{text!r} with {state.calls}, {state.power}"

    read_all()
    assert met.keys() == CLAIMS.keys(), "each claim was met"


def test_an_empty_visit_has_no_stop():
    for unit in UNITS:
        assert not standing(Evidence(unit, Visit()))
