"""Stops by worked numbers, what they bar, and what is never proposed."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.door import bars_of, judge, judge_reading, suspected_stops
from plentar.core.judge.diagnosis import diagnose
from plentar.core.judgement import Judgement
from plentar.core.quantity import Band, Quantity
from plentar.core.safety.acts import make_safe
from plentar.core.safety.latch import standing
from plentar.core.unit.parts import Conductor, Interlock
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Answered, Power, Reading, Replaced, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import state_at
from plentar.files.visit_json import VisitJson
from plentar.store.demo.plates import plates
from tests.cases import CALL, DEAD, TWO, VOLTS, amps, judged, visit_of
from tests.kits import Kit, build_kit

HOMES = plates()
REST_1000 = {"t": 1000, "calls": []}


def volts(t: float, at: str, value: float) -> dict:
    return {"t": t, "read": "volts", "at": at, "value": value}


def stops(judgement: Judgement) -> set[tuple[str, str]]:
    return {(str(f.code), f.component) for f in judgement.stops}


def levels(judgement: Judgement, code: str) -> list[str]:
    return [str(f.level) for f in judgement.findings if f.code == code]


def tied(kind: str, **tie: str) -> Unit:
    """Two strips on one sequencer, the blower tied so."""
    return replace(TWO, blower=replace(TWO.blower, interlock=Interlock(kind, **tie)))


# -- heat without the blower -------------------------------------------------------------------


@pytest.mark.parametrize(
    "read",
    [
        [amps(310, "C1", 41.2), amps(320, "BR.nc", 0.0)],
        [amps(310, "C1.l1", 41.2), amps(330, "blower", 0.1)],
        [amps(310, "E1", 20.5), {"t": 330, "observe": "off", "part": "blower"}],
        [amps(310, "FL1", 20.5), amps(330, "blower", 0.0)],
        [amps(310, "E1", 20.5), volts(330, "blower", 1)],
        [amps(310, "E1", 20.5), volts(330, "BR.nc", 238)],
    ],
    ids=[
        "feed and tie",
        "leg and motor",
        "seen to stand",
        "a link of the rung",
        "no volts at the motor",
        "line volts across the open tie",
    ],
)
def test_heat_without_the_blower_shows_wherever_it_shows(read):
    assert ("heat-without-blower", "blower") in stops(judged(VOLTS, CALL, *read))


def test_what_leads_is_a_stop_where_heat_ran_under_it_without_the_blower():
    """W1 for ten minutes, then the tie's contact reads open, proved dead: nobody saw the blower."""
    dead = {"t": 700, "power": "proved-dead"}
    tie_open = [
        {"t": 720 + n, "read": "ohms", "at": f"BR.{side}", "value": "OL"}
        for n, side in enumerate(("nc", "no"))
    ]
    heated = (VOLTS, CALL, amps(310, "E1", 20.5), {"t": 690, "calls": []})
    judgement = judged(*heated, dead, *tie_open)
    assert not stops(judgement)
    [stop] = suspected_stops(judgement, diagnose(judgement.evidence))
    assert (stop.code, stop.component) == ("heat-without-blower", "blower")
    off = state_at(TWO, judgement.evidence.visit.events, 730)
    assert "Do not call heat" in bars_of(judgement, [stop]).refusal(off, calls=frozenset({"W1"}))
    for harmless in ((VOLTS, dead, *tie_open), (VOLTS, {**CALL, "calls": ["G", "W1"]}, dead, *tie_open)):
        sound = judged(*harmless)
        assert not suspected_stops(sound, diagnose(sound.evidence)), "no heat ran without air"
    mended = judged(*heated, dead, *tie_open, {"t": 800, "replaced": "BR"})
    assert not suspected_stops(mended, diagnose(mended.evidence))


def test_a_welded_strip_with_the_blower_at_rest_is_two_stops():
    found = stops(judged(VOLTS, amps(10, "E1", 20.5), amps(40, "blower", 0.0)))
    assert found == {("heat-without-blower", "blower"), ("draw-without-call", "E1")}


