"""What lies at the edge of a range, or in a number beside the words: worked by hand."""

from __future__ import annotations

import pytest

from plentar.core.door import judge_reading
from plentar.store.demo.plates import plates
from tests.cases import CALL, DEAD, TWO, VOLTS, amps, judged

HOMES = plates()


def volts(t: float, at: str, value: float) -> dict:
    return {"t": t, "read": "volts", "at": at, "value": value}


def verdict(*events, unit=TWO):
    """Of the last reading."""
    evidence = judged(*events, unit=unit).evidence
    return judge_reading(evidence, evidence.taken[-1]).verdict


@pytest.mark.parametrize(("value", "word"), [(0, "dead"), (20, "dead")])
def test_no_supply_is_dead_and_never_good(value, word):
    said = verdict(volts(10, "C1", value))
    assert (str(said.word), said.good) == (word, False)


@pytest.mark.parametrize(("after_s", "good"), [(5, None), (310, False)])
def test_volts_in_between_are_no_fault_while_a_window_is_open(after_s, good):
    """120 V across the second switch: within its window nothing is due either way."""
    said = verdict(VOLTS, CALL, volts(CALL["t"] + after_s, "S1.2", 120))
    assert (str(said.word), said.good) == ("unclear", good)


def test_a_sag_is_told_in_percent_of_the_idle_volts():
    """240 V idle, 228 V under 20.4 A: 12 V of 240 are 5.0 %."""
    found = judged(volts(1, "C1", 240), CALL, amps(310, "E1", 20.4), volts(320, "C1", 228)).findings
    [sag] = [f for f in found if "sag_percent" in f.numbers]
    assert sag.numbers["sag_percent"] == pytest.approx(5.0)
    assert "5" in sag.text


def test_a_thousand_times_off_is_said_with_the_value_that_would_fit():
    """A 5 kW element at 240 V has 10.4 … 11.5 Ω cold; 11000 typed is 11.0 kΩ."""
    [slip] = judged(*DEAD, {"t": 600, "read": "ohms", "at": "E1", "value": 11_000}).slips
    assert "11.0 Ω would be in range" in slip.text


def test_broken_by_its_ohms_is_no_slip_of_the_clamp():
    """0 A beside 240 V across it: two wires in the jaw, unless its ohms say that it is broken."""
    fed = (VOLTS, CALL, amps(310, "E1", 0.0), volts(320, "E1", 239))
    assert [s.code for s in judged(*fed).slips] == ["clamp-around-two"]
    open_ = [{"t": 700, "power": "proved-dead"}, {"t": 720, "read": "ohms", "at": "E1", "value": "OL"}]
    assert not judged(*fed, *open_).slips
    whole = [open_[0], {**open_[1], "value": 11.0}]
    assert [s.code for s in judged(*fed, *whole).slips] == ["clamp-around-two"]


def test_volts_below_most_of_the_supply_do_not_feed_an_element():
    """80 % of 240 V are 192 V: at 190 V something else in the rung is open."""
    fed = (VOLTS, CALL, amps(310, "E1", 0.0))
    assert not judged(*fed, volts(320, "E1", 190)).slips
    assert judged(*fed, volts(320, "E1", 195)).slips


def test_a_coil_above_what_it_is_made_for_is_high_and_not_good():
    for unit in HOMES.values():
        for control in unit.controls:
            if control.kind.dc_coil:
                read = {"t": 9, "read": "volts_dc", "at": f"{control.id}.coil", "value": 36}
                said = verdict({"t": 1, "calls": [control.call]}, read, unit=unit)
                assert (str(said.word), said.good) == ("high", False)
                return
    raise AssertionError("no direct-current coil on the lane")
