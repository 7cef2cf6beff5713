"""What was really done: work, wires, tone, stages left off, another kind of device, and the state
that stands beside every reading."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.door import judge, judge_checked, judge_reading, model_of
from plentar.core.errors import BadInput
from plentar.core.expected import Asked
from plentar.core.expected.rules import expected_at
from plentar.core.judgement import FindingCode
from plentar.core.quantity import Quantity
from plentar.core.timing.tape import tape_of
from plentar.core.unit.parts import Conductor
from plentar.core.unit.points import resolve
from plentar.core.visit.events import Answered, check_visit
from plentar.core.visit.state import state_at, state_in_words
from plentar.files.visit_json import VisitJson
from tests.cases import TWO
from tests.kits import Kit, build_kit


def visit(*events: dict):
    return VisitJson.model_validate({"events": list(events)}).to_core()


DEAD = {"t": 0, "power": "proved-dead"}
DEVICES = {
    kit: build_kit(Kit((5000.0, 5000.0), 240, kit), kit, "")
    for kit in ("single-sequencers", "contactors", "relays-ac", "relays-dc")
}


@pytest.mark.parametrize("kit", DEVICES)
@pytest.mark.parametrize("driven", [False, True])
@pytest.mark.parametrize("quantity", [Quantity.OHMS, Quantity.TONE])
def test_every_contact_at_rest_and_driven(kit, driven, quantity):
    """A normally-open contact is open at rest and closed driven, a normally-closed one the other
    way round; what is due is right and its opposite is wrong."""
    unit = DEVICES[kit]
    evidence = judge_checked(unit, visit(DEAD)).evidence
    state = state_at(unit, evidence.visit.events, 1.0)
    shut, parted = (0.1, 1e9) if quantity is Quantity.OHMS else (1.0, 0.0)
    for name in (*unit.switch_by_id, "BR.no", "BR.nc"):
        due = expected_at(evidence, Asked(resolve(unit, name), quantity, state, driven=driven))
        closed_is_right = driven != (name == "BR.nc")
        assert due.judge(shut).good is closed_is_right, name
        assert due.judge(parted).good is not closed_is_right, name
        wrong = due.judge(parted if closed_is_right else shut)
        assert "right" not in wrong.meaning


def test_tone_is_told_from_ohms_and_counts_only_proved_dead():
    for bad in ({"read": "tone", "at": "S1.1", "value": 1}, {"read": "ohms", "at": "S1.1", "value": True}):
        with pytest.raises(ValueError, match="beep"):
            visit({"t": 0} | bad)
    judged = judge_checked(TWO, visit({"t": 0, "read": "tone", "at": "S1.1", "value": True}))
    assert not judged.evidence.taken[0].counts
    with pytest.raises(BadInput):
        check_visit(TWO, visit(DEAD, {"t": 1, "read": "tone", "at": "C1", "value": True}))


@pytest.mark.parametrize("at", ["W1:ground", "R:ground", "S1.coil:ground", "blower:ground", "E1.in:ground"])
def test_ohms_to_ground_of_wires_coils_and_the_motor(at):
    judged = judge_checked(TWO, visit(DEAD, {"t": 1, "read": "ohms", "at": at, "value": 4000}))
    verdict = judge_reading(judged.evidence, judged.evidence.taken[0]).verdict
    assert verdict.good is False
    assert "1 MΩ" in verdict.meaning
    with pytest.raises(BadInput):
        resolve(TWO, "S1.coil:E1.in")


def test_a_stage_left_off_is_due_nothing_and_accuses_nobody():
    events = (
        {"t": 0, "did": "stage-off", "part": "E2", "note": "wire too thin"},
        {"t": 1, "calls": ["W1", "G"]},
        {"t": 400, "read": "amps", "at": "E1", "value": 20.6},
        {"t": 401, "read": "amps", "at": "E2", "value": 0.0},
    )
    judged = judge_checked(TWO, visit(*events))
    assert not [f for f in judged.findings if f.component == "E2"]
    of_e2 = judge_reading(judged.evidence, judged.evidence.taken[1])
    assert "left off" in of_e2.verdict.meaning
    assert not of_e2.taken.counts
    assert model_of(TWO, judged.evidence.visit.events, 401).read(Quantity.AMPS, "E2").value < 0.1
    back = judge_checked(
        TWO,
        visit(
            *events,
            {"t": 500, "did": "stage-on", "part": "E2"},
            {"t": 900, "read": "amps", "at": "E2", "value": 0.0},
        ),
    )
    assert FindingCode.ELEMENT_DEAD in {f.code for f in back.findings if f.component == "E2"}


def test_a_device_of_another_kind_takes_a_place_and_the_old_readings_stay_with_the_old():
    unit = DEVICES["relays-dc"]
    by = {"id": "K2", "type": "contactor", "call": "W1", "switches": [{"id": "K2.1"}]}
    done = visit(
        {"t": 1, "calls": ["W1", "G"]},
        {"t": 60, "read": "volts_dc", "at": "K2.coil", "value": 0},
        {"t": 61, "read": "volts", "at": "K2.rectifier", "value": 26},
        {"t": 70, "replaced": "K2", "by": by},
        {"t": 200, "read": "volts", "at": "K2.coil", "value": 26},
    )
    judged = judge(unit, done)
    assert [taken.counts for taken in judged.evidence.taken] == [False, False, True]
    assert judged.evidence.unit.control_by_id["K2"].type == "contactor"
    for wrong in ({"id": "K9"}, {"switches": [{"id": "K2.9"}]}):
        with pytest.raises(BadInput) as refused:
            check_visit(unit, visit({"t": 1, "replaced": "K2", "by": by | wrong}))
        assert refused.value.path.startswith("events[0].by")
    with pytest.raises(BadInput):
        check_visit(unit, visit({"t": 1, "replaced": "E1", "by": by | {"id": "E1"}}))


def test_what_the_fan_alone_draws_is_due_at_the_lugs():
    """A blower of 2.2 A: with the fan alone some of it is due in the feed; with nothing, none."""
    asked = visit({"t": 0, "calls": ["G"]})
    evidence = judge_checked(TWO, asked).evidence
    state = state_at(TWO, asked.events, 60.0)
    due = expected_at(evidence, Asked(resolve(TWO, "C1.l1"), Quantity.AMPS, state))
    assert due.judge(0.0).good is not True
    nothing = state_at(TWO, (), 60.0)
    quiet = expected_at(evidence, Asked(resolve(TWO, "E1"), Quantity.AMPS, nothing))
    assert quiet.judge(0.0).good is not False
    assert quiet.judge(20.0).good is False


def test_the_state_is_said_beside_a_reading():
    events = visit(
        {"t": 0, "power": "off"},
        {"t": 1, "wires": "lifted"},
        {"t": 2, "power": "on"},
        {"t": 10, "calls": ["W1"]},
        {"t": 70, "did": "stage-off", "part": "E2"},
    ).events
    said = [state_in_words(state_at(TWO, events, t_s)) for t_s in (0.5, 5.0, 75.0)]
    assert said == [
        "power off, nothing called",
        "nothing called, thermostat wires lifted",
        "W1 called by jumper for 1:05, E2 left off",
    ]
    dead = state_at(TWO, visit(DEAD).events, 1.0)
    assert state_in_words(dead, driven=True) == "proved dead, coil driven"


def test_a_lead_never_reaches_into_the_run_before():
    asked = visit(
        {"t": 0, "calls": ["W1"]}, {"t": 60, "calls": []}, {"t": 300, "lead_s": 600, "calls": ["W1"]}
    )
    tape = tape_of(TWO, asked)
    assert len(tape.runs) == 2
    assert tape.runs[0].ended_s == 60
    assert tape.runs[1].began_s >= 60


def test_a_clamp_that_shows_it_counts_as_seen():
    asked = visit(
        {"t": 0, "calls": ["W1"]},
        {"t": 400, "read": "amps", "at": "E1", "value": 20.1},
        {"t": 401, "read": "amps", "at": "E2", "value": 0.0},
    )
    first, second = (
        next(m for m in tape_of(TWO, asked).runs[0].moves if m.part == part and m.action == "on")
        for part in ("S1.1", "S1.2")
    )
    assert (first.word(500), second.word(500)) == ("shown", "not-seen")


def test_what_was_seen_of_a_part_before_its_repair_is_no_finding_after_it():
    late = ({"t": 0, "calls": ["W1"]}, {"t": 300, "observe": "on", "part": "S1.1"}, {"t": 310, "calls": []})
    assert FindingCode.SLOW_STAGE in {f.code for f in judge_checked(TWO, visit(*late)).findings}
    mended = judge_checked(TWO, visit(*late, {"t": 400, "replaced": "S1"}))
    assert FindingCode.SLOW_STAGE not in {f.code for f in mended.findings}
    cycled = ({"t": 0, "observe": "cycling", "part": "TL1"}, {"t": 9, "observe": "steady", "part": "TL1"})
    assert not judge_checked(TWO, visit(*cycled)).findings


def test_a_stage_left_off_answers_a_thin_wire_and_connected_again_opens_it():
    """10 kW at 240 V are 41.7 A on 10 AWG, 30 A at most; one strip of 20.8 A it carries."""
    thin = Conductor("10", "copper", termination_c=75)
    unit = replace(TWO, circuits=(replace(TWO.circuits[0], conductor=thin, plate=None),))
    off = {"t": 10, "did": "stage-off", "part": "E2"}
    answered = (Answered(20, "conductor-under-load", "C1", "E2 left off"),)

    def stops(*events: dict):
        said = replace(visit(*events), answered=answered if events else ())
        found = judge_checked(unit, said).stops
        return [f.code for f in found if f.code is FindingCode.CONDUCTOR_UNDER_LOAD]

    assert stops() == [FindingCode.CONDUCTOR_UNDER_LOAD]
    assert stops(off) == []
    assert stops(off, {"t": 90, "did": "stage-on", "part": "E2"}) == [FindingCode.CONDUCTOR_UNDER_LOAD]
