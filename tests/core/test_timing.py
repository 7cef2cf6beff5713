"""Moves due: against the clockwork of the model, worked windows, and what a watch can't say."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise
from random import Random

import pytest

from plentar.core.circuit.faults import Effects
from plentar.core.circuit.moments import moments_until
from plentar.core.circuit.wiring import wire_up
from plentar.core.quantity import Band
from plentar.core.timing.moves import BLOWER, OFF, ON, Moves, Timing, moves_of
from plentar.core.timing.tape import said, tape_of, waits
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Observed, Visit
from plentar.store.demo.plates import plates
from tests.cases import CALL, judged, visit_of

HOMES = plates()
#: A blower relay's change-over leaves the motor unfed for less than this.
CHANGE_OVER_S = 1.5


def all_calls(unit: Unit) -> frozenset[str]:
    return frozenset(c.call for c in unit.controls if c.call)


def acted(unit: Unit, events: list[Event], until_s: float, seed: int) -> Iterator[tuple[str, str, float]]:
    """Every move that the healthy model makes, each device somewhere in its windows."""
    rng = Random(seed)
    draws: dict[tuple[str, bool], float] = {}
    moments = list(
        moments_until(
            wire_up(unit),
            Effects(),
            events,
            until_s,
            lambda contact, closes: draws.setdefault((contact, closes), rng.random()),
        )
    )
    for before, after in pairwise(moments):
        for part in unit.switch_by_id:
            if (part in after.closed) != (part in before.closed):
                yield part, ON if part in after.closed else OFF, after.t_s
        if after.blower_runs != before.blower_runs:
            yield BLOWER, ON if after.blower_runs else OFF, after.t_s


@pytest.mark.parametrize("home", sorted(HOMES))
@pytest.mark.parametrize("fan_too", [False, True])
def test_what_the_model_does_is_due_then_and_nothing_else_is(home, fan_too):
    """Chains, ties, time-delay relays and boards: every move of the model lies in a due stretch,
    and every due move is made. Seen or unseen, the next one's stretch still holds it."""
    unit = HOMES[home]
    heat = all_calls(unit)
    events: list[Event] = [Calls(t_s=10, calls=heat)]
    if fan_too and unit.blower and unit.blower.relay:
        events = [Calls(t_s=3, calls=frozenset({"G"})), Calls(t_s=10, calls=heat | {"G"})]
    events.append(Calls(t_s=900, calls=frozenset()))
    for seed in range(4):
        made = [m for m in acted(unit, events, 1800, seed) if m[0] not in unit.idle_switches]
        for gone, back in pairwise([m for m in made if m[0] == BLOWER]):
            if gone[1] == OFF and back[2] - gone[2] < CHANGE_OVER_S:
                made = [m for m in made if m not in (gone, back)]
        seen = [m for m in made if m[0] in unit.switch_by_id and Random(f"{seed}{m}").random() < 0.6]
        observed = [Observed(t_s=t, action=action, part=part) for part, action, t in seen]
        ordered = tuple(sorted([*events, *observed], key=lambda e: e.t_s))
        for visit in (Visit(events=tuple(events)), Visit(events=ordered)):
            due = {(m.part, m.action): m for m in moves_of(unit, visit)}
            assert len(due) == len(moves_of(unit, visit))
            for part, action, t_s in made:
                stretch = due[part, action].due_s
                assert stretch.low - 1e-6 <= t_s <= stretch.high + 1e-6, (part, action, t_s)
            assert set(due) == {(part, action) for part, action, _ in made}
    assert made


def seen(t: float, part: str, action: str = "on", **more: float) -> dict[str, object]:
    return {"t": t, "observe": action, "part": part, **more}


def move(unit: Unit, part: str, action: str, *events: dict[str, object]):
    visit = visit_of(*events)
    return next(m for m in moves_of(unit, visit) if (m.part, m.action) == (part, action))


def test_windows_count_from_the_call_and_no_verdict_comes_before_they_are_over():
    for part, (low, high) in (("S1.1", (1, 20)), ("S1.2", (30, 90))):
        due = move(HOMES[2], part, ON, CALL)
        assert (due.due_s.low, due.due_s.high) == (5 + low, 5 + high)
        assert [due.word(5 + t) for t in (low - 0.5, low, high, high + 0.1)] == [
            Timing.WAITING,
            Timing.DUE,
            Timing.DUE,
            Timing.NOT_SEEN,
        ]
    for took, word in ((31, "in-window"), (93, "in-window"), (94, "late"), (26, "early")):
        assert move(HOMES[2], "S1.2", ON, CALL, seen(5 + took, "S1.2")).word(500) == word


def test_minutes_already_gone_are_added_wherever_they_were_noted():
    late_call = {"t": 5, "calls": ["W1"], "lead_s": 60}
    for events in ((late_call, seen(40, "S1.2")), (CALL, seen(40, "S1.2", lead_s=60))):
        assert move(HOMES[2], "S1.2", ON, *events).took_s == 95
        assert "slow-stage" in {f.code for f in judged(*events, unit=HOMES[2]).findings}


