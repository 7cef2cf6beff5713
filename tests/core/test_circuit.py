"""The unit as a circuit: laws, hand-worked readings, and another solver's numbers."""

from __future__ import annotations

import re
import subprocess
from dataclasses import replace
from random import Random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plentar.core.circuit.batch import solve_many
from plentar.core.circuit.faults import effects_of, faults_of, find_faults
from plentar.core.circuit.moments import moments_until
from plentar.core.circuit.network import SingularNetwork, Topology, solve
from plentar.core.circuit.predict import predict
from plentar.core.circuit.wiring import wire_up
from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.unit.parts import Conductor
from plentar.core.visit.events import Calls, Power
from plentar.files.spice import deck_name, netlist
from plentar.store.demo.plates import plates
from tests.circuits import Case, random_cases
from tests.kits import Kit, build_kit

A, V, DC = Quantity.AMPS, Quantity.VOLTS, Quantity.VOLTS_DC
HOMES = plates()
HEAT = (Calls(t_s=5, calls=frozenset({"W1"})),)


def read(door, quantity, at, *faults, events=HEAT, t=310.0):
    unit = HOMES[door] if isinstance(door, int) else door
    reading = predict(unit, find_faults(unit, faults), events, t).read(quantity, at)
    assert reading is not None, at
    return reading.value


# --- laws -------------------------------------------------------------------------------------


@settings(max_examples=60)
@given(st.integers(0, 10**6))
def test_kirchhoff_and_power_hold_whatever_is_wrong(seed):
    (case,) = random_cases(1, seed)
    solution = predict(case.unit, case.faults, case.events, case.t_s).moment.solution
    leaving = solution.amps @ solution.topology.incidence
    scale = max(1.0, np.abs(solution.amps).max())
    assert np.abs(leaving).max() < 1e-6 * scale, case
    made = (solution.emf * solution.amps.conj()).sum().real
    spent = (np.abs(solution.amps) ** 2 / solution.siemens).sum()
    assert spent == pytest.approx(made, rel=1e-6, abs=1e-6), case


@pytest.mark.slow
def test_every_single_fault_of_every_home_is_predicted():
    for unit in HOMES.values():
        for fault in faults_of(unit):
            for events in ((), HEAT, (Calls(t_s=5, calls=frozenset({"G"})),)):
                prediction = predict(unit, [fault], events, 310)
                assert all(np.isfinite(r.value) for r in prediction.readings), (unit.id, fault.id)


def test_a_singular_network_names_its_nodes():
    topology = Topology(("a", "b", "c"), ("x", "y"), np.array([[1.0, 0, 0], [0, 1, -1]]))
    with pytest.raises(SingularNetwork) as caught:
        solve(topology, np.ones(2), np.zeros(2, dtype=complex))
    assert caught.value.nodes == ("b", "c")


def test_unknown_faults_are_refused():
    with pytest.raises(BadInput):
        find_faults(HOMES[2], ["E9:open"])
    with pytest.raises(BadInput):
        find_faults(HOMES[1], ["BR:nc-welded"])


# --- another solver ---------------------------------------------------------------------------


def spice_volts(decks: list[str], tmp_path) -> list[dict[str, float]]:
    """Node magnitudes of each deck by ngspice."""
    answers = []
    for number, deck in enumerate(decks):
        file = tmp_path / f"{number}.cir"
        file.write_text(deck, encoding="ascii", errors="replace")
        said = subprocess.run(
            ["ngspice", "-b", str(file)], capture_output=True, text=True, check=False
        ).stdout
        found = re.findall(r"mag\(v\((\S+?)\)\) = (\S+)", said)
        answers.append({name: float(value) for name, value in found})
    return answers


@pytest.mark.slow
def test_against_ngspice(tmp_path):
    """Two hundred seeded combinations, every node within 0.1 % or 10 mV."""
    cases = list(random_cases(200, seed=20261123))
    solutions = [predict(c.unit, c.faults, c.events, c.t_s).moment.solution for c in cases]
    decks = [netlist(c.unit.id, s) for c, s in zip(cases, solutions, strict=True)]
    for case, solution, spice in zip(cases, solutions, spice_volts(decks, tmp_path), strict=True):
        _agree(case, solution, spice)


