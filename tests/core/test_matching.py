"""Steps matched to loads: what size alone can't tell, the order, the stack and the call tell."""

from __future__ import annotations

import numpy as np
import pytest

from plentar.core.logged.trace import Log, read_log
from plentar.core.timing.moves import ON, moves_of
from plentar.core.timing.years import over_the_years
from plentar.store.demo.plates import plates
from tests.cases import CALL, visit_of

HOMES = plates()
T = np.arange(0, 1200, 0.5)
ENDED = {"t": 905, "calls": []}


def on(*spans: tuple[float, float], amps: float = 20.0) -> np.ndarray:
    """A load that draws in these stretches."""
    found = np.zeros(len(T))
    for begun, ended in spans:
        found[(begun <= T) & (ended > T)] = amps
    return found


def read(home: int, columns: dict[str, np.ndarray], *events: dict[str, object]):
    return read_log(HOMES[home], visit_of(CALL, *(events or (ENDED,))), Log(T, columns))


def times(trace) -> dict[str, tuple[float | None, float | None]]:
    return {s.load: (s.on_s, s.off_s) for s in trace.stages}


def test_a_stack_comes_on_in_its_order_and_goes_off_in_reverse():
    trace = read(2, {"C1": on((15, 980)) + on((60, 950))})
    assert times(trace) == {
        "E1": (pytest.approx(15, abs=0.3), pytest.approx(980, abs=0.3)),
        "E2": (pytest.approx(60, abs=0.3), pytest.approx(950, abs=0.3)),
    }


def test_both_stages_late_are_both_late_and_one_alone_is_the_one_due():
    both = read(2, {"C1": on((60, 980)) + on((300, 950))})
    assert [s.load for s in both.stages] == ["E1", "E2"]
    one = read(2, {"C1": on((60, 950))})
    assert [s.load for s in one.stages] == ["E2"], "nothing else is due at a minute"


def test_the_blower_in_the_feed_is_not_taken_for_a_larger_element():
    alone = on((15, 980), amps=20.0) + on((60, 950), amps=20.8) + on((15, 1000), amps=2.2)
    trace = read(2, {"C1": alone})
    assert {s.load: round(s.amps, 1) for s in trace.stages} == {"E1": 20.0, "E2": 20.8}


def test_one_that_cycles_keeps_its_stage_and_both_that_do_keep_theirs():
    drops = [(15, 150), (210, 300), (360, 450), (510, 980)]
    trace = read(2, {"C1": on(*drops, amps=20.4) + on((60, 950), amps=19.2)})
    assert [(c.load, c.count) for c in trace.cycles] == [("E1", 3)]
    assert times(trace)["E1"] == (pytest.approx(15, abs=0.3), pytest.approx(980, abs=0.3))
    cycle = trace.cycles[0]
    assert cycle.period_s == pytest.approx(150, abs=1) and cycle.duty == pytest.approx(0.6, abs=0.01)
    assert cycle.lost_kw == pytest.approx(0.4 * 20.4 * 0.240, rel=0.02)
    second = [(60, 250), (310, 400), (460, 950)]
    both = read(2, {"C1": on(*drops, amps=20.4) + on(*second, amps=19.2)})
    assert sorted((c.load, c.count) for c in both.cycles) == [("E1", 3), ("E2", 2)]


def test_a_call_that_comes_again_is_no_cycling():
    again = ({"t": 305, "calls": []}, {"t": 505, "calls": ["W1"]}, ENDED)
    trace = read(2, {"E1": on((15, 360), (515, 980))}, *again)
    assert not trace.cycles and len(trace.stages) == 2


def test_a_column_of_its_own_settles_who_it_was_in_the_feed():
    first, second = on((15, 930)), on((60, 990))
    feed_only = times(read(2, {"C1": first + second}))
    assert feed_only["E1"][1] == pytest.approx(990, abs=0.3), "by the stack's order"
    trace = read(2, {"C1": first + second, "E1": first})
    at_feed = {s.load: s.off_s for s in trace.stages if s.at == "C1"}
    assert at_feed["E1"] == pytest.approx(930, abs=0.3)


def test_what_drew_before_the_log_began_has_no_beginning():
    trace = read_log(HOMES[2], visit_of(), Log(T, {"C1": on((-1, 400)) + on((-1, 500))}))
    assert [s.on_s for s in trace.stages] == [None, None]
    assert sorted(s.off_s for s in trace.stages) == pytest.approx([400, 500], abs=0.3)
    assert all(s.on is None and s.off is None for s in trace.stages), "no call is known"


def test_alike_loads_say_who_else_they_may_be():
    trace = read(10, {"C1": on((15, 980)) + on((60, 950))})
    assert {s.load: s.or_else for s in trace.stages} == {"E1": ("E2",), "E2": ("E1",)}
    sizes = read(12, {"C1": on((15, 980), amps=14.6) + on((18, 950), amps=20.0)})
    assert {s.load: s.or_else for s in sizes.stages} == {"E1": (), "E2": ()}


def test_the_first_good_time_of_each_visit_makes_a_series():
    def year(*took: float):
        seen = [{"t": 5 + t, "observe": "on", "part": "S1.2"} for t in took]
        return moves_of(HOMES[2], visit_of(CALL, *seen))

    series = over_the_years([("2024", year(50)), ("2025", year()), ("2026", year(70))])
    second = next(s for s in series if (s.part, s.action) == ("S1.2", ON))
    assert [(t.when, t.took_s) for t in second.times] == [("2024", 50), ("2026", 70)]
    assert over_the_years([("2026", year(50))]) == (), "one time is no series"
