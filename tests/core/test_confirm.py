"""How far a decision is: open, likely by inference, clear once a reading at the part has said so."""

from __future__ import annotations

import pytest

from plentar.core.door import judge
from plentar.core.judge.diagnosis import diagnose
from plentar.core.unit.points import resolve
from plentar.files.judgement_json import judgement_to_json
from plentar.files.visit_json import VisitJson
from tests.kits import Kit, build_kit

STACK = build_kit(Kit((5000.0, 5000.0), 240, "stacked-sequencer"), "stack", "")
CALLED = ({"t": 0, "calls": ["W1", "G"]}, {"t": 400, "read": "volts", "at": "C1", "value": 240})


def read(t: float, quantity: str, at: str, value: float) -> dict:
    return {"t": t, "read": quantity, "at": at, "value": value}


def answered(complaint: str, *events: dict) -> dict:
    visit = VisitJson.model_validate({"complaint": complaint, "events": list(events)}).to_core()
    judgement = judge(STACK, visit)
    return judgement_to_json(judgement, diagnose(judgement.evidence))


def test_nothing_is_decided_before_anything_is_read():
    answer = answered("not-enough-heat", *CALLED)
    decision = answer["decision"]
    assert (decision["state"], decision["parts"], decision["confirm"]) == ("open", [], None)
    assert "off:E1" in decision["unread"] and "to-ground:E2" in decision["unread"]


def test_the_switch_that_does_not_close_is_clear_once_volts_stand_across_it():
    dead = (*CALLED, read(401, "amps", "E1", 20.4), read(402, "amps", "E2", 0))
    assert answered("not-enough-heat", *dead)["decision"]["state"] == "open"
    across = (*dead, read(410, "volts", "S1.coil", 25), read(420, "volts", "S1.2", 240))
    decision = answered("not-enough-heat", *across)["decision"]
    assert (decision["state"], decision["parts"], decision["confirm"]) == ("clear", ["S1"], None)


def test_what_draws_with_no_coil_volts_is_likely_until_it_is_read_itself():
    """A strip draws with nothing called and no volts at the coil: a welded switch by inference."""
    events = (
        read(1, "volts", "C1", 240),
        read(2, "amps", "E1", 20.4),
        read(3, "amps", "E2", 0),
        read(4, "volts", "S1.coil", 0),
        read(5, "volts", "W1", 0),
    )
    answer = answered("heat-will-not-stop", *events)
    decision = answer["decision"]
    assert (decision["state"], decision["parts"]) == ("likely", ["S1"])
    assert decision["confirm"] == answer["next"][0]
    assert resolve(STACK, decision["confirm"]["at"]).component in ("S1", "S1.1", "S1.2")
    off = ({"t": 6, "power": "proved-dead"}, read(180, "ohms", "S1.1", 0.1), read(181, "ohms", "S1.2", 1e9))
    assert answered("heat-will-not-stop", *events, *off)["decision"]["state"] == "clear"


@pytest.mark.parametrize(
    ("line", "leads"), [(242, "C1:open"), (0, "C1:no-supply")], ids=["breaker", "supply"]
)
def test_no_volts_at_the_lugs_wait_for_the_line_side(line, leads):
    """Dead lugs alone do not tell an open breaker from a supply that is off; a meter on the dead
    lugs shows 0 V, and that speaks against neither."""
    dead = (read(1, "volts", "R", 0), read(2, "volts", "C1", 0))
    before = answered("no-power", *dead)
    assert before["decision"]["state"] == "open"
    assert before["next"][0]["at"] == "C1.line"
    after = answered("no-power", *dead, read(3, "volts", "C1.line", line))
    assert after["suspects"][0]["fault"] == leads
    assert after["suspects"][0]["probability"] > 0.9


@pytest.mark.parametrize("volts", [0.0, 3.0, 24.0, 55.0])
def test_a_ghost_speaks_against_nobody(volts):
    """Two opens in one rung: what floats between them reads anything from 0 to 60 V."""
    dead = (*CALLED, read(401, "amps", "E1", 20.4), read(402, "amps", "E2", 0))
    told = (*dead, read(403, "volts", "S1.2", 240))
    answer = answered("not-enough-heat", *told, read(404, "volts", "E2.in:ground", volts))
    assert answer["suspects"][0]["fault"] == "S1.2:stuck-open"


