"""What is started on the relay bench, or felt and heard of a motor, weighs like what is read: by hand,
of units that can act 97 in 100 do so when they are started, and one whose contact sticks half of the time
looks as if it did."""

from __future__ import annotations

import pytest

from plentar.core.judge.diagnosis import diagnose
from plentar.core.visit.evidence import Evidence
from tests.cases import VOLTS, amps, visit_of
from tests.kits import Kit, build_kit

UNIT = build_kit(Kit((4500.0,), 240, "single-sequencers", relay="time-delay"), "one", "")
STILL = (VOLTS, {"t": 5, "calls": ["G"]}, amps(30, "blower", 0))
DEAD = ({"t": 300, "power": "off"}, {"t": 305, "calls": []}, {"t": 320, "power": "proved-dead"})


def odds(over: str, under: str, *events) -> float:
    found = diagnose(Evidence(UNIT, visit_of(*STILL, *DEAD, *events, complaint="blower-will-not-run")))
    share = {suspect.fault: suspect.probability for suspect in found.suspects}
    return share[over] / share[under]


@pytest.mark.parametrize(
    ("event", "over", "under", "shares"),
    [
        ({"tried": "BR", "acted": False}, "BR:coil-open", "G:no-call", (0.97, 0.03)),
        ({"tried": "BR", "acted": False}, "BR:coil-open", "BR:no-stuck-open", (0.97, 0.5)),
        ({"tried": "BR", "acted": True}, "G:no-call", "BR:no-stuck-open", (0.97, 0.5)),
        ({"felt": "stiff"}, "blower:open", "BR:no-stuck-open", (0.05, 0.05)),
        ({"felt": "silent"}, "blower:open", "G:no-call", (0.9, 0.5)),
    ],
)
def test_a_start_or_a_feel_moves_the_odds_by_how_often_it_is_met(event, over, under, shares):
    moved = odds(over, under, {"t": 400, **event}) / odds(over, under)
    taken_for_it = 0.9 * 0.012 + 0.1 * 0.2  # something else, usually and on one day in ten
    over_share, under_share = ((1 - taken_for_it) * share + taken_for_it for share in shares)
    assert moved == pytest.approx(over_share / under_share, rel=0.1)


def test_a_start_that_takes_longer_than_the_window_is_of_a_slow_one():
    """Its window ends at 3 s."""
    in_time, late = ({"t": 400, "tried": "BR", "acted": True, "after_s": s} for s in (1.5, 30.0))
    assert odds("G:no-call", "BR:no-stuck-open", in_time) > 1.5 * odds("G:no-call", "BR:no-stuck-open")
    found = diagnose(Evidence(UNIT, visit_of(*STILL, *DEAD, late, complaint="blower-will-not-run")))
    assert found.suspects[0].fault == "BR:slow"


def test_a_motor_that_hums_is_locked_before_it_is_open():
    read = (VOLTS, {"t": 5, "calls": ["G"]}, {"t": 12, "read": "volts", "at": "blower", "value": 240})
    hums = {"t": 14, "felt": "hums"}
    for seen, first in (((), "blower:open"), ((hums,), "blower:locked")):
        found = diagnose(Evidence(UNIT, visit_of(*read, *seen, complaint="blower-will-not-run")))
        order = [s.fault for s in found.suspects if s.fault.startswith("blower:")]
        assert order[0] == first, order


def test_more_than_the_fuse_carries_was_read_before_it_blew():
    """A short on W1: the fuse has gone within seconds, the clamp's 7 A are typed twenty seconds later."""
    read = [{"t": 5, "calls": ["W1"]}, {"t": 25, "read": "amps", "at": "R", "value": 7.0}]
    after = {"t": 40, "read": "volts", "at": "R", "value": 0.1}
    found = diagnose(Evidence(UNIT, visit_of(*read, after, complaint="control-fuse-blows")))
    shorts = {"S1:coil-shorted", "W1:to-ground", "R:to-ground"}
    share = sum(suspect.probability for suspect in found.suspects if suspect.fault in shorts)
    assert share > 0.6, [(s.fault, s.probability) for s in found.suspects]
    assert not found.contradictions


@pytest.mark.parametrize("minutes", [5, 12, 20, 27])
def test_a_switch_that_acts_far_too_late_is_slow_however_late(minutes):
    """Its print says 20 s at most."""
    none = [amps(300, "E1", 0), {"t": 9, "read": "volts", "at": "S1.coil", "value": 25.0}]
    acted = {"t": 5 + 60 * minutes, "observe": "on", "part": "S1.1"}
    events = sorted(
        [VOLTS, {"t": 5, "calls": ["W1"]}, *(none if minutes > 5 else none[1:]), acted], key=lambda e: e["t"]
    )
    found = diagnose(Evidence(UNIT, visit_of(*events, complaint="slow-to-start")))
    assert found.suspects[0].fault == "S1:slow"
    assert found.suspects[0].probability > 0.5