def _agree(case: Case, solution, spice: dict[str, float]) -> None:
    for node, volts in zip(solution.topology.nodes, solution.volts, strict=True):
        ours, theirs = abs(volts), spice[deck_name(node)]
        assert abs(ours - theirs) <= max(0.010, 1e-3 * theirs), f"{case}: {node}"


# --- worked by hand ---------------------------------------------------------------------------


def test_line_volts_across_the_one_open_part_of_a_live_rung():
    for fault, at in [("S1.2:stuck-open", "S1.2"), ("TL2:open", "TL2"), ("FL2:open", "FL2")]:
        lugs = read(2, V, "C1", fault)
        assert read(2, V, at, fault) == pytest.approx(lugs, rel=1e-3)
        assert read(2, A, "E2", fault) < 0.001
        others = [p for p in ("S1.2", "FL2", "TL2", "E2") if p != at]
        assert all(read(2, V, p, fault) < 0.01 for p in others)
    assert read(2, V, "E2", "E2:open") == pytest.approx(read(2, V, "C1", "E2:open"), rel=1e-3)


def test_two_opens_leave_ghosts():
    """Each open leaks 80 MΩ; a 10 MΩ meter on one of two: 240 × (10∥80) / (10∥80 + 80) = 24 V."""
    faults = ("S1.2:stuck-open", "TL2:open")
    assert read(2, V, "S1.2", *faults) == pytest.approx(24, abs=0.3)
    assert read(2, V, "TL2", *faults) == pytest.approx(24, abs=0.3)
    assert read(2, V, "E2", *faults) < 0.01


def test_a_closed_switch_reads_its_contact():
    """20.7 A through 3 mΩ: 62 mV; the first carries the blower too, 22.8 A."""
    assert read(2, V, "S1.2") == pytest.approx(0.062, abs=0.001)
    assert read(2, V, "S1.1") == pytest.approx(0.068, abs=0.001)
    assert read(2, V, "S1.2", "S1.2:burnt") == pytest.approx(2.1, abs=0.05)


def test_an_open_wire_shows_line_volts_nowhere():
    assert read(2, A, "E2", "E2.wire:open") < 0.001
    assert all(read(2, V, p, "E2.wire:open") < 0.01 for p in ("S1.2", "FL2", "E2", "TL2"))


def test_grounded_element_with_its_switch_open():
    """120 V over the far 0.6 of 11.52 Ω and 1 Ω: 15.2 A in L2 alone, half line volts there."""
    unit = build_kit(Kit((5000.0,), 240, "contactors", tie="none"), "one", "")
    faulty = find_faults(unit, ["E1:grounded", "K1.2:stuck-closed"])
    # Nothing moves its air, so its limit cycles: look where it is closed.
    times = range(0, 300, 20)
    prediction = max((predict(unit, faulty, (), t) for t in times), key=lambda p: p.read(A, "E1").value)
    assert prediction.read(A, "E1").cycling
    assert prediction.read(A, "E1").value == pytest.approx(120 / (0.6 * 11.52 + 1.02), rel=0.01)
    assert prediction.read(A, "C1.l1").value < 0.03, "no more than the transformer's primary takes"
    assert prediction.read(A, "C1.l2").value == pytest.approx(15.1, abs=0.2)


def test_welded_normally_closed_contact_carries_an_element_on_g():
    g = (Calls(t_s=5, calls=frozenset({"G"})),)
    assert read(2, A, "E1", events=g) < 0.01
    assert read(2, A, "E1", "BR:nc-welded", events=g) == pytest.approx(20.7, abs=0.1)
    assert read(2, A, "BR.nc", "BR:nc-welded", events=g) == pytest.approx(20.7, abs=0.1)
    assert read(2, A, "BR.no", "BR:nc-welded", events=g) == pytest.approx(22.9, abs=0.1)


def test_heat_feeds_the_blower_through_the_normally_closed_contact():
    assert read(2, A, "BR.nc") == pytest.approx(2.18, abs=0.03)
    assert read(2, A, "blower", "BR:nc-stuck-open") < 0.001
    held = predict(HOMES[2], find_faults(HOMES[2], ["BR:no-welded"]), (), 50)
    assert held.read(A, "blower").value > 2
    assert held.read(V, "BR.nc").value > 200


