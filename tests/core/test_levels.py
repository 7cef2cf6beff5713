"""The finder of steps against made-up logs whose answer is known, and by its laws."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from benchmarks.trace import Tally, count
from plentar.core.logged.levels import find_levels
from plentar.core.logged.trace import Log, read_log
from plentar.stand_ins.synthetic_log import quiet, synthetic
from plentar.store.demo.plates import plates
from tests.cases import CALL, visit_of

T = np.arange(0, 600, 0.5)


def two_steps(on: float = 60.0, off: float = 400.0, amps: float = 20.0) -> np.ndarray:
    return np.where((on <= T) & (off > T), amps, 0.0)


def times(levels) -> list[float]:
    return [step.t_s for step in levels.steps]


def test_made_up_logs_are_read_right():
    """The whole of it is in ``plentar bench trace``."""
    tally = Tally()
    for seed in range(1000, 1100):
        count(synthetic(seed, cycling=seed % 2 == 1), tally, str(seed))
    assert tally.stages > 200
    assert tally.close / tally.stages >= 0.98, tally.missed
    assert tally.extra == 0
    assert tally.counted / tally.cycling >= 0.95


def test_quiet_logs_have_no_stage():
    for seed in range(2000, 2060):
        made = quiet(seed)
        stages = read_log(made.unit, made.visit, made.log).stages
        assert all(stage.on_s is None and stage.off_s is None for stage in stages), seed


@given(shift=st.floats(-1e5, 1e5), times_amps=st.floats(0.5, 4.0), on=st.floats(10, 150))
def test_steps_move_with_the_clock_and_scale_with_the_load(shift, times_amps, on):
    levels = find_levels(T + shift, two_steps(on) * times_amps, 20.0 * times_amps)
    first, last = levels.steps
    assert first.t_s == pytest.approx(shift + on, abs=0.51)
    assert last.t_s == pytest.approx(shift + 400, abs=0.51)
    assert first.size_amps == pytest.approx(20 * times_amps) == -last.size_amps


@given(at=st.integers(0, len(T) - 5), samples=st.integers(1, 5), value=st.sampled_from([0, np.nan, 90]))
def test_what_lasts_under_three_seconds_is_no_step(at, samples, value):
    assume(all(abs(end / 2 - edge) >= 3.5 for end in (at, at + samples) for edge in (60, 400)))
    amps = two_steps()
    amps[at : at + samples] = value
    assert times(find_levels(T, amps, 20.0)) == pytest.approx([60, 400], abs=0.26)


def test_small_changes_and_noise_are_no_steps():
    blower = two_steps(amps=2.2)
    assert not find_levels(T, blower, 20.0).steps
    rough = 40 * (1 + 0.06 * np.random.default_rng(3).standard_normal(len(T)))
    assert not find_levels(T, rough, 20.0).steps


def test_two_loads_a_second_apart_are_two_steps():
    amps = two_steps(60) + two_steps(61.5)
    assert times(find_levels(T, amps, 20.0))[:2] == pytest.approx([60, 61.5], abs=0.3)


def test_a_step_in_a_gap_is_somewhere_in_it():
    amps = two_steps()
    kept = (T < 50) | (T >= 70)
    levels = find_levels(T[kept], amps[kept], 20.0)
    assert levels.gaps == ((49.5, 70.0),)
    step = levels.steps[0]
    assert step.t_s - step.within_s <= 60 <= step.t_s + step.within_s


def test_loads_are_matched_by_size_and_a_call_is_read_off_its_wire():
    unit = plates()[12]  # 3.5 and 4.8 kW
    feed = two_steps(40, 500, 20.0) + two_steps(55, 450, 14.6)
    call = np.where((T >= 30) & (T < 420), 0.6, 0.0)
    trace = read_log(unit, visit_of(), Log(T, {"C1": feed, "W1": call}))
    by_load = {stage.load: stage for stage in trace.stages}
    assert by_load["E2"].on_s == pytest.approx(40, abs=0.5)
    assert by_load["E1"].on_s == pytest.approx(55, abs=0.5)
    assert by_load["E1"].on is not None and str(by_load["E1"].on.word(600)) == "late"
    assert next(type(event).__name__ for event in trace.events) == "Calls"


def test_times_of_a_log_are_judged_as_if_they_had_been_seen():
    feed = two_steps(45, 520) + two_steps(160, 560)
    events = (CALL, {"t": 480, "calls": []})
    trace = read_log(plates()[2], visit_of(*events), Log(T, {"C1": feed}))
    on = {stage.load: stage.on for stage in trace.stages}
    assert {load: str(move.word(600)) for load, move in on.items() if move} == {"E1": "late", "E2": "late"}
    seen = [(e.part, e.action) for e in trace.events if hasattr(e, "part")]
    assert ("S1.1", "on") in seen and ("S1.2", "off") in seen


def test_a_log_that_ends_too_soon_says_so():
    early = T < 60
    feed = two_steps(15)[early]
    trace = read_log(plates()[2], visit_of(CALL), Log(T[early], {"C1": feed}))
    assert "before-window" in {slip.code for slip in trace.slips}
