"""Circuits worked out by hand, and the tables as the code of practice prints them."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.air.airflow import air_factor, air_rise_f, airflow_cfm
from plentar.core.checks.circuit import circuit_findings
from plentar.core.door import judge
from plentar.core.judgement import Level
from plentar.core.supply.ampere import ampere_scales
from plentar.core.supply.conductors import (
    allowed_amps,
    dropped_volts,
    largest_breaker_amps,
    next_size_amps,
    terminal_amps,
)
from plentar.core.supply.meanwhile import meanwhile
from plentar.core.supply.sizing import sized
from plentar.core.tables.conductors import AMBIENT, AMPACITY, OHMS_PER_KFT, STANDARD_SIZES
from plentar.core.unit.parts import Circuit, CircuitPlate, Conductor, Feeder
from plentar.core.unit.unit import FEEDER, Unit
from plentar.core.visit.events import Did, Visit
from plentar.core.visit.evidence import Evidence
from plentar.store.demo.plates import plates
from tests.kits import Kit, build_kit

#: AWG, copper and aluminium at 60/75/90 °C, Ω per 1000 ft of each.
PRINTED = """
14 15/20/25 – 3.14 –
12 20/25/30 15/20/25 1.98 3.25
10 30/35/40 25/30/35 1.24 2.04
8 40/50/55 35/40/45 0.778 1.28
6 55/65/75 40/50/55 0.491 0.808
4 70/85/95 55/65/75 0.308 0.508
3 85/100/115 65/75/85 0.245 0.403
2 95/115/130 75/90/100 0.194 0.319
1 110/130/145 85/100/115 0.154 0.253
1/0 125/150/170 100/120/135 0.122 0.201
2/0 145/175/195 115/135/150 0.0967 0.159
"""
PRINTED_AMBIENT = """
35 .91/.94/.96
40 .82/.88/.91
45 .71/.82/.87
50 .58/.75/.82
55 .41/.67/.76
60 –/.58/.71
65 –/.47/.65
70 –/.33/.58
"""
PRINTED_SIZES = "15 20 25 30 35 40 45 50 60 70 80 90 100 110 125 150 175 200 225"


def test_every_cell_is_as_printed():
    for line in PRINTED.strip().splitlines():
        awg, *cells = line.split()
        for metal, amps, ohms in zip(("copper", "aluminium"), cells[:2], cells[2:], strict=True):
            if amps == "–":
                assert awg not in AMPACITY[metal]
            else:
                assert AMPACITY[metal][awg] == tuple(map(int, amps.split("/")))
                assert OHMS_PER_KFT[metal][awg] == float(ohms)
    assert AMBIENT[0] == (30, (1.0, 1.0, 1.0))
    shares = [(upto, "/".join(f"{s:.2f}"[1:] if s else "–" for s in of)) for upto, of in AMBIENT[1:]]
    printed = [row.split() for row in PRINTED_AMBIENT.strip().splitlines()]
    assert shares == [(int(upto), of) for upto, of in printed]
    assert list(STANDARD_SIZES) == list(map(int, PRINTED_SIZES.split()))


def wire(words: str, **more: object) -> Conductor:
    """Such as “8 cu 90/75 nm 50°”: insulation and terminals in °C, a dash where not given."""
    found = re.fullmatch(r"(\S+) (cu|al) (\d+)/(\d+|-)( nm)?( (\d+)°)?", words)
    assert found, words
    awg, metal, insulation, ends, nm, _, ambient = found.groups()
    return Conductor(
        awg,
        "copper" if metal == "cu" else "aluminium",
        insulation_c=int(insulation),
        termination_c=None if ends == "-" else int(ends),
        cable="nm" if nm else "other",
        ambient_c=float(ambient or 30),
        **more,
    )


@pytest.mark.parametrize(
    ("laid", "behind", "as_laid", "at_ends", "breaker"),
    [
        # Terminals of 60 and 75 °C, insulation of 90: the terminals decide at 30 °C.
        ("10 cu 90/60", 30, 30, 30, 30),
        ("10 cu 90/75", 30, 35, 35, 30),  # 35 A, but 10 AWG copper may have 30 A
        ("12 cu 90/75", 20, 25, 25, 20),
        ("14 cu 90/75", 15, 20, 20, 15),
        ("12 al 90/75", 15, 20, 20, 15),
        ("10 al 90/75", 25, 30, 30, 25),
        ("8 cu 90/60", 40, 40, 40, 40),
        ("8 cu 90/75", 50, 50, 50, 50),
        ("6 cu 90/60", 60, 55, 55, 60),  # 55 is no size: 60
        ("6 cu 90/75", 60, 65, 65, 70),  # 65 is no size: 70
        ("4 al 90/75", 60, 65, 65, 70),
        ("1 al 75/75", 100, 100, 100, 100),  # 100 is a size: nothing above it
        ("2 cu 75/75", 110, 115, 115, 125),
        # Not given: 60 °C up to 100 A and 1 AWG, 75 °C above either.
        ("8 cu 90/-", 40, 40, 40, 40),
        ("1 cu 90/-", 100, 110, 110, 110),
        ("1 cu 90/-", 110, 130, 130, 150),
        ("1/0 cu 90/-", 100, 150, 150, 150),
        ("2/0 al 75/-", 125, 135, 135, 150),
        # An attic: insulation × correction, where that is less than the terminals.
        ("8 cu 90/75 50°", 40, 55 * 0.82, 50, 50),  # 45.1 A
        ("8 cu 75/75 50°", 40, 50 * 0.75, 50, 40),  # 37.5 A
        ("6 cu 90/60 50°", 60, 55, 55, 60),  # 75 × .82 = 61.5, the terminals are less
        ("6 cu 90/75 60°", 50, 75 * 0.71, 65, 60),  # 53.25 A
        ("10 cu 90/60 55°", 30, 30, 30, 30),  # 40 × .76 = 30.4
        ("10 cu 60/60 45°", 20, 30 * 0.71, 30, 25),  # 21.3 A
        ("4 cu 90/75 70°", 50, 95 * 0.58, 85, 60),  # 55.1 A
        ("8 al 90/75 40°", 40, 40, 40, 40),  # 45 × .91 = 40.95
        ("6 cu 60/60 56°", 15, 0, 55, 15),  # no figure for 60 °C insulation there
        # Nonmetallic cable: corrected from 90 °C, never above its 60 °C column.
        ("8 cu 90/75 nm", 40, 40, 40, 40),
        ("6 cu 90/75 nm 40°", 60, 55, 55, 60),  # 75 × .91 = 68.25
        ("6 cu 90/75 nm 65°", 50, 75 * 0.65, 55, 50),  # 48.75 A
    ],
)
def test_a_wire_by_the_tables(laid, behind, as_laid, at_ends, breaker):
    one = wire(laid)
    assert allowed_amps(one, behind) == pytest.approx(as_laid)
    assert terminal_amps(one, behind) == at_ends
    assert largest_breaker_amps(one, behind) == breaker


def kit(
    *kw: float,
    volts: float = 240,
    served: float | None = None,
    fla: float | None = None,
    feeder: Feeder | None = None,
    circuits: int = 1,
    **of: object,
) -> Unit:
    unit = build_kit(Kit(tuple(1000 * one for one in kw), volts, "contactors", circuits), "w", "")
    first = [replace(c, rated_volts=served or volts, **of) for c in unit.circuits]
    blower = replace(unit.blower, fla=fla, circuit="C1")
    return replace(unit, circuits=tuple(first), blower=blower, feeder=feeder)


@pytest.mark.parametrize(
    ("kw", "volts", "served", "fla", "load", "minimum", "size"),
    [
        ((5.0,), 240, 240, None, 20.83, 26.04, 30),
        ((5.0,), 240, 240, 3.4, 24.23, 30.29, 35),
        ((3.5,), 240, 240, 2.8, 17.38, 21.73, 25),
        ((4.8, 4.8), 240, 240, None, 40.0, 50.0, 50),  # 50.0 is reached by 50
        ((7.5,), 240, 240, 4.5, 35.75, 44.69, 45),
        ((10.0,), 240, 240, 5.0, 46.67, 58.33, 60),
        ((5.0, 5.0), 240, 240, 6.0, 47.67, 59.58, 60),
        # 240 V strips on 208 V: amps fall by the volts.
        ((5.0, 5.0), 240, 208, None, 36.11, 45.14, 50),
        ((5.0, 5.0), 240, 208, 3.4, 39.51, 49.39, 50),
        # 208 V strips as rated: 5 kW are 24.04 A.
        ((5.0,), 208, 208, None, 24.04, 30.05, 35),
        # Mixed sizes.
        ((4.8, 3.5), 240, 240, None, 34.58, 43.23, 45),
        ((5.0, 3.5), 240, 240, 4.3, 39.72, 49.65, 50),
        ((7.5, 5.0), 240, 240, 3.4, 55.48, 69.35, 70),
        # 5 kW plated at 230 V: 23.63 ² … 25 A per 5.75 kW: 240 × 5000 ÷ 230².
        ((5.0,), 230, 240, None, 22.68, 28.36, 30),
        ((4.8, 4.8, 4.8), 240, 240, 5.0, 65.0, 81.25, 90),
        ((6.6,), 240, 240, 4.5, 32.0, 40.0, 40),
    ],
)
def test_a_load_by_hand(kw, volts, served, fla, load, minimum, size):
    [one] = sized(kit(*kw, volts=volts, served=served, fla=fla))
    assert one.load_amps == pytest.approx(load, abs=0.006)
    assert one.min_circuit_amps == pytest.approx(minimum, abs=0.01)
    assert one.breaker_amps == (size, size)


def codes(unit: Unit) -> set[str]:
    return {f"{f.component} {f.code} {f.level}" for f in circuit_findings(unit)}


AHEAD = Feeder(("C1", "C2"), 100, wire("1 al 90/75"))


@pytest.mark.parametrize(
    ("unit", "found"),
    [
        # 6.6 kW + 4.5 A: 32 A, minimum 40. On 10 AWG with 45 A: too thin, breaker over 30, 71 %.
        (
            kit(6.6, fla=4.5, breaker_amps=45, conductor=wire("10 cu 90/60")),
            {"C1 breaker-over-conductor stop-now", "C1 conductor-under-load stop-now"},
        ),
        # On 75 °C terminals 35 A carry the 32, but not the 40 at the ends.
        (
            kit(6.6, fla=4.5, breaker_amps=40, conductor=wire("10 cu 90/75")),
            {"C1 breaker-over-conductor stop-now", "C1 conductor-under-load repair"},
        ),
        (kit(6.6, fla=4.5, breaker_amps=40, conductor=wire("8 cu 90/60")), set()),
        # 32 of 35 A are 91 %, and 40 is the least.
        (
            kit(6.6, fla=4.5, breaker_amps=35, conductor=wire("8 cu 90/60")),
            {"C1 breaker-under-load repair", "C1 over-80-percent watch"},
        ),
        # The plate's 46 and 50: a 50 stands, a 60 does not, a 45 is under it.
        (kit(4.8, 3.5, breaker_amps=50, plate=CircuitPlate(46, 50), conductor=wire("8 cu 90/75")), set()),
        (
            kit(4.8, 3.5, breaker_amps=60, plate=CircuitPlate(46, 50), conductor=wire("6 cu 90/75")),
            {"C1 breaker-over-plate stop-now"},
        ),
        (
            kit(4.8, 3.5, breaker_amps=45, plate=CircuitPlate(46, 50), conductor=wire("8 cu 90/75")),
            {"C1 breaker-under-load repair"},
        ),
        # 60 A of strips on one circuit: split inside, not split, unknown.
        (kit(4.8, 4.8, 4.8, subdivided=True, breaker_amps=80, conductor=wire("4 cu 90/75")), set()),
        (
            kit(4.8, 4.8, 4.8, subdivided=False, breaker_amps=80, conductor=wire("4 cu 90/75")),
            {"C1 elements-over-48 repair"},
        ),
        (kit(4.8, 4.8, 4.8, breaker_amps=80, conductor=wire("4 cu 90/75")), {"C1 elements-over-48 watch"}),
        # 48.0 A are not above 48.
        (kit(5.76, 5.76, breaker_amps=60, conductor=wire("6 cu 90/75")), set()),
        # A breaker that opens one leg.
        (
            kit(5.0, breaker_amps=30, breaker_legs=1, conductor=wire("10 cu 90/60")),
            {"C1 breaker-over-conductor stop-now"},
        ),
        # 1 AWG aluminium: 110 A is above it, 100 not.
        (
            kit(4.8, 4.8, 4.8, fla=5.0, subdivided=True, breaker_amps=110, conductor=wire("1 al 90/75")),
            {"C1 breaker-over-conductor stop-now"},
        ),
        (kit(4.8, 4.8, 4.8, fla=5.0, subdivided=True, breaker_amps=90, conductor=wire("1 al 90/75")), set()),
        # 150 ft of 8 AWG under 40 A: 2 × .15 × .778 × 40 = 9.34 V, 3.9 %.
        (
            kit(4.8, 4.8, breaker_amps=50, conductor=wire("8 cu 90/75", length_ft=150)),
            {"C1 voltage-drop watch"},
        ),
        # 100 ft of it 6.2 V, 2.6 %.
        (kit(4.8, 4.8, breaker_amps=50, conductor=wire("8 cu 90/75", length_ft=100)), set()),
        # An attic of 65 °C: 8 AWG 90 °C, 55 × .65 = 35.75 A, 40 A its breaker; the load is 40.
        (
            kit(4.8, 4.8, breaker_amps=50, conductor=wire("8 cu 90/75 65°")),
            {"C1 breaker-over-conductor stop-now", "C1 conductor-under-load stop-now"},
        ),
        # Two circuits of two 4.8 kW on a feeder: 80 A + 5 of blower, minimum 106.25.
        (
            kit(
                4.8,
                4.8,
                4.8,
                4.8,
                fla=5.0,
                circuits=2,
                breaker_amps=60,
                feeder=AHEAD,
                conductor=wire("6 cu 90/75"),
            ),
            {
                "feeder breaker-under-load repair",
                "feeder conductor-under-load repair",
                "feeder over-80-percent watch",
            },
        ),
        # On 1/0 aluminium (120 A) and 110 A it stands: 85 of 110 are 77 %.
        (
            kit(
                4.8,
                4.8,
                4.8,
                4.8,
                fla=5.0,
                circuits=2,
                breaker_amps=60,
                feeder=Feeder(("C1", "C2"), 110, wire("1/0 al 90/75")),
                conductor=wire("6 cu 90/75"),
            ),
            set(),
        ),
        # A disconnect that is only a switch protects nothing, and nothing is asked of it.
        (
            kit(
                4.8,
                4.8,
                breaker_amps=50,
                feeder=Feeder(("C1",), disconnect="switch"),
                conductor=wire("8 cu 90/75"),
            ),
            set(),
        ),
        # A feeder that protects one leg.
        (
            kit(
                4.8,
                4.8,
                breaker_amps=50,
                conductor=wire("8 cu 90/75"),
                feeder=Feeder(("C1",), 50, wire("8 cu 90/75"), breaker_legs=1),
            ),
            {"feeder breaker-over-conductor stop-now"},
        ),
        # 208 V: two 5 kW are 36.1 A there, 45.1 least: 45 A is short of it by a little.
        (
            kit(5.0, 5.0, served=208, breaker_amps=45, conductor=wire("8 cu 90/75")),
            {"C1 breaker-under-load repair", "C1 over-80-percent watch"},
        ),
        (kit(5.0, 5.0, served=208, breaker_amps=50, conductor=wire("8 cu 90/75")), set()),
    ],
)
def test_what_is_found_by_hand(unit, found):
    assert codes(unit) == found


@pytest.mark.parametrize(
    ("unit", "off", "left", "of"),
    [
        # 10 AWG on 60 °C terminals carries 24 A of load at 125 %: one of two 5 kW strips.
        (kit(5.0, 5.0, breaker_amps=30, conductor=wire("10 cu 90/60")), ("E1",), 20.83, 30),
        (kit(4.8, 3.5, breaker_amps=30, conductor=wire("10 cu 90/60")), ("E2",), 20.0, 30),
        (kit(4.8, 3.5, breaker_amps=20, conductor=wire("12 cu 90/60")), ("E1",), 14.58, 20),
        # 30 A for a blower of 10 A: 1.25 × (14.58 + 10) = 30.7, so nothing of it would do.
        (kit(3.5, 3.5, fla=10.0, breaker_amps=30, conductor=wire("10 cu 90/60")), None, 0, 0),
        (kit(4.8, 4.8, breaker_amps=50, conductor=wire("8 cu 90/75")), None, 0, 0),
    ],
)
def test_what_is_left_off_meanwhile(unit, off, left, of):
    less = meanwhile(unit, ("C1",))
    assert (less.elements if less else None) == off
    if less:
        assert less.load_amps == pytest.approx(left, abs=0.01)
        assert less.of_amps == of


WIRES = st.builds(
    Conductor,
    st.sampled_from(["10", "8", "6", "4", "2", "1/0"]),
    st.sampled_from(["copper", "aluminium"]),
    st.sampled_from([75, 90]),
    st.sampled_from([60, 75, None]),
    st.sampled_from(["nm", "other"]),
    st.sampled_from([30.0, 45.0, 60.0]),
)


@given(st.lists(st.sampled_from([3.5, 4.8, 5.0, 7.5]), min_size=1, max_size=4), WIRES)
def test_what_is_proposed_is_in_order_on_its_own_scale(kw, laid):
    unit = kit(*kw, fla=3.4, subdivided=True, conductor=laid)
    [one] = sized(unit)
    awg = one.copper_awg if laid.material == "copper" else one.aluminium_awg
    if awg is None or one.breaker_amps[0] is None:
        return
    put_in = replace(unit.circuits[0], breaker_amps=one.breaker_amps[0], conductor=replace(laid, awg=awg))
    [scale] = ampere_scales(Evidence(replace(unit, circuits=(put_in,)), Visit()))
    assert scale.in_order
    assert meanwhile(replace(unit, circuits=(put_in,)), ("C1",)) is None
    smaller = [size for size in AMPACITY[laid.material] if size != awg]
    smaller = smaller[: list(AMPACITY[laid.material]).index(awg)]
    for size in smaller[-1:]:
        thin = replace(put_in, conductor=replace(laid, awg=size))
        [scale] = ampere_scales(Evidence(replace(unit, circuits=(thin,)), Visit()))
        assert not scale.in_order


@given(st.floats(1e3, 1e5), st.floats(3, 90), st.floats(-1000, 15000))
def test_air_and_rise_invert_each_other(heat_btuh, rise_f, altitude_ft):
    cfm = airflow_cfm(heat_btuh, rise_f, altitude_ft)
    assert air_rise_f(heat_btuh, cfm, altitude_ft) == pytest.approx(rise_f)
    assert airflow_cfm(heat_btuh, rise_f, altitude_ft + 1000) > cfm


def test_air_by_hand():
    """10 kW are 34 121 BTU/h: ÷ (1.08 × 1200) = 26.3 °F. At 5 000 ft F is .832."""
    assert air_rise_f(34121.4, 1200) == pytest.approx(26.3, abs=0.05)
    assert air_factor(5000) == pytest.approx(0.832, abs=0.0005)
    assert airflow_cfm(34121.4, 26.33, 5000) == pytest.approx(1442, abs=2)


def test_a_run_drops_both_ways():
    """35 ft of 6 AWG copper, 42.4 A: 2 × .035 × .491 × 42.4 = 1.457 V."""
    assert dropped_volts(wire("6 cu 90/75", length_ft=35), 42.4) == pytest.approx(1.457, abs=0.001)
    assert next_size_amps(225.5) is None


def test_the_feeder_stops_what_hangs_on_it():
    unit = kit(
        4.8,
        4.8,
        4.8,
        4.8,
        circuits=2,
        breaker_amps=60,
        conductor=wire("6 cu 90/75"),
        feeder=Feeder(("C1", "C2"), 110, wire("2 al 90/75")),
    )
    stops = judge(unit, Visit()).stops
    assert {(f.code, f.component) for f in stops} == {("breaker-over-conductor", FEEDER)}
    bare = Circuit("C1", 240)
    assert not circuit_findings(replace(kit(5.0), circuits=(bare,)))


def test_every_home_of_the_demo_that_is_wrong_is_found_and_no_other():
    """Home 10's second circuit lies on 10 AWG behind 60 A; home 13 has no tie."""
    loud = {
        (home, str(f.component), str(f.code))
        for home, unit in plates().items()
        for f in judge(unit, Visit()).findings
        if f.level in (Level.REPAIR, Level.STOP_NOW)
    }
    assert loud == {
        (10, "C2", "breaker-over-conductor"),
        (10, "C2", "conductor-under-load"),
        (13, "blower", "no-blower-tie"),
    }


def test_what_is_left_off_stands_on_the_scale():
    """10 AWG under two 5 kW strips: 41.7 A, and 20.8 with one of them left off."""
    unit = kit(5.0, 5.0, breaker_amps=30, conductor=wire("10 cu 90/60"))
    off = Did(t_s=1, verb="stage-off", part="E2")
    [scale] = ampere_scales(Evidence(unit, Visit(events=(off,))))
    drawn = {mark.label: mark.amps for mark in scale.marks}
    assert scale.left_off == ("E2",)
    assert drawn["load as rated"] == pytest.approx(41.67, abs=0.01)
    assert drawn["load with the part left off"] == pytest.approx(20.83, abs=0.01)
