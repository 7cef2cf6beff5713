"""Which readings count, in which state they were taken, and by which volts amps are judged."""

from __future__ import annotations

import math

import pytest

from plentar.core.quantity import Quantity
from plentar.core.visit.evidence import Evidence
from tests.cases import CALL, DEAD, TWO, amps, visit_of

V = Quantity.VOLTS
[C1] = TWO.circuits


def volts(t, value, at="C1"):
    return {"t": t, "read": "volts", "at": at, "value": value}


def supply(t_s, *events):
    return Evidence(TWO, visit_of(*events)).supply(C1, t_s)


HEATED = [CALL, volts(100, 236), volts(400, 230)]


@pytest.mark.parametrize(
    ("t_s", "value"), [(50, 236), (100, 236), (240, 236), (260, 230), (399, 230), (900, 230)]
)
def test_the_volts_nearest_in_time_judge(t_s, value):
    """Read at 100 s and at 400 s: the first up to 250 s, the second from there, before it was read too."""
    assert supply(t_s, *HEATED).nominal == value


def test_volts_with_heat_called_go_before_nearer_ones_without():
    assert supply(20, volts(4, 243), *HEATED).nominal == 236
    assert supply(20, volts(4, 243), volts(15, 241)).nominal == 241


def test_a_lost_supply_is_no_volts_to_judge_by():
    """A tenth of 240 V is 24 V: dead at 24, a poor supply at 24.1."""
    assert supply(200, CALL, volts(100, 236), volts(190, 24)).nominal == 236
    assert supply(200, CALL, volts(100, 236), volts(190, 24.1)).nominal == 24.1
    off = [CALL, volts(100, 236), {"t": 150, "power": "off"}, volts(190, 239)]
    assert supply(200, *off).nominal == 236, "what stands on a switched-off circuit feeds nothing"


def test_unmeasured_volts_are_a_band_and_say_so():
    """Rated 240 V, unread: 5 % either way of it, and provisional."""
    found = supply(100, CALL)
    assert (found.nominal, found.measured) == (240, False)
    assert (found.band.low, found.band.high) == pytest.approx((228, 252))
    read = supply(100, volts(50, 236))
    assert (read.band.low, read.band.high, read.measured) == (236, 236, True)


def counting(*events):
    return [t.reading.value for t in Evidence(TWO, visit_of(*events)).taken if t.counts]


OHMS = {"t": 530, "read": "ohms", "at": "E1", "value": 11.2}


def test_ohms_count_from_proved_dead_until_power_is_back():
    on = {"t": 600, "power": "on"}
    assert counting({**OHMS, "t": 519}, *DEAD) == []
    assert counting(*DEAD, {**OHMS, "t": 520}) == [11.2]
    assert counting(*DEAD, OHMS, on, {**OHMS, "t": 610, "value": 11.3}) == [11.2]
    assert counting({"t": 500, "power": "off"}, OHMS) == [], "off is not proved dead"


def test_what_was_read_of_an_old_part_is_no_evidence_of_the_new_one():
    events = [CALL, amps(310, "E1", 0.0), {"t": 400, "replaced": "E1"}, amps(700, "E1", 20.6)]
    taken = Evidence(TWO, visit_of(*events)).taken
    assert [t.counts for t in taken] == [False, True]
    assert "repaired after" in taken[0].refused


def test_by_order_where_the_times_are_the_same():
    """Read, mended and read again within a tenth of a second."""
    events = [amps(310, "E1", 0.0), {"t": 310, "replaced": "E1"}, amps(310, "E1", 20.6)]
    assert counting(CALL, *events) == [20.6]


def test_the_complaint_is_answered_by_a_repair():
    plain = Evidence(TWO, visit_of(CALL, complaint="no-heat"))
    assert plain.complaint == "no-heat"
    mended = Evidence(TWO, visit_of({"t": 9, "replaced": "E1"}, complaint="no-heat"))
    assert mended.complaint is None
    assert mended.mended_since("E1", 8)
    assert not mended.mended_since("E1", 9)
    assert not mended.mended_since("E2", 0)


def test_the_state_is_that_of_the_moment_its_own_switch_included():
    evidence = Evidence(TWO, visit_of(CALL, {"t": 400, "calls": []}))
    assert evidence.state_at(4.9).calls == frozenset()
    assert evidence.state_at(5).calls == {"W1"}
    assert evidence.state_at(399.9).since_s == {"W1": 5}
    assert evidence.state_at(400).ended_s == {"W1": 400}
    assert evidence.state_at(-math.inf).live


def test_the_newest_of_a_point_and_all_of_it_oldest_first():
    evidence = Evidence(TWO, visit_of(CALL, volts(10, 238), volts(20, 25, "R"), volts(30, 236)))
    assert [t.reading.value for t in evidence.at("C1", V)] == [238, 236]
    assert evidence.latest("C1", V).reading.value == 236
    assert evidence.latest("E1", V) is None
