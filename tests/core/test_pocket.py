"""The tables that a phone judges by, against figures worked by hand; the plan, against the judge."""

from __future__ import annotations

import pytest

from plentar.core.budget import budget
from plentar.core.pocket.pairs import PocketPairs
from plentar.core.pocket.plan import pocket_plan
from plentar.core.pocket.stops import PocketStops
from plentar.core.pocket.verdicts import DueAt, Pocket, Setting
from plentar.core.pocket.windows import watched
from plentar.core.quantity import Quantity
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Reading, Settings, Visit
from plentar.core.visit.evidence import Evidence
from tests.kits import Kit, build_kit

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS


@pytest.fixture(scope="module")
def unit() -> Unit:
    return build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "Two strips")


@pytest.fixture(scope="module")
def pocket(unit: Unit) -> Pocket:
    return Pocket(unit, Settings())


def due(pocket: Pocket, setting: Setting, point: str, quantity: Quantity) -> DueAt:
    return next(d for d in pocket.due(setting) if (d.point, d.quantity) == (point, quantity))


def edges(row: DueAt, elapsed_s: float, volts: float) -> list[tuple[str, bool | None, float]]:
    """Word, whether it is good, and where the range ends, at these volts."""
    assert row.by_volts is not None
    stretch = [s for s in row.by_volts if s.from_s <= elapsed_s][-1]
    return [
        (str(s.word), s.good, s.end.at + s.end.per_volt * volts if s.end else float("inf"))
        for s in stretch.spans
    ]


@pytest.mark.parametrize(
    ("volts", "low", "high"),
    # 5000 W / 240² · V is the middle; the plate's −10 … +5 %, the clamp's 2 % and 0.3 A outward.
    [(240, 18.075, 22.6125), (216, 16.2375, 20.38125), (250, 18.840625, 23.54219)],
)
def test_amps_of_an_element_by_its_volts(pocket: Pocket, volts: float, low: float, high: float) -> None:
    heat = next(s for s in pocket.usual if s.calls == pocket.unit.heat_calls)
    words = edges(due(pocket, heat, "E1", A), pocket.settled_s, volts)
    assert [(word, good) for word, good, _ in words] == [
        ("dead", False),
        ("low", False),
        ("in-band", True),
        ("high", False),
    ]
    assert words[1][2] == pytest.approx(low)
    assert words[2][2] == pytest.approx(high)


def test_a_window_that_is_open_says_nothing_against_it(pocket: Pocket) -> None:
    """The second strip may take its window: none need flow a second after the call, and some must in the end."""
    heat = next(s for s in pocket.usual if s.calls == pocket.unit.heat_calls)
    row = due(pocket, heat, "E2", A)
    assert edges(row, 1.0, 240)[0][:2] == ("not-judged", None)
    assert edges(row, pocket.settled_s, 240)[0][:2] == ("dead", False)
    # Without volts that were read, what is due is as wide as the supply may be, and provisional.
    assert row.unread is not None
    assert row.unread[-1].provisional
    assert not (row.by_volts or ())[-1].provisional


def test_ohms_are_told_proved_dead_alone(pocket: Pocket) -> None:
    """11.52 Ω hot, 0.90 to 1.00 of it cold; the plate's share and the meter's outward."""
    dead = next(s for s in pocket.usual if s.power == "proved-dead")
    words = edges(due(pocket, dead, "E1", OHM), 0, 240)
    good_from, good_to = words[0][2], words[1][2]
    assert (words[0][0], words[1][:2]) == ("low", ("in-band", True))
    assert good_from < 0.9 * 11.52 < 11.52 < good_to < 1.25 * 11.52
    assert not [d for s in pocket.usual if s.power == "on" for d in pocket.due(s) if d.quantity is OHM]


