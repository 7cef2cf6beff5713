"""Stops that hold: raised by what was read, kept through what comes after, ended as they may be."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest

from plentar.core.door import bars_of
from plentar.core.judge.diagnosis import diagnose
from plentar.core.judgement import Judgement
from plentar.core.safety.latch import standing
from plentar.core.safety.wires_off import wires_off
from plentar.core.unit.parts import Conductor
from plentar.core.visit.evidence import Evidence
from plentar.files.unit_json import unit_to_json
from plentar.files.visit_file import parse_visit_file
from tests.cases import CALL, TWO, VOLTS, amps, judged, visit_of
from tests.kits import Kit, build_kit

SPLIT = build_kit(
    Kit((4800.0, 4800.0, 4800.0), 240, "double-sequencers", circuits=2), "split", "Two circuits"
)
ONE, OTHER = (circuit.id for circuit in SPLIT.circuits)
PROVED = {"t": 40, "power": "proved-dead"}


def volts(t, at, value, **more):
    return {"t": t, "read": "volts", "at": at, "value": value, **more}


def ohms(t, at, value, **more):
    return {"t": t, "read": "ohms", "at": at, "value": value, **more}


def open_stops(judgement: Judgement) -> list[tuple[str, str]]:
    return sorted((str(f.code), f.component) for f in judgement.stops)


def refused(judgement: Judgement, *, power=(), calls=None) -> str:
    evidence = judgement.evidence
    last_s = evidence.visit.events[-1].t_s
    called = None if calls is None else frozenset(calls)
    return bars_of(judgement).refusal(evidence.state_at(last_s), power, called)


def proposed(*events, unit=TWO, **more) -> list[tuple[str, object]]:
    found = diagnose(Evidence(unit, visit_of(*events, **more))).next
    return [(reading.at, reading.setting) for reading in found]


# -- recorded dead, and alive ------------------------------------------------------------------


@pytest.mark.parametrize(
    "live",
    [
        volts(150, OTHER, 238),
        volts(150, f"{OTHER}.l1:ground", 119),
        amps(150, f"{OTHER}.l2", 19.4),
        amps(150, SPLIT.elements[-1].id, 19.4),
    ],
    ids=["the lugs", "one leg", "a feed", "an element"],
)
def test_what_is_live_on_a_proved_unit_voids_the_proof_of_all(live):
    judgement = judged(PROVED, live, unit=SPLIT)
    assert ("live-when-off", OTHER) in open_stops(judgement)
    assert not judgement.evidence.state_at(151).proved_dead
    after = judged(PROVED, live, ohms(200, "E1", 12.0), unit=SPLIT)
    assert not after.evidence.taken[-1].counts, "ohms are refused on every circuit"
    assert not proposed(PROVED, live, unit=SPLIT)
    assert refused(judgement, power=[ONE])


def test_a_new_proof_of_every_circuit_ends_it_and_of_one_does_not():
    live = volts(150, OTHER, 238)
    one = {"t": 300, "power": "proved-dead", "circuit": OTHER}
    assert open_stops(judged(PROVED, live, one, unit=SPLIT)), "the other was proved before it was seen"
    both = judged(PROVED, live, one, {"t": 330, "power": "proved-dead", "circuit": ONE}, unit=SPLIT)
    assert not open_stops(both)
    assert both.evidence.state_at(331).proved_dead
    again = judged(PROVED, live, {"t": 300, "power": "proved-dead"}, volts(320, OTHER, 0.2), unit=SPLIT)
    assert not open_stops(again)
    assert (
        judged(PROVED, live, {"t": 300, "power": "proved-dead"}, ohms(340, "E1", 12.0), unit=SPLIT)
        .evidence.taken[-1]
        .counts
    )


def test_what_may_be_a_ghost_voids_the_proof_and_low_impedance_tells():
    ghost = judged(PROVED, volts(150, OTHER, 31), unit=SPLIT)
    assert not open_stops(ghost)
    assert not ghost.evidence.state_at(151).proved_dead
    assert [str(f.level) for f in ghost.findings if f.code == "live-when-off"] == ["watch"]
    assert open_stops(judged(PROVED, volts(150, OTHER, 31, low_z=True), unit=SPLIT))
    little = judged(PROVED, volts(150, OTHER, 4), unit=SPLIT)
    assert little.evidence.state_at(151).proved_dead
    assert not [f for f in little.findings if f.code == "live-when-off"]


def test_the_line_side_the_other_circuit_and_a_driven_coil_are_no_such_case():
    off = {"t": 40, "power": "off", "circuit": OTHER}
    for harmless in (
        volts(150, f"{OTHER}.line", 240),
        volts(150, ONE, 239),
        volts(150, f"{OTHER}.line.l1:{OTHER}.l1", 120),
    ):
        assert not open_stops(judged(off, harmless, unit=SPLIT))
    coil = judged(PROVED, volts(150, f"{SPLIT.controls[0].id}.coil", 25), unit=SPLIT)
    assert coil.evidence.state_at(151).proved_dead


def test_a_struck_entry_does_not_restore_the_proof():
    document = {
        "format": "plentar-visit",
        "version": 1,
        "unit": unit_to_json(SPLIT),
        "visit": {
            "events": [PROVED, ohms(200, "E1", 12.0)],
            "struck": [{"event": volts(150, OTHER, 238), "reason": "typed on the wrong call"}],
        },
    }
    unit, visit = parse_visit_file(json.dumps(document)).to_core()
    evidence = Evidence(unit, visit)
    assert not evidence.state_at(201).proved_dead
    assert not evidence.taken[-1].counts
    assert not standing(evidence)


# -- latched -----------------------------------------------------------------------------------

DRAWS = amps(900, "E1", 20.3)
OFF = {"t": 1000, "power": "off"}
DEAD = {"t": 1020, "power": "proved-dead"}
ON = {"t": 2000, "power": "on"}


@pytest.mark.parametrize(
    "later",
    [
        [amps(960, "E1", 0.0)],
        [amps(960, "E2", 0.0), amps(970, "E2", 0.0)],
        [{"t": 950, "calls": ["W1"]}, amps(960, "E1", 20.3)],
        [OFF],
        [OFF, DEAD, ohms(1100, "E1", 11.0)],
        [amps(960, "E1", 0.0), OFF, DEAD, {"t": 1400, "replaced": "S1"}],
    ],
    ids=["a limit has opened", "another strip", "called over it", "off", "its ohms", "mended, not read"],
)
def test_a_draw_without_a_call_stays(later):
    assert ("draw-without-call", "E1") in open_stops(judged(VOLTS, DRAWS, *later))


def test_two_readings_as_expected_in_the_same_state_say_that_it_was_misread():
    twice = [amps(960, "E1", 0.0), amps(990, "E1", 0.1)]
    assert not open_stops(judged(VOLTS, DRAWS, *twice))
    other_state = [amps(960, "E1", 0.0), {"t": 970, "calls": ["G"]}, amps(990, "E1", 0.1)]
    assert open_stops(judged(VOLTS, DRAWS, *other_state))


def test_while_it_stands_only_its_act_is_proposed():
    """First the breaker: whatever is proposed begins with it."""
    for _, setting in proposed(VOLTS, DRAWS):
        assert setting.power == "proved-dead"
    barred = judged(VOLTS, DRAWS, OFF)
    assert "C1" in refused(barred, power=["C1"])
    assert "W1" in refused(barred, calls={"W1"})
    assert not refused(barred, calls={"G"})


def test_a_repair_permits_one_guarded_step_and_its_reading_ends_the_stop():
    mended = [VOLTS, DRAWS, OFF, DEAD, {"t": 1400, "replaced": "S1"}]
    assert not refused(judged(*mended), power=["C1"])
    proved = judged(*mended, ON, amps(2012, "E1", 0.0))
    assert not open_stops(proved) and not refused(proved, power=["C1"])
    unread = judged(*mended, ON, {"t": 2100, "power": "off"})
    assert open_stops(unread) and refused(unread, power=["C1"]), "the step is over, and nothing was read"
    again = judged(*mended, ON, amps(2012, "E1", 19.8), {"t": 2100, "power": "off"})
    assert open_stops(again) and refused(again, power=["C1"])


def test_whether_it_draws_with_the_wires_off_is_tried_once_before_a_repair():
    """By gate 3: dead, the thermostat wires lifted, the fan by jumper, ten seconds. It ends nothing and the
    judge never proposes it; once it was made, or the wires are back, the breaker stays open."""
    drawn = [VOLTS, amps(100, "E1", 20.6)]
    off, dead = {"t": 120, "power": "off"}, {"t": 300, "power": "proved-dead"}
    lifted, on = {"t": 320, "wires": "lifted"}, {"t": 340, "power": "on"}
    fan, none = {"t": 340, "calls": ["G"]}, amps(345, "E1", 0.0)

    def step(*events, stands="draw-without-call"):
        evidence = Evidence(TWO, visit_of(*drawn, *events))
        [stop] = standing(evidence)
        assert str(stop.finding.code) == stands
        found = wires_off(evidence, evidence.state_at(events[-1]["t"] if events else 100), stop)
        return found and str(found.step)

    assert [step(), step(off), step(off, dead)] == [None, "prove", "lift"]
    assert step(off, dead, lifted) == "read"
    assert refused(judged(*drawn, off, dead), power=["C1"])
    assert not refused(judged(*drawn, off, dead, lifted), power=["C1"])
    assert all(setting.power != "on" for _, setting in proposed(*drawn, off, dead, lifted))
    assert step(off, dead, lifted, on, fan) == "open"
    assert step(off, dead, lifted, on, fan, none) is None
    assert not refused(judged(*drawn, off, dead, lifted, on, fan, none), power=["C1"])
    made = [off, dead, lifted, on, fan, none, {"t": 350, "power": "off"}, {"t": 500, "power": "proved-dead"}]
    again = [*made, {"t": 510, "wires": "restored"}, {"t": 520, "wires": "lifted"}]
    for events in (made, again, [off, dead, lifted, {"t": 330, "wires": "restored"}]):
        assert step(*events) is None
        assert refused(judged(*drawn, *events), power=["C1"])
    # Lifted with the power off and not proved, it is no such test; raised with the wires off, it was made.
    assert refused(judged(*drawn, off, {"t": 130, "wires": "lifted"}), power=["C1"])
    early = [VOLTS, off | {"t": 10}, lifted | {"t": 12}, on | {"t": 14}, drawn[1], off, dead, lifted]
    assert refused(judged(*early), power=["C1"])


def test_an_answer_lowers_the_banner_and_covers_what_was_known():
    answer = {"t": 1010, "code": "draw-without-call", "component": "E1", "how": "breaker off and locked"}
    answered = judged(VOLTS, DRAWS, OFF, answered=[answer])
    assert not open_stops(answered) and not answered.findings
    assert [f.code for f in answered.standing] == ["draw-without-call"], "not ended: not in service"
    assert not refused(answered, power=["C1"])
    over = judged(VOLTS, DRAWS, OFF, ON, {"t": 2100, "power": "off"}, answered=[answer])
    assert open_stops(over)
    future = {**answer, "t": 9000, "events": 2}
    seen_again = judged(VOLTS, DRAWS, amps(1500, "E1", 20.1), answered=[future])
    assert open_stops(seen_again), "it covers two events, whatever its own time says"


GROUND = ohms(1100, "E2.in:ground", 14.0)


@pytest.mark.parametrize(
    ("later", "stays"),
    [
        ([ohms(1160, "E2.in:ground", "OL")], True),
        ([ohms(1160, "E2.in:ground", "OL"), ohms(1180, "E2.in:ground", "OL")], False),
        ([{"t": 1160, "did": "stage-off", "part": "E2"}], False),
        ([{"t": 1160, "did": "stage-off", "part": "E1"}], True),
        ([{"t": 1160, "replaced": "E2"}], True),
        ([{"t": 1160, "replaced": "E2"}, ohms(1180, "E2.in:ground", "OL")], False),
        ([{"t": 1160, "replaced": "E1"}, ohms(1180, "E2.in:ground", "OL")], True),
    ],
)
def test_a_leak_that_comes_and_goes_is_still_one(later, stays):
    judgement = judged(OFF, DEAD, GROUND, *later)
    assert (("element-to-ground", "E2") in open_stops(judgement)) is stays
    if stays and len(later) == 1 and "replaced" not in later[0]:
        assert refused(judgement, calls={"W1"}) and refused(judgement, power=["C1"])


def test_a_tone_to_the_frame_is_a_ground():
    tone = {"t": 1100, "read": "tone", "at": "E2.in:ground", "value": True}
    assert open_stops(judged(OFF, DEAD, tone)) == [("element-to-ground", "E2")]
    silent = {**tone, "value": False}
    assert not open_stops(judged(OFF, DEAD, silent))
    assert open_stops(judged(OFF, DEAD, tone, {**silent, "t": 1130}, {**silent, "t": 1150})), (
        "no megohm is heard"
    )


def test_heat_without_air_is_ended_by_air_with_heat_and_not_by_the_fan():
    heat = [VOLTS, CALL, amps(300, "E1", 20.4), amps(330, "blower", 0.0)]
    assert open_stops(judged(*heat)) == [("heat-without-blower", "blower")]
    ended = [*heat, {"t": 350, "calls": ["G"]}, amps(365, "blower", 2.2)]
    assert open_stops(judged(*ended)), "the fan’s own call says nothing of the tie"
    mended = [
        *ended,
        {"t": 400, "power": "off"},
        {"t": 420, "power": "proved-dead"},
        {"t": 700, "replaced": "BR"},
    ]
    step = [
        {"t": 800, "power": "on"},
        {"t": 805, "calls": ["W1"]},
        amps(900, "E1", 20.4),
        amps(908, "blower", 2.2),
    ]
    assert not refused(judged(*mended), power=["C1"])
    assert not open_stops(judged(*mended, *step))


def test_a_bridged_limit_is_a_stop_once_heat_can_be_called_until_it_is_unbridged():
    bridge = {"t": 1100, "did": "bridged", "part": "TL1"}
    assert not open_stops(judged(OFF, DEAD, bridge)), "with all off nothing can be called"
    on = judged(OFF, DEAD, bridge, ON)
    assert open_stops(on) == [("limit-bridged", "TL1")]
    off_again = [OFF, DEAD, bridge, ON, {"t": 2010, "power": "off"}]
    assert open_stops(judged(*off_again))
    assert refused(judged(*off_again), calls={"W1"})
    assert not open_stops(judged(*off_again, {"t": 2060, "did": "unbridged", "part": "TL1"}))


def test_a_burnt_lug_is_mended_looked_at_and_proved_by_its_volts_under_load():
    burnt = {"t": 30, "item": "lugs", "state": "burnt"}
    fine = {"t": 1600, "item": "lugs", "state": "fine"}
    remade = {"t": 1500, "did": "remade", "part": "C1"}
    base = [VOLTS, OFF, DEAD]
    assert open_stops(judged(*base, remade, looked=[burnt])), "nobody has looked again"
    looked = judged(*base, remade, looked=[burnt, fine])
    assert open_stops(looked) and not refused(looked, power=["C1"], calls={"W1", "G"})
    load = [
        {"t": 2050, "calls": ["G", "W1"]},
        amps(2300, "C1", 43.0),
        volts(2320, "C1.line", 240.0),
        volts(2340, "C1", 239.0),
    ]
    assert not open_stops(judged(*base, remade, ON, *load, looked=[burnt, fine]))


# -- current that goes home another way --------------------------------------------------------


def test_legs_that_differ_with_nothing_called_are_ground_current():
    idle = judged(amps(10, "C1.l1", 0.0), amps(40, "C1.l2", 7.6))
    assert ("ground-current", "C1") in open_stops(idle)
    assert not open_stops(judged(amps(10, "C1.l1", 0.1), amps(40, "C1.l2", 0.9)))
    heat = [VOLTS, CALL]
    assert not open_stops(judged(*heat, amps(400, "C1.l1", 43.1), amps(430, "C1.l2", 40.2)))
    assert ("ground-current", "C1") in open_stops(
        judged(*heat, amps(400, "C1.l1", 43.1), amps(430, "C1.l2", 36.0))
    )
    late = judged(*heat, amps(400, "C1.l1", 43.1), amps(530, "C1.l2", 36.0))
    assert not open_stops(late), "no pair: more than two minutes between"
    window = judged(*heat, amps(100, "C1.l1", 2.2), amps(130, "C1.l2", 23.0))
    assert not open_stops(window), "a stage came on between"


def test_a_difference_of_one_rung_is_clamped_again_before_it_is_a_stop():
    pair = [VOLTS, CALL, amps(400, "C1.l1", 43.1), amps(430, "C1.l2", 22.3)]
    assert ("ground-current", "C1") not in open_stops(judged(*pair))
    again = [amps(460, "C1.l1", 43.0), amps(480, "C1.l2", 22.2)]
    assert ("ground-current", "C1") in open_stops(judged(*pair, *again))
    good = [amps(460, "C1.l1", 43.0), amps(480, "C1.l2", 42.8)]
    assert not open_stops(judged(*pair, *good))


def test_legs_far_apart_that_add_up_are_a_stop_and_bar_all_but_volts():
    apart = judged(VOLTS, volts(10, "C1.l1:ground", 71), volts(30, "C1.l2:ground", 170))
    assert open_stops(apart) == [("leg-unbalance", "C1")]
    assert bars_of(apart).reading_refusal(apart.evidence.taken[0].reading.quantity) == ""
    assert refused(apart, calls={"G"})
    one_dead = judged(VOLTS, volts(10, "C1.l1:ground", 121), volts(30, "C1.l2:ground", 60))
    assert not open_stops(one_dead), "an open pole is thought of first"
    wye = replace(TWO, circuits=(replace(TWO.circuits[0], rated_volts=208.0),))
    read = [volts(1, "C1", 207), volts(10, "C1.l1:ground", 92), volts(30, "C1.l2:ground", 141)]
    assert open_stops(judged(*read, unit=wye)) == [("leg-unbalance", "C1")]


# -- measured load -----------------------------------------------------------------------------


def test_amps_above_a_contacts_print_are_its_rating_whatever_the_plate_says():
    small = replace(
        TWO.controls[0], switches=tuple(replace(s, contact_amps=22.0) for s in TWO.controls[0].switches)
    )
    unit = replace(TWO, controls=(small,))
    assert not [f for f in judged(unit=unit).findings if f.code == "contact-rating"]
    over = judged(VOLTS, CALL, amps(400, "E1", 24.1), unit=unit)
    (found,) = [f for f in over.findings if f.code == "contact-rating"]
    assert (found.component, found.level, found.numbers["measured_amps"]) == (
        small.switches[0].id,
        "repair",
        24.1,
    )


# -- joints without a clamp ---------------------------------------------------------------------


def test_volts_across_a_closed_switch_are_a_joint_by_the_plates_amps():
    """5 V across a switch that is called past its window, nobody clamped: 5 × 20.8 A are over 100 W."""
    hot = judged(VOLTS, CALL, volts(320, "S1.1", 5.0))
    (joint,) = [f for f in hot.findings if f.code == "joint-heat"]
    assert (str(joint.level), joint.component) == ("stop-now", "S1.1")
    assert joint.numbers["watts"] == pytest.approx(5 * 5000 / 240, rel=0.01)
    for nothing_flows in (amps(300, "FL1", 0.0), volts(300, "TL1", 239)):
        assert not judged(VOLTS, CALL, nothing_flows, volts(320, "S1.1", 5.0)).stops
    assert not judged(VOLTS, CALL, volts(320, "S1.1", 31.0)).stops, "more may be a ghost"
    assert not judged(VOLTS, CALL, volts(12, "S1.1", 5.0)).stops, "it need not be closed yet"


@pytest.mark.parametrize(
    ("across", "level"), [(0.3, None), (0.62, "watch"), (0.9, "repair"), (1.6, "stop-now")]
)
def test_a_limit_has_discs_of_its_own(across, level):
    """At 20 A: 6 W good; 12.4 W as read and 6.4 for certain; 12 W; 32 W."""
    found = judged(VOLTS, CALL, amps(300, "E1", 20.0), volts(320, "TL1", across)).findings
    assert [str(f.level) for f in found if f.code == "joint-heat"] == ([level] if level else [])


def test_an_answer_alone_never_makes_the_judge_propose_power():
    """Answered with the breaker off: ohms are proposed; once it is mended, the step that proves it."""
    answer = {"t": 1010, "code": "draw-without-call", "component": "E1", "how": "breaker off and locked"}
    answered = proposed(VOLTS, DRAWS, OFF, answered=[answer], complaint="heat-will-not-stop")
    assert answered
    assert all(setting.power == "proved-dead" for _, setting in answered)


@pytest.mark.parametrize("part", ["E2", "S1", "W1"])
def test_a_stage_a_device_or_a_call_left_off_answers_for_a_breaker_over_its_wire(part):
    wire = Conductor("10", "copper", 90, 75)
    unit = replace(TWO, circuits=(replace(TWO.circuits[0], breaker_amps=60, conductor=wire),))
    assert {"breaker-over-conductor", "conductor-under-load"} <= {
        f.code for f in judged(OFF, unit=unit).standing
    }
    left = judged(OFF, {"t": 1100, "did": "stage-off", "part": part}, unit=unit)
    assert not left.standing
    again = {"t": 1200, "did": "stage-on", "part": part}
    assert judged(OFF, {"t": 1100, "did": "stage-off", "part": part}, again, unit=unit).standing
