"""How parts must fit, and what the switches that people move make of the state."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.errors import BadInput
from plentar.core.unit.parts import Interlock, Limit, Link
from plentar.core.unit.points import points, resolve
from plentar.core.visit.events import Calls, Power
from plentar.core.visit.state import longest_on_s, state_at
from plentar.store.demo.plates import plates
from tests.cases import TWO

HOMES = plates()


def element(unit, index, **changes):
    elements = list(unit.elements)
    elements[index] = replace(elements[index], **changes)
    return {"elements": tuple(elements)}


@pytest.mark.parametrize(
    ("changes", "path"),
    [
        ({"circuits": ()}, "circuits"),
        ({"limits": (Limit("TL1"), Limit("TL1"))}, "limits[1].id"),
        ({"links": (Link("blower"), Link("FL2"))}, "links[0].id"),
        ({"links": (Link("FL1.coil"), Link("FL2"))}, "links[0].id"),
        ({"links": (Link("1L"), Link("FL2"))}, "links[0].id"),
        (element(TWO, 0, circuit="C9"), "elements[0].circuit"),
        (element(TWO, 0, rung=("S1.1", "FL1", "TL1")), "elements[0].rung"),
        (element(TWO, 0, rung=("S1.1", "E1", "E2")), "elements[0].rung[2]"),
        (element(TWO, 0, rung=("S1.1", "E1", "S1.1")), "elements[0].rung[2]"),
        (element(TWO, 1, rung=("S1.2", "FL1", "E2", "TL2")), "elements[1].rung[1]"),
        ({"blower": replace(TWO.blower, circuit="C9")}, "blower.circuit"),
        ({"blower": replace(TWO.blower, interlock=Interlock("nc-contact", "FL1"))}, "blower.interlock.tap"),
        (
            {"blower": replace(TWO.blower, interlock=Interlock("sequencer-switch", switch="S1.1"))},
            "blower.interlock.switch",
        ),
        ({"blower": replace(TWO.blower, relay=None)}, "blower.relay"),
        ({"control_power": replace(TWO.control_power, circuit="C9")}, "control_power.circuit"),
    ],
)
def test_what_does_not_fit_is_named(changes, path):
    with pytest.raises(BadInput) as caught:
        replace(TWO, **changes)
    assert caught.value.path == path


def test_rungs_may_share_what_they_begin_or_end_with():
    shared = replace(TWO, **element(TWO, 1, rung=("S1.1", "FL2", "E2", "TL1")))
    assert [e.id for e in shared.elements_through("S1.1")] == ["E1", "E2"]
    assert [e.id for e in HOMES[6].elements_through("K1.2")] == ["E1", "E2"]


def test_a_chain_of_calls_must_not_come_back_to_itself():
    unit = HOMES[5]
    first, second = unit.controls
    auxiliary = replace(second.switches[0], id="S2.A", role="auxiliary")
    looped = (
        replace(first, call=None, through="S2.A"),
        replace(second, switches=(*second.switches, auxiliary)),
    )
    with pytest.raises(BadInput, match="comes back"):
        replace(unit, controls=looped)
    assert longest_on_s(unit, second, "S2.1") == 90 + 20


def test_every_point_of_every_home_resolves_to_itself():
    for unit in HOMES.values():
        names = [point.name for point in points(unit)]
        assert len(names) == len(set(names))
        assert all(resolve(unit, name).name == name for name in names)
    assert resolve(TWO, "E1.in:ground").component == "E1"
    for name in ("E1.in:E9.out", "E1.", ":", "E1:ground", "S1.rectifier"):
        with pytest.raises(BadInput):
            resolve(TWO, name)


def test_power_by_circuit_and_proved_dead():
    unit = HOMES[10]
    events = [
        Power(t_s=10, state="off", circuit="C1"),
        Power(t_s=20, state="proved-dead", circuit="C1"),
        Power(t_s=30, state="proved-dead", circuit="C2"),
        Power(t_s=40, state="on", circuit="C2"),
    ]
    seen = [
        (state.live, state.proved_dead) for state in (state_at(unit, events, t) for t in (5, 15, 25, 35, 45))
    ]
    assert seen == [(True, False), (True, False), (True, False), (False, True), (True, False)]


def test_calls_begin_once_end_with_the_power_and_carry_the_lead():
    events = [
        Calls(t_s=10, calls=frozenset({"W1"}), lead_s=4),
        Calls(t_s=50, calls=frozenset({"W1", "G"})),
        Power(t_s=90, state="off"),
        Power(t_s=95, state="on"),
    ]
    assert state_at(TWO, events, 60).since_s == {"W1": 6, "G": 50}
    off = state_at(TWO, events, 92)
    assert off.since_s == {}
    assert off.ended_s == {"W1": 90, "G": 90}
    assert state_at(TWO, events, 99).since_s == {"W1": 95, "G": 95}
    assert state_at(TWO, events, 5).calls == frozenset()