def test_a_blower_that_runs_or_is_not_due_yet_stops_nothing():
    for read in (
        [amps(310, "C1", 43.0), amps(320, "BR.nc", 2.2)],
        [amps(310, "E1", 20.5), amps(330, "blower", 2.2)],
        [amps(310, "C1", 2.3), amps(330, "blower", 0.0)],
    ):
        assert not stops(judged(VOLTS, CALL, *read))


def test_what_drops_out_before_the_blower_does_is_no_heat_without_it():
    """The call ends at 900 s, a strip draws at 905 s in its off window, the blower stops at 1000 s."""
    ended = (VOLTS, CALL, {"t": 900, "calls": []}, amps(905, "E1", 20.5))
    stopped = {"t": 1000, "observe": "off", "part": "blower"}
    assert not stops(judged(*ended, stopped))
    outlasted = ({"t": 903, "observe": "off", "part": "blower"}, amps(930, "E1", 20.5))
    assert ("heat-without-blower", "blower") in stops(judged(*ended[:3], *outlasted))


def test_an_efficient_motor_at_its_small_amps_runs():
    """Expected 0.9 A: the floor is a third of it, 0.3 A, not half an ampere."""
    small = replace(TWO, blower=replace(TWO.blower, typical_amps=0.9, fla=2.0))
    heat = [VOLTS, CALL, amps(310, "E1", 20.5)]
    assert not stops(judged(*heat, amps(330, "blower", 0.4), unit=small))
    assert stops(judged(*heat, amps(330, "blower", 0.2), unit=small))


# -- draws that nothing asks for ---------------------------------------------------------------


def test_a_feed_with_nothing_called_and_a_strip_that_is_not_asked_for():
    assert ("draw-without-call", "C1") in stops(judged(VOLTS, amps(30, "C1", 43.0)))
    assert not stops(judged(VOLTS, amps(30, "C1", 3.4)))
    two_stages = HOMES[10]
    other = next(c for c in two_stages.controls if c.call == "W2")
    strip = next(e for e in two_stages.elements if other.switches[0].id in e.rung)
    volts_there = volts(1, strip.circuit, 240)
    found = judged(volts_there, CALL, amps(310, strip.id, 20.5), unit=two_stages)
    assert ("draw-without-call", strip.id) in stops(found)


def test_amps_with_nothing_called_are_never_green():
    judgement = judged(VOLTS, amps(10, "E1", 20.6))
    element = judgement.elements[0]
    assert str(element.word) == "high"
    assert element.expected_amps.low == 0 and element.expected_amps.high < 2


def test_a_blower_at_zero_with_the_fan_called_is_dead():
    called = {"t": 5, "calls": ["G"]}
    evidence = judged(VOLTS, called, amps(60, "blower", 0.0)).evidence
    assert str(judge_reading(evidence, evidence.taken[-1]).verdict.word) == "dead"


# -- the tie and its run-on --------------------------------------------------------------------


def test_no_tie_is_a_stop_and_an_unknown_one_is_said_to_be_unknown():
    assert stops(judged(unit=tied("none"))) == {("no-blower-tie", "blower")}
    unknown = judged(unit=tied("unknown"))
    assert not stops(unknown)
    assert any("ties the blower" in n.because for n in unknown.not_judged)


def test_g_with_w_in_front_of_sequencers_stops_before_the_heat():
    """The board's relay drops within a second; the strips stay 40 s and more."""
    assert levels(judged(unit=tied("g-with-w")), "run-on-short") == ["stop-now"]
    relay = replace(TWO.blower.relay, off_s=Band(125, 135))
    held = replace(TWO, blower=replace(tied("g-with-w").blower, relay=relay))
    assert levels(judged(unit=held), "run-on-short") == []


def test_within_a_stack_the_order_counts_whatever_the_windows_say():
    first, last = TWO.controls[0].switches[0].id, TWO.controls[0].switches[-1].id
    assert levels(judged(unit=tied("nc-contact", tap=first)), "run-on-short") == []
    assert levels(judged(unit=tied("nc-contact", tap=last)), "run-on-short") == ["stop-now"]