def test_one_leg_of_a_two_pole_contactor_leaves_the_rung_at_line_to_ground():
    at_rest = predict(HOMES[3], find_faults(HOMES[3], ["K2.1:stuck-closed"]), (), 50)
    nodes = at_rest.nodes
    assert abs(nodes["E2.in"]) == pytest.approx(120, abs=0.5)
    assert abs(nodes["E2.out"]) == pytest.approx(120, abs=0.5)
    both_open = predict(HOMES[3], (), (), 50).nodes
    assert abs(both_open["E2.in"]) < 1
    assert abs(both_open["E1.in"]) == pytest.approx(120, abs=0.5), "at L2, through the blower"


def test_208_volts_are_two_legs_120_degrees_apart():
    nodes = predict(HOMES[8], (), (), 50).nodes
    assert abs(nodes["C1.line.l1"]) == pytest.approx(120.1, abs=0.2)
    assert abs(nodes["C1.line.l1"] - nodes["C1.line.l2"]) == pytest.approx(208, abs=0.2)
    assert read(8, A, "E1") == pytest.approx(18.06 * read(8, V, "C1") / 208, rel=3e-3)


def test_a_circuit_without_supply_is_live_through_a_tie_to_another():
    """From L2 of C3 through the blower, the tie and E1 to L2 of C1: 120 V to ground, and no current."""
    unit = build_kit(Kit((5000.0, 5000.0), 240, "single-sequencers", circuits=2, apart=True), "tied", "")
    found = predict(unit, find_faults(unit, ["C1:no-supply"]), (), 50)
    assert abs(found.nodes["C1.line.l2"]) == pytest.approx(120, abs=2)
    assert abs(found.nodes["C1.line.l1"]) < 1
    assert found.read(A, "E1").value < 0.01


def test_supply_faults():
    assert read(2, V, "C1", "C1:no-supply") < 1
    assert read(2, V, "C1.line", "C1:open") == pytest.approx(240, abs=1)
    assert read(2, V, "C1", "C1:open") < 60
    idle, loaded = (read(2, V, "C1", "C1:loose", events=e) for e in ((), HEAT))
    assert idle == pytest.approx(240, abs=0.5)
    assert idle - loaded == pytest.approx(
        0.12 * 40.5 + (read(2, V, "C1", events=()) - read(2, V, "C1")), abs=0.3
    )
    assert read(2, V, "C1", "C1:low-volts", events=()) == pytest.approx(205, abs=1)


# --- time -------------------------------------------------------------------------------------


def first_on(door, at, *faults, until=700.0):
    """Seconds after the call until an element draws."""
    unit = HOMES[door]
    wiring = wire_up(unit)
    effects = effects_of(wiring, find_faults(unit, faults))
    for moment in moments_until(wiring, effects, HEAT, until):
        if moment.t_s >= 5 and abs(moment.solution.amp(at)) > 5:
            return moment.t_s - 5
    return None


def test_stages_come_in_the_middle_of_their_windows_and_late_when_slow():
    assert first_on(2, "E1") == pytest.approx(10.5)
    assert first_on(2, "E2") == pytest.approx(60)
    assert first_on(2, "E2", "S1:slow") == pytest.approx(5 * 90)
    assert first_on(2, "E2", "S1:coil-open") is None


def test_a_chained_sequencer_starts_with_the_auxiliary_switch():
    """Home 5: auxiliary 30…90 s, then the next one's first switch 1…20 s."""
    assert first_on(5, "E3") == pytest.approx(60 + 10.5)
    assert first_on(5, "E3", "S1.A:stuck-open") is None


def test_a_weak_transformer_is_slow():
    """18.2 V at the coil stretch the time by (24/18.2)²."""
    volts = read(2, V, "S1.coil", "transformer:weak")
    assert volts == pytest.approx(18.0, abs=0.2)
    assert first_on(2, "E2", "transformer:weak") == pytest.approx(60 * (24 / volts) ** 2, rel=0.03)


