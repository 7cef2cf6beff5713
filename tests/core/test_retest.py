"""The retest: what is on the list after a repair, by hand; and units of the wider world, their fault
still in them or not. (All faults of all demo plates: ``./plentar bench retest``.)"""

from __future__ import annotations

from dataclasses import replace

import pytest

from benchmarks.retest import MOST_METER, retested
from plentar.core.door import judge
from plentar.core.guided.retest import retest, retest_lines
from plentar.core.quantity import Band, Quantity
from plentar.core.visit.events import Calls, Did, Observed, Power, Reading, Replaced, Tested, Visit, Wires
from tests.kits import Kit, build_kit

A, V = Quantity.AMPS, Quantity.VOLTS
UNIT = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "")
HEAT = frozenset({"W1", "G"})


def after(*more):
    """E2 read nothing and its switch line volts; S1 was replaced at 1000 s."""
    events = (
        Calls(t_s=0.0, calls=HEAT),
        Reading(t_s=300.0, quantity=A, at="E2", value=0.0),
        Reading(t_s=320.0, quantity=V, at="S1.2", value=238.0),
        Calls(t_s=330.0, calls=frozenset()),
        Power(t_s=600.0, state="proved-dead"),
        Replaced(t_s=1000.0, component="S1"),
        *more,
    )
    return judge(UNIT, Visit(events=events)).evidence


def test_the_list_after_a_sequencer_is_what_it_could_have_disturbed_and_what_was_bad():
    lines = retest_lines(after(), 1000.0)
    titles = [line.step.title for line in lines]
    assert titles == [
        "Element E2, amps",
        "Element E1, amps",
        "Circuit C1, heater lugs, full load",
        "Blower motor on heat alone",
        "Circuit C1, feed, nothing called",
        "Sequencer S1 on, timed",
        "Sequencer S1 off, timed",
    ], titles
    assert sum(line.step.quantity is not None for line in lines) <= MOST_METER
    by_title = {line.step.title: line for line in lines}
    assert by_title["Element E2, amps"].before.reading.value == 0.0
    assert all(line.state == "open" for line in lines)
    assert not retest_lines(judge(UNIT, Visit()).evidence, 0.0), "nothing was mended"


def test_what_other_lines_tell_is_not_asked_twice():
    """The feed's amps under heat are those of its strips; volts at one point are read with most called."""
    events = (
        Reading(t_s=0.0, quantity=V, at="C1", value=200.0),
        Calls(t_s=5.0, calls=HEAT),
        Reading(t_s=300.0, quantity=A, at="C1", value=21.0),
        Reading(t_s=310.0, quantity=A, at="E2", value=0.0),
        Reading(t_s=320.0, quantity=V, at="C1", value=198.0),
        Calls(t_s=330.0, calls=frozenset()),
        Power(t_s=600.0, state="proved-dead"),
        Replaced(t_s=1000.0, component="S1"),
    )
    lines = retest_lines(judge(UNIT, Visit(events=events)).evidence, 1000.0)
    assert "amps C1 with G W1" not in {line.key for line in lines}
    assert [line.key for line in lines if line.key.startswith("volts C1")] == ["volts C1 with G W1"]
    assert "amps C1" in {line.key for line in lines}, "with nothing called it tells of all at once"


def test_a_line_passes_by_its_reading_since_and_one_that_fails_ends_the_test():
    heat = (Power(t_s=1100.0, state="on"), Calls(t_s=1110.0, calls=HEAT))
    good = Reading(t_s=1300.0, quantity=A, at="E2", value=20.4)
    lines = {line.step.title: line for line in retest_lines(after(*heat, good), 1310.0)}
    assert lines["Element E2, amps"].state == "pass" and lines["Element E1, amps"].state == "open"
    bad = Reading(t_s=1300.0, quantity=A, at="E2", value=0.0)
    test = retest(after(*heat, bad), 1310.0)
    assert test.stop.startswith("Element E2, amps: not in range") and test.next is None
    lifted = retest(after(Wires(t_s=1050.0, state="lifted")), 1100.0)
    assert "wires back first" in lifted.stop


FAULTS = [
    (4, "C1:loose"),
    (8, "BR:coil-open"),
    (3, "K1.2:stuck-closed"),
    (7, "transformer:weak"),
    (2, "S1:slow"),
]


