"""What a reading says under a hypothesis, worked by hand: densities, misreadings, their mixture."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.judge.shown.complaints import complaint_likelihood
from plentar.core.judge.shown.history import history_of
from plentar.core.judge.shown.workspace import workspace_of
from plentar.core.judge.weigh.boxes import SUPPLY_CHANCE
from plentar.core.judge.weigh.guess import either
from plentar.core.judge.weigh.likelihood import each_likelihood, in_order, narrowed_densities
from plentar.core.judge.weigh.observation import (
    dead_density,
    density,
    ghost_density,
    log_mixture,
    misread_density,
)
from plentar.core.judge.weigh.posterior import posterior
from plentar.core.judge.weigh.priors import priors_of
from plentar.core.judge.weigh.unknowns import share_unknowns, unknown_of
from plentar.core.quantity import Band, Quantity
from plentar.core.unit.points import resolve
from plentar.core.visit.evidence import Evidence
from plentar.store.demo.plates import plates
from tests.cases import CALL, DEAD, TWO, VOLTS, amps, visit_of

A, V, OHM, TONE = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TONE
HOMES = plates()


def at(x, low, high, scale):
    return float(density(x, np.array(float(low)), np.array(float(high)), np.array(float(scale))))


# --- one value --------------------------------------------------------------------------------


def test_a_stretch_is_even_within_and_half_at_its_ends():
    """18 to 22 A, blurred by 0.1 A: a quarter per amp inside, an eighth at each end, nothing far off."""
    assert at(20, 18, 22, 0.1) == pytest.approx(0.25, abs=1e-6)
    assert at(18, 18, 22, 0.1) == pytest.approx(0.125, abs=1e-6)
    assert at(22, 18, 22, 0.1) == pytest.approx(0.125, abs=1e-6)
    # One scale outside of the end: 0.25 · 1 / (1 + e).
    assert at(22.1, 18, 22, 0.1) == pytest.approx(0.25 / (1 + math.e), abs=1e-6)
    assert at(24, 18, 22, 0.1) < 1e-6


def test_a_point_is_as_wide_as_the_meters_scale():
    """No width: taken as one scale wide, (σ(½) − σ(−½)) / scale = tanh(¼) / scale at its middle."""
    assert at(5, 5, 5, 0.2) == pytest.approx(math.tanh(0.25) / 0.2)


@given(st.floats(0, 200), st.floats(0, 50), st.floats(0.05, 5))
def test_every_density_is_one_in_all(low, width, scale):
    x = np.linspace(low - 60 * scale, low + width + 60 * scale, 20_001)
    of_band = density(x, np.array(low), np.array(low + width), np.array(scale))
    assert np.trapezoid(of_band, x) == pytest.approx(1.0, abs=1e-3)
    x = np.linspace(-60 * scale, 60 + 60 * scale, 20_001)
    assert np.trapezoid(ghost_density(x, np.array(scale)), x) == pytest.approx(1.0, abs=1e-3)


def test_a_ghost_is_zero_as_often_as_anything_below_sixty():
    """Half of it over 60 V, far from zero: 0.5 / 60; half at zero: 0.5 · tanh(¼) / 0.1 besides."""
    assert float(ghost_density(30.0, np.array(0.1))) == pytest.approx(0.5 / 60, rel=1e-3)
    assert float(ghost_density(0.0, np.array(0.1))) == pytest.approx(
        0.5 * math.tanh(0.25) / 0.1 + 0.5 * 0.5 / 60, rel=1e-3
    )


@pytest.mark.parametrize(
    ("point", "quantity", "value", "expected"),
    [
        ("C1", V, 100.0, 0.7 / 300),
        ("C1", V, 0.1, 0.7 / 300 + 0.3 / 0.3),  # within the meter's fixed 0.3 V of zero
        ("C1", V, 0.3, 0.7 / 300),
        ("R", V, 12.0, 0.7 / 60),
        ("E1", A, 30.0, 0.7 / 60),
        ("S1.coil", A, 2.0, 0.7 / 5),
        ("S1.coil", A, 0.02, 0.7 / 5 + 0.3 / 0.03),
        ("E1", OHM, 10.0, 0.7 / (10 * math.log(1e8))),
        ("E1", OHM, 0.1, 0.7 / (0.3 * math.log(1e8))),
        ("E1", OHM, math.inf, 0.3),
        ("E1", OHM, 1e6, 0.3),
        ("S1.1", TONE, 1.0, 0.5),
    ],
)
def test_a_misreading_is_anything_and_zero_oftener(point, quantity, value, expected):
    found = misread_density(resolve(TWO, point), quantity, value)
    assert found == pytest.approx(expected, rel=1e-9)


def test_misread_ohms_are_one_in_all():
    """Three in ten read open; the others are even over eight decades from 0.3 Ω."""
    log_x = np.linspace(math.log(0.3), math.log(0.3e8), 4001)
    point = resolve(TWO, "E1")
    shares = [
        misread_density(point, OHM, min(math.exp(u), 0.9e6)) * math.exp(u)
        for u in log_x
        if math.exp(u) < 0.9e6
    ]
    of_decades = math.log(0.9e6 / 0.3) / math.log(1e8)
    assert np.mean(shares) * math.log(0.9e6 / 0.3) == pytest.approx(0.7 * of_decades, rel=1e-3)


@pytest.mark.parametrize(
    ("band", "quantity", "value", "expected"),
    [
        (Band(math.inf, math.inf), OHM, math.inf, 1.0),
        (Band(math.inf, math.inf), OHM, 999_999, 0.0),
        (Band(2e5, math.inf), OHM, 2e5, 1.0),  # sound insulation, however many megohms
        (Band(2e5, math.inf), OHM, 1.9e5, 0.0),
        (Band(10, 12), OHM, math.inf, 0.0),
        # 3 Ω wide is no more than three times its low end: even, one half per ohm.
        (Band(10, 12), OHM, 11.0, math.tanh(2 / (4 * 0.31 / 3.6)) / 2),
        # Wider: even over the logarithm, at 100 Ω 1 / (ln 100 · 100).
        (Band(10, 1000), OHM, 100.0, 1 / (math.log(100) * 100)),
        (Band(0, 20), TONE, 1.0, 1.0),
        (Band(0, 20), TONE, 0.0, 0.0),
        (Band(60, 90), TONE, 0.0, 1.0),
        (Band(60, 90), TONE, 1.0, 0.0),
        (Band(20, 60), TONE, 1.0, 0.5),
    ],
)
def test_what_is_read_proved_dead(band, quantity, value, expected):
    ends = np.array(band.low), np.array(band.high)
    assert float(dead_density(quantity, value, *ends)) == pytest.approx(expected, rel=1e-4, abs=1e-12)


def test_a_mixture_by_hand_and_what_the_model_leaves_open():
    """ε = 0.2: 0.8 · 0.5 + 0.2 · 0.01; where nothing is told, the misreading's own density."""
    found = np.exp(log_mixture(np.array([0.5, np.nan, 0.0]), 0.01, 0.2))
    assert found == pytest.approx([0.402, 0.01, 0.002])


