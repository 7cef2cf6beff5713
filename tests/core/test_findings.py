"""Each finding by a worked number on both sides of its threshold, and what it says."""

from __future__ import annotations

import pytest

from plentar.core.judgement import FindingCode, Level
from tests.cases import CALL, DEAD, VOLTS, amps, judged


def volts(t: float, at: str, value: float) -> dict:
    return {"t": t, "read": "volts", "at": at, "value": value}


def ohms(t: float, at: str, value: float) -> dict:
    return {"t": t, "read": "ohms", "at": at, "value": value}


def found(code: FindingCode, *events: dict) -> list[tuple[str, Level]]:
    return [(f.component, f.level) for f in judged(*events).findings if f.code is code]


@pytest.mark.parametrize(
    ("lugs", "level"), [(240, None), (229, None), (200, Level.REPAIR), (265, Level.REPAIR)]
)
def test_supply_volts(lugs, level):
    expected = [] if level is None else [("C1", level)]
    assert found(FindingCode.SUPPLY_OUT_OF_RANGE, volts(1, "C1", lugs)) == expected


@pytest.mark.parametrize(
    ("loaded", "level"),
    [(236, None), (233, None), (232, Level.WATCH), (229, Level.WATCH), (227, Level.REPAIR)],
)
def test_sag_of_240_volts(loaded, level):
    """3 % of 240 V is 7.2 V, 5 % is 12 V."""
    read = (VOLTS, CALL, amps(310, "E1", 20.0), volts(320, "C1", loaded))
    expected = [] if level is None else [("C1", level)]
    assert found(FindingCode.SUPPLY_SAG, *read) == expected


def test_a_sag_is_not_judged_without_current_and_a_lost_supply_is_none():
    idle = judged(VOLTS, CALL, volts(320, "C1", 225))
    assert ("supply sag", "C1") in {(n.check, n.component) for n in idle.not_judged}
    lost = judged(VOLTS, CALL, amps(310, "E1", 20.0), volts(320, "C1", 3))
    because = {n.because for n in lost.not_judged if n.check == "supply sag"}
    assert because == {"a lost supply is not a sag"}


@pytest.mark.parametrize(("legs", "level"), [((121, 119), None), ((126, 114), Level.WATCH)])
def test_legs(legs, level):
    """2 V of 120 V is 1.7 %, 12 V is 10 %."""
    read = [volts(n, f"C1.l{n}:ground", value) for n, value in enumerate(legs, start=1)]
    expected = [] if level is None else [("C1", level)]
    assert found(FindingCode.LEG_UNBALANCE, VOLTS, *read) == expected


@pytest.mark.parametrize(
    ("across", "level"),
    [
        (0.05, None),  # 1.0 W at 20 A
        (0.15, Level.WATCH),  # 3 W
        (0.3, Level.WATCH),  # 6 W, and nothing for certain: a coarse meter shows as much
        (0.6, Level.REPAIR),  # 0.3 V for certain: 6 W
        (0.81, Level.STOP_NOW),  # 0.51 V for certain: 10.2 W
    ],
)
def test_heat_at_a_joint_is_volts_times_amps(across, level):
    read = (VOLTS, CALL, amps(310, "E1", 20.0), volts(320, "S1.1", across))
    expected = [] if level is None else [("S1.1", level)]
    assert found(FindingCode.JOINT_HEAT, *read) == expected


def test_the_numbers_of_a_joint_are_those_of_the_law():
    judgement = judged(VOLTS, CALL, amps(310, "E1", 20.0), volts(320, "S1.1", 0.3))
    (joint,) = [f for f in judgement.findings if f.code is FindingCode.JOINT_HEAT]
    assert joint.numbers["watts"] == pytest.approx(joint.numbers["volts"] * joint.numbers["amps"])
    assert "6" in joint.text and "W" in joint.text


@pytest.mark.parametrize(
    ("ohms_to_ground", "bad"), [(float("inf"), False), (5e6, False), (4e5, True), (20, True)]
)
def test_element_to_ground(ohms_to_ground, bad):
    read = ohms(530, "E1.in:ground", "OL" if ohms_to_ground == float("inf") else ohms_to_ground)
    codes = {f.code for f in judged(VOLTS, *DEAD, read).findings if f.component == "E1"}
    assert (FindingCode.ELEMENT_TO_GROUND in codes) is bad


def test_current_without_a_call_is_stop_now_only_past_the_longest_off_window():
    late = (VOLTS, CALL, {"t": 900, "calls": []}, amps(1100, "E1", 20.5))
    assert found(FindingCode.DRAW_WITHOUT_CALL, *late) == [("E1", Level.STOP_NOW)]
    early = (VOLTS, CALL, {"t": 900, "calls": []}, amps(910, "E1", 20.5))
    assert found(FindingCode.DRAW_WITHOUT_CALL, *early) == []
    at_rest = (VOLTS, amps(30, "E1", 0.1))
    assert found(FindingCode.DRAW_WITHOUT_CALL, *at_rest) == []


def test_heat_without_air_is_stop_now():
    read = (VOLTS, CALL, amps(300, "E1", 20.5), amps(320, "blower", 0.0))
    assert found(FindingCode.HEAT_WITHOUT_BLOWER, *read) == [("blower", Level.STOP_NOW)]
    fine = (VOLTS, CALL, amps(300, "E1", 20.5), amps(320, "blower", 2.5))
    assert found(FindingCode.HEAT_WITHOUT_BLOWER, *fine) == []


def test_findings_come_with_the_most_urgent_first_and_say_what_and_where():
    judgement = judged(volts(1, "C1", 205), CALL, amps(300, "E1", 17.5), amps(320, "blower", 0.0))
    levels = [list(Level).index(f.level) for f in judgement.findings]
    assert levels == sorted(levels, reverse=True)
    assert all(f.component and f.text for f in judgement.findings)
