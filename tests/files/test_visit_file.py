"""The visit file: round trips, refusals by path, the command line, the published schema."""

from __future__ import annotations

import io
import json
import sys
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given

from plentar.cli.main import COMMANDS, main
from plentar.core.errors import BadInput
from plentar.core.judge.diagnosis import diagnose
from plentar.core.judgement import FindingCode, SlipCode
from plentar.core.unit.naming import said_of
from plentar.core.visit.evidence import Evidence
from plentar.files.device_json import control_to_json
from plentar.files.events_json import MODELS, event_from_json, event_to_json
from plentar.files.schema import schema_text
from plentar.files.unit_json import UnitJson, unit_to_json
from plentar.files.visit_file import parse_visit_file, write_visit_file
from plentar.store.demo.plates import plates
from tests.cases import CALL, DEAD, TWO, VOLTS, amps, visit_of
from tests.strategies import kit_units

EVENTS = [
    VOLTS,
    CALL,
    {**amps(310, "E1", 20.4), "lead_s": 30, "note": "loud"},
    amps(320, "E2", 0.0),
    {"t": 330, "observe": "on", "part": "S1.2"},
    *DEAD,
    {"t": 530, "read": "ohms", "at": "S1.1", "value": "OL", "driven": True},
    {"t": 600, "replaced": "S1"},
    {"t": 700, "power": "on", "circuit": "C1"},
    {"t": 710, "calls": ["G", "W1"], "lifted": True},
]


def document(**changes):
    visit = {"complaint": "no-heat", "events": EVENTS}
    return {"format": "plentar-visit", "version": 1, "unit": unit_to_json(TWO), "visit": visit, **changes}


@given(kit_units())
def test_units_round_trip(unit):
    assert UnitJson.model_validate(json.loads(json.dumps(unit_to_json(unit)))).to_core() == unit


def test_a_name_that_is_printed_in_the_unit_is_said_with_its_mark_and_kept():
    plate = unit_to_json(TWO)
    for part, name in (
        (plate["elements"][1], "HTR 2"),
        (plate["controls"][0], "SEQ A"),
        (plate["circuits"][0], "CKT 1"),
    ):
        part["name"] = name
    plate["controls"][0]["switches"][0]["name"] = "M1-M2"
    unit = UnitJson.model_validate(plate).to_core()
    assert unit_to_json(unit) == plate
    said = {name: str(said_of(unit, name)) for name in ("E1", "E2", "S1.1", "S1.2", "S1.coil", "C1", "C1.l1")}
    assert said == {
        "E1": "element E1",
        "E2": "element HTR 2 (E2)",
        "S1.1": "sequencer SEQ A (S1), switch M1-M2 (1)",
        "S1.2": "sequencer SEQ A (S1), switch 2",
        "S1.coil": "sequencer SEQ A (S1), coil",
        "C1": "circuit CKT 1 (C1)",
        "C1.l1": "heater lug L1 of circuit CKT 1 (C1)",
    }
    text = str(next(s.words for s in diagnose(Evidence(unit, visit_of(*EVENTS[:4]))).suspects))
    assert "HTR 2 (E2)" in text or "SEQ A (S1)" in text


def test_demo_plates_round_trip_through_the_file():
    for unit in plates().values():
        text = write_visit_file(unit_to_json(unit), {"events": []})
        assert parse_visit_file(text).to_core()[0] == unit


def test_events_round_trip():
    visit = visit_of(*EVENTS)
    assert [event_to_json(event) for event in visit.events] == EVENTS


EVERY_FORM = [
    {"t": 1, "power": "proved-dead", "circuit": "C1"},
    {"t": 2, "calls": [], "lifted": False},
    {"t": 3, "lead_s": 4.0, "clock": 2.0, "calls": ["G", "W1"], "lifted": True},
    {"t": 4, "read": "ohms", "at": "S1.1", "value": "OL", "driven": True, "meter": "blue", "note": "n"},
    {"t": 5, "read": "tone", "at": "TL1", "value": True},
    {"t": 6, "read": "tone", "at": "TL1", "value": False},
    {"t": 7, "read": "amps", "at": "S1.coil", "value": 0.0, "turns": 10},
    {"t": 8, "observe": "cycling", "part": "E1"},
    {"t": 9, "replaced": "E1", "note": "like for like"},
    {"t": 10, "did": "remade", "part": "E1"},
    {"t": 11, "wires": "restored"},
    {"t": 12, "tested": "BR", "pair": ["a", "b"], "ohms": 0.0, "new": True, "part": "relay-spdt"},
    {"t": 13, "tested": "BR", "pair": ["a", "b"], "tone": False},
    {"t": 14, "tested": "BR", "pair": ["a", "b"], "ohms": "OL", "driven": True},
    {"t": 15, "tried": "BR", "acted": False},
    {"t": 16, "tried": "BR", "acted": True, "after_s": 0.0},
    {"t": 17, "felt": "hums", "part": "blower"},
    {"t": 18, "swap": "BR", "part": "relay-spdt", "sheet": [{"id": "1", "old": "a", "new": "b", "to": "R"}]},
    {"t": 19, "wire": "1", "of": "BR", "is": "off", "renewed": "spade"},
]


@pytest.mark.parametrize("body", EVERY_FORM)
def test_every_form_of_every_kind_is_written_as_it_was_read(body):
    assert event_to_json(event_from_json(body)) == body


