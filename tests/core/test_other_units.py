"""Units that are not a kit's, from files: a relay alone, a motor with 24 V taps, a breaker in the unit, the
reversing valve's wire, the control fuse read and seen."""

from __future__ import annotations

from typing import Any

import pytest

from plentar.core.judge.diagnosis import diagnose
from plentar.core.visit.evidence import Evidence
from plentar.files.unit_json import UnitJson, unit_to_json
from tests.cases import TWO, VOLTS, amps, judged, visit_of

RELAY = {"id": "BR", "type": "spdt", "call": "G"}
CALL = {"t": 5, "calls": ["W1"]}


def unit_of(**changed: Any):
    plate = unit_to_json(TWO) | changed
    unit = UnitJson.model_validate(plate).to_core()
    assert UnitJson.model_validate(unit_to_json(unit)).to_core() == unit, "nothing is lost on the way"
    return unit


def told(unit, *events, complaint: str = "check-up"):
    return diagnose(Evidence(unit, visit_of(*events, complaint=complaint)))


def of(diagnosis) -> dict[str, float]:
    return {suspect.fault: suspect.probability for suspect in diagnosis.suspects}


BARE = {"elements": [], "controls": [], "limits": [], "links": []}
ALONE = unit_of(**BARE, blower={"circuit": "C1", "motor": "psc", "fla": 3.4, "relay": RELAY})
TAPPED = unit_of(blower={"circuit": "C1", "motor": "ecm", "fla": 3.4, "taps": {"G": 2, "W1": 5}})


def test_a_blower_relay_alone_is_judged_without_strips():
    """24 V at its coil, and nothing runs: line volts across its contact say that it stays open."""
    read = [VOLTS, {"t": 5, "calls": ["G"]}, amps(20, "blower", 0)]
    read += [{"t": 30, "read": "volts", "at": "BR.coil", "value": 25.3}]
    open_ = {"t": 40, "read": "volts", "at": "BR.no", "value": 239}
    found = told(ALONE, *read, open_, complaint="blower-will-not-run")
    assert found.parts == ("BR",)
    assert found.suspects[0].fault == "BR:no-stuck-open"
    assert not [f for f in judged(*read, unit=ALONE).findings if f.level == "stop-now"], "no strips, no stop"


@pytest.mark.slow
def test_a_motor_on_taps_of_its_own_runs_by_the_calls_that_it_is_on():
    heat = (VOLTS, CALL, amps(200, "E1", 20.3))
    runs, stands = amps(210, "blower", 2.2), amps(210, "blower", 0.1)
    assert not [f for f in judged(*heat, runs, unit=TAPPED).findings if f.level == "stop-now"]
    stopped = judged(*heat, stands, unit=TAPPED)
    assert [f.code for f in stopped.findings if f.level == "stop-now"] == ["heat-without-blower"]
    asked = {"t": 215, "read": "volts", "at": "W1", "value": 25.2}
    fed = {"t": 220, "read": "volts", "at": "blower", "value": 240}
    found = told(TAPPED, *heat, stands, asked, fed, complaint="blower-will-not-run")
    assert found.suspects[0].fault == "blower:open"


def test_its_line_volts_stand_at_it_whether_it_is_called_or_not():
    idle = told(
        TAPPED, VOLTS, {"t": 10, "read": "volts", "at": "blower", "value": 239}, amps(12, "blower", 0)
    )
    assert idle.suspects[0].fault == "none"


def test_taps_and_a_relay_exclude_each_other():
    with pytest.raises(Exception, match="has no relay"):
        unit_of(blower={"circuit": "C1", "motor": "ecm", "taps": {"G": 1}, "relay": RELAY})


@pytest.mark.parametrize(("at", "watts"), [("panel", 0.0), ("unit", 1.6 * 20.0)])
def test_a_breaker_in_the_unit_has_no_supply_wire_across_its_pole(at, watts):
    """8 AWG copper, 100 ft one way: 0.0778 Ω, 1.56 V at 20 A. 1.6 V across a pole is wire behind one in the
    panel, and 32 W of heat at one in the unit."""
    wire = {"awg": "8", "material": "copper", "length_ft": 100, "length_measured": True}
    circuit = {"id": "C1", "rated_volts": 240, "conductor": wire, "breaker_at": at}
    unit = unit_of(circuits=[circuit])
    pole = {"t": 220, "read": "volts", "at": "C1.line.l1:C1.l1", "value": 1.6}
    found = judged(VOLTS, CALL, amps(200, "C1.l1", 20), pole, unit=unit).findings
    joint = [f for f in found if f.code == "joint-heat"]
    assert bool(joint) == bool(watts)
    if joint:
        assert joint[0].level == "stop-now"
        assert joint[0].numbers["watts"] == pytest.approx(watts, abs=1.0)


@pytest.mark.slow
def test_the_reversing_valves_wire_is_called_and_read():
    loads = [{"id": "RV", "call": "O", "va": 7, "label": "reversing valve"}]
    unit = unit_of(other_loads=loads)
    called = {"t": 5, "calls": ["O", "G"]}
    word = judged(VOLTS, called, {"t": 20, "read": "volts", "at": "O", "value": 25}, unit=unit)
    assert str(word.evidence.taken[-1].point.title) == "O to C"
    assert "O" in unit.calls
    grounded = {"t": 20, "read": "ohms", "at": "O:ground", "value": 0.4}
    dead = [{"t": 10, "power": "off"}, {"t": 15, "power": "proved-dead"}]
    assert (
        told(unit, called, *dead, grounded, complaint="control-fuse-blows").suspects[0].fault == "O:to-ground"
    )


@pytest.mark.slow
def test_the_control_fuse_is_read_and_seen():
    dead = {"t": 10, "read": "volts", "at": "R", "value": 0.1}
    fed = {"t": 12, "read": "volts", "at": "transformer", "value": 26.4}
    before = of(told(TWO, VOLTS, dead, fed))
    across = {"t": 14, "read": "volts", "at": "control-fuse", "value": 26.4}
    seen = {"t": 16, "observe": "blown", "part": "control-fuse"}
    whole = {"t": 16, "observe": "whole", "part": "control-fuse"}
    fused = {"control-fuse:open", "R:to-ground", "S1:coil-shorted", "BR:coil-shorted"}
    open_ = told(TWO, VOLTS, dead, fed, across)
    assert sum(p for fault, p in of(open_).items() if fault in fused) > 0.95, "it, or what blew it"
    assert of(told(TWO, VOLTS, dead, fed, seen))["control-fuse:open"] >= before["control-fuse:open"]
    assert of(told(TWO, VOLTS, dead, fed, whole))["control-fuse:open"] < before["control-fuse:open"] / 5
    verdict = judged(VOLTS, across).evidence.taken[-1]
    assert verdict.point.kind == "fuse"


def test_a_fuse_that_is_open_by_ohms_may_still_have_been_blown_by_a_short():
    blown = [{"t": 10, "power": "off"}, {"t": 20, "power": "proved-dead"}]
    blown += [{"t": 30, "read": "ohms", "at": "control-fuse", "value": "OL"}]
    found = told(TWO, {"t": 1, "calls": ["W1"]}, *blown, complaint="control-fuse-blows")
    assert found.parts != ("control-fuse",), "what blew it is still to be found"


def test_a_lug_or_the_line_side_is_replaced_like_any_part():
    new = {"t": 30, "replaced": "C1.l1"}
    old = {"t": 20, "read": "volts", "at": "C1", "value": 150}
    assert judged(old, new).evidence.mended_since("C1", 20.0)
