"""Circuits by plate and wire, what runs when it should not, and the slips that need more than
one reading."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.checks.circuit import circuit_findings
from plentar.core.checks.registry import CHECKS, outcomes
from plentar.core.judgement import FindingCode, Level
from plentar.core.supply.conductors import allowed_amps, largest_breaker_amps, next_size_amps
from plentar.core.supply.loads import load_of
from plentar.core.unit.parts import Blower, Circuit, CircuitPlate, Conductor, Interlock
from plentar.core.visit.events import Visit
from plentar.core.visit.evidence import Evidence
from plentar.store.demo.plates import plates
from tests.cases import CALL, TWO, VOLTS, amps, codes, judged
from tests.kits import Kit, build_kit

TEN_CU = Conductor("10", "copper", 90, 60)


def small_kit(circuit: Circuit, watts=(3500.0, 3500.0), fla=6.0):
    unit = build_kit(Kit(watts, 240, "double-sequencers"), "kit", "")
    blower = Blower("C1", "psc", Interlock("none"), None, fla=fla)
    return replace(unit, circuits=(circuit,), blower=blower)


@pytest.mark.parametrize(
    ("wire", "allowed", "breaker"),
    [
        (TEN_CU, 30, 30),
        (Conductor("10", "copper", 90, 75), 35, 30),  # 240.4(D): never more than 30 A
        (Conductor("8", "copper", 90, 75), 50, 50),
        (Conductor("6", "copper", 90, 60), 55, 60),  # 55 is no standard size
        (Conductor("2", "aluminium", 90, 75), 90, 90),
        (Conductor("8", "copper", 60, 60, "nm"), 40, 40),
        (Conductor("8", "copper", 90, 75, "nm"), 40, 40),
        (Conductor("8", "copper", 75, 75, "other", 50), 37.5, 40),
        (Conductor("6", "copper", 60, 60, "other", 56), 0, 15),
    ],
)
def test_ampacity_by_the_tables(wire, allowed, breaker):
    assert allowed_amps(wire) == pytest.approx(allowed)
    assert largest_breaker_amps(wire) == breaker


def test_no_table_no_judgement():
    assert allowed_amps(Conductor("8", "copper", ambient_c=80)) is None
    assert not (circuit_findings(small_kit(Circuit("C1", 240))))


def test_seven_kilowatts_on_ten_gauge():
    """29.17 + 6 = 35.17 A; 43.96 A is the minimum; 45 A the next size."""
    unit = small_kit(Circuit("C1", 240, 40, TEN_CU))
    load = load_of(unit, unit.circuits[0])
    assert load.total == pytest.approx(35.17, abs=0.005)
    assert load.minimum == pytest.approx(43.96, abs=0.005)
    assert next_size_amps(load.minimum) == 45
    found = {f.code: f for f in circuit_findings(unit)}
    assert set(found) == {
        "breaker-over-conductor",
        "breaker-under-load",
        "conductor-under-load",
        "over-80-percent",
    }
    assert found["breaker-over-conductor"].level is Level.STOP_NOW
    assert found["breaker-over-conductor"].numbers == {"breaker_amps": 40, "allowed_amps": 30}
    assert found["conductor-under-load"].level is Level.STOP_NOW
    right = small_kit(Circuit("C1", 240, 45, Conductor("8", "copper", 90, 75)))
    assert not (circuit_findings(right))


def test_the_plate_rules_where_there_is_one():
    plated = CircuitPlate(52, 60)
    good = Circuit("C1", 240, 60, Conductor("6", "copper", 90, 75), plated)
    unit = small_kit(good, (5000.0, 5000.0), fla=3.4)
    assert not (circuit_findings(unit))
    over = small_kit(replace(good, breaker_amps=70), (5000.0, 5000.0))
    assert "breaker-over-plate" in {f.code for f in circuit_findings(over)}
    three = small_kit(replace(good, plate=None, breaker_amps=90), (5000.0,) * 3)
    assert "elements-over-48" in {f.code for f in circuit_findings(three)}


def test_a_long_wire_drops_volts():
    wire = Conductor("8", "copper", 90, 75, length_ft=400)
    found = {f.code for f in circuit_findings(small_kit(Circuit("C1", 240, 45, wire)))}
    assert found == {"voltage-drop"}


def levels(judgement) -> dict[str, str]:
    return {f.code: str(f.level) for f in judgement.findings}


def test_current_without_a_call_is_stop_now_past_the_off_window():
    on = [VOLTS, CALL, {"t": 400, "calls": []}]
    assert levels(judged(*on, amps(620, "E1", 20.5))) == {"draw-without-call": "stop-now"}
    assert not judged(*on, amps(450, "E1", 20.5)).findings
    assert levels(judged(VOLTS, amps(10, "E1", 20.5))) == {"draw-without-call": "stop-now"}
    off = [*on, {"t": 600, "power": "off"}]
    assert levels(judged(*off, amps(620, "E1", 20.5))) == {"live-when-off": "stop-now"}


def test_heat_without_the_blower_is_stop_now():
    found = levels(judged(VOLTS, CALL, amps(310, "E1", 20.5), amps(320, "blower", 0.0)))
    assert found == {"heat-without-blower": "stop-now"}
    assert not judged(VOLTS, CALL, amps(310, "E1", 20.5), amps(320, "blower", 2.2)).findings


def test_stages_seen_to_act():
    on = {"observe": "on", "part": "S1.2"}
    assert not judged(VOLTS, CALL, {"t": 80, **on}).findings
    assert levels(judged(VOLTS, CALL, {"t": 120, **on})) == {"slow-stage": "repair"}
    assert levels(judged(VOLTS, CALL, {"t": 80, "lead_s": 60, **on})) == {"slow-stage": "repair"}
    ended = [VOLTS, CALL, {"t": 500, "calls": []}]
    off = {"observe": "off", "part": "S1.2"}
    assert not judged(*ended, {"t": 560, **off}).findings
    assert levels(judged(*ended, {"t": 700, **off})) == {"slow-off": "repair"}
    cycling = {"t": 900, "observe": "cycling", "part": "TL1"}
    assert levels(judged(VOLTS, CALL, cycling)) == {"limit-cycling": "repair"}


def test_an_off_test_before_five_minutes_does_not_count():
    off = {"observe": "off", "part": "S1.2"}
    early = judged(VOLTS, CALL, {"t": 200, "calls": []}, {"t": 240, **off})
    assert codes(early) == {"off-test-too-early"}
    assert not judged(VOLTS, CALL, {"t": 400, "calls": []}, {"t": 440, **off}).slips


def test_zero_volts_across_a_switch_of_a_dead_rung():
    zero = {"t": 320, "read": "volts", "at": "S1.1", "value": 0.0}
    dead = amps(310, "E1", 0.0)
    assert "zero-volts-dead-rung" in codes(judged(VOLTS, CALL, dead, zero))
    assert codes(judged(CALL, zero)) == {"zero-volts-dead-rung"}
    found = {"t": 330, "read": "volts", "at": "TL1", "value": 239}
    assert not codes(judged(VOLTS, CALL, dead, zero, found))
    assert not codes(judged(VOLTS, CALL, amps(310, "E1", 20.5), zero))


def test_ac_range_on_a_dc_coil():
    dc = build_kit(Kit((5000.0,), 240, "relays-dc"), "dc", "")
    read = {"t": 60, "read": "volts", "at": "K1.coil", "value": 0.4}
    assert codes(judged(VOLTS, CALL, read, unit=dc)) == {"ac-on-dc"}
    assert not codes(judged(VOLTS, read, unit=dc))
    assert not codes(judged(VOLTS, CALL, {**read, "read": "volts_dc", "value": 23.1}, unit=dc))


def test_a_probe_in_sight_of_the_elements():
    assert TWO.blower is not None
    unit = replace(TWO, blower=replace(TWO.blower, rated_cfm=1200))
    back = {"t": 400, "read": "temp_f", "at": "return-air", "value": 68}
    supply = {"t": 410, "read": "temp_f", "at": "supply-air", "value": 94}
    assert not codes(judged(VOLTS, CALL, back, supply, unit=unit))
    assert codes(judged(VOLTS, CALL, back, {**supply, "value": 175}, unit=unit)) == {"glow-in-sight"}


def test_what_was_looked_at_and_what_was_made_safe():
    looked = [
        {"t": 1, "item": "filter", "state": "poor"},
        {"t": 2, "item": "lugs", "state": "burnt"},
        {"t": 3, "item": "wheel", "state": "fine"},
    ]
    found = judged(VOLTS, looked=looked)
    assert [(f.code, f.component, str(f.level)) for f in found.findings] == [
        ("whole-unit", "lugs", "stop-now"),
        ("whole-unit", "filter", "watch"),
    ]
    assert [f.component for f in found.stops] == ["lugs"]
    answer = {"t": 9, "code": "whole-unit", "component": "lugs", "how": "breaker off and locked"}
    assert not judged(VOLTS, looked=looked, answered=[answer]).stops
    seen_again = [*looked, {"t": 20, "item": "lugs", "state": "fine"}]
    assert judged(VOLTS, looked=seen_again).stops, "nobody has mended it"


def test_no_check_is_silent_over_a_unit_with_nothing_read():
    bare = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "bare", "")
    for unit in (*plates().values(), bare):
        evidence = Evidence(unit, Visit())
        for check, outcome in zip(CHECKS, outcomes(evidence), strict=True):
            assert outcome.check == check.name
            assert outcome.found or outcome.clear or outcome.not_judged, (unit.id, check.name)
            assert all(missing.because for missing in outcome.not_judged)
            assert {finding.code for finding in outcome.found} <= check.codes


def test_every_finding_code_belongs_to_one_check():
    declared = [code for check in CHECKS for code in check.codes]
    assert len(declared) == len(set(declared))
    # The judge says a contradiction: no single check can.
    assert set(declared) == set(FindingCode) - {FindingCode.CONTRADICTION}


def test_a_check_that_lacks_a_reading_says_which():
    judgement = judged(VOLTS, CALL, amps(310, "E1", 20.5))
    missing = {(m.check, m.component): m.because for m in judgement.not_judged}
    assert missing["element amps", "E2"] == "not clamped"
    assert missing["element to ground", "E1"] == "ohms to ground not read"
    assert ("element amps", "E1") not in missing
    assert ("supply volts", "C1") not in missing