def test_windows_that_overlap_are_to_be_timed_and_a_timed_test_answers():
    four = build_kit(Kit((5000.0,) * 4, 240, "double-sequencers"), "four", "")
    assert levels(judge(four, Visit()), "run-on-short") == ["watch"]
    ends = {"t": 900, "calls": []}
    offs = [("S1.2", 920), ("S2.2", 925), ("S1.1", 960), ("S2.1", 970), ("blower", 975)]
    seen = [{"t": t, "observe": "off", "part": part} for part, t in offs]
    call = {"t": 5, "calls": sorted(four.heat_calls)}
    timed = judge(four, visit_of(VOLTS, call, ends, *seen))
    assert levels(timed, "run-on-short") == []


# -- joints ------------------------------------------------------------------------------------


def with_wire(feet: float, *, measured: bool = True) -> Unit:
    wire = Conductor("6", "copper", 90, 75, "other", 30.0, feet, measured)
    return replace(TWO, circuits=(replace(TWO.circuits[0], conductor=wire),))


def test_a_feed_joint_by_the_worked_example():
    """238.5 V, 232.4 V, 42.4 A, 35 ft of 6 AWG copper: 190 W as read, 134 W at least."""
    read = (CALL, volts(310, "C1.line", 238.5), volts(340, "C1", 232.4), amps(345, "C1", 42.4))
    judgement = judged(*read, unit=with_wire(35))
    (joint,) = [f for f in judgement.findings if f.code == "joint-heat"]
    assert str(joint.level) == "stop-now"
    assert joint.numbers["watts"] == pytest.approx(190, abs=1.5)
    assert joint.numbers["least_watts"] == pytest.approx(134, abs=1.5)
    (guessed,) = [
        f for f in judged(*read, unit=with_wire(35, measured=False)).findings if f.code == "joint-heat"
    ]
    assert guessed.numbers["least_watts"] == pytest.approx(72, abs=1), "twice as long, for all that is known"
    assert str(guessed.level) == "stop-now"


def test_a_sound_feed_and_a_pair_read_too_far_apart_say_nothing():
    near = (CALL, volts(310, "C1.line", 238.5), volts(340, "C1", 236.9), amps(345, "C1", 42.4))
    assert not judged(*near, unit=with_wire(35)).stops
    far = (CALL, volts(310, "C1.line", 238.5), volts(400, "C1", 232.4), amps(405, "C1", 42.4))
    assert not [f for f in judged(*far, unit=with_wire(35)).findings if f.code == "joint-heat"]


def test_a_breaker_pole_and_a_closed_switch_that_drop_volts():
    """35 ft of 6 AWG drop 0.72 V one way at 42 A; 0.6 V more are 25 W. 4 V × 19.6 A = 78 W."""

    def pole(across: float, unit: Unit) -> list[str]:
        read = (CALL, volts(310, "C1.line.l1:C1.l1", across), amps(320, "C1", 42.0))
        return levels(judged(*read, unit=unit), "joint-heat")

    assert pole(0.72 + 0.6, with_wire(35)) == ["stop-now"]
    assert pole(0.75, with_wire(35)) == [], "the wire alone"
    assert pole(0.72 + 0.6, with_wire(35, measured=False)) == ["watch"], "it may be twice as long"
    assert pole(0.72 + 0.6, TWO) == [], "nobody gave its wire: 100 ft are allowed for"
    switch = (VOLTS, CALL, amps(310, "E1", 19.6), volts(320, "S1.1", 4.0))
    assert ("joint-heat", "S1.1") in stops(judged(*switch))
    ghost = (VOLTS, CALL, amps(310, "E2", 0.0), volts(320, "S1.2", 24.0))
    assert not stops(judged(*ghost))


# -- volts of the plate ------------------------------------------------------------------------


def test_a_208_volt_element_on_241_volts_is_overloaded():
    """(241 / 208)² = 134 % of its power."""
    kit = build_kit(Kit((5000.0, 5000.0), 208, "double-sequencers"), "k", "")
    served = replace(kit, circuits=(replace(kit.circuits[0], rated_volts=240.0),))
    found = judge(served, visit_of(volts(1, "C1", 241)))
    assert levels(found, "over-volts") == ["repair", "repair"]
    assert levels(judged(volts(1, "C1", 241)), "over-volts") == []


@pytest.mark.parametrize(("reads", "tap"), [(20.8, True), (24.4, False), (17.0, False)])
def test_20_8_volts_on_a_208_volt_service_is_the_tap(reads, tap):
    unit = HOMES[8]
    found = judge(unit, visit_of(volts(5, "R", reads)))
    assert bool(levels(found, "primary-tap")) is tap


