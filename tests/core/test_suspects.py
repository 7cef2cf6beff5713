"""Suspects and their weights: worked visits, and the laws that hold for any."""

from __future__ import annotations

import math
from dataclasses import replace
from random import Random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plentar.core.circuit.faults import find_faults
from plentar.core.circuit.predict import predict
from plentar.core.circuit.wiring import wire_up
from plentar.core.judge.diagnosis import Diagnosis, diagnose
from plentar.core.judge.hypotheses.hypothesis import single_hypotheses
from plentar.core.judge.shown.complaints import complaint_likelihood, complaints_by_hypothesis
from plentar.core.judge.shown.history import history_of
from plentar.core.judge.shown.workspace import workspace_of
from plentar.core.judge.weigh.boxes import density
from plentar.core.judge.weigh.posterior import Posterior, posterior
from plentar.core.judge.weigh.reasons import Reasons, contradictions
from plentar.core.quantity import Quantity
from plentar.core.tables.faults import FAULT_KINDS
from plentar.core.visit.evidence import Evidence
from plentar.store.demo.plates import plates
from tests.cases import CALL, DEAD, TWO, VOLTS, amps, visit_of
from tests.kits import Kit, build_kit
from tests.strategies import kit_units

DC = build_kit(Kit((5000.0,) * 3, 240, "relays-dc", tie="g-with-w"), "dc", "Three on DC relays")
SIZED = {mode: kind.sizes for (_, mode), kind in FAULT_KINDS.items() if kind.sizes}


def weighed(*events, unit=TWO, **more) -> Posterior:
    return posterior(Evidence(unit, visit_of(*events, **more)))


def said(*events, unit=TWO, **more) -> Diagnosis:
    return diagnose(Evidence(unit, visit_of(*events, **more)))


def share(answer: Posterior, fault: str) -> float:
    return sum(
        float(p)
        for h, p in zip(answer.hypotheses, answer.probabilities, strict=False)
        if fault in h.id.split("+")
    )


def across(t: float, at: str, value: float) -> dict:
    return {"t": t, "read": "volts", "at": at, "value": value}


SECOND_OPEN = [
    VOLTS,
    CALL,
    amps(310, "E1", 20.4),
    amps(320, "E2", 0.0),
    across(340, "S1.coil", 25.1),
    across(350, "S1.2", 238),
]


def test_second_stage_that_does_not_close():
    answer = said(*SECOND_OPEN, complaint="not-enough-heat")
    top = answer.suspects[0]
    assert top.fault == "S1.2:stuck-open"
    assert top.probability > 0.9
    assert (
        "238 V across sequencer S1, switch 2 while its coil has 25.1 V and 5:45 have passed" in top.because[0]
    )
    assert answer.decision == "S1"
    assert not answer.next or top.probability < 0.95
    assert any("same number of switches" in line for line in answer.advice)


def test_line_volts_across_a_limit_name_the_limit():
    answer = weighed(
        VOLTS,
        CALL,
        amps(310, "E1", 0.0),
        amps(320, "E2", 20.6),
        across(330, "S1.1", 0.0),
        across(340, "TL1", 241),
        complaint="not-enough-heat",
    )
    assert answer.hypotheses[answer.leader].id == "TL1:open"


def test_an_open_window_is_no_evidence_against_a_switch():
    """Zero amps at 45 s of a window of 30 to 90 s is what a sound stage shows most of the time."""
    early = weighed(VOLTS, CALL, amps(40, "E1", 20.7), amps(50, "E2", 0.0))
    late = weighed(VOLTS, CALL, amps(40, "E1", 20.7), amps(150, "E2", 0.0))
    before = weighed(VOLTS, CALL, amps(40, "E1", 20.7))
    assert share(early, "S1.2:stuck-open") < 1.6 * share(before, "S1.2:stuck-open")
    assert share(late, "none") < 0.05 * share(early, "none")


