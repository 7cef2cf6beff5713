"""The relay's wiring: every way to connect three terminals, against a table of its own."""

from __future__ import annotations

from dataclasses import replace
from itertools import product

import pytest

from plentar.core.errors import BadInput
from plentar.core.relay_bench.proof import prove as prove_relay
from plentar.core.unit.parts import RELAY_ENDS, RelayWires
from plentar.core.unit.unit import Unit
from tests.kits import Kit, build_kit

CASES = ((), ("G",), ("W1",), ("G", "W1"))


def wired(common: str, no: str, nc: str, relay: str = "spdt") -> Unit:
    """One strip of 5 kW on a contactor's pole, its relay wired so; the motor draws 3 A."""
    unit = build_kit(Kit((5000.0,), 240, "relays-ac", relay=relay), "one", "")
    of_relay = replace(unit.blower.relay, wires=RelayWires(common, no, nc))
    return replace(unit, blower=replace(unit.blower, relay=of_relay, typical_amps=3.0))


def by_table(common: str, no: str, nc: str) -> tuple[list[str], list[tuple]]:
    """What is wrong, by where each terminal leads: no network, no volts. One contact is closed at a
    time: it joins two of L1, L2, the motor, the strip; the heat switch joins L1 and the strip."""
    cases, carries = [], False
    for calls in CASES:
        ends = frozenset({common, no if "G" in calls else nc})
        pairs = [ends] if len(ends) == 2 and "none" not in ends else []
        if "W1" in calls:
            pairs.append(frozenset({"L1", "heat"}))
        # Wires that lead to the same place as another join nothing more: one terminal has one wire.
        fed = {"L1"}
        for _ in range(3):
            fed |= {end for pair in pairs if pair & fed for end in pair}
        if "L2" in fed:
            return ["short"], []
        carries |= ends == {"L1", "heat"}
        cases.append(("blower" in fed, "heat" in fed))
    nothing, fan, heat, _ = cases
    named = {
        "heat-always": nothing[1],
        "heat-with-g": fan[1],
        "no-blower-on-g": not fan[0],
        "no-blower-on-heat": not heat[0],
        "blower-always": nothing[0],
        "relay-carries-element": carries,
    }
    return [code for code, so in named.items() if so], cases


@pytest.mark.parametrize("relay", ["spdt", pytest.param("dpdt", marks=pytest.mark.slow)])
def test_every_wiring_is_called_by_its_consequence(relay):
    right = []
    for ends in product(RELAY_ENDS, repeat=3):
        proof = prove_relay(wired(*ends, relay=relay))
        wrong, cases = by_table(*ends)
        assert [str(code) for code in proof.wrong] == wrong, ends
        if cases:
            assert [(case.blower, case.heat) for case in proof.cases] == cases, ends
        if not wrong:
            right.append(ends)
    assert right == [("blower", "L1", "heat")], "and the usual one alone is right"


@pytest.mark.parametrize(
    ("ends", "codes"),
    [
        (("heat", "L1", "blower"), {"heat-with-g", "relay-carries-element"}),
        (("L1", "blower", "heat"), {"heat-always", "relay-carries-element"}),
        (("L1", "blower", "L2"), {"short"}),
    ],
    ids=["heat on common", "common on L1", "normally closed across the legs"],
)
def test_the_classical_wrong_ones(ends, codes):
    assert codes <= {str(code) for code in prove_relay(wired(*ends)).wrong}


def test_amps_through_the_set_are_the_motors_and_the_strips_where_it_is_wrong():
    """5 kW at 240 V are 20.83 A; the motor draws 3 A."""
    right = prove_relay(wired("blower", "L1", "heat"))
    assert [case.through_relay_amps for case in right.cases] == pytest.approx([0, 3, 3, 3], abs=0.02)
    wrong = prove_relay(wired("heat", "L1", "none"))
    assert wrong.cases[1].through_relay_amps == pytest.approx(20.83, abs=0.05)


def test_as_its_interlock_says_where_no_wire_is_given_and_refused_without_a_tap():
    unit = build_kit(Kit((5000.0, 5000.0), 240, "contactors"), "two", "")
    assert not prove_relay(unit).wrong
    for tie, relay in (("g-with-w", "spdt"), ("none", "none")):
        with pytest.raises(BadInput):
            prove_relay(build_kit(Kit((5000.0,), 240, "contactors", tie=tie, relay=relay), "x", ""))
