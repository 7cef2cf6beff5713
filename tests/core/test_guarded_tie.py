"""The tie is tested under guard: heat and fan on, the fan's call ended, the blower read within ten seconds."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.judge.diagnosis import diagnose
from plentar.core.unit.parts import Interlock
from plentar.core.visit.evidence import Evidence
from plentar.files.judgement_json import setting_to_json
from tests.cases import TWO, VOLTS, amps, judged, visit_of
from tests.kits import Kit, build_kit

HEAT = (VOLTS, {"t": 5, "calls": ["G", "W1"]}, amps(200, "E1", 20.3), amps(205, "E2", 20.4))
READ = (*HEAT, *({"t": 210, "read": "volts", "at": at, "value": v} for at, v in (("R", 25.2), ("C1", 239))))
ALONE = {"t": 300, "calls": ["W1"]}
GUARD = {"from": ["G", "W1"], "at_most_s": 10.0, "then": ["G"]}


def proposed(unit, *events, complaint: str = "check-up"):
    found = diagnose(Evidence(unit, visit_of(*events, complaint=complaint))).next
    return [setting_to_json(reading.setting) for reading in found if reading.at == "blower"]


def test_the_round_tests_the_tie_before_the_heat_ends():
    assert proposed(TWO, *READ)[:1] == [{"calls": ["W1"], "guard": GUARD}]


def test_once_read_it_is_not_asked_for_again():
    assert not proposed(TWO, *READ, ALONE, amps(305, "blower", 2.2))


@pytest.mark.parametrize(
    "unit",
    [
        pytest.param(
            build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers", relay="time-delay"), "held", ""),
            marks=pytest.mark.slow,
        ),
        replace(TWO, blower=replace(TWO.blower, interlock=Interlock("none"))),
    ],
    ids=["its relay holds the blower for a while", "there is no tie"],
)
def test_it_is_not_tested_where_that_would_tell_nothing(unit):
    assert all("guard" not in setting for setting in proposed(unit, *READ))


def test_nor_where_the_blower_may_not_run_at_all():
    """The fan was called and drew nothing: heat beside it would be heat without air."""
    still = (VOLTS, {"t": 5, "calls": ["G"]}, amps(30, "blower", 0))
    assert all("guard" not in s for s in proposed(TWO, *still, complaint="blower-will-not-run"))


def test_a_tie_that_does_not_take_over_is_a_stop_by_the_amps_read_before():
    """The strips were clamped with the fan on; nothing was done to them since."""
    stops = [f.code for f in judged(*READ, ALONE, amps(305, "blower", 0)).findings if f.level == "stop-now"]
    assert stops == ["heat-without-blower"]
    kept = judged(*READ, ALONE, amps(305, "blower", 2.2)).findings
    assert not [f for f in kept if f.level == "stop-now"]