def test_time_alone_tells_slow_from_stuck():
    dead = [VOLTS, CALL, amps(130, "E1", 20.4), amps(140, "E2", 0.0)]
    came = weighed(*dead, amps(500, "E2", 20.5), complaint="not-enough-heat")
    # A limit that was open at the first clamp explains it too: no phase of a cycle excludes.
    assert set(list(came.decisions)[:2]) == {"S1", "airflow"}
    assert share(came, "S1:slow") > 0.12
    never = weighed(*dead, amps(900, "E2", 0.0), across(910, "S1.2", 239))
    assert share(never, "S1:slow") < 0.02
    seen = {"t": 205, "observe": "on", "part": "S1.2"}
    late = weighed(VOLTS, CALL, amps(100, "E1", 20.5), seen)
    assert late.hypotheses[late.leader].id in ("S1:slow", "transformer:weak")
    in_time = weighed(VOLTS, CALL, amps(100, "E1", 20.5), {**seen, "t": 65})
    assert share(in_time, "S1:slow") < 0.02 * share(late, "S1:slow")


def test_one_gross_misreading_does_not_kill_the_truth():
    wrong = amps(325, "E1", 0.0)  # the jaw held two wires
    answer = weighed(*SECOND_OPEN, wrong, amps(360, "E1", 20.4), complaint="not-enough-heat")
    assert answer.surest > 0.8
    assert next(iter(answer.decisions)) == "S1"


def test_contradictions_are_named_with_what_to_repeat():
    answer = said(
        VOLTS,
        CALL,
        amps(310, "E1", 20.4),
        amps(320, "E2", 20.5),
        across(330, "S1.1", 239),
        amps(340, "E1", 20.4),
        amps(350, "C1", 43.2),
    )
    (finding,) = answer.contradictions
    assert finding.code == "contradiction"
    assert finding.component == "S1.1"
    assert "239 V at sequencer S1, switch 1 (5:30)" in finding.text
    assert not said(VOLTS, CALL, amps(310, "E1", 20.4), amps(320, "E2", 0.0)).contradictions


@pytest.mark.parametrize("times", [1, pytest.param(6, marks=pytest.mark.slow)])
def test_readings_that_nothing_shows_are_said_to_fit_nothing(times):
    """From R to C there is one voltage, of 24 V or of none: eight others are of no unit at all. The
    judge says so, however often, and leads nobody to a part."""
    values = [0.3, 240, 75, 0, 140, 24, 75, 400] * times
    answer = said(*(across(10.0 * n, "R", value) for n, value in enumerate(values, start=1)))
    assert answer.suspects[-1].fault == "other"
    assert answer.suspects[-1].probability > 0.5
    assert (answer.decision, answer.parts, answer.stops) == ("", (), ())
    [finding] = answer.contradictions
    assert "No known fault" in finding.text
    assert "400 V at R to C" in finding.text
    assert "0.300 V at R to C" not in finding.text, "a dead transformer shows that"
    assert finding.component == "R"


def test_after_a_repair_the_old_part_counts_no_more():
    before = weighed(*SECOND_OPEN, complaint="not-enough-heat")
    mended = weighed(*SECOND_OPEN, {"t": 700, "replaced": "S1"}, complaint="not-enough-heat")
    assert share(before, "S1.2:stuck-open") > 0.9
    assert share(mended, "S1.2:stuck-open") < 0.1
    assert share(mended, "E2:open") < 0.2  # what S1 did is not laid on E2 now
    well = weighed(
        *SECOND_OPEN,
        {"t": 700, "replaced": "S1"},
        amps(760, "E1", 20.3),
        amps(770, "E2", 20.6),
        amps(780, "C1", 43.0),
        complaint="not-enough-heat",
    )
    assert share(well, "none") > share(mended, "none")


def test_what_is_read_in_the_tenth_of_a_second_of_a_repair_goes_by_the_order():
    """Welded by ohms and replaced at once: the file's order says which came first."""
    welded = {"t": 727.2, "at": "S1.2", "read": "ohms", "value": 0.1}
    replaced = {"t": 727.2, "replaced": "S1"}
    new = weighed(*DEAD, welded, replaced, complaint="heat-will-not-stop")
    assert share(new, "S1.2:stuck-closed") + share(new, "S1:stuck-closed") < 0.1
    old = weighed(*DEAD, replaced, welded, complaint="heat-will-not-stop")
    assert share(old, "S1.2:stuck-closed") + share(old, "S1:stuck-closed") > 0.3