def test_strips_that_all_draw_uncalled_are_one_stack_or_a_call_and_no_certainty():
    events = (read(1, "volts", "C1", 240), read(2, "amps", "E1", 20.4), read(3, "amps", "E2", 20.3))
    answer = answered("heat-will-not-stop", *events)
    led = {s["fault"]: s["probability"] for s in answer["suspects"][:2]}
    assert set(led) == {"S1:stuck-closed", "W1:always"}
    assert max(led.values()) < 0.9
    no_volts = answered("heat-will-not-stop", *events, read(4, "volts", "S1.coil", 0))
    assert no_volts["suspects"][0]["fault"] == "S1:stuck-closed"


def test_the_sound_unit_is_likely_first_and_clear_once_all_was_read():
    assert answered("check-up", *CALLED)["decision"]["state"] in ("open", "likely")
    every = (
        *CALLED,
        read(401, "amps", "E1", 20.4),
        read(402, "amps", "E2", 20.5),
        read(403, "amps", "blower", 2.2),
        {"t": 420, "calls": []},
        read(900, "amps", "E1", 0),
        read(901, "amps", "E2", 0),
    )
    answer = answered("check-up", *every)
    decision = answer["decision"]
    assert (decision["state"], decision["parts"], decision["confirm"]) == ("clear", [], None)
    assert decision["unread"] == ["to-ground:E1", "to-ground:E2", "tie", "joint:C1"]
    assert answer["suspects"][0]["fault"] == "none" and answer["suspects"][0]["probability"] >= 0.75
    asked = [(one["read"], one["at"], one["with"].get("power")) for one in answer["next"]]
    assert asked[:2] == [("ohms", "E1.in:ground", "proved-dead"), ("ohms", "E2.in:ground", "proved-dead")], (
        "the round goes on after it is clear"
    )
    short = answered("check-up", *every[:-2])
    assert [one["at"] for one in short["next"]][:1] == ["C1"], "the off test before the ohms"
    ground = [read(1500 + n, "ohms", f"E{n}.in:ground", 1e9) for n in (1, 2)]
    done = answered("check-up", *every, {"t": 1400, "power": "proved-dead"}, *ground)
    assert not [one for one in done["next"] if "ground" in one["at"]]
    assert not [code for code in done["decision"]["unread"] if code.startswith("to-ground")]


def test_a_sound_unit_is_not_clear_where_something_is_complained_of_and_little_speaks_for_it():
    """All in band on a call for heat: sound leads by a little, and is not said to be clear."""
    few = (
        *CALLED,
        read(401, "amps", "E1", 20.4),
        read(402, "amps", "E2", 20.5),
        read(403, "amps", "blower", 2.2),
    )
    answer = answered("not-enough-heat", *few, {"t": 420, "calls": []}, read(900, "amps", "C1", 0))
    sound = next(one for one in answer["suspects"] if one["fault"] == "none")
    assert sound["probability"] < 0.8
    assert answer["decision"]["state"] != "clear"


def test_a_repair_answers_the_complaint():
    """The second stage was dead; after its repair all is in band, and the sound unit leads."""
    done = (
        *CALLED,
        read(401, "amps", "E1", 20.4),
        read(402, "amps", "E2", 0),
        read(403, "volts", "S1.2", 240),
        {"t": 410, "calls": []},
        {"t": 420, "replaced": "S1"},
        {"t": 430, "calls": ["W1", "G"]},
        read(900, "amps", "E1", 20.4),
        read(901, "amps", "E2", 20.5),
        read(902, "amps", "blower", 2.2),
        {"t": 910, "calls": []},
        read(1500, "amps", "E1", 0),
        read(1501, "amps", "E2", 0),
    )
    assert answered("not-enough-heat", *done)["suspects"][0]["fault"] == "none"


def test_the_feed_after_the_call_tells_of_every_strip_and_of_the_blower():
    """The round as it is proposed ends: what the feed draws with the fan alone is the blower's."""
    round_ = (
        *CALLED,
        read(401, "amps", "E1", 20.4),
        read(402, "amps", "E2", 20.5),
        {"t": 420, "calls": ["G"]},
        read(900, "amps", "C1", 2.2),
    )
    assert answered("check-up", *round_)["decision"]["state"] == "clear"
    unread = (*round_[:-1], read(900, "amps", "E1", 0.0))
    assert answered("check-up", *unread)["decision"]["state"] != "clear"
