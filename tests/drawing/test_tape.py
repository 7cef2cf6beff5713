"""The tape and the plot as pictures: where times lie, what is kept of a curve, what is said."""

from __future__ import annotations

import re
from itertools import pairwise
from xml.etree import ElementTree

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.timing.tape import tape_of
from plentar.drawing.plot import BUCKETS, Curve, Flag, Stretch, plot
from plentar.drawing.tape import axis, call_track, move_track, over_each_other, scale_of
from plentar.store.demo.plates import plates
from tests.cases import CALL, visit_of

HOMES = plates()


def run_of(home: int, *events: dict[str, object]):
    return tape_of(HOMES[home], visit_of(CALL, *events)).last


def attribute(svg: str, css: str, name: str) -> list[float]:
    """A percentage of every element of a class."""
    found = []
    for element in ElementTree.fromstring(svg).iter():
        if css in (element.get("class") or "").split():
            found.append(float((element.get(name) or "").rstrip("%")))
    return found


@given(heat=st.floats(20, 4000), now=st.floats(0, 6000), home=st.sampled_from([1, 2, 5, 10, 14]))
def test_time_runs_from_left_to_right_and_stays_on_the_tape(heat, now, home):
    run = run_of(home, {"t": 5 + heat, "calls": []})
    scale = scale_of(run, 5 + now)
    times = np.linspace(-10, 8000, 300)
    places = [scale.x(t) for t in times]
    assert all(0 <= x <= 1 for x in places)
    assert all(a <= b + 1e-9 for a, b in pairwise(places))
    ends = [0.0] + [end for piece in scale.pieces for end in piece[2:]]
    assert ends[-1] == pytest.approx(1.0) and ends == sorted(ends)
    assert all(t0 < t1 for t0, t1, _, _ in scale.pieces)


def test_windows_marks_and_the_closed_stretch_lie_where_their_times_are():
    seen = [
        {"t": 60, "observe": "on", "part": "S1.2"},
        {"t": 900, "calls": []},
        {"t": 960, "observe": "off", "part": "S1.2"},
    ]
    run = run_of(2, *seen)
    scale = scale_of(run, None)
    svg = move_track(scale, run.of_part("S1.2"), 2000, "S1.2")
    lefts = attribute(svg, "window", "x")
    assert lefts == pytest.approx([100 * scale.x(35), 100 * scale.x(930)], abs=0.01)
    marks = attribute(svg, "mark", "x")
    assert marks == pytest.approx([100 * scale.x(60), 100 * scale.x(960)], abs=0.01)
    assert attribute(svg, "carries", "x1") == pytest.approx([100 * scale.x(60)], abs=0.01)
    assert attribute(svg, "carries", "x2") == pytest.approx([100 * scale.x(960)], abs=0.01)
    assert "⋯" in axis(scale), "a quarter of an hour of quiet is drawn short"


def test_a_late_mark_has_another_shape_than_one_in_its_window():
    heads = []
    for t in (60, 200):
        run = run_of(2, {"t": t, "observe": "on", "part": "S1.2"})
        svg = move_track(scale_of(run, 300), run.of_part("S1.2"), 300, "")
        heads.append(re.search(r'class="head" d="([^"]+)"', svg).group(1))
    assert heads[0] != heads[1]


def test_a_standing_call_grows_and_an_ended_one_does_not():
    run = run_of(2)
    assert "data-from" in call_track(scale_of(run, 50), run.calls["W1"], "W1")
    ended = run_of(2, {"t": 400, "calls": []})
    assert "data-from" not in call_track(scale_of(ended, 500), ended.calls["W1"], "W1")


def test_signs_that_would_lie_on_each_other_stand_side_by_side():
    moves = []
    for sign, t in (("’24", 60), ("’25", 61), ("’26", 93)):
        run = run_of(2, {"t": t, "observe": "on", "part": "S1.2"})
        moves.append((sign, run.of_part("S1.2")[0]))
    scale = type(scale_of(run_of(2), 60))(((0.0, 120.0, 0.0, 1.0),))
    texts = [e.text for e in ElementTree.fromstring(over_each_other(scale, moves, "")).iter() if e.text]
    assert texts == ["’24 ’25", "’26"]


def curve(amps: np.ndarray, spacing: float = 0.1) -> Curve:
    return Curve("C1", np.arange(len(amps)) * spacing, amps, 3.0)


def points(svg: str) -> list[tuple[str, float, float]]:
    path = re.search(r'class="curve c0"[^>]* d="([^"]*)"', svg).group(1)
    return [(kind, float(x), float(y)) for kind, x, y in re.findall(r"([ML])([-\d.]+) ([-\d.]+)", path)]


def test_a_long_curve_is_thinned_and_keeps_its_peaks():
    amps = np.full(200_000, 20.0)
    amps[123_456] = 47.0
    amps[77_777] = 0.0
    drawn = points(plot([curve(amps)], 0.0, 20_000.0))
    assert len(drawn) <= 2 * BUCKETS + 4
    heights = [y for _, _, y in drawn]
    assert min(heights) == pytest.approx(1000 * (1 - 1 / 1.12), abs=0.2)
    assert max(heights) == pytest.approx(1000, abs=0.2)


def test_a_gap_is_not_bridged_and_nothing_is_drawn_for_an_empty_cell():
    amps = np.full(300, 20.0)
    amps[100:200] = np.nan
    kinds = [kind for kind, _, _ in points(plot([curve(amps)], 0.0, 30.0))]
    assert kinds.count("M") == 2 and len(kinds) == 200


def test_amps_of_a_line_close_under_the_words_of_what_acted_stand_below_it():
    """For every height of the curve: no label of the left edge reaches into the two rows above the plot."""
    for top in np.arange(20.0, 60.0, 0.1):
        root = ElementTree.fromstring(
            plot([curve(np.full(60, top))], 0.0, 6.0, [], [Flag(1, "E1 on", "late")])
        )
        labels = [e for e in root.iter() if (e.text or "").endswith(" A")]
        assert len(labels) > 3
        # Ten of a line's fourteen lie over the letters' foot.
        assert min(float(e.get("y")) - 10 for e in labels) > 28


def test_a_plot_says_what_it_shows_and_stays_well_formed():
    svg = plot(
        [curve(np.full(600, 20.0))],
        0.0,
        60.0,
        [Stretch(10, 20, "window on", "S1.1 on due")],
        [Flag(15, "E1 on", "in-window"), Flag(15.5, "E2 on", "late"), Flag(90, "E3 on", "plain")],
    )
    root = ElementTree.fromstring(svg)
    assert root.get("aria-label") == "amps of C1 from 0:00 to 1:00"
    words = [element.text for element in root.iter() if element.text]
    assert {"E1 on", "E2 on", "S1.1 on due"} <= set(words) and "E3 on" not in words