def test_two_faults_where_one_can_not_explain_it():
    """E1 open and E2's switch welded: each seen by itself, nothing single shows both."""
    answer = weighed(
        VOLTS,
        amps(2, "E2", 20.6),
        across(3, "S1.coil", 0.0),
        CALL,
        amps(310, "E1", 0.0),
        across(320, "E1", 239),
        amps(330, "E2", 20.5),
        complaint="not-enough-heat",
    )
    # Whether the whole stack holds, or its second switch, nothing shows while E1 is open.
    assert answer.hypotheses[answer.leader].id in ("E1:open+S1.2:stuck-closed", "E1:open+S1:stuck-closed")
    assert answer.decisions["E1+S1"] > 0.45


def test_one_fault_is_enough_where_it_explains_everything():
    assert not weighed(*SECOND_OPEN).pairs


def test_what_each_fault_is_complained_of_as():
    told = dict(
        zip(
            [h.id for h in workspace_of(TWO).singles.hypotheses],
            complaints_by_hypothesis(workspace_of(TWO)),
            strict=True,
        )
    )
    assert told["none"] == frozenset()
    assert told["E2:open"] == {"not-enough-heat"}
    assert "no-heat" in told["W1:no-call"]
    assert told["S1.2:stuck-closed"] >= {"heat-will-not-stop", "heat-in-cooling"}
    assert told["BR:nc-welded"] == {"heat-in-cooling"}
    assert told["BR:no-welded"] == {"blower-will-not-stop"}
    assert "control-fuse-blows" in told["S1:coil-shorted"]
    assert "clicking" in told["airflow:low"]
    assert "slow-to-start" in told["S1:slow"]
    assert "no-power" in told["transformer:dead"]
    assert "breaker-trips-or-burnt" in told["C1:loose"]


def test_a_complaint_makes_unlikely_and_never_impossible():
    weights = complaint_likelihood(workspace_of(TWO), "heat-will-not-stop")
    assert weights.min() == 0.05
    assert complaint_likelihood(workspace_of(TWO), "check-up").min() == 1.0
    by_id = workspace_of(TWO).by_id
    assert weights[by_id["S1.2:stuck-closed"]] > 3 * weights[by_id["E1:open"]]


@pytest.mark.parametrize("home", [2, 6, 7, 10])
def test_sizes_and_places_share_out_the_whole(home):
    for hypothesis in single_hypotheses(wire_up(plates()[home])):
        assert sum(v.share for v in hypothesis.variants) == pytest.approx(1.0)
    for sizes in SIZED.values():
        assert sizes.edges == tuple(sorted(sizes.edges))


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("mode", sorted(SIZED.keys() - {"low-volts"}))
def test_whatever_lies_in_a_stretch_reads_between_its_corners(mode, seed):
    rng, unit = Random(f"{mode}/{seed}"), plates()[7]
    sized = [h for h in single_hypotheses(wire_up(unit)) if any(f.size for f in h.variants[0].clock)]
    sized = [h for h in sized if h.faults[0].mode == mode]
    variant = rng.choice(rng.choice(sized).variants)
    ends = [corner[0] for corner in variant.corners]
    fault = replace(variant.clock[0], size=rng.uniform(*span([end.size for end in ends])))
    if fault.mode == "grounded":
        fault = replace(fault, place=str(rng.uniform(*span([float(end.place) for end in ends]))))
    shown = predict(unit, (fault,), visit_of(CALL).events, 400)
    corners = [predict(unit, (end,), visit_of(CALL).events, 400) for end in ends]
    for reading in shown.readings:
        around = [corner.read(reading.quantity, reading.at).value for corner in corners]
        slack = 0.03 * max(around) + 0.5
        assert min(around) - slack <= reading.value <= max(around) + slack, (fault, reading)


def span(values):
    return min(values), max(values)


@given(st.floats(0, 250), st.floats(0, 30), st.floats(0.05, 3), st.floats(0.0, 1.0))
def test_a_density_holds_one_in_all(low, width, scale, at):
    x = np.linspace(low - 40 * scale, low + width + 40 * scale, 8001)
    found = density(x, np.array(low), np.array(low + width), np.array(scale))
    assert np.all(found >= 0)
    assert np.sum((found[1:] + found[:-1]) / 2 * np.diff(x)) == pytest.approx(1.0, abs=0.01)
    inside = density(low + at * width, np.array(low), np.array(low + width), np.array(scale))
    outside = density(low - 20 * scale - 1, np.array(low), np.array(low + width), np.array(scale))
    assert inside > outside