def test_stops_from_their_own_values_on(pocket: Pocket) -> None:
    """A megohm to the frame; sixty volts behind an open breaker; a twentieth of an element's amps uncalled."""
    stops = PocketStops(pocket)
    rows = {(key, row.point, row.quantity): row for key, some in stops.table.items() for row in some}
    ground = rows["proved-dead:", "E1.in:ground", OHM]
    assert [k.code for k in ground.stops] == ["element-to-ground"]
    # A reading of it may be a meter's 1 % low.
    assert ground.below == pytest.approx(1e6 / 1.01, rel=1e-3)
    live = rows["off:", "C1", V]
    assert ([k.code for k in live.stops], live.least) == (["live-when-off"], pytest.approx(60))
    uncalled = rows["on:G", "E1", A]
    assert [(k.code, k.component) for k in uncalled.stops] == [("draw-without-call", "E1")]
    assert uncalled.least == pytest.approx(0.05 * 5000 / 240)
    assert ("on:W1", "E1", A) not in rows
    without = stops.without_blower()
    assert without is not None
    assert without.stop.code == "heat-without-blower"
    # A twentieth of an element's amps at it and along its rung; half of them in the feed.
    assert without.draws["E1"] == without.draws["S1.1"] == pytest.approx(0.05 * 5000 / 240)
    assert without.draws["C1"] == pytest.approx(0.5 * 5000 / 240)
    # A phone takes the breaker of the circuit, and heat, by what the stop bars.
    assert {str(bar) for bar in without.stop.bars} == {"heat"}
    assert {str(bar) for bar in uncalled.stops[0].bars} == {"breaker", "loads"}


def test_stops_that_readings_raise_together(pocket: Pocket) -> None:
    """Ten watts at a switch; at a limit twenty, or 50 mΩ; a feed's loss less 0.6 V and 0.3 % of the meters, a wire of
    2 × 10 mΩ that may be twice as long, and two poles of 2 mΩ."""
    pairs = PocketPairs(pocket)
    joints = {joint.point: joint for joint in pairs.joints()}
    assert set(joints) == {f"{part}{n}" for part in ("S1.", "TL", "FL") for n in (1, 2)}
    switch, limit = joints["S1.1"], joints["TL1"]
    assert (switch.watts, switch.ohms) == (pytest.approx(10), 0)
    assert (limit.watts, limit.ohms) == (pytest.approx(20), pytest.approx(0.05))
    assert switch.stop.component == "S1.1"
    [feed] = pairs.feeds()
    assert (feed.per_line, feed.per_lug) == (pytest.approx(1 - 0.003), pytest.approx(-1))
    assert feed.per_amp == pytest.approx(-(2 * 2 * 0.010 + 2 * 0.002))
    assert feed.fixed == pytest.approx(-0.6)
    [legs] = pairs.legs()
    # An element's own 20.8 A, at 0.8 to 1.12 of its volts and a tenth either way, may be a wire that was missed.
    assert legs.rungs[0] == (pytest.approx(0.9 * 0.8 * 5000 / 240), pytest.approx(1.1 * 1.12 * 5000 / 240))


def test_windows_count_from_what_starts_each_clock(unit: Unit) -> None:
    """Both strips of a double sequencer by W1; the blower by G, and with the switch that it is tied to."""
    moves = {(row.part, row.action): row for row in watched(unit)}
    switch = unit.switch_by_id["S1.1"]
    [way] = moves["S1.1", "on"].ways
    assert (way.calls, way.after, way.window_s) == (("W1",), "", switch.on_s)
    blower = {way.calls: way.after for way in moves["blower", "on"].ways}
    assert blower[("G",)] == ""
    assert blower[("W1",)] in unit.switch_by_id
    assert moves["S1.1", "on"].drawn_at == {
        "E1": pytest.approx(0.05 * 5000 / 240),
        "S1.1": pytest.approx(0.05 * 5000 / 240),
    }


def test_the_plan_goes_two_deep_and_no_deeper_than_its_time(unit: Unit) -> None:
    events = (
        Reading(t_s=10, quantity=V, at="C1", value=240),
        Calls(t_s=20, calls=frozenset({"W1", "G"})),
        Reading(t_s=220, quantity=A, at="E1", value=20.8),
        Reading(t_s=230, quantity=A, at="E2", value=0.0),
    )
    evidence = Evidence(unit, Visit(complaint="not-enough-heat", events=events))
    plan = pocket_plan(evidence)
    assert plan.reading is not None
    assert 1 <= len(plan.then) <= 3
    assert all(step.reading is not None or step.advice for _, step in plan.then)
    assert all(not step.then for _, step in plan.then)
    # Line volts across the open switch tell enough: what comes after is not the same reading again.
    assert all(
        step.reading is None
        or (step.reading.at, step.reading.quantity) != (plan.reading.at, plan.reading.quantity)
        for _, step in plan.then
    )
    with budget(1e-3):
        assert not pocket_plan(Evidence(unit, evidence.visit)).then