@pytest.mark.slow
@pytest.mark.parametrize(("home", "fault"), FAULTS)
def test_a_fault_still_in_it_never_passes_and_a_repaired_unit_does(home, fault):
    found = retested((home, fault))
    assert not found.passed_with_fault
    assert found.passed_repaired, found.failed


def keys(*events, unit=UNIT, complaint=None, looked=()):
    return [
        n.key for n in retest_lines(judge(unit, Visit(events=events, complaint=complaint)).evidence, 2000.0)
    ]


RELAYS = build_kit(Kit((5000.0, 5000.0), 240, "relays-ac"), "two", "")
REPAIRS = [
    # the blower's relay, or a wire of it: fan alone, the tied strip, heat alone, the call off
    (
        Replaced(t_s=9.0, component="BR"),
        None,
        ["amps blower with G", "amps E1 with G W1", "volts C1 with G W1", "amps blower with W1", "amps C1"],
    ),
    (
        Did(t_s=9.0, verb="moved", part="BR"),
        None,
        ["amps blower with G", "amps E1 with G W1", "volts C1 with G W1", "amps blower with W1", "amps C1"],
    ),
    # a relay of a strip that the tie does not begin at
    (Replaced(t_s=9.0, component="K2"), None, ["amps E2 with G W1", "volts C1 with G W1", "amps C1"]),
    # a lug: the pair of volts, one after the other, and its amps
    (
        Did(t_s=9.0, verb="remade", part="C1.l1"),
        "breaker-trips-or-burnt",
        ["volts C1.line with G W1", "volts C1 with G W1", "amps C1 with G W1"],
    ),
    # a fuse, and the complaint that it blew
    (Did(t_s=9.0, verb="renewed", part="control-fuse"), "control-fuse-blows", ["volts R with G W1"]),
    # air alone is watched for ten minutes
    (
        Did(t_s=9.0, verb="cleaned", part="airflow"),
        "clicking",
        ["amps blower with G", "watched E1 with G W1"],
    ),
    # heat is what was missed: every strip, whatever was done
    (
        Did(t_s=9.0, verb="remade", part="E2.wire"),
        "no-heat",
        ["amps E1 with G W1", "amps E2 with G W1", "volts C1 with G W1", "amps C1"],
    ),
]


@pytest.mark.parametrize(("work", "complaint", "due"), REPAIRS, ids=lambda one: getattr(one, "name", None))
def test_the_list_is_what_the_repair_touched_and_the_complaint_was_and_no_more(work, complaint, due):
    assert keys(work, unit=RELAYS, complaint=complaint) == due


def test_a_relay_that_was_proved_in_the_hand_is_not_run_again():
    kind = "relay-spdt"
    hand = [
        Tested(t_s=2.0, device="BR", pair=("COM", end), driven=driven, new=True, part=kind, tone=closed)
        for end, driven, closed in (
            ("NO", False, False),
            ("NC", False, True),
            ("NO", True, True),
            ("NC", True, False),
        )
    ]
    done = Replaced(t_s=9.0, component="BR")
    assert "amps blower with G" in keys(*hand[:3], done, unit=RELAYS), "one pair was not tested"
    assert "amps blower with G" not in keys(*hand, done, unit=RELAYS)
    assert "amps blower with W1" not in keys(*hand, done, unit=RELAYS)


@pytest.mark.parametrize(
    ("calls", "wait_s", "state", "why"),
    [
        ({"W1", "G"}, 60.0, "pass", ""),
        ({"W1"}, 60.0, "pass", ""),
        ({"W1", "G"}, 0.5, "open", "too early by 1 s"),
        ({"G"}, 60.0, "open", "read with G; counts with W1, with or without G"),
    ],
)
def test_a_reading_counts_in_every_state_in_which_it_says_the_same_or_says_why_it_does_not(
    calls, wait_s, state, why
):
    events = (
        Replaced(t_s=9.0, component="K2"),
        Calls(t_s=100.0, calls=frozenset(calls)),
        Reading(t_s=100.0 + wait_s, quantity=A, at="E2", value=20.4),
    )
    line = retest_lines(judge(RELAYS, Visit(events=events)).evidence, 300.0)[0]
    assert (line.key, line.state, line.not_counted) == ("amps E2 with G W1", state, why)


