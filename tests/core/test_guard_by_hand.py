"""What the guard refuses for a suspect's sake, and what clears that suspect before."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.circuit.faults import find_faults
from plentar.core.judge.diagnosis import diagnose
from plentar.core.judge.plan.guard import Guard
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.survivors import InformationGain
from plentar.core.judge.weigh.posterior import posterior
from plentar.core.judgement import Hazard, Setting
from plentar.core.quantity import Quantity
from plentar.core.unit.parts import OtherLoad
from plentar.core.visit.evidence import Evidence
from tests.cases import TWO, VOLTS, amps, visit_of

W1, G, BOTH = frozenset({"W1"}), frozenset({"G"}), frozenset({"G", "W1"})
OUTDOOR = replace(TWO, other_loads=(OtherLoad("CC", "Y", 10.0),))


def guard_of(unit, *events, **more):
    return Guard(posterior(Evidence(unit, visit_of(*events, **more))))


def proposal(**setting):
    gain = InformationGain(0.5, 1.0, 0.1)
    return Proposal(Quantity.AMPS, "E1", Setting(**setting), gain, 4.0, Hazard.CLAMP, tuple)


@pytest.mark.parametrize(
    ("suspect", "calls", "clears", "doubts_air"),
    [
        # A coil that is short is told by its ohms, and never driven for that; a weld by driving it.
        ("S1:coil-shorted", W1, ("S1.coil", False), False),
        ("CC:coil-shorted", frozenset({"Y"}), ("Y:ground", False), False),
        ("BR:nc-welded", G, ("BR.nc", True), True),
        ("BR:nc-stuck-open", W1, ("BR.nc", False), True),
        ("W1:to-ground", W1, ("W1:ground", False), False),
        ("E1:grounded", W1, ("E1.in:ground", False), False),
        # Nothing that ohms would show: it is seen or heard.
        ("blower:locked", W1, None, True),
    ],
)
def test_what_is_refused_for_a_suspect_and_clears_it(monkeypatch, suspect, calls, clears, doubts_air):
    guard = guard_of(OUTDOOR, VOLTS)
    faults = tuple(find_faults(OUTDOOR, [suspect]))
    monkeypatch.setattr(guard, "_suspects", [faults])
    asked = proposal(calls=calls, after_s=100.0)
    refusal, under = guard.why(asked)
    assert (refusal != "", under) == (True, faults)
    assert guard.clears(asked) == ({clears} if clears else set())
    assert guard.doubts_air(asked) is doubts_air
    monkeypatch.setattr(guard, "_suspects", [])
    fresh = proposal(calls=BOTH, after_s=100.0)
    assert (guard.allows(fresh), guard.why(fresh), guard.clears(fresh)) == (True, ("", ()), frozenset())


def test_a_fuse_that_blows_bars_the_call_that_nobody_has_made():
    """With that complaint the outdoor coil counts, however little speaks for it; without, it does not."""
    cooling = proposal(calls=frozenset({"Y"}), after_s=100.0)
    assert guard_of(OUTDOOR, VOLTS).refusal(cooling) == ""
    blows = guard_of(OUTDOOR, VOLTS, complaint="control-fuse-blows")
    assert blows.refusal(cooling) == "the control fuse would blow"
    assert [f.id for f in blows._suspects[-1]] == ["CC:coil-shorted"]


def test_the_compressor_rests_five_minutes_after_cooling_and_not_after_heat():
    """Called at 5 s and ended at 100 s; heat that ends later is no start of it, nor is a switch."""
    events = [{"t": 5, "calls": ["Y"]}, {"t": 100, "calls": []}]
    early = guard_of(TWO, *events, {"t": 390, "calls": ["W1"]})
    late = guard_of(TWO, *events, {"t": 395, "calls": ["W1"]}, {"t": 405, "power": "on", "circuit": "C1"})
    again = proposal(calls=frozenset({"G", "W1", "Y"}), after_s=500.0)
    assert early.refusal(again) == "the compressor would start twice within five minutes"
    assert "compressor" not in late.refusal(again)


def test_a_stop_that_stands_on_the_leading_suspect_goes_before_every_card_and_bars_heat():
    """Heat and fan called, 19 A where 3 A are due: locked, and the heat runs without it. First the heat ends; and no
    card calls it again, a guarded one neither. Answered, or with another leader, it bars nothing."""
    from_here = ({"t": 2, "calls": ["G", "W1"]}, amps(150, "blower", 19.0), amps(170, "blower", 19.1))
    guard = guard_of(TWO, VOLTS, *from_here)
    assert guard._leader[0].id == "blower:locked"
    assert guard.refusal(proposal(after_s=10.0)) != ""
    assert guard.refusal(proposal(calls=W1, after_s=10.0)) != ""
    ends = guard_of(TWO, VOLTS, *from_here, {"t": 180, "calls": ["G"]})
    assert ends.refusal(proposal(calls=BOTH, after_s=10.0)) != ""
    assert ends.allows(proposal(calls=G, after_s=10.0))
    said = diagnose(Evidence(TWO, visit_of(VOLTS, *from_here)))
    assert said.stops
    assert all(card.setting.calls is not None and not card.setting.calls & W1 for card in said.next)


def test_a_blower_that_is_said_to_be_off_speaks_for_what_keeps_it_still():
    """Fan called, ten seconds on somebody says that it is off: of those of its kind what holds it still gains, at the
    cost of the sound unit. What is not listed has less than 0.003."""

    def share(*events):
        said = diagnose(Evidence(TWO, visit_of(VOLTS, *events))).suspects
        return {s.fault: s.probability for s in said}

    called = {"t": 5, "calls": ["G"]}
    silent = share(called)
    still = share(called, {"t": 15, "observe": "off", "part": "blower"})
    for fault in ("BR:no-stuck-open", "G:no-call"):
        assert still[fault] > 5 * silent.get(fault, 0.003), fault
    assert still["none"] < silent["none"] / 2