@pytest.mark.parametrize(("lugs", "level"), [(208, []), (199, []), (192, ["watch"]), (180, ["repair"])])
def test_a_208_volt_service_has_its_own_range(lugs, level):
    found = judge(HOMES[8], visit_of(volts(1, "C1", lugs)))
    assert levels(found, "supply-out-of-range") == level


# -- answers, wires, what counts ----------------------------------------------------------------


def test_an_answer_holds_until_later_evidence_says_the_same():
    events = (VOLTS, amps(10, "E1", 20.5))
    answer = {"t": 60, "code": "draw-without-call", "component": "E1", "how": "breaker off"}
    assert not judged(*events, answered=[answer]).stops
    again = judged(*events, amps(120, "E1", 20.4), answered=[answer])
    assert stops(again) == {("draw-without-call", "E1")}


def test_wires_move_by_their_own_event_alone():
    events = (
        VisitJson.model_validate(
            {"events": [{"t": 1, "wires": "lifted"}, {"t": 2, "calls": ["W1", "G"]}, {"t": 3, "calls": []}]}
        )
        .to_core()
        .events
    )
    assert state_at(TWO, events, 4).lifted
    back = VisitJson.model_validate({"events": [{"t": 4, "wires": "restored"}]}).to_core().events
    assert not state_at(TWO, (*events, *back), 5).lifted


def test_microfarads_count_only_proved_dead():
    read = {"t": 10, "read": "uf", "at": "capacitor", "value": 7.4}
    assert not judged(VOLTS, read).evidence.taken[-1].counts
    assert judged(VOLTS, *DEAD, read | {"t": 540}).evidence.taken[-1].counts


# -- what a stop bars ---------------------------------------------------------------------------


def refused(judgement: Judgement, power=(), calls=None) -> str:
    visit = judgement.evidence.visit
    t_s = visit.events[-1].t_s if visit.events else 0.0
    state = state_at(judgement.evidence.unit, visit.events, t_s)
    return bars_of(judgement).refusal(state, power, None if calls is None else frozenset(calls))


def test_an_element_to_ground_keeps_its_breaker_open():
    grounded = {"t": 530, "read": "ohms", "at": "E1.in:ground", "value": 800}
    judgement = judged(VOLTS, *DEAD, grounded)
    assert "C1" in refused(judgement, power=["C1"])
    made = Answered(540, "element-to-ground", "E1", "element out", "A")
    answered = judge(TWO, replace(judgement.evidence.visit, answered=(made,)))
    assert not refused(answered, power=["C1"])


def test_heat_without_the_blower_bars_heat_and_not_its_end():
    judgement = judged(VOLTS, CALL, amps(310, "E1", 20.5), amps(330, "blower", 0.0), REST_1000)
    assert refused(judgement, calls={"W1"}) and refused(judgement, calls={"W1", "G"})
    assert not refused(judgement, calls={"G"}) and not refused(judgement, calls=set())


@pytest.mark.parametrize(
    ("leaving_f", "level"), [(118, None), (160, None), (171, "repair"), (200, "repair"), (205, "stop-now")]
)
def test_air_that_leaves_too_hot(leaving_f, level):
    read = {"t": 400, "read": "temp_f", "at": "supply-air", "value": leaving_f}
    found = judged(VOLTS, CALL, read)
    assert levels(found, "high-leaving-air") == ([level] if level else [])
    if level == "stop-now":
        now = state_at(TWO, found.evidence.visit.events, 410)
        assert bars_of(found).refusal(replace(now, calls=frozenset()), calls=frozenset({"W1"}))
        assert not bars_of(found).refusal(now, calls=frozenset()), "heat is always ended"


