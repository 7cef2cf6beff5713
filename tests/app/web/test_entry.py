"""The one way in: what forms send becomes typed values, or a complaint at its field."""

from __future__ import annotations

import uuid
from math import inf

import pytest
from hypothesis import given
from hypothesis import strategies as st
from werkzeug.datastructures import MultiDict

from plentar.core.errors import BadInput
from plentar.web.entry import Form, parse_entry
from plentar.web.handover.entry import CloseEntry, LineEntry
from plentar.web.quick.element import ElementEntry
from plentar.web.tape.entry import ConfirmEntry, SeenEntry
from plentar.web.units.entry import KIT_AT_FIRST, KitEntry, PlateEntry
from plentar.web.visits.entry import CallsEntry, PowerEntry, ReadingEntry, TakeEntry

ID = str(uuid.uuid4())


def form(**fields) -> MultiDict:
    return MultiDict({"client_id": ID} | fields)


def test_a_reading_is_parsed_as_people_type_it():
    entry = parse_entry(ReadingEntry, form(value="10,5k", at="E1", quantity="ohms", driven="yes"))
    assert (entry.value, entry.driven, entry.client_id) == (10500.0, True, uuid.UUID(ID))
    assert parse_entry(ReadingEntry, form(value="OL", at="E1", quantity="ohms")).value == inf


@pytest.mark.parametrize(
    ("kind", "fields", "path"),
    [
        (ReadingEntry, {"value": "much", "at": "E1", "quantity": "amps"}, "value"),
        (ReadingEntry, {"value": "1", "at": "", "quantity": "amps"}, "at"),
        (ReadingEntry, {"value": "1", "at": "E1", "quantity": "parsecs"}, "quantity"),
        (ReadingEntry, {"value": "1", "at": "E1", "quantity": "amps", "client_id": "1"}, "client_id"),
        (TakeEntry, {"at": "E1", "calls": "W1,W9"}, "calls"),
        (TakeEntry, {"at": "E1", "after_s": "-1"}, "after_s"),
        (TakeEntry, {"at": "E1", "power": "off"}, "power"),
        (PowerEntry, {"state": "perhaps"}, "state"),
        (CloseEntry, {}, "outcome"),
        (LineEntry, {"when": "now", "text": "  "}, "text"),
        (LineEntry, {"when": "some day", "text": "a new lug"}, "when"),
        (LineEntry, {"when": "now", "text": "a new lug", "price": "-1"}, "price"),
        (LineEntry, {"when": "now", "text": "a new lug", "due_on": "soon"}, "due_on"),
        (CloseEntry, {"outcome": "left-off", "left_note": "x" * 4001}, "left_note"),
        (SeenEntry, {"part": "S1.1", "action": "maybe"}, "action"),
        (SeenEntry, {"part": "S1.1", "action": "on", "t": "inf"}, "t"),
        (ElementEntry, {"kw": "900", "volts": "240"}, "kw"),
        (ElementEntry, {"kw": "5", "volts": "240", "measured": "5"}, "measured"),
        (KitEntry, KIT_AT_FIRST | {"elements": "9"}, "elements"),
        (KitEntry, KIT_AT_FIRST | {"tie": "rope"}, "tie"),
    ],
)
def test_what_does_not_fit_is_refused_at_its_field(kind, fields, path):
    with pytest.raises(BadInput) as refused:
        parse_entry(kind, form(**fields))
    assert refused.value.path == path
    assert refused.value.reason


def test_collections_take_every_value_of_their_name():
    ticked = MultiDict([("client_id", ID), ("state", "proved-dead"), ("proof", "a"), ("proof", "b")])
    assert parse_entry(PowerEntry, ticked).proof == {"a", "b"}
    ticked = MultiDict([("client_id", ID), ("event", "3"), ("event", "0")])
    assert parse_entry(ConfirmEntry, ticked).event == (3, 0)
    assert parse_entry(CallsEntry, form(calls="W1,G")).calls == {"W1", "G"}
    assert parse_entry(TakeEntry, form(at="E1")).lifted is None, "wires stay as they are"


def test_what_is_not_said_is_not_zero():
    assert parse_entry(ElementEntry, form(kw="5", volts="240", measured=" ")).measured is None
    assert parse_entry(PlateEntry, form(seen="some")).seen == 0


@given(st.dictionaries(st.text(max_size=12), st.text(max_size=30), max_size=6))
def test_no_form_crashes_an_entry(fields):
    for kind in (
        ReadingEntry,
        TakeEntry,
        CloseEntry,
        LineEntry,
        ElementEntry,
        KitEntry,
        PlateEntry,
        SeenEntry,
    ):
        try:
            parse_entry(kind, MultiDict(fields))
        except BadInput as refused:
            assert refused.reason


def test_a_form_shows_what_was_typed_and_the_complaint_at_its_field_alone():
    shown = Form({"kw": "much"}, BadInput("kw", "not a number"))
    assert (shown.value("kw"), shown.error("kw")) == ("much", "not a number")
    assert (shown.value("volts", 240), shown.error("volts")) == ("240", "")