def test_before_is_of_the_same_state_and_without_a_bridge():
    def read(t_s, value):
        return Reading(t_s=t_s, quantity=A, at="E2", value=value)

    events = (
        read(1.0, 0.1),
        Calls(t_s=5.0, calls=HEAT),
        read(300.0, 0.0),
        Power(t_s=310.0, state="off"),
        Did(t_s=320.0, verb="bridged", part="TL2"),
        Power(t_s=330.0, state="on"),
        Calls(t_s=335.0, calls=HEAT),
        read(600.0, 20.4),
        Did(t_s=700.0, verb="unbridged", part="TL2"),
        Replaced(t_s=900.0, component="TL2"),
    )
    lines = retest_lines(judge(RELAYS, Visit(events=events)).evidence, 1000.0)
    (line,) = (n for n in lines if n.key == "amps E2 with G W1")
    assert line.before.reading.value == 0.0 and line.because == "it was bad"


def test_the_tie_of_a_new_relay_is_run_under_guard():
    lines = retest_lines(judge(RELAYS, Visit(events=(Replaced(t_s=9.0, component="BR"),))).evidence, 20.0)
    (line,) = (n for n in lines if n.key == "amps blower with W1")
    guard = line.step.setting.guard
    assert (guard.begins, guard.at_most_s, guard.ends) == (HEAT, 10.0, frozenset({"G"}))
    held = build_kit(Kit((5000.0,), 240, "relays-ac", relay="time-delay"), "one", "")
    lines = retest_lines(judge(held, Visit(events=(Replaced(t_s=9.0, component="BR"),))).evidence, 20.0)
    (line,) = (n for n in lines if n.key == "amps blower with W1")
    assert line.step.setting.guard is None, "what holds the blower would hide the tie"


@pytest.mark.parametrize(
    ("on_s", "state"),
    [
        ({"S1.1": 12.0, "S1.2": 44.0}, "pass"),
        ({"S1.1": 12.0, "S1.2": 190.0}, "fail"),
        ({"S1.1": 12.0}, "open"),
    ],
)
def test_a_new_sequencer_is_timed_where_its_windows_are_printed(on_s, state):
    """S1.1 may take 1 to 20 s, S1.2 30 to 90 s, as printed."""
    call = Calls(t_s=1100.0, calls=HEAT)
    acted = sorted((1100.0 + s, name) for name, s in on_s.items())
    seen = [Observed(t_s=t_s, part=name, action="on") for t_s, name in acted]
    made = replace(
        UNIT,
        controls=tuple(
            replace(
                c,
                switches=tuple(
                    replace(s, on_s=Band(1, 20) if n == 0 else Band(30, 90)) for n, s in enumerate(c.switches)
                ),
            )
            for c in UNIT.controls
        ),
    )
    events = (Replaced(t_s=1000.0, component="S1"), call, *seen)
    lines = {n.key: n for n in retest_lines(judge(made, Visit(events=events)).evidence, 1400.0)}
    assert lines["timed S1 on"].state == state
    assert lines["timed S1 off"].state == "open"


def test_the_proof_of_a_stop_comes_before_anything_else_is_called():
    """E1 drew with nothing called; its relay is new: first that it rests."""
    events = (
        Reading(t_s=20.0, quantity=A, at="E1", value=20.4),
        Power(t_s=70.0, state="proved-dead"),
        Replaced(t_s=150.0, component="K1"),
    )
    evidence = judge(RELAYS, Visit(events=events, complaint="heat-will-not-stop")).evidence
    lines = retest_lines(evidence, 200.0)
    assert [n.key for n in lines] == [
        "amps E1 with G",
        "amps C1",
        "amps E1 with G W1",
        "volts C1 with G W1",
        "amps blower with W1",
    ]
    setting = lines[0].step.setting
    assert (setting.power, setting.calls, setting.after_s) == ("on", {"G"}, None), (
        "at once, with air, ten seconds"
    )
    rests = Reading(t_s=160.0, quantity=A, at="E1", value=0.0)
    for calls in ((), ("G",)):
        more = (Power(t_s=155.0, state="on"), Calls(t_s=156.0, calls=frozenset(calls)), rests)
        line = retest_lines(judge(RELAYS, Visit(events=(*events, *more))).evidence, 170.0)[0]
        assert (line.key, line.state) == ("amps E1 with G", "pass"), calls