@given(st.floats(-100, 2000))
def test_chances_of_phases_add_up_at_any_time(t_s):
    told = history_of(TWO, visit_of(CALL, {"t": 605, "calls": []}).events)
    chances = workspace_of(TWO).singles.run(told.switched, 2000).chances(t_s)
    assert np.all(chances >= 0)
    assert np.allclose(chances.sum(axis=1), 1.0)


def test_phases_agree_with_the_clockwork_where_no_window_is_open():
    """Outside all windows there is one phase, and it reads what the plain prediction reads."""
    events = visit_of(CALL).events
    told = history_of(TWO, events)
    singles = workspace_of(TWO).singles
    for fault in ("", "S1.2:stuck-open", "C1:loose", "BR:nc-stuck-open", "E1:grounded"):
        shown = singles.run(told.switched, 400).at(told.time(400))
        number = workspace_of(TWO).by_id[fault or "none"]
        v = int(np.flatnonzero(singles.owner == number)[0])
        plain = predict(TWO, singles.variants[v].corners[0], events, 400)
        steady = [r for r in plain.readings if not r.cycling and r.quantity is Quantity.AMPS]
        row = int(np.argmax(shown.weights[v]))
        for reading in steady:
            column = singles.rows.probe(reading.quantity, reading.at)
            value = singles.rows.values[shown.rows[v, row, 0], column]
            assert value == pytest.approx(reading.value, rel=1e-6, abs=1e-6), (fault, reading)


def test_a_history_counts_from_the_first_change_and_leads_lie_before():
    one = history_of(TWO, visit_of({"t": 0, "power": "on"}, {"t": 40, "calls": ["W1"]}).events)
    two = history_of(TWO, visit_of({"t": 90, "calls": ["W1"], "lead_s": 30}).events)
    assert one.switched == two.switched
    assert one.time(100) == 60
    assert two.time(100) == 40


@pytest.mark.slow
@settings(max_examples=5)
@given(
    kit_units(),
    st.floats(0, 260),
    st.floats(0, 60),
    st.sampled_from([None, "no-heat", "check-up", "clicking"]),
)
def test_any_visit_to_any_kit_is_weighed(unit, volts, value, complaint):
    """Probabilities sum to 1, nothing is NaN, and what is proposed can be done."""
    events = [
        {"t": 1, "read": "volts", "at": "C1", "value": volts},
        {"t": 5, "calls": ["W1"]},
        amps(300, "E1", value),
    ]
    answer = said(*events, unit=unit, complaint=complaint)
    total = math.fsum(s.probability for s in answer.suspects)
    assert total == pytest.approx(1.0, abs=1e-9)
    assert answer.suspects[-1].fault == "other"
    assert "none" in {s.fault for s in answer.suspects}
    for suspect in answer.suspects[:-1]:
        find_faults(unit, suspect.fault.split("+"))


@pytest.mark.slow
def test_dc_relay_without_dc():
    events = [
        VOLTS,
        {"t": 5, "calls": ["W1"]},
        amps(60, "E1", 20.5),
        amps(70, "E2", 20.6),
        amps(80, "E3", 0.0),
        across(100, "K3.rectifier", 25.5),
        {"t": 110, "read": "volts_dc", "at": "K3.coil", "value": 0.0},
    ]
    answer = weighed(*events, unit=DC, complaint="not-enough-heat")
    assert answer.hypotheses[answer.leader].id == "K3:no-rectifier-output"


