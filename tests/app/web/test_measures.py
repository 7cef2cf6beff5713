"""A shop that works in °C, L/s and m: it sees and types nothing else, and what is kept stays °F, CFM and ft."""

from __future__ import annotations

import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.quantity import DEGREES
from plentar.core.said import figure, plain, span
from plentar.words import text
from plentar.words.measures import Measures, kept, measuring, read_typed, shown
from tests.app.web.test_languages import pages, said

METRIC = Measures("C", "L/s", "m")
SHEETS = {
    "phone": "",
    "language": "en",
    "screens": "en",
    "currency": "",
    "scale": "C",
    "air": "L/s",
    "length": "m",
}


def test_by_hand():
    with measuring(METRIC):
        assert text(plain(170, "°F")) == "76.7\u202f°C"
        assert text(figure(30.0, DEGREES)) == "16.7\u202f°C", "a rise of 30 °F is no 30 °F"
        assert text(span(32.0, 212.0, "°F")) == "0–100\u202f°C"
        assert text(figure(1000.0, "CFM", 4)) == "472\u202fL/s"
        assert text(plain(100, "ft")) == "30.5\u202fm"
        assert text(figure(20.4, "A")) == "20.4\u202fA"
        assert read_typed("40", "°F") == read_typed("104 °F", "°F") == pytest.approx(104)
    assert text(figure(30.0, DEGREES)) == "30.0\u202f°F"
    assert read_typed("40 °C", "°F") == pytest.approx(104), "the scale that was typed counts"


@given(st.floats(-60, 5000), st.sampled_from(["°F", DEGREES, "CFM", "ft", "A"]))
def test_typed_as_it_is_shown_it_is_kept_as_it_was(value, unit):
    with measuring(METRIC):
        assert kept(shown(value, unit)[0], unit) == pytest.approx(value, abs=1e-9)


def test_a_visit_in_celsius_litres_and_metres(hands):
    hands.kit("71 Saltmarsh Lane", blower="yes")
    hands.post("/account/sheets", **SHEETS)
    hands.post("/account/judging", altitude_ft="300", band="plate")
    account = hands.page("/account")
    assert account.select_one("#altitude_ft")["value"] == "300"
    hands.part("TL1", opens_f="77", closes_f="60")
    hands.part("blower", rated_cfm="472", min_cfm="400")
    hands.part(
        "C1",
        **{
            "conductor.awg": "6",
            "conductor.material": "copper",
            "conductor.cable": "other",
            "conductor.length_ft": "12",
        },
    )
    plate = hands.plate()
    assert plate["limits"][0]["opens_f"] == pytest.approx(170.6)
    assert plate["blower"]["rated_cfm"] == pytest.approx(1000.1, abs=0.1)
    assert plate["circuits"][0]["conductor"]["length_ft"] == pytest.approx(39.37, abs=0.01)
    for part in ("TL1", "blower", "C1"):
        form = hands.page(f"{hands.unit}?part={part}").select_one("#panel form, form[action*='/plate/']")
        hands.part(
            part,
            **{i["name"]: i.get("value", "") for i in form.select("input[type=text], input:not([type])")},
        )
    assert hands.plate() == plate, "saved as it is shown, nothing moves"
    hands.begin("not-enough-heat")
    assert hands.file()["visit"]["settings"]["altitude_ft"] == pytest.approx(984.3, abs=0.1)
    hands.calls("W1", "G")
    hands.wait(400)
    hands.read("C1", "volts", 240)
    hands.amps(E1=20.6, E2=20.5)
    hands.read("return-air", "temp_f", 20)
    hands.read("supply-air", "temp_f", 96)
    temps = [e["value"] for e in hands.file()["visit"]["events"] if e.get("read") == "temp_f"]
    assert temps == [pytest.approx(68), pytest.approx(204.8)]
    found = {path: words for path, page in pages(hands.client, hands.bench, hands.unit, most=80) for words in said(page)
             if path not in ("/help/figures", "/account") and re.search(r"°F|\bCFM\b|\d\u202f?\s?ft\b", words)}  # fmt: skip
    assert not found
    assert re.search(r"96\.0\s°C", hands.page(f"{hands.bench}/log").text)
