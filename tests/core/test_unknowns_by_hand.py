"""Which readings share an unknown of the specimen, and what the next reading is said to mean."""

from __future__ import annotations

import pytest

from plentar.core.judge.diagnosis import _in_words
from plentar.core.judge.plan.proposal import Proposal
from plentar.core.judge.plan.survivors import InformationGain, ReadingOutcome
from plentar.core.judge.weigh.unknowns import unknown_at
from plentar.core.judgement import Hazard, Setting
from plentar.core.quantity import Quantity
from plentar.core.unit.points import points
from tests.cases import TWO

A, V, OHM, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TEMP_F
AT = {point.name: point for point in points(TWO)}


@pytest.mark.parametrize(
    ("at", "quantity", "calls", "name"),
    [
        # A strip's amps and its ohms are its own power, and so are the amps through its switch.
        ("E1", A, {"W1"}, "strip E1"),
        ("E1", OHM, set(), "strip E1"),
        ("E1", V, {"W1"}, ""),
        ("S1.1", A, {"W1"}, "strip E1"),
        ("S1.2", A, {"W1"}, "strip E2"),
        # Both strips at once are drawn anew; without heat the circuit carries the blower alone.
        ("C1", A, {"W1"}, "feed C1 True"),
        ("C1", A, {"G"}, "blower"),
        ("C1.l1", A, {"G", "W1"}, "feed C1 True"),
        ("blower", A, {"G"}, "blower"),
        ("BR.no", A, {"G"}, "blower"),
        # One transformer feeds every coil; a coil's ohms are no strip's.
        ("S1.coil", V, {"W1"}, "control volts"),
        ("S1.coil", OHM, set(), ""),
        ("C1", V, set(), ""),
    ],
)
def test_what_a_reading_shares_with_others(at, quantity, calls, name):
    found = unknown_at(TWO, AT[at], quantity, frozenset(calls))
    assert (found.name if found else "") == name


def outcome(low, high, *decisions):
    return ReadingOutcome(low, high, 0.5, decisions)


def reads(*outcomes, observe="", confirms=False, again=False):
    gain = InformationGain(0.5, 1.0, 0.1)
    made = Proposal(A, "E1", Setting(), gain, 4.0, Hazard.CLAMP, lambda: outcomes, observe)
    return _in_words(TWO, made, confirms, again)


def test_each_outcome_is_told_by_what_it_points_to_or_leaves():
    """From nine in ten on it points to one; below it leaves the two likeliest; the lowest comes first."""
    said = reads(
        outcome(19.0, 22.0, ("none", 0.9), ("C1.supply", 0.1)),
        outcome(0.0, 0.5, ("E1", 0.55), ("S1.wire", 0.35), ("S1", 0.1)),
        outcome(8.0, 9.0),
    )
    assert [(m.low, m.means, m.seen) for m in said.outcomes] == [
        (0.0, "element E1 (55 %) or sequencer S1, wiring (35 %)", ""),
        (8.0, "no cause that is expected", ""),
        (19.0, "no fault (90 %)", ""),
    ]
    assert said.why == "Separates no fault from element E1."


def test_why_it_is_read():
    one = outcome(0.0, 1.0, ("E1", 0.8))
    assert reads(one).why == "Makes the leading cause surer."
    assert reads(one, again=True).why == "Read once more to be sure. Makes the leading cause surer."
    assert reads(one, confirms=True).why == "Confirms it at the part itself."


def test_what_is_watched_for_has_words_for_numbers():
    said = reads(outcome(0, 0, ("TL1", 1.0)), outcome(1, 1, ("none", 1.0)), observe="TL1")
    assert [m.seen for m in said.outcomes] == ["cycling", "steady"]
