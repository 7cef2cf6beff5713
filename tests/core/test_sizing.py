"""What a circuit needs, held against worked examples by hand."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.checks.circuit import circuit_findings
from plentar.core.judgement import FindingCode
from plentar.core.supply.conductors import allowed_amps
from plentar.core.supply.sizing import sized
from plentar.core.tables.conductors import AMPACITY
from plentar.core.unit.parts import CircuitPlate, Conductor
from plentar.core.unit.unit import Unit
from tests.kits import Kit, build_kit


def unit_of(*watts: float, fla: float | None = None, **circuit: object) -> Unit:
    unit = build_kit(Kit(watts, 240, "single-sequencers"), "sized", "")
    of = replace(unit.circuits[0], **circuit)
    return replace(unit, circuits=(of,), blower=replace(unit.blower, fla=fla))


def wire(awg: str, material: str = "copper", **lies: object) -> Conductor:
    return Conductor(awg, material, **{"termination_c": 75, **lies})


#: Watts, motor A; load, minimum, breaker; copper on 75 °C terminals at 30 °C; aluminium.
#: 6.6 kW: 27.5 A, + 4.5 = 32.0, × 1.25 = 40.0, next size 40: 8 AWG is 50 A, of aluminium 40 A.
#: 4.8 + 3.5 kW: 20.0 + 14.58 = 34.58, × 1.25 = 43.2, next size 45: 8 AWG 50 A; 6 AWG Al 50 A.
#: 3 × 4.8 kW + 5 A: 65.0, × 1.25 = 81.25, next size 90: 4 AWG 85 A, and 90 is its next size; 2 AWG Al 90.
#: 2 × 5 kW + 3.4 A: 41.67 + 3.4 = 45.07, 56.3, next size 60: 6 AWG 65 A; 4 AWG Al 65 A.
#: 7.5 kW: 31.25, 39.06, next size 40: 8 AWG 50 A; 8 AWG Al 40 A.
#: 3.5 kW + 2.8 A: 17.38, 21.7, next size 25: 10 AWG 35 A (30 at most); 10 AWG Al 30 A (25 at most).
WORKED = [
    ((6600.0,), 4.5, 32.0, 40.0, 40, "8", "8"),
    ((4800.0, 3500.0), None, 34.58, 43.23, 45, "8", "6"),
    ((4800.0,) * 3, 5.0, 65.0, 81.25, 90, "4", "2"),
    ((5000.0, 5000.0), 3.4, 45.07, 56.33, 60, "6", "4"),
    ((7500.0,), None, 31.25, 39.06, 40, "8", "8"),
    ((3500.0,), 2.8, 17.38, 21.73, 25, "10", "10"),
]


@pytest.mark.parametrize(("watts", "fla", "load", "least", "breaker", "copper", "aluminium"), WORKED)
def test_worked_circuits(watts, fla, load, least, breaker, copper, aluminium):
    [one] = sized(unit_of(*watts, fla=fla, conductor=wire("1/0")))
    assert one.load_amps == pytest.approx(load, abs=0.01)
    assert one.min_circuit_amps == pytest.approx(least, abs=0.01)
    assert one.breaker_amps == (breaker, breaker)
    assert (one.copper_awg, one.aluminium_awg) == (copper, aluminium)


def test_the_plate_rules_where_there_is_one():
    """A plate of 46 and 50 A: 50 A is the smallest size, and the largest; copper for 46 A at 75 °C
    is 8 AWG, 50 A; aluminium 6 AWG, 50 A."""
    unit = unit_of(4800.0, 3500.0, plate=CircuitPlate(46, 50), conductor=wire("6"))
    [one] = sized(unit)
    assert (one.min_circuit_amps, one.breaker_amps) == (46, (50, 50))
    assert (one.copper_awg, one.aluminium_awg) == ("8", "6")


@pytest.mark.parametrize(
    ("ambient_c", "copper"), [(30.0, "8"), (45.0, "8"), (55.0, "8"), (65.0, "8"), (72.0, None)]
)
def test_an_attic_asks_for_more_wire(ambient_c, copper):
    """6.6 kW + 4.5 A: 32.0 A of load after the ambient, 40 A on the terminals before it. 8 AWG with
    90 °C insulation is 55 A: × .87 = 47.9, × .76 = 41.8 (a 45 A breaker fits), × .65 = 35.8 A (40
    is the next size, and 32 A fit), so it stands to 65 °C by load; its breaker of 40 A fits too."""
    [one] = sized(unit_of(6600.0, fla=4.5, conductor=wire("8", ambient_c=ambient_c)))
    assert one.copper_awg == copper


def test_cable_and_terminals_count():
    """Nonmetallic cable stands on its 60 °C column: 40 A of minimum take 8 AWG (40 A); terminals of
    60 °C the same; 45 A on them take 6 AWG (55 A)."""
    nm = sized(unit_of(6600.0, fla=4.5, conductor=wire("8", cable="nm")))[0]
    cool = sized(unit_of(6600.0, fla=4.5, conductor=wire("8", termination_c=60)))[0]
    more = sized(unit_of(4800.0, 3500.0, conductor=wire("8", termination_c=60)))[0]
    assert (nm.copper_awg, cool.copper_awg, more.copper_awg) == ("8", "8", "6")


@given(
    st.lists(st.sampled_from([3500.0, 4800.0, 5000.0, 7500.0]), min_size=1, max_size=3),
    st.sampled_from([60, 75]),
    st.sampled_from([75, 90]),
    st.sampled_from([30.0, 45.0, 55.0]),
    st.sampled_from(["copper", "aluminium"]),
)
def test_what_is_proposed_passes_its_own_check(watts, termination_c, insulation_c, ambient_c, metal):
    laid = wire("6", metal, termination_c=termination_c, insulation_c=insulation_c, ambient_c=ambient_c)
    unit = unit_of(*watts, fla=3.4, conductor=laid)
    [one] = sized(unit)
    awg = one.copper_awg if metal == "copper" else one.aluminium_awg
    if awg is None:
        return
    put_in = replace(unit.circuits[0], breaker_amps=one.breaker_amps[0], conductor=replace(laid, awg=awg))
    codes = {finding.code for finding in circuit_findings(replace(unit, circuits=(put_in,)))}
    allowed = {FindingCode.OVER_80_PERCENT, FindingCode.ELEMENTS_OVER_48, FindingCode.VOLTAGE_DROP}
    assert codes <= allowed, codes


@given(st.sampled_from(["copper", "aluminium"]), st.sampled_from([60, 75, 90]), st.data())
def test_ampacity_rises_with_size_and_falls_with_ambient(metal, insulation_c, data):
    sizes = list(AMPACITY[metal])
    small, large = sorted(data.draw(st.tuples(*[st.integers(0, len(sizes) - 1)] * 2)))
    cool, warm = sorted(data.draw(st.tuples(*[st.floats(20, 70)] * 2)))
    of = {"insulation_c": insulation_c}
    assert allowed_amps(wire(sizes[small], metal, **of)) <= allowed_amps(wire(sizes[large], metal, **of))
    hot, cold = (allowed_amps(wire("6", metal, ambient_c=c, **of)) for c in (warm, cool))
    assert (hot or 0) <= cold
