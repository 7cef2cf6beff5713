"""When contacts move, at the edges: paces of limits, the fuse, low volts, and what a meter loads."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest

from plentar.core.circuit.faults import effects_of, find_faults
from plentar.core.circuit.moments import moments_until
from plentar.core.circuit.network import Topology, solve, thevenin_ohms
from plentar.core.circuit.predict import predict
from plentar.core.circuit.wiring import wire_up
from plentar.core.quantity import Quantity
from plentar.core.visit.events import Calls, Power
from plentar.store.demo.plates import plates
from tests.cases import TWO
from tests.kits import Kit, build_kit

A, V = Quantity.AMPS, Quantity.VOLTS
HOMES = plates()
HEAT = (Calls(t_s=0, calls=frozenset({"W1"})),)


def moments(unit, *faults, events=HEAT, until=900.0, draw=None):
    wiring = wire_up(unit)
    return list(moments_until(wiring, effects_of(wiring, find_faults(unit, faults)), events, until, draw))


def moves(found, contact, closes):
    """The times at which a contact opened or closed, from the call on, s."""
    return [
        after.t_s
        for before, after in pairwise(found)
        if after.t_s >= 0
        and (contact in before.closed) != (contact in after.closed)
        and (contact in after.closed) == closes
    ]


# --- limits -----------------------------------------------------------------------------------


def test_a_limit_starved_of_air_cycles_slower_than_one_with_little():
    """From its heat on: the first opening half as long again as the others (135 s, or 108 s without
    the blower); then 60 open and 90 closed, or 150 and 72."""
    for fault, first, open_s, closed_s in (("airflow:low", 135, 60, 90), ("blower:open", 108, 150, 72)):
        found = moments(TWO, fault)
        heat = moves(found, "S1.1", True)[0]
        opened, closed = moves(found, "TL1", False), moves(found, "TL1", True)
        assert opened[0] - heat == pytest.approx(first), fault
        assert np.subtract(closed, opened[: len(closed)]) == pytest.approx(open_s), fault
        assert opened[1] - closed[0] == pytest.approx(closed_s), fault


def test_a_weak_limit_cycles_alone_and_a_sound_unit_has_none():
    weak = moments(TWO, "TL2:weak")
    assert {limit for m in weak for limit in m.cycling} == {"TL2"}
    assert not any(m.cycling for m in moments(TWO))


def test_a_limit_is_at_rest_once_its_heat_is_over():
    events = (*HEAT, Calls(t_s=400, calls=frozenset()))
    last = moments(TWO, "airflow:low", events=events, until=2000)[-1]
    assert not last.cycling
    assert {"TL1", "TL2"} <= last.closed


# --- windows ----------------------------------------------------------------------------------


@pytest.mark.parametrize("share", [0.0, 0.25, 1.0])
def test_a_switch_acts_where_in_its_window_it_is_drawn(share):
    """S1.2 of the kit: its printed window, on and off, from end to end."""
    switch = TWO.switch_by_id["S1.2"]
    events = (*HEAT, Calls(t_s=600, calls=frozenset()))
    found = moments(TWO, events=events, draw=lambda _contact, _on: share)
    on_s, off_s = moves(found, "S1.2", True)[0], moves(found, "S1.2", False)[0] - 600
    for seen, window in ((on_s, switch.on_s), (off_s, switch.off_s)):
        assert seen == pytest.approx(window.low + share * (window.high - window.low))


def test_low_volts_stretch_a_heater_by_their_square_and_no_magnet():
    """A transformer at 70 %: a bimetal takes (24 V ÷ coil volts)² as long; an armature as ever."""
    found = moments(TWO, "transformer:weak")
    heated = next(m for m in found if m.t_s >= 0 and "S1" in m.energised)
    volts = abs(heated.solution.volt("S1.coil.in") - heated.solution.volt("C"))
    assert 15 < volts < 20
    on_s = TWO.switch_by_id["S1.2"].on_s
    middle_s = (on_s.low + on_s.high) / 2
    assert moves(found, "S1.2", True)[0] == pytest.approx(middle_s * (24 / volts) ** 2, rel=1e-6)
    magnet = build_kit(Kit((5000.0,), 240, "relays-ac"), "magnet", "")
    device = magnet.controls[0]
    weak, sound = (moments(magnet, *some) for some in (("transformer:weak",), ()))
    contact = device.switches[0].id
    assert moves(weak, contact, True) == moves(sound, contact, True)


def test_a_move_in_doubt_carries_its_whole_window():
    """Half way through S1.2's window it may have closed already: from its beginning to its end."""
    on_s = TWO.switch_by_id["S1.2"].on_s
    found = moments(TWO, until=on_s.high + 30)
    closing = next(m for m in found if m.t_s >= 0 and "S1.2" in m.closed)
    assert (closing.early_s, closing.late_s) == pytest.approx((on_s.low, on_s.high))