def test_ohms_decide_between_coil_and_contact():
    dead = [
        VOLTS,
        {"t": 5, "calls": ["W1"]},
        amps(60, "E1", 20.5),
        amps(70, "E2", 20.6),
        amps(80, "E3", 0.0),
        *DEAD,
    ]
    opened = weighed(*dead, {"t": 530, "read": "ohms", "at": "K3.coil", "value": "OL"}, unit=DC)
    assert opened.hypotheses[opened.leader].id == "K3:coil-open"
    whole = weighed(*dead, {"t": 530, "read": "ohms", "at": "K3.coil", "value": 420}, unit=DC)
    assert share(whole, "K3:coil-open") < 0.02
    driven = {"t": 540, "read": "ohms", "at": "K3.1", "value": "OL", "driven": True}
    stuck = weighed(*dead, {"t": 530, "read": "ohms", "at": "K3.coil", "value": 420}, driven, unit=DC)
    assert stuck.hypotheses[stuck.leader].id == "K3.1:stuck-open"


@pytest.mark.slow
def test_ohms_with_power_on_are_no_evidence():
    live = {"t": 100, "read": "ohms", "at": "E2", "value": "OL"}
    with_it = weighed(VOLTS, CALL, live)
    without = weighed(VOLTS, CALL)
    assert np.allclose(with_it.probabilities, without.probabilities)


def test_a_ghost_speaks_against_nobody():
    """Nothing at the lugs and all there is at the line side: the breaker, whatever floats."""
    dark = [{"t": 10, "read": "volts", "at": "C1", "value": 0}]
    before = weighed(*dark, complaint="no-power")
    assert share(before, "C1:no-supply") < 0.7
    assert share(before, "C1:open") > 0.25
    line = {"t": 30, "read": "volts", "at": "C1.line", "value": 243}
    ends = [
        {"t": 40 + n, "read": "volts", "at": f"C1.{leg}:ground", "value": 120}
        for n, leg in enumerate(("l1", "l2"))
    ]
    for told in ([*dark, line], [*dark, line, *ends]):
        answer = weighed(*told, complaint="no-power")
        assert share(answer, "C1:open") > 0.85
        assert not list(contradictions(answer))


def test_one_unknown_read_five_times_is_read_once():
    """The blower's amps are one draw for the visit: the same again tells no more."""
    call = {"t": 5, "calls": ["G"]}
    reads = [{"t": 30 + 20 * n, "read": "amps", "at": "blower", "value": 3.0} for n in range(5)]
    once, again, often = (weighed(call, *reads[:n], complaint="check-up").probabilities for n in (1, 2, 5))
    assert np.abs(again - once).max() < 0.05
    assert np.abs(often - again).max() < 0.05


def test_a_limit_that_was_open_is_not_struck_off():
    """Whose limit was open at the first clamp may still be the one that cycles."""
    call = {"t": 5, "calls": ["W1", "G"]}
    answer = weighed(VOLTS, call, amps(200, "E1", 0.0), amps(220, "E2", 20.3), complaint="clicking")
    assert share(answer, "TL1:weak") + share(answer, "airflow:low") > 0.1


def test_two_strips_without_a_call_are_not_yet_a_call():
    """No 24 V was read anywhere: a held stack and a call that is always there stand side by side."""
    stack = build_kit(Kit((5000.0, 5000.0), 240, "stacked-sequencer"), "stack", "Stack")
    both = [VOLTS, amps(10, "E1", 20.2), amps(20, "E2", 20.1)]
    before = weighed(*both, unit=stack, complaint="heat-will-not-stop")
    assert share(before, "W1:always") < 0.6
    assert share(before, "S1:stuck-closed") > 0.3
    coil = {"t": 30, "read": "volts", "at": "S1.coil", "value": 0}
    after = weighed(*both, coil, unit=stack, complaint="heat-will-not-stop")
    assert share(after, "W1:always") < 0.05


def test_what_was_read_of_an_old_part_accuses_no_other():
    welded = [
        VOLTS,
        amps(10, "E1", 20.2),
        amps(20, "E2", 0.0),
        {"t": 30, "read": "volts", "at": "S1.coil", "value": 0},
    ]
    swapped = [{"t": 100, "power": "proved-dead"}, {"t": 900, "replaced": "S1"}, {"t": 910, "power": "on"}]
    answer = weighed(*welded, *swapped, complaint="heat-will-not-stop")
    assert answer.hypotheses[answer.leader].id == "none"