def test_a_reading_that_is_not_told_proved_dead_stays_so():
    bands = np.array([np.nan, 10.0, np.inf]), np.array([np.nan, 12.0, np.inf])
    found = dead_density(OHM, 11.0, *bands)
    assert np.isnan(found[0])
    assert found[1:] == pytest.approx([0.5, 0.0], abs=1e-4)


# --- one reading under every variant ----------------------------------------------------------


def items_of(unit, *events, **more):
    evidence = Evidence(unit, visit_of(*events, **more))
    ensemble = workspace_of(unit).singles
    return evidence, ensemble, in_order(each_likelihood(ensemble, evidence, evidence.taken))


def variant_of(ensemble, fault):
    return next(v for v, n in enumerate(ensemble.owner) if ensemble.hypotheses[n].id == fault)


def test_an_impossible_reading_is_a_misreading_and_no_more():
    """40 A of a 20.8 A strip: ε q alone, usually 0.012 · 0.7/60, on a bad day 0.2 · 0.7/60."""
    _, ensemble, [_, item] = items_of(TWO, VOLTS, CALL, amps(310, "E1", 40.0))
    sound = variant_of(ensemble, "none")
    assert np.exp(item.log[sound]).max() == pytest.approx(0.012 * 0.7 / 60, rel=1e-6)
    assert np.exp(item.bad_day[sound]).max() == pytest.approx(0.2 * 0.7 / 60, rel=1e-6)
    assert not item.explained[sound]
    assert item.misread == pytest.approx(0.7 / 60)