@pytest.mark.parametrize(
    ("read_amps", "fuse", "level"),
    [
        (1.4, 3.0, None),
        (2.4, 3.0, "repair"),
        (3.2, 3.0, "repair"),
        (4.5, 3.0, "stop-now"),
        (9, None, "repair"),
    ],
)
def test_a_control_load_above_its_fuse_or_its_transformer(read_amps, fuse, level):
    """40 VA at 24 V are 1.67 A; a clamp reads ±(2 % + 0.3 A): 3.2 A may be 2.8, 4.5 A is 4.1 at least."""
    unit = replace(TWO, control_power=replace(TWO.control_power, va=40.0, fuse_amps=fuse))
    found = judged(CALL, amps(100, "R", read_amps), unit=unit)
    assert levels(found, "control-overload") == ([level] if level else [])
    if level == "stop-now":
        now = state_at(unit, found.evidence.visit.events, 110)
        assert bars_of(found).refusal(now, calls=frozenset({"W1", "G"}))
        assert not bars_of(found).refusal(now, calls=frozenset())


def test_without_a_tie_heat_is_called_with_the_fan_and_ends_before_it():
    bare = tied("none")
    assert refused(judged(VOLTS, unit=bare), calls={"W1"})
    assert not refused(judged(VOLTS, unit=bare), calls={"W1", "G"})
    alone = judged(VOLTS, CALL, amps(300, "E1", 20.5), unit=bare)
    assert not refused(alone, calls=set()), "what is told to be ended can be ended"
    heats = judged(VOLTS, {"t": 5, "calls": ["W1", "G"]}, amps(300, "E1", 20.5), unit=bare)
    assert refused(heats, calls=set())
    assert not refused(heats, calls={"G"})
    fan = judged(
        VOLTS, {"t": 5, "calls": ["W1", "G"]}, {"t": 300, "calls": ["G"]}, amps(330, "E1", 0.0), unit=bare
    )
    assert "120" in refused(fan, calls=set())


def test_every_stop_is_made_safe_in_order():
    judgement = judged(VOLTS, CALL, amps(310, "E1", 20.5), amps(330, "blower", 0.0))
    (stop,) = judgement.stops
    safe = make_safe(judgement.evidence, state_at(TWO, judgement.evidence.visit.events, 340), stop)
    assert safe.acts[0] == "End the call: W1." and "breaker" in safe.acts[1]
    assert safe.before and safe.who


# -- proposals ----------------------------------------------------------------------------------


def proposals(*events: dict, unit: Unit = TWO, complaint: str = "not-enough-heat"):
    return diagnose(Evidence(unit, visit_of(*events, complaint=complaint))).next


@pytest.mark.parametrize("home", [2, 5, 7, 8, 9, 13])
@pytest.mark.slow
def test_heat_is_first_asked_for_with_the_fan(home):
    for reading in proposals(unit=HOMES[home]):
        calls = reading.setting.calls or frozenset()
        assert not calls & {"W1", "W2"} or "G" in calls
        assert "Y" not in calls


def test_nothing_is_energised_while_an_element_is_to_ground():
    grounded = {"t": 530, "read": "ohms", "at": "E1.in:ground", "value": 800}
    for reading in proposals(VOLTS, *DEAD, grounded):
        assert reading.setting.power != "on"


def test_a_shorted_coil_is_measured_before_anything_drives_it():
    for reading in proposals(complaint="control-fuse-blows"):
        assert not reading.setting.driven
        assert not reading.setting.calls


def test_what_was_done_about_a_stop_is_said_by_the_record_and_a_repair_asks_for_its_proof():
    """E1 draws with nothing called at 20 s; off at 70 s, proved dead at 90 s, its relay replaced at 2:30."""
    unit = build_kit(Kit((5000.0, 5000.0), 240, "relays-ac"), "two", "")
    draws = Reading(t_s=20.0, quantity=Quantity.AMPS, at="E1", value=20.4)
    off = Power(t_s=70.0, state="off"), Power(t_s=90.0, state="proved-dead")
    new = Replaced(t_s=150.0, component="K1", note="welded")

    def told(*events):
        evidence = judge(unit, Visit(events=(draws, *events))).evidence
        (stop,) = standing(evidence)
        return make_safe(evidence, evidence.state_at(200.0), stop.finding)

    assert told().done == "" and told().opens == ("C1",)
    assert told(*off).done == "breaker of circuit C1 off since 1:10"
    mended = told(*off, new)
    assert mended.done == "breaker of circuit C1 off since 1:10; Heat relay K1 replaced: welded, 2:30"
    assert mended.mended and mended.acts == (
        "Prove it: power on with no heat called, G called for air, its amps read, at most 0:10.",
    )
