"""Rated kilowatts → due numbers: the worked examples, and what must hold for any plate."""

from __future__ import annotations

import subprocess
import sys

import pytest
from hypothesis import given

from plentar.core.quantity import Band
from plentar.core.unit.ratings import Rating, Tolerance
from tests.strategies import ratings, volts


@pytest.mark.parametrize(
    ("kw", "rated", "at", "ohms", "amps", "watts"),
    [
        (5.0, 240, 240, 11.52, 20.83, 5000),
        (5.0, 240, 208, 11.52, 18.06, 3756),
        (4.8, 240, 240, 12.00, 20.00, 4800),
        (3.5, 240, 240, 16.46, 14.58, 3500),
        (5.0, 230, 240, 10.58, 22.68, 5444),
    ],
)
def test_worked_numbers(kw, rated, at, ohms, amps, watts):
    rating = Rating(kw * 1000, rated)
    assert rating.hot_ohms == pytest.approx(ohms, abs=0.005)
    assert rating.amps(at) == pytest.approx(amps, abs=0.005)
    assert rating.watts(at) == pytest.approx(watts, abs=1)


def test_heat_and_cold_ohms_of_five_kilowatts():
    rating = Rating(5000, 240)
    assert rating.heat_btuh(240) == pytest.approx(17_061, abs=0.5)
    assert rating.watts(208) / 5000 == pytest.approx(0.751, abs=5e-4)
    assert rating.part_cold_ohms.low == pytest.approx(9.87, abs=0.005)
    assert rating.part_cold_ohms.high == pytest.approx(12.80, abs=0.005)


def test_expected_band_of_the_contract_example():
    """241 V on 5 kW at 240 V: 18.15 … 22.71 A on the clamp."""
    band = Rating(5000, 240).expected_amps(Band(241, 241))
    assert (round(band.low, 2), round(band.high, 2)) == (18.15, 22.71)


@given(ratings, volts)
def test_amps_ohms_and_watts_agree(rating, at):
    assert rating.amps(at) * rating.hot_ohms == pytest.approx(at)
    assert rating.amps(at) ** 2 * rating.hot_ohms == pytest.approx(rating.watts(at))
    assert rating.heat_btuh(at) == pytest.approx(3.41214 * rating.amps(at) * at)


@given(ratings, volts)
def test_every_band_holds_the_nominal(rating, at):
    for school in Tolerance:
        part = rating.part_amps(Band(at, at), school)
        seen = rating.expected_amps(Band(at, at), school)
        assert seen.low < part.low <= rating.amps(at) <= part.high < seen.high
    assert rating.hot_ohms * 0.95 in rating.part_cold_ohms
    assert rating.expected_cold_ohms.low < rating.part_cold_ohms.low


@given(ratings, volts)
def test_amps_rise_with_volts_and_dead_is_below_every_band(rating, at):
    assert rating.amps(at * 1.01) > rating.amps(at)
    assert rating.dead_below_amps(at) < rating.expected_amps(Band(at, at)).low


@pytest.mark.slow
def test_the_core_loads_nothing_but_numpy_beside_the_standard_library():
    code = (
        "import sys, pkgutil, importlib, plentar.core as c\n"
        "for m in pkgutil.walk_packages(c.__path__, 'plentar.core.'): importlib.import_module(m.name)\n"
        "bad = {'flask', 'sqlalchemy', 'pydantic', 'werkzeug', 'jinja2', 'psycopg'} & set(sys.modules)\n"
        "sys.exit(bool(bad))"
    )
    subprocess.run([sys.executable, "-c", code], check=True)
