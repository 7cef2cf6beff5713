"""The history of a unit: what a visit adds to it, and when its series are said to drift."""

from __future__ import annotations

import math
from datetime import date
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.history.drift import DRIFT_WITHIN, WITHIN, Seen, Shape, forecast, trend_of
from plentar.core.history.series import VisitOf, histories, visit_of
from plentar.core.quantity import Quantity
from plentar.core.visit.events import Calls, Power, Reading, Replaced, Visit
from plentar.core.visit.evidence import Evidence
from tests.kits import Kit, build_kit

UNIT = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "")
HEAT = frozenset({"W1", "G"})
A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS
#: What a value of each kind is, and its meter's accuracy there: 20.8 A by 240 V, 11.5 Ω, 7.5 µF, 60 s.
KINDS = {"amps": (20.8, 0.95), "ohms": (11.5, 0.315), "uf": (7.5, 0.325), "on": (60.0, 2.0)}


def seeded(random: Random, kind: str, years: int, a_year: float = 0.0) -> list[Seen]:
    """Readings off evenly within 0.4 of their accuracy, in about the same season."""
    value, accuracy = KINDS[kind]
    days = [year + random.uniform(-0.1, 0.1) for year in range(years)]
    return [Seen(t, value * (1 + a_year * t) + random.uniform(-0.4, 0.4) * accuracy, accuracy) for t in days]


def test_a_sound_part_is_not_called_to_drift():
    """All kinds together over five years, each year asked again: at most 2 % of the units."""
    random, alarms = Random(18), 0
    for _ in range(300):
        series = [seeded(random, kind, 6) for kind in KINDS]
        alarms += any(
            trend_of(one[:years]).shape in (Shape.DRIFT, Shape.JUMP)
            for one in series
            for years in range(3, 7)
        )
    assert alarms <= 6


@pytest.mark.parametrize("kind", KINDS)
def test_four_percent_a_year_are_found_by_the_third(kind):
    random = Random(kind)
    found = [trend_of(seeded(random, kind, 4, -0.04)) for _ in range(200)]
    drifts = [t for t in found if t.shape is Shape.DRIFT]
    assert len(drifts) >= 180
    assert all(t.per_year < 0 for t in drifts)


@pytest.mark.slow
def test_a_forecast_holds_nine_times_of_ten():
    random, held, limit = Random(5), 0, 0.7 * KINDS["amps"][0]
    for _ in range(300):
        told = forecast(seeded(random, "amps", 5, -0.04), limit)
        held += told.early <= 0.3 / 0.04 <= told.late
        assert told.early <= told.middle <= told.late
    assert 0.86 <= held / 300 <= 0.94


@pytest.mark.slow
@given(st.floats(0.1, 1000), st.floats(0.001, 0.2), st.floats(-50, 50), st.floats(0.1, 20))
def test_neither_units_nor_the_day_of_the_first_visit_change_the_answer(value, share, shift, times):
    random = Random(3)
    series = [
        Seen(float(y), value * (1 - 0.06 * y) + random.uniform(-0.4, 0.4) * share * value, share * value)
        for y in range(5)
    ]
    moved = [Seen(s.years + shift, s.value * times, s.accuracy * times) for s in series]
    one, two = trend_of(series, 0.5 * value), trend_of(moved, 0.5 * value * times)
    assert one.shape is two.shape
    assert one.per_year * times == pytest.approx(two.per_year, rel=1e-6, abs=1e-9 * value * times)
    if one.forecast and math.isfinite(one.forecast.late):
        assert one.forecast.late + shift == pytest.approx(two.forecast.late, abs=1e-3)


def test_one_misreading_is_no_drift_and_one_step_is_said_to_be_one():
    value, accuracy = 20.8, 0.95
    steady = [Seen(float(y), value + 0.1 * (-1) ** y, accuracy) for y in range(5)]
    slip = [*steady[:4], Seen(4.0, 2.1, accuracy)]
    assert trend_of(slip).shape is not Shape.DRIFT
    step = [Seen(float(y), value * (0.85 if y > 2 else 1.0), accuracy) for y in range(6)]
    assert trend_of(step).shape is Shape.JUMP
    assert trend_of(steady[:2]).shape is Shape.TOO_FEW
    assert WITHIN < DRIFT_WITHIN, "what is within the meter's is not on the limit"


