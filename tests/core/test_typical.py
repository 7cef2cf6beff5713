"""What nobody read off a part is typical: it widens what is due and accuses nobody.

Times by hand: a sequencer's family acts within 110 s; a minute more nothing rests on a typical window.
"""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.judge.diagnosis import diagnose
from plentar.core.judgement import Level
from plentar.core.unit.kits import Kit, build_kit
from plentar.core.unit.unit import Unit
from plentar.core.unit.usual_print import as_usually_printed
from plentar.core.visit.against_record import tied_across
from plentar.core.visit.evidence import Evidence
from plentar.files.unit_json import UnitJson, unit_to_json
from tests.cases import VOLTS, amps, judged, visit_of

CALL_S = 10.0
CALL = {"t": CALL_S, "calls": ["W1"]}
TWO = build_kit(Kit((4500.0, 4500.0), 240, "double-sequencers"), "two", "")
BOARD = build_kit(Kit((4500.0, 4500.0), 240, "double-sequencers", tie="g-with-w", relay="board"), "board", "")


def levels(judgement, code: str) -> list[Level]:
    return [f.level for f in judgement.findings if f.code == code]


def test_a_kit_says_nothing_that_nobody_read():
    plate = unit_to_json(TWO)
    switches = [s for control in plate["controls"] for s in control["switches"]]
    assert all("on_s" not in s and "off_s" not in s for s in switches)
    assert all("ohms" not in c["coil"] and "va" not in c["coil"] for c in plate["controls"])
    assert plate["blower"]["interlock"] == {"kind": "nc-contact"}
    assert UnitJson.model_validate(plate).to_core() == TWO, "and none of it is lost on the way"


def test_what_was_read_is_written_even_where_it_is_what_is_typical():
    plate = unit_to_json(TWO)
    plate["controls"][0]["switches"][0]["on_s"] = [1, 110]
    again = unit_to_json(UnitJson.model_validate(plate).to_core())
    assert again["controls"][0]["switches"][0]["on_s"] == [1, 110]


@pytest.mark.parametrize(("after_s", "level"), [(45, None), (105, None), (140, "watch"), (200, "repair")])
def test_a_switch_is_late_in_full_past_its_family_and_a_minute(after_s, level):
    seen = {"t": CALL_S + after_s, "observe": "on", "part": "S1.1"}
    found = levels(judged(VOLTS, CALL, seen, unit=TWO), "slow-stage")
    assert found == ([] if level is None else [Level(level)])


@pytest.mark.parametrize(("after_s", "level"), [(100, None), (140, "watch"), (215, "repair")])
def test_a_strip_without_current_is_dead_in_full_past_its_family_and_a_minute(after_s, level):
    dead = amps(CALL_S + after_s, "E1", 0)
    found = levels(judged(VOLTS, CALL, dead, unit=TWO), "element-dead")
    assert found == ([] if level is None else [Level(level)])


def test_heat_without_air_rests_on_no_typical_window():
    """The tie is of a sequencer whose switch may act at 110 s, and nobody read that."""
    heat, still = amps(CALL_S + 130, "E2", 18.6), amps(CALL_S + 135, "blower", 0)
    known = replace(TWO, blower=replace(TWO.blower, fla=4.0))
    assert not levels(judged(VOLTS, CALL, heat, still, unit=known), "heat-without-blower")
    late = amps(CALL_S + 200, "E2", 18.6), amps(CALL_S + 205, "blower", 0)
    assert levels(judged(VOLTS, CALL, *late, unit=known), "heat-without-blower") == [Level.STOP_NOW]


def test_a_run_on_that_is_short_by_typical_windows_is_a_watch_on_either_side():
    def printed(unit: Unit, of_board: bool, of_switches: bool) -> Unit:
        read = as_usually_printed(unit)
        controls = read.controls if of_switches else unit.controls
        relay = read.relay if of_board else unit.relay
        return replace(unit, controls=controls, blower=replace(unit.blower, relay=relay))

    def level(*read: bool) -> list[Level]:
        return levels(judged(unit=printed(BOARD, *read)), "run-on-short")

    assert level(True, True) == [Level.STOP_NOW], "the board lets go by 1 s, the first strip not before 1 s"
    assert level(True, False) == level(False, True) == level(False, False) == [Level.WATCH]