def test_off_delays_and_what_draws_without_a_call():
    off = (*HEAT, Calls(t_s=400, calls=frozenset()))
    assert read(2, A, "E2", events=off, t=459) > 20
    assert read(2, A, "E2", events=off, t=461) < 0.01
    assert read(2, A, "E1", events=off, t=474) > 20
    assert read(2, A, "E1", events=off, t=476) < 0.01
    welded = [read(2, A, "E2", "S1.2:stuck-closed", events=off, t=t) for t in range(900, 1200, 20)]
    assert max(welded) > 20, "with its limit cycling, for the blower is off"
    assert read(2, A, "E1", "W1:always", events=(), t=0) > 20
    lifted = (Calls(t_s=5, calls=frozenset(), lifted=True),)
    assert read(2, A, "E1", "W1:always", events=lifted, t=400) < 0.01


@pytest.mark.parametrize("seed", range(3))
def test_a_relays_two_contacts_are_never_closed_at_once(seed):
    """One armature: wherever in its window it moves, nothing runs around through both."""
    rng, times = Random(seed), dict[tuple[str, bool], float]()
    calls = [{"G"}, {"W1", "W2"}, {"G", "W1"}, set()]
    events = [Calls(t_s=300.0 * n, calls=frozenset(called)) for n, called in enumerate(calls)]

    def anywhere(contact: str, on: bool) -> float:
        return times.setdefault((contact, on), rng.random())

    wiring = wire_up(HOMES[10])
    moments = list(moments_until(wiring, effects_of(wiring, ()), events, 1200, anywhere))
    moved = {c for moment in moments for c in moment.closed & {"BR.no", "BR.nc"}}
    assert moved == {"BR.no", "BR.nc"}
    assert not any({"BR.no", "BR.nc"} <= moment.closed for moment in moments)


def test_control_fuse_and_calls():
    assert read(2, V, "W1", "W1:no-call") < 5
    assert read(2, V, "R", "W1:to-ground", events=()) > 24
    assert read(2, V, "R", "W1:to-ground") < 5
    assert read(2, V, "transformer", "W1:to-ground") > 24
    by_jumper = (Calls(t_s=5, calls=frozenset({"W1"}), lifted=True),)
    assert read(2, A, "E1", "W1:no-call", events=by_jumper) > 20
    assert read(7, V, "K1.coil", "K1:no-rectifier-output") < 1
    assert read(7, DC, "K1.coil") == pytest.approx(0.9 * read(7, V, "K1.rectifier"), rel=1e-3)
    assert read(7, DC, "K1.coil", "K1:no-rectifier-output") == 0


def test_limits_cycle_with_low_airflow_and_say_so():
    phases = set()
    for t in range(200, 900, 25):
        reading = predict(HOMES[4], find_faults(HOMES[4], ["airflow:low"]), HEAT, t).read(A, "E1")
        assert reading.cycling
        phases.add(reading.value > 5)
    assert phases == {True, False}
    assert not predict(HOMES[4], (), HEAT, 600).read(A, "E1").cycling


def test_a_contactor_that_pulls_its_own_volts_down_is_reported_as_chatter():
    """A feed of 12.6 Ω: the lugs fall under half when the element draws, and the coil lets go."""
    unit = HOMES[11]
    thin = Conductor("14", "copper", 60, 60, "other", 30, 2000)
    circuits = tuple(replace(circuit, conductor=thin) for circuit in unit.circuits)
    moment = predict(replace(unit, circuits=circuits), (), HEAT, 400).moment
    assert moment.chatter == {"K1"}
    assert not predict(unit, (), HEAT, 400).moment.chatter


def test_a_batch_is_the_same_as_one_by_one():
    wiring = wire_up(HOMES[10])
    every_effect = [effects_of(wiring, [fault]) for fault in faults_of(HOMES[10])]
    states = [predict(HOMES[10], (), events, 600).moment.closed for events in ((), HEAT)]
    batch = solve_many(wiring, states, every_effect)
    for row, effects in enumerate(every_effect):
        for column, closed in enumerate(states):
            topology = wiring.topology_with(effects.network)
            alone = solve(
                topology,
                wiring.siemens_of(wiring.closed_masks([closed]), effects.network)[0],
                wiring.emf(effects.network),
            )
            assert np.allclose(batch.volts[row, column], alone.volts, atol=1e-6)


def test_power_off_and_one_circuit_alone():
    off = (*HEAT, Power(t_s=200, state="off", circuit="C1"))
    assert read(10, A, "E1", events=off) < 0.01
    assert read(10, V, "C1.line", events=off) > 230
    assert read(10, V, "C1", events=off) < 60