# --- the fuse ---------------------------------------------------------------------------------


def test_a_short_blows_the_fuse_at_the_call_and_it_stays_blown():
    events = (*HEAT, Calls(t_s=100, calls=frozenset()))
    found = moments(HOMES[2], "W1:to-ground", events=events, until=200)
    assert not any(m.fuse_blown for m in found if m.t_s < 0)
    blown = [m for m in found if m.fuse_blown]
    assert blown[0].t_s == 0
    assert blown[0].late_s == pytest.approx(10)
    assert found[-1].fuse_blown
    assert "control-fuse" not in found[-1].closed


def test_a_breaker_that_goes_off_takes_the_call_and_its_clocks_with_it():
    off = (*HEAT, Power(t_s=10, state="off", circuit=None))
    found = moments(TWO, events=off, until=400)
    assert "S1.2" not in found[-1].closed, "its heater was off before its window began"
    assert not found[-1].energised


# --- what a meter shows -----------------------------------------------------------------------


def test_a_floating_source_reads_as_a_bonded_one():
    """R to C of a secondary that nothing bonds to the frame: the volts of the winding, not less."""
    power = TWO.control_power
    readings = []
    for bonded in (True, False):
        unit = replace(TWO, control_power=replace(power, c_grounded=bonded))
        readings.append(predict(unit, (), HEAT, 310).read(V, "R").value)
    assert readings[0] == pytest.approx(readings[1], rel=1e-3)
    assert 24 < readings[1] < 27


def test_a_meter_across_reads_what_stands_there_less_what_it_draws():
    """Every point behind little resistance: the difference of its ends, as it stands without a meter."""
    found = predict(TWO, (), HEAT, 310)
    nodes = {**found.nodes, "ground": 0j}
    for at, ends in (
        ("C1", ("C1.l1", "C1.l2")),
        ("E1", ("E1.in", "E1.out")),
        ("R", ("R", "C")),
        ("S1.coil", ("S1.coil.in", "C")),
    ):
        between = abs(nodes[ends[0]] - nodes[ends[1]])
        assert found.read(V, at).value == pytest.approx(between, rel=1e-4), at


def test_resistance_between_two_points_counts_what_they_share_once():
    """Two nodes over 3 and 6 Ω to ground, 9 Ω between: 9 ∥ (3 + 6) = 4.5 Ω; one to ground 3 ∥ 15."""
    rows = np.array([[1.0, 0.0], [0.0, 1.0], [1.0, -1.0]])
    topology = Topology(("a", "b"), ("x", "y", "z"), rows)
    siemens = 1 / np.array([3.0, 6.0, 9.0])
    found = thevenin_ohms(topology, siemens, np.array([[1.0, -1.0], [1.0, 0.0]]))
    assert found == pytest.approx([4.5, 3 * 15 / 18])


def test_a_divider_by_hand():
    """120 V over 4 Ω and 8 Ω: 80 V on the lower, 10 A; by two emfs at once, a batch of them."""
    rows = np.array([[-1.0], [1.0]])
    topology = Topology(("mid",), ("upper", "lower"), rows)
    siemens = np.array([[1 / 4, 1 / 8], [1 / 4, 1 / 4]])
    found = solve(topology, siemens, np.array([120.0 + 0j, 0j]))
    assert np.abs(found.volts[:, 0]) == pytest.approx([80.0, 60.0])
    assert np.abs(found.amps[:, 0]) == pytest.approx([10.0, 15.0])
    assert found.amps[:, 0] == pytest.approx(found.amps[:, 1])