def test_a_true_reading_is_a_mixture_of_being_right_and_being_misread():
    """5 kW at 240 V: 20.8 A, from −10 to +5 % plate power. The stretch times a supply cell around
    rated is 18.66 to 21.98 A wide: (1 − ε) / 3.33 + ε · 0.7 / 60."""
    _, ensemble, [_, item] = items_of(TWO, VOLTS, CALL, amps(310, "E1", 20.3))
    sound = variant_of(ensemble, "none")
    middle = len(SUPPLY_CHANCE) // 2
    found = math.exp(item.log[sound, middle])
    assert found == pytest.approx(0.988 * 0.30 + 0.012 * 0.7 / 60, rel=0.05)
    bad = math.exp(item.bad_day[sound, middle])
    true = (found - 0.012 * 0.7 / 60) / 0.988
    assert bad == pytest.approx(0.8 * true + 0.2 * 0.7 / 60, rel=1e-6)
    assert item.explained[sound]


def test_readings_of_one_unknown_are_weighed_together_in_the_mean_of_its_cells():
    """Twice the blower's amps: the mean over its cells of both, not the best cell, not twice."""
    evidence, ensemble, items = items_of(TWO, CALL, amps(310, "blower", 2.2), amps(320, "blower", 2.25))
    shared = share_unknowns(ensemble, evidence, items)
    unknown = unknown_of(TWO, evidence.taken[0])
    history = history_of(TWO, evidence.visit.events)
    product = 1.0
    for item, taken in zip(items, evidence.taken, strict=True):
        true = narrowed_densities(ensemble, evidence, history, taken, unknown.cells)
        true = np.nan_to_num(true, nan=item.misread)
        product = product * (0.988 * true + 0.012 * item.misread)
    together = shared[0].log + shared[1].log
    assert np.exp(together) == pytest.approx(product.mean(axis=0), rel=1e-4)
    sound = variant_of(ensemble, "none")
    twice = items[0].log[sound] + items[1].log[sound]
    assert (together[sound] > twice + 0.5).all(), "the second tells less than the first"