def test_of_several_old_parts_each_may_have_been_bad():
    """Two strips drew with no call; all that held them was replaced, and neither draws now."""
    drew = [VOLTS, amps(10, "E1", 20.2), amps(20, "E3", 20.1), amps(25, "E2", 0.0)]
    unit = build_kit(Kit((5000.0,) * 3, 240, "single-sequencers"), "three", "Three")
    swapped = [
        {"t": 100, "power": "proved-dead"},
        *({"t": 900 + n, "replaced": f"S{n}"} for n in (1, 2, 3)),
        {"t": 910, "power": "on"},
        amps(930, "E1", 0.0),
        amps(940, "E3", 0.0),
    ]
    answer = weighed(*drew, *swapped, unit=unit, complaint="heat-will-not-stop")
    assert answer.hypotheses[answer.leader].id == "none"


def test_a_fuse_carries_too_much_for_its_seconds():
    """4 A under W1 three seconds after the call: the coil, and no contradiction."""
    call = {"t": 5, "calls": ["W1"]}
    answer = weighed(call, amps(8, "W1", 4.0), complaint="control-fuse-blows")
    assert answer.hypotheses[answer.leader].id in ("S1:coil-shorted", "W1:to-ground")
    assert not list(contradictions(answer))


def test_the_reading_that_decided_comes_first():
    across_it = across(400, "S1.2", 240)
    events = [VOLTS, CALL, amps(300, "E1", 20.5), amps(320, "E2", 0.0), across_it]
    answer = weighed(*events, complaint="not-enough-heat")
    first, *_ = Reasons(answer).of(answer.leader)
    assert first.startswith("240 V across sequencer S1, switch 2")


@pytest.mark.parametrize("dc_volts", [21.5, 25, 29, 33.5])
def test_any_good_rectifier_accuses_nobody(dc_volts):
    """20 … 34 V DC is due at a called coil, by how its rectifier is filtered; the AC range there shows
    anything, and says nothing."""
    unit = build_kit(Kit((5000.0, 5000.0), 240, "relays-dc"), "dc", "")
    read = [
        VOLTS,
        CALL,
        amps(60, "E1", 20.6),
        amps(70, "E2", 20.7),
        {"t": 80, "read": "volts_dc", "at": "K1.coil", "value": dc_volts},
    ]
    said = posterior(Evidence(unit, visit_of(*read, complaint="check-up")))
    assert said.singles.explained(0).all()
    slip = {"t": 90, "read": "volts", "at": "K1.coil", "value": 9.0}
    with_slip = posterior(Evidence(unit, visit_of(*read, slip, complaint="check-up")))
    assert np.allclose(with_slip.probabilities, said.probabilities)


def test_a_reason_stands_however_often_the_same_value_is_entered():
    """20.4 A at E1 and none at E2, once and three times: E2's reason is its dead strip."""
    call = {"t": 5, "calls": ["W1"]}
    for times in (1, 3):
        read = [
            amps(500 + 10 * n, at, value) for n in range(times) for at, value in (("E1", 20.4), ("E2", 0.0))
        ]
        found = diagnose(Evidence(TWO, visit_of(VOLTS, call, *read)))
        because = {s.fault: s.because for s in found.suspects}["E2:open"]
        assert because[0].startswith("0 A at element E2"), because
        assert len(because) == len({reason.partition(",")[0] for reason in because})


@pytest.mark.parametrize("strips", [2, 3])
@pytest.mark.parametrize("w1_v", [17.5, 17.9])
def test_one_weak_transformer_is_not_taken_for_two_bad_parts(strips, w1_v):
    """By itself it still pulls the blower relay in, and holds it (12 V are enough); with the coils of the
    contactors on it, it stays below the 18 V that these need. Nothing else has to be wrong."""
    unit = build_kit(Kit((4800.0,) * strips, 240, "contactors", tie="g-with-w"), "low", "Contactors")
    answer = weighed(
        {"t": 1, "calls": ["G"]},
        amps(6, "C1", 2.1),
        {"t": 17, "calls": ["W1", "G"]},
        amps(23, "C1", 2.1),
        {"t": 43, "read": "volts", "at": "W1", "value": w1_v},
        {"t": 64, "calls": ["W1"]},
        amps(70, "blower", 2.1),
        amps(90, "C1", 2.1),
        unit=unit,
        complaint="no-heat",
    )
    assert answer.decisions["transformer"] > 0.95