def visit(volts: float, amps: float, *more, day: date) -> VisitOf:
    events = (
        Reading(t_s=0.0, quantity=V, at="C1", value=volts + 2),
        Calls(t_s=5.0, calls=HEAT),
        Reading(t_s=300.0, quantity=V, at="C1", value=volts),
        Reading(t_s=310.0, quantity=A, at="E1", value=amps),
        *more,
    )
    return visit_of(day, f"{day}", Evidence(UNIT, Visit(events=events)))


def october(year: int) -> date:
    return date(year, 10, 8)


def test_amps_are_laid_over_each_other_at_rated_volts():
    """20.8 A at 240 V are 19.9 A at 230 V and 21.7 A at 250 V: the strip is the same."""
    visits = [visit(v, 20.83 * v / 240, day=october(y)) for y, v in ((2022, 240), (2023, 230), (2024, 250))]
    by_kind = {(h.kind, h.part): h for h in histories(UNIT, visits)}
    amps = by_kind["amps", "E1"]
    assert [v.added.value for v in amps.values] == pytest.approx([20.83] * 3)
    assert amps.trend.shape is Shape.STEADY
    assert by_kind["sag", "C1"].values[0].added.value == 2.0


def test_a_repair_begins_a_series_anew():
    """20.8, 19.6, 18.4: falls. With a new strip at the third visit 20.8 again: no drift, no jump."""
    falling = [visit(240, a, day=october(y)) for y, a in ((2021, 20.8), (2022, 19.6), (2023, 18.4))]
    (amps,) = [h for h in histories(UNIT, falling) if h.kind == "amps"]
    assert amps.trend.shape is Shape.DRIFT and amps.trend.per_year == pytest.approx(-1.2, abs=0.01)
    new = (Replaced(t_s=400.0, component="E1"), Reading(t_s=900.0, quantity=A, at="E1", value=20.8))
    mended = [*falling[:2], visit(240, 18.4, *new, day=october(2023))]
    later = [*mended, *(visit(240, 20.8, day=october(y)) for y in (2024, 2025))]
    (amps,) = [h for h in histories(UNIT, later) if h.kind == "amps"]
    assert amps.repairs == (october(2023),) and amps.trend.shape is Shape.STEADY
    assert [v.added.value for v in amps.values] == pytest.approx([20.8, 19.6, 20.8, 20.8, 20.8])


def test_a_pole_is_in_the_history_by_its_newest_volts_until_its_line_is_mended():
    """0.05 V and then, screwed down, 0.02 V at 20.8 A: 0.4 W is what the visit adds."""
    pole = "C1.line.l1:C1.l1"
    twice = [Reading(t_s=t, quantity=V, at=pole, value=v) for t, v in ((320.0, 0.05), (330.0, 0.02))]
    first, last = (visit(240, 20.8, *twice, day=october(2023)), visit(240, 20.8, *twice, day=october(2025)))
    (joint,) = [h for h in histories(UNIT, [first, last]) if h.kind == "joint"]
    assert [v.added.value for v in joint.values] == pytest.approx([0.416, 0.416])
    between = visit(240, 20.8, Replaced(t_s=400.0, component="C1.line"), day=october(2024))
    (joint,) = [h for h in histories(UNIT, [first, between, last]) if h.kind == "joint"]
    assert joint.repairs == (october(2024),)


def test_what_says_nothing_of_a_strip_is_not_in_its_history():
    dead = visit(240, 0.0, day=october(2023))
    without_volts = visit_of(
        october(2024),
        "x",
        Evidence(
            UNIT,
            Visit(events=(Calls(t_s=0.0, calls=HEAT), Reading(t_s=300.0, quantity=A, at="E1", value=20.8))),
        ),
    )
    ground = visit(
        240,
        20.8,
        Power(t_s=600.0, state="proved-dead"),
        Reading(t_s=610.0, quantity=OHM, at="E1.in:ground", value=math.inf),
        day=october(2025),
    )
    found = {(h.kind, h.part): len(h.values) for h in histories(UNIT, [dead, without_volts, ground])}
    assert found == {("amps", "E1"): 1, ("sag", "C1"): 2}