def test_ohms_of_a_strip_say_how_much_it_may_draw():
    """5 kW in 11.52 Ω hot. 11.5 Ω cold is a strip of little power: 19.0 A afterwards is the likelier for
    it than after 10.4 Ω, and every item is told at every supply."""

    def told(ohms):
        events = [
            *DEAD,
            {"t": 530, "read": "ohms", "at": "E1", "value": ohms},
            {"t": 600, "power": "on"},
            {"t": 610, "calls": ["W1"]},
            amps(950, "E1", 19.0),
        ]
        evidence, ensemble, items = items_of(TWO, *events)
        shared = share_unknowns(ensemble, evidence, items)
        assert {item.log.shape for item in shared} == {(len(ensemble.variants), len(SUPPLY_CHANCE))}
        return shared[1].log[variant_of(ensemble, "none"), len(SUPPLY_CHANCE) // 2]

    assert told(11.5) > told(10.4) + 0.5


def test_of_two_the_one_that_changes_a_reading_has_it():
    """Three hypotheses, the first sound: one changes the reading for the better, one for the worse."""
    found = either(np.array([-5.0, -1.0, -9.0]))
    assert found[0].tolist() == [-5.0, -1.0, -9.0]
    assert found[1].tolist() == [-1.0, -1.0, -1.0]
    assert found[2].tolist() == [-9.0, -1.0, -9.0]
    assert either(np.array([-5.0, -4.6, -5.4])).tolist() == [[-5.0] * 3] * 3, "no change, no say"


# --- before anything is read ------------------------------------------------------------------


def prior(unit, fault, **more):
    evidence = Evidence(unit, visit_of(**more))
    ids = [h.id for h in workspace_of(unit).singles.hypotheses]
    return float(priors_of(evidence, workspace_of(unit))[ids.index(fault)])


def test_priors_are_the_trades_frequencies_and_what_speaks_for_them():
    assert prior(TWO, "none") == 1.0
    faults = sum(h.weight for h in workspace_of(TWO).singles.hypotheses[1:])
    assert prior(TWO, "none", complaint="check-up") == 3 * faults, "three of four such units are sound"
    assert prior(TWO, "S1.1:stuck-open") == 10.0
    assert prior(TWO, "E1:open") == 6.0
    look = [{"t": 1, "item": "filter", "state": "poor"}]
    assert prior(TWO, "airflow:low", looked=look) == 8.0 * 4.0
    fine = [{"t": 1, "item": "filter", "state": "fine"}]
    assert prior(TWO, "airflow:low", looked=fine) == pytest.approx(8.0 * 0.7)


def test_a_part_just_put_in_is_seldom_bad():
    events = [{"t": 10, "replaced": "S1"}]
    assert prior(TWO, "S1.1:stuck-open", events=events) == pytest.approx(1.0)
    assert prior(TWO, "E1:open", events=events) == 6.0
    assert prior(TWO, "none", events=events) == 21.0


def test_a_complaint_is_shared_by_what_gives_rise_to_it():
    workspace = workspace_of(TWO)
    ids = [h.id for h in workspace.singles.hypotheses]
    of = dict(zip(ids, complaint_likelihood(workspace, "no-heat"), strict=True))
    assert of["S1:coil-open"] > 0.3, "no heat, and little else"
    assert of["none"] == of["E2:open"] == 0.05, "which leave heat"
    assert (complaint_likelihood(workspace, None) == 1).all()
    assert (complaint_likelihood(workspace, "check-up") == 1).all()


def test_the_posterior_is_prior_times_likelihood_shared_out():
    """Nothing read: the priors themselves, with 0.2 for what none covers; Bayes by one reading after."""
    workspace = workspace_of(TWO)
    nothing = posterior(Evidence(TWO, visit_of()), workspace)
    weights = np.array([h.weight for h in workspace.singles.hypotheses])
    assert nothing.probabilities[:-1] == pytest.approx(weights / (weights.sum() + 0.2), rel=1e-6)
    assert nothing.probabilities[-1] == pytest.approx(0.2 / (weights.sum() + 0.2), rel=1e-6)
    one = posterior(Evidence(TWO, visit_of(CALL, amps(310, "E1", 0.0))), workspace)
    ids = [h.id for h in workspace.singles.hypotheses]
    odds = one.probabilities[ids.index("S1.1:stuck-open")] / one.probabilities[ids.index("E1:open")]
    assert odds == pytest.approx(10 / 6, rel=0.02), "0 A says the same of both"


def test_nothing_is_ruled_out_by_one_reading():
    said = posterior(Evidence(TWO, visit_of(CALL, amps(310, "E1", 0.0))))
    assert (said.probabilities > 0).all()
    assert said.probabilities.sum() == pytest.approx(1.0)
