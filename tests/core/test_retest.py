"""The retest: what is on the list after a repair, by hand; and units of the wider world, their fault
still in them or not. (All faults of all demo plates: ``./plentar bench retest``.)"""

from __future__ import annotations

import pytest

from benchmarks.retest import MOST_METER, retested
from plentar.core.door import judge
from plentar.core.guided.retest import retest, retest_lines
from plentar.core.quantity import Quantity
from plentar.core.visit.events import Calls, Power, Reading, Replaced, Visit, Wires
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
        "Amps of E2",
        "Switch S1.2",
        "Amps of E1",
        "Joints of S1.1 under load",
        "Lugs of C1 under full load",
        "Feed of C1, nothing called",
    ], titles
    assert sum(line.step.quantity is not None for line in lines) <= MOST_METER
    by_title = {line.step.title: line for line in lines}
    assert by_title["Amps of E2"].before.reading.value == 0.0
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
    assert lines["Amps of E2"].state == "pass" and lines["Amps of E1"].state == "open"
    bad = Reading(t_s=1300.0, quantity=A, at="E2", value=0.0)
    test = retest(after(*heat, bad), 1310.0)
    assert test.stop.startswith("Amps of E2 is not as it should be") and test.next is None
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
