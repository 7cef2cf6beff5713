"""Every fault shows its sign: what gives it away, by the table of the job."""

from __future__ import annotations

from itertools import product

import pytest

from plentar.core.circuit.faults import faults_of, find_faults
from plentar.core.circuit.predict import predict
from plentar.core.quantity import Quantity
from plentar.core.tables.faults import FAULT_KINDS
from plentar.core.visit.events import Calls
from plentar.store.demo.plates import plates

A, V, DC = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC
HOMES = plates()
IDLE: tuple[Calls, ...] = ()
HEAT = (Calls(t_s=5, calls=frozenset({"W1", "W2"})),)
W1 = (Calls(t_s=5, calls=frozenset({"W1"})),)
FAN = (Calls(t_s=5, calls=frozenset({"G"})),)
COOL = (Calls(t_s=5, calls=frozenset({"G", "Y"})),)
NEVER, LINE, DEAD = (0.0, 0.01), (225.0, 245.0), (0.0, 1.0)

#: home, fault, calls, point, quantity, the range that the sign lies in
SIGNS = [
    (2, "E2:open", HEAT, "E2", V, LINE),
    (2, "E2:open", HEAT, "E2", A, NEVER),
    (2, "E2:high-resistance", HEAT, "E2", A, (13.5, 14.1)),
    (2, "E2:low-resistance", HEAT, "E2", A, (29.0, 30.0)),
    (2, "S1.2:stuck-open", HEAT, "S1.coil", V, (24, 27)),
    (2, "S1.2:burnt", HEAT, "S1.2", V, (2.0, 2.2)),
    (2, "S1:coil-open", HEAT, "S1.coil", V, (25, 27)),
    (2, "S1:coil-open", HEAT, "S1.coil", A, NEVER),
    (2, "S1:coil-open", HEAT, "E1", A, NEVER),
    (2, "S1:coil-shorted", HEAT, "R", V, (0, 3)),
    (7, "K1:no-rectifier-output", HEAT, "K1.rectifier", V, (24, 27)),
    (7, "K1:no-rectifier-output", HEAT, "K1.coil", DC, NEVER),
    (7, "K1:no-rectifier-output", HEAT, "E1", A, NEVER),
    (7, "K1:no-rectifier-output", HEAT, "E2", A, (20, 21)),
    (7, "K2:coil-open", HEAT, "K2.coil", DC, (22, 34)),
    (2, "TL1:open", HEAT, "TL1", V, LINE),
    (2, "FL2:open", HEAT, "FL2", V, LINE),
    (2, "C1:no-supply", IDLE, "C1.line", V, DEAD),
    (2, "C1:open", IDLE, "C1.line", V, LINE),
    (2, "C1:low-volts", IDLE, "C1", V, (204, 206)),
    (2, "C1:low-volts", HEAT, "E1", A, (17.2, 17.9)),
    (2, "C1:loose", HEAT, "C1", V, (230, 235)),
    (2, "transformer:dead", IDLE, "R", V, DEAD),
    (2, "transformer:dead", IDLE, "transformer.primary", V, LINE),
    (2, "transformer:weak", HEAT, "R", V, (17.5, 18.5)),
    (2, "control-fuse:open", IDLE, "transformer", V, (26, 27)),
    (2, "control-fuse:open", IDLE, "R", V, (0, 4)),
    (2, "W1:no-call", HEAT, "R", V, (25, 27)),
    (2, "W1:no-call", HEAT, "S1.coil", V, DEAD),
    (2, "W1:always", IDLE, "W1", V, (24, 27)),
    (2, "G:always", IDLE, "blower", A, (2.1, 2.3)),
    (2, "R:to-ground", IDLE, "R", V, DEAD),
    (2, "Y:to-ground", IDLE, "R", V, (25, 27)),
    (2, "Y:to-ground", COOL, "R", V, (0, 4)),
    (2, "OD:coil-shorted", COOL, "R", V, (0, 4)),
    (2, "BR:coil-open", FAN, "BR.coil", V, (25, 27)),
    (2, "BR:coil-open", FAN, "blower", A, NEVER),
    (2, "BR:no-stuck-open", FAN, "blower", A, NEVER),
    (2, "BR:no-stuck-open", HEAT, "blower", A, (2.1, 2.3)),
    (2, "BR:coil-shorted", FAN, "R", V, (0, 4)),
    (2, "BR:no-welded", IDLE, "blower", A, (2.1, 2.3)),
    (2, "BR:nc-stuck-open", FAN, "blower", A, (2.1, 2.3)),
    (2, "BR:nc-stuck-open", HEAT, "blower", A, NEVER),
    (2, "BR:nc-welded", FAN, "E1", A, (20, 21)),
    (2, "blower:open", HEAT, "blower", V, LINE),
    (2, "blower:open", HEAT, "blower", A, NEVER),
    (2, "blower:locked", HEAT, "blower", A, (13, 14)),
    (2, "E1.wire:open", HEAT, "E1", A, NEVER),
    (8, "W1:no-call", W1, "blower", A, NEVER),
    (8, "none", HEAT, "blower", A, (1.5, 2.3)),
    (13, "none", HEAT, "blower", A, NEVER),
    (1, "S1.B:stuck-open", HEAT, "blower", A, NEVER),
    (1, "S1.B:stuck-closed", IDLE, "blower", A, (2.1, 2.3)),
    (10, "C2:open", HEAT, "E4", A, NEVER),
    (10, "C2:open", HEAT, "E1", A, (20, 21)),
]