def test_every_kind_has_a_form_here_and_takes_a_device():
    assert {event_from_json(body).name for body in EVERY_FORM} == set(MODELS)
    [relay] = [control_to_json(c) for c in TWO.controls]
    body = {"t": 9, "replaced": relay["id"], "by": relay}
    assert event_to_json(event_from_json(body)) == body
    assert event_from_json(body).by == TWO.controls[0]


def change(path: str, value):
    whole = json.loads(json.dumps(document()))
    *steps, last = [int(s) if s.isdigit() else s for s in path.split(".")]
    place = whole
    for step in steps:
        place = place[step]
    place[last] = value
    return json.dumps(whole)


@pytest.mark.parametrize(
    ("where", "value", "path"),
    [
        ("format", "other", "format"),
        ("version", 2, "version"),
        ("surprise", 1, "surprise"),
        ("unit.elements.0.rated_kw", 0, "unit.elements[0].rated_kw"),
        ("unit.elements.0.rated_kw", "5", "unit.elements[0].rated_kw"),
        ("unit.elements.0.rung.1", "FL9", "unit.elements[0].rung[1]"),
        ("unit.elements.1.rung.1", "FL1", "unit.elements[1].rung[1]"),
        ("unit.elements.0.id", "ground", "unit.elements[0].id"),
        ("unit.limits.0.id", "FL1", "unit.links[0].id"),
        ("unit.controls.0.call", {"through": "S1.1"}, "unit.controls[0].call.through"),
        ("unit.controls.0.switches.0.on_s", [20, 1], "unit.controls[0].switches[0]"),
        ("unit.blower.interlock.tap", "FL1", "unit.blower.interlock.tap"),
        ("visit.events.0.at", "C9", "visit.events[0].at"),
        ("visit.events.1.t", 0.5, "visit.events[1].t"),
        ("visit.events.0.value", None, "visit.events[0].value"),
        ("visit.events.0.power", "on", "visit.events[0]"),
        ("visit.complaint", "bored", "visit.complaint"),
    ],
)
def test_refusals_name_the_path(where, value, path):
    with pytest.raises(BadInput) as caught:
        parse_visit_file(change(where, value))
    assert caught.value.path == path


@pytest.mark.parametrize("text", ["", "[]", "{", "nul", "NaN", b"\xff", "[" * 100_000])
def test_what_is_no_visit_file_is_refused(text):
    with pytest.raises(BadInput):
        parse_visit_file(text)


@pytest.mark.slow
def test_schema_is_fresh_and_agrees_with_the_reader():
    committed = Path("docs/visit-file.schema.json").read_text(encoding="utf-8")
    assert committed == schema_text()
    schema = json.loads(committed)
    jsonschema.Draft202012Validator.check_schema(schema)
    validator = jsonschema.Draft202012Validator(schema)
    assert not list(validator.iter_errors(document(expect={"top": []})))
    for where, value in [("format", "x"), ("unit.elements.0.rated_kw", 0), ("visit.events.0.t", -1)]:
        assert list(validator.iter_errors(json.loads(change(where, value))))


def test_the_schema_lists_every_code():
    schema = json.loads(schema_text())
    assert schema["x-codes"]["findings"] == sorted(map(str, FindingCode))
    assert "house-time" in schema["x-codes"]["findings"]
    assert schema["x-codes"]["slips"] == sorted(map(str, SlipCode))
    assert "Not judged yet" not in json.dumps(schema)


def test_judge_prints_the_contract(tmp_path, capsys):
    file = tmp_path / "visit.json"
    file.write_text(json.dumps(document()), encoding="utf-8")
    assert main(["judge", str(file), "--json"]) == 0
    answer = json.loads(capsys.readouterr().out)
    assert answer["format"] == "plentar-judgement"
    assert [e["verdict"] for e in answer["elements"]] == ["in-band", "dead"]
    assert answer["elements"][0]["nominal_amps"] == 20.83
    file.write_text(change("unit.elements.0.rated_kw", -1), encoding="utf-8")
    assert main(["judge", str(file)]) == 2
    said = capsys.readouterr().err
    assert said.startswith(f"{file}: unit.elements[0].rated_kw: ")
    assert said.count("\n") == 1
    assert main(["judge", str(tmp_path / "none.json")]) == 2


def test_judge_stream_answers_each_line_and_goes_on(monkeypatch, capsys):
    lines = [json.dumps(document()), "not json", change("visit.events.0.at", "C9"), json.dumps(document())]
    stream = io.TextIOWrapper(io.BytesIO("\n".join(lines).encode()))
    monkeypatch.setattr(sys, "stdin", stream)
    assert main(["judge", "-"]) == 0
    first, second, third, last = map(json.loads, capsys.readouterr().out.splitlines())
    assert first == last
    assert second["error"]["path"] == "$"
    assert third["error"]["path"] == "visit.events[0].at"


@pytest.mark.slow
def test_every_command_has_help_with_an_example(capsys):
    readme = Path("README.md").read_text(encoding="utf-8")
    for name in COMMANDS:
        assert main([name, "--help"]) == 0
        assert f"Example: ./plentar {name}" in " ".join(capsys.readouterr().out.split())
        assert f"./plentar {name}" in readme
    assert main(["nothing-of-the-kind"]) == 2
    assert main(["predict", "none.json"]) == 2, "an option that is required"