def test_low_coil_volts_stretch_the_end_of_a_window_and_high_ones_shorten_nothing():
    volts = {"t": 20, "read": "volts", "at": "S1.coil", "value": 20}
    slow = move(HOMES[2], "S1.2", ON, CALL, volts, seen(130, "S1.2"))
    assert slow.due_s.low == 35 and slow.due_s.high == pytest.approx(5 + 90 * 1.44)
    assert slow.word(200) is Timing.IN_WINDOW
    assert "20 V at the coil" in said(slow, 200)
    quick = move(HOMES[2], "S1.2", ON, CALL, volts | {"value": 28}, seen(130, "S1.2"))
    assert quick.due_s.high == 95 and quick.word(200) is Timing.LATE


def test_a_chained_sequencer_counts_from_the_auxiliary_switch():
    unit = HOMES[5]
    auxiliary, second = unit.switch_by_id["S1.A"], unit.switch_by_id["S2.1"]
    unseen = move(unit, "S2.1", ON, CALL)
    assert unseen.due_s.low == 5 + auxiliary.on_s.low + second.on_s.low
    assert unseen.due_s.high == 5 + auxiliary.on_s.high + second.on_s.high
    known = move(unit, "S2.1", ON, CALL, seen(70, "S1.A"))
    assert known.due_s.low == 70 + second.on_s.low and known.cause == "S1.A"
    assert known.due_s.high == 70 + second.on_s.high


def test_an_off_test_counts_from_five_minutes_energised():
    off = {"calls": []}
    for ended, slip, finding in ((200, True, False), (400, False, True)):
        answer = judged(CALL, {"t": ended, **off}, seen(ended + 100, "S1.2", "off"), unit=HOMES[2])
        assert ("off-test-too-early" in {s.code for s in answer.slips}) == slip
        assert ("slow-off" in {f.code for f in answer.findings}) == finding
    contactors = judged(CALL, {"t": 100, **off}, seen(101, "K1.1", "off"), unit=HOMES[3])
    assert not {s.code for s in contactors.slips} & {"off-test-too-early"}


def test_the_house_limit_is_a_note_on_single_stages_only():
    control = HOMES[1].controls[0]
    wide = tuple(replace(s, on_s=Band(1, 110)) for s in control.switches)
    single = replace(HOMES[1], controls=(replace(control, switches=wide),))
    quick, slow = seen(40, "S1.1"), seen(65, "S1.1")
    assert "house-time" not in {f.code for f in judged(CALL, quick, unit=single).findings}
    found = {f.code: f.level for f in judged(CALL, slow, unit=single).findings}
    assert found["house-time"] == "watch" and "slow-stage" not in found
    assert "house-time" not in {f.code for f in judged(CALL, seen(80, "S1.2"), unit=HOMES[2]).findings}


def test_the_tape_says_what_to_wait_for():
    visit = visit_of(CALL, seen(12, "S1.1"))
    tape = tape_of(HOMES[2], visit)
    assert [lane.part for lane in tape.lanes] == ["W1", "G", "S1.1", "S1.2", "blower"]
    assert tape.last is not None
    lines = [text for _, text in waits(tape, 25)]
    assert "stage 2 S1.2 should go on between 0:30 and 1:30 after the call" in lines
    assert lines[-1] == "The off test counts from 5:00 energized: 4:40 to go."


def test_stages_are_counted_by_rungs_not_by_poles():
    titles = {
        home: {lane.part: lane.title for lane in tape_of(HOMES[home], visit_of(CALL)).lanes}
        for home in (3, 5, 6, 14)
    }
    assert titles[3]["K1.2"] == "stage 1" and titles[3]["K2.1"] == "stage 2"
    assert titles[5]["S1.A"] == "auxiliary switch" and titles[5]["S2.1"] == "stage 3"
    assert titles[6]["K1.1"] == titles[6]["K1.2"] == "stage 1"
    assert titles[14]["S1.B"] == "blower switch"
    assert "S1.4" not in titles[14], "a spare carries nothing"


def test_runs_of_one_visit_stand_beside_each_other():
    again = {"t": 700, "calls": ["W1"]}
    events = (
        CALL,
        seen(60, "S1.2"),
        {"t": 400, "calls": []},
        {"t": 600, "replaced": "S1"},
        again,
        {"t": 1100, "calls": []},
        {"t": 5000, "calls": ["W1"]},
    )
    runs = tape_of(HOMES[2], visit_of(*events)).runs
    assert [run.began_s for run in runs] == [5, 700, 5000]
    assert [run.warm_after_s for run in runs] == [None, 300, None]
    assert [run.replaced for run in runs] == [(), ("S1",), ()]
    assert runs[0].of_part("S1.2")[0].took_s == 55 and runs[1].of_part("S1.2")[0].took_s is None


def test_power_off_ends_the_call():
    moves = Moves(HOMES[2], visit_of(CALL, {"t": 305, "power": "off"}))
    assert moves.calls["W1"][0].end_s is not None and moves.calls["W1"][0].end_s.low == 305