@pytest.mark.parametrize(
    ("door", "fault", "events", "at", "quantity", "sign"),
    SIGNS,
    ids=[f"{door}-{fault}-{at}-{quantity}" for door, fault, _, at, quantity, _ in SIGNS],
)
def test_the_sign_is_there(door, fault, events, at, quantity, sign):
    unit = HOMES[door]
    reading = predict(unit, find_faults(unit, [fault]), events, 310).read(quantity, at)
    assert sign[0] <= reading.value <= sign[1]


@pytest.mark.slow
def test_every_single_fault_differs_from_the_healthy_unit_somewhere():
    """In some state and at some time, some meter shows it; a burnt auxiliary contact, which
    carries a quarter of an amp, hardly does."""
    silent = {"blower:weak-capacitor"}  # told by its microfarads
    silent |= {f"{limit.id}:bridged" for home in HOMES.values() for limit in home.limits}  # it never opens
    late = (*HEAT, Calls(t_s=900, calls=frozenset()))
    moments = list(product((IDLE, HEAT, FAN, COOL, late), (12, 40, 100, 310, 600, 960, 1100)))
    for door in (2, 5, 7, 10):
        unit = HOMES[door]
        healthy = [predict(unit, (), events, t_s).readings for events, t_s in moments]
        for fault in faults_of(unit):
            seen = any(
                a.cycling != b.cycling or abs(a.value - b.value) > 0.005 * max(a.value, b.value) + 0.05
                for sound, (events, t_s) in zip(healthy, moments, strict=True)
                for a, b in zip(sound, predict(unit, [fault], events, t_s).readings, strict=True)
            )
            assert seen or fault.id in silent or fault.id.endswith(".A:burnt"), (door, fault.id)


def test_frequencies_are_those_of_the_trade():
    found = {f.id: f.kind.frequency for f in faults_of(HOMES[2])}
    assert found["S1.2:stuck-open"] == 10
    assert found["E1:open"] == 6
    assert found["FL1:open"] == 3
    assert found["transformer:weak"] == 1
    assert found["BR:coil-open"] == 2
    assert found["BR:nc-welded"] == 5
    assert {kind.frequency for kind in FAULT_KINDS.values()} <= {0.2, *range(1, 11)}


def test_faults_exist_only_where_the_part_does():
    nc = {door: any(":nc-" in f.id for f in faults_of(unit)) for door, unit in HOMES.items()}
    assert {door for door, there in nc.items() if there} == {2, 3, 5, 6, 9, 10, 11}
    slow = {f.component for f in faults_of(HOMES[10]) if f.mode == "slow"}
    assert slow == {"S1", "S2", "BR"}
    assert not [f for f in faults_of(HOMES[7]) if f.mode == "slow"]
