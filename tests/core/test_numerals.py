"""Numbers as they are typed off a meter."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.errors import BadInput
from plentar.core.quantity import parse_reading
from plentar.words.numbers import show
from tests.conftest import words


@pytest.mark.parametrize(
    ("typed", "value"),
    [
        ("20.6", 20.6),
        ("20,6", 20.6),
        ("0.87k", 870),
        ("0,87k", 870),
        ("1.2M", 1.2e6),
        (" 12 A ", 12),
        ("870 mΩ", 0.87),
        (".5", 0.5),
        ("5.", 5),
        ("OL", math.inf),
        ("o.l", math.inf),
        ("0", 0),
    ],
)
def test_typed_numbers(typed, value):
    assert parse_reading(typed) == pytest.approx(value)


@pytest.mark.parametrize("typed", ["", "abc", "1,234.5", "1 2", "--3", "1e5", "NaN", "inf", "1kk"])
def test_refused(typed):
    with pytest.raises(BadInput):
        parse_reading(typed)


@given(st.text(max_size=12))
def test_anything_typed_is_a_number_or_a_plain_refusal(typed):
    try:
        value = parse_reading(typed)
    except BadInput as bad:
        assert bad.reason
    else:
        assert not math.isnan(value)


@pytest.mark.parametrize(
    ("value", "text"), [(20.833, "20.8 A"), (99.97, "100 A"), (9.996, "10.0 A"), (0, "0 A")]
)
def test_shown(value, text):
    assert words(show(value, "A")) == text


def test_shown_ohms():
    assert [words(show(v, "Ω")) for v in (0.42, 420, 8700, 1.2e6, math.inf)] == [
        "0.420 Ω",
        "420 Ω",
        "8.70 kΩ",
        "1.20 MΩ",
        "OL Ω",
    ]