def suspects(unit: Unit, *events) -> dict[str, float]:
    return {s.fault: s.probability for s in diagnose(Evidence(unit, visit_of(*events))).suspects}


def test_a_tie_that_nobody_followed_may_begin_behind_either_strip():
    """S1.1 stays open and the blower runs: it is tied to the other strip. Known to be tied to S1.1, the
    blower says that the switch has closed, and what is open lies behind it."""
    read = (VOLTS, CALL, amps(250, "E1", 0), amps(255, "E2", 18.6), amps(260, "blower", 2.6))
    known = replace(TWO, blower=replace(TWO.blower, fla=4.0))
    first = replace(
        known, blower=replace(known.blower, interlock=replace(known.blower.interlock, tap="S1.1"))
    )
    second = replace(
        known, blower=replace(known.blower, interlock=replace(known.blower.interlock, tap="S1.2"))
    )
    open_, told, other = (suspects(unit, *read) for unit in (known, first, second))
    assert told.get("S1.1:stuck-open", 0) < 0.01 < other["S1.1:stuck-open"] / 10
    assert 0.05 < open_["S1.1:stuck-open"] < other["S1.1:stuck-open"]


def test_readings_as_good_as_they_get_speak_for_the_sound_unit_wherever_its_tie_begins():
    """Behind an open pole that the tie begins at stands the blower's other leg: 240 V across it, each time. Of
    the three in four check-ups that find nothing such readings take none away."""
    unit = build_kit(Kit((4800.0, 4800.0), 240, "contactors"), "poles", "")
    assert unit.possible_taps == ("K1.1", "K2.1")

    def across(t: float, value: float, at: str = "K1.1"):
        return {"t": t, "read": "volts", "at": at, "value": value}

    heat = [{"t": 100, "calls": ["W1"]}, across(500, 0.02), {"t": 600, "calls": []}]
    fan = [{"t": 1000, "calls": ["G"]}, {"t": 1500, "calls": []}]
    events = (VOLTS, across(20, 240), *heat, across(900, 240), *fan, across(1800, 239))
    found = diagnose(Evidence(unit, visit_of(*events, complaint="check-up"))).suspects
    assert found[0].fault == "none"
    assert found[0].probability >= 0.75


def test_a_tie_that_nobody_followed_may_lead_to_every_circuit_of_a_strip():
    """Its two strips are on two circuits: one off, the other feeds the tie on either side of it."""
    two = build_kit(Kit((4500.0, 4500.0), 240, "double-sequencers", circuits=2), "two", "")
    assert tied_across(two) == {"C1", "C2"}
    known = replace(two, blower=replace(two.blower, interlock=replace(two.blower.interlock, tap="S1.1")))
    assert tied_across(known) == frozenset()


def test_a_typical_window_is_weighed_by_orders_of_time():
    """Both strips draw 7 s after the call. Log-even from 1 to 110 s a sound stack has acted by then in
    (ln 7 / ln 110)², one in six; by the same figures as print, in (6 / 109)², one in 330."""
    read = (VOLTS, CALL, amps(CALL_S + 7, "E1", 18.5), amps(CALL_S + 7, "E2", 18.6))
    two = build_kit(Kit((4500.0, 4500.0), 240, "single-sequencers"), "two", "")
    plate = unit_to_json(two)
    for control in plate["controls"]:
        for switch in control["switches"]:
            switch["on_s"] = [1, 110]
    printed = UnitJson.model_validate(plate).to_core()

    def sound(unit: Unit) -> float:
        visit = visit_of(*read, complaint="check-up")
        return next(s.probability for s in diagnose(Evidence(unit, visit)).suspects if s.fault == "none")

    assert sound(two) > 0.6
    assert sound(printed) < 0.5 * sound(two)
