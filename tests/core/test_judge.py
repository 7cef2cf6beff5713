"""Verdicts on elements, slips and findings, each by what a technician would have read."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.checks.elements import other_school
from plentar.core.door import judge_reading
from plentar.core.errors import BadInput
from plentar.core.judgement import Level
from plentar.core.quantity import Quantity
from tests.cases import CALL, DEAD, VOLTS, amps, codes, judged, last_word, words
from tests.kits import Kit, build_kit
from tests.strategies import kit_units


def test_dead_low_good_and_high():
    for value, word in [(0.0, "dead"), (15.0, "low"), (20.4, "in-band"), (25.0, "high")]:
        judgement = judged(VOLTS, CALL, amps(310, "E1", value))
        assert words(judgement)["E1"] == word
        assert words(judgement)["E2"] == "not-measured"
        assert {f.component for f in judgement.findings} == (set() if word == "in-band" else {"E1"})


def test_a_healthy_unit_is_quiet():
    judgement = judged(VOLTS, CALL, amps(310, "E1", 20.5), amps(320, "E2", 20.9), amps(330, "blower", 2.2))
    assert not judgement.findings
    assert not judgement.slips


def test_volts_read_later_judge_the_amps_again():
    """18 A is low at 240 V and right at 208 V."""
    before = judged(CALL, amps(310, "E1", 17.2))
    assert before.elements[0].provisional
    assert codes(before) == {"volts-not-measured"}
    after = judged(CALL, amps(310, "E1", 17.2), {**VOLTS, "t": 400, "value": 242})
    assert words(after)["E1"] == "low"
    assert not after.elements[0].provisional
    low_supply = judged(CALL, amps(310, "E1", 17.2), {**VOLTS, "t": 400, "value": 205})
    assert words(low_supply)["E1"] == "in-band"


def test_volts_under_load_go_before_volts_without():
    judgement = judged(
        VOLTS, CALL, {**VOLTS, "t": 300, "value": 220}, amps(310, "E1", 19.0), amps(320, "E2", 19.0)
    )
    assert judgement.elements[0].nominal_amps == pytest.approx(5000 * 220 / 240**2)
    assert {f.code for f in judgement.findings} >= {"supply-sag"}


def test_no_verdict_before_the_window_nor_without_a_call():
    early = judged(VOLTS, CALL, amps(50, "E2", 0.0))
    assert words(early)["E2"] == "not-judged"
    assert codes(early) == {"before-window"}
    led = judged(VOLTS, CALL, {**amps(50, "E2", 0.0), "lead_s": 60})
    assert words(led)["E2"] == "dead"
    uncalled = judged(VOLTS, amps(50, "E2", 0.0))
    assert words(uncalled)["E2"] == "not-judged"
    assert not uncalled.slips


def test_house_and_plate_tolerance_differ_and_say_so():
    """22.8 A at 240 V: above the plate's +5 % and the clamp, within the house's ±10 %."""
    plate = judged(VOLTS, CALL, amps(310, "E1", 22.8))
    assert words(plate)["E1"] == "high"
    assert other_school(plate.evidence, plate.elements[0]) == "in range by the house tolerance"
    house = judged(VOLTS, CALL, amps(310, "E1", 22.8), settings={"band": "house"})
    assert words(house)["E1"] == "in-band"


def test_ohms_count_only_when_proved_dead():
    ohms = {"t": 530, "read": "ohms", "at": "E1", "value": 11.2}
    live = judged(VOLTS, {**ohms, "t": 100})
    assert codes(live) == {"ohms-live"}
    assert not live.evidence.taken[-1].counts
    dead = judged(VOLTS, *DEAD, ohms)
    assert not dead.slips
    assert last_word(dead) == "in-band"
    again_live = judged(*DEAD, {"t": 525, "power": "on"}, ohms)
    assert codes(again_live) == {"ohms-live"}


def test_one_circuit_proved_dead_is_not_the_unit_proved_dead():
    two = build_kit(Kit((5000.0, 5000.0), 240, "relays-dc", circuits=2), "two", "")
    ohms = {"t": 30, "read": "ohms", "at": "E1", "value": 11.2}
    dead = [{"t": n, "power": "proved-dead", "circuit": f"C{n}"} for n in (1, 2)]
    assert codes(judged(dead[0], ohms, unit=two)) == {"ohms-live"}
    assert not judged(*dead, ohms, unit=two).slips


@pytest.mark.parametrize(
    ("at", "value"), [("S1.coil", 0.045), ("E1", 11200.0), ("E1", 0.0112), ("S1.coil", 45000.0)]
)
def test_kilo_ohm(at, value):
    judgement = judged(*DEAD, {"t": 530, "read": "ohms", "at": at, "value": value})
    assert codes(judgement) == {"kilo-ohm"}


def test_an_open_coil_is_no_kilo_ohm_slip():
    judgement = judged(*DEAD, {"t": 530, "read": "ohms", "at": "S1.coil", "value": "OL"})
    assert not judgement.slips
    assert last_word(judgement) == "open"


def test_clamp_around_two_by_volts_and_by_the_feed():
    across = {"t": 330, "read": "volts", "at": "E1", "value": 238}
    assert "clamp-around-two" in codes(judged(VOLTS, CALL, amps(310, "E1", 0.0), across))
    feed = amps(330, "C1", 43.0)
    read = [VOLTS, CALL, amps(310, "E1", 0.0), amps(320, "E2", 20.5)]
    assert "clamp-around-two" in codes(judged(*read, feed))
    assert not codes(judged(*read, {**feed, "value": 22.5}))
    broken = {"t": 530, "read": "ohms", "at": "E1", "value": "OL"}
    assert not codes(judged(VOLTS, CALL, amps(310, "E1", 0.0), across, *DEAD, broken))


def test_grounded_element_is_stop_now():
    reading = {"t": 530, "read": "ohms", "at": "E1.in:ground", "value": 4e5}
    findings = judged(*DEAD, reading).findings
    assert [(f.code, f.level) for f in findings] == [("element-to-ground", Level.STOP_NOW)]
    assert not judged(*DEAD, {**reading, "value": "OL"}).findings


def test_joint_heat_levels():
    """20 A at 0.1 V is 2 W, still good; 0.3 V may be the meter; 0.6 V is repair; 0.9 V is stop-now."""
    for volts, level in [(0.1, None), (0.2, "watch"), (0.3, "watch"), (0.6, "repair"), (0.9, "stop-now")]:
        across = {"t": 330, "read": "volts", "at": "S1.1", "value": volts}
        findings = judged(VOLTS, CALL, amps(310, "E1", 20.0), across).findings
        assert [str(f.level) for f in findings] == ([level] if level else [])


def test_a_replaced_part_starts_anew():
    judgement = judged(VOLTS, CALL, amps(310, "E1", 0.0), {"t": 400, "replaced": "E1"})
    assert words(judgement)["E1"] == "not-measured"
    assert not judgement.findings


def test_supply_out_of_range_and_leg_unbalance():
    assert [f.code for f in judged({**VOLTS, "value": 214}).findings] == ["supply-out-of-range"]
    legs = [
        {"t": 2, "read": "volts", "at": f"C1.{leg}:ground", "value": value}
        for leg, value in (("l1", 124), ("l2", 116))
    ]
    assert [f.code for f in judged(VOLTS, *legs).findings] == ["leg-unbalance"]


def test_events_must_fit_the_unit():
    for event, path in [
        ({"t": 1, "read": "amps", "at": "E9", "value": 1}, "events[0].at"),
        ({"t": 1, "read": "temp_f", "at": "E1", "value": 1}, "events[0].read"),
        ({"t": 1, "read": "amps", "at": "E1", "value": "OL"}, "events[0].value"),
        ({"t": 1, "power": "off", "circuit": "C7"}, "events[0].circuit"),
        ({"t": 1, "read": "ohms", "at": "E1", "value": 11, "driven": True}, "events[0].driven"),
    ]:
        with pytest.raises(BadInput) as caught:
            judged(event)
        assert caught.value.path == path


@given(kit_units(), st.floats(200, 250), st.floats(0, 60))
def test_any_kit_is_judged_and_nominal_is_never_at_fault(unit, volts, value):
    """As-rated currents are in band for every plate; no value whatever crashes the judge."""
    events = [{"t": 1, "read": "volts", "at": c.id, "value": volts} for c in unit.circuits]
    events.append({"t": 5, "calls": ["W1", "W2"]})
    exact = [amps(900, e.id, e.rating.amps(volts)) for e in unit.elements]
    assert set(words(judged(*events, *exact, unit=unit)).values()) == {"in-band"}
    judged(*events, amps(900, "E1", value), unit=unit)


def test_due_anywhere_comes_from_the_healthy_unit():
    """Volts across a switch are judged by whether it should be closed now."""
    volts = {"t": 310, "read": "volts", "at": "S1.2"}
    for events, value, word, good in [
        ([VOLTS, CALL], 0.1, "closed", True),
        ([VOLTS, CALL], 239, "open", False),
        ([VOLTS], 0.1, "closed", False),
    ]:
        judgement = judged(*events, {**volts, "value": value})
        (taken,) = judgement.evidence.at("S1.2", Quantity.VOLTS)
        verdict = judge_reading(judgement.evidence, taken).verdict
        assert (str(verdict.word), verdict.good) == (word, good)
    early = judged(VOLTS, CALL, {**volts, "t": 50, "value": 239})
    assert last_word(early) == "open"
    for at, quantity, value in [
        ("S1.coil", "volts", 25.7),
        ("S1.coil", "amps", 0.27),
        ("E1.in:ground", "volts", 119),
        ("blower", "volts", 238),
    ]:
        reading = {"t": 310, "read": quantity, "at": at, "value": value}
        assert last_word(judged(VOLTS, CALL, reading)) == "in-band", at
        assert last_word(judged(VOLTS, CALL, {**reading, "value": 0.0})) == "low", at
