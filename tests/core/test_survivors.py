"""What a reading tells, by the laws of information."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.judge.plan.live import live_readings
from plentar.core.judge.plan.readable import readable_states
from plentar.core.judge.plan.survivors import Survivors, survivors_of
from plentar.core.judge.weigh.posterior import posterior
from plentar.core.unit.points import named_points
from plentar.core.visit.evidence import Evidence
from tests.cases import CALL, TWO, VOLTS, amps, visit_of


def survivors(p: list[float], decisions: list[int]) -> Survivors:
    """Members of these weights, each fault its own, each with its decision."""
    weights = np.array(p)
    of_decision = np.eye(max(decisions) + 1)[decisions]
    names = [str(n) for n in range(max(decisions) + 1)]
    samples = np.arange(len(p))
    return Survivors(None, [], weights, of_decision, np.eye(len(p)), names, samples)  # type: ignore[arg-type]


def entropy(p: np.ndarray) -> float:
    return float(-(p * np.log2(p)).sum())


weights = st.lists(st.floats(0.05, 1.0), min_size=3, max_size=8)


@given(weights)
def test_a_reading_that_tells_everything_tells_the_entropy(p):
    share = np.array(p) / sum(p)
    everything = np.eye(len(p)) + 1e-12
    field = survivors(list(share), list(range(len(p))))
    on_decision, on_fault, decisive = field.gain(everything)
    assert on_decision == pytest.approx(entropy(share), abs=1e-6)
    assert on_fault == pytest.approx(entropy(share), abs=1e-6)
    assert decisive == pytest.approx(1 - share.max(), abs=1e-6)


@given(weights, st.floats(0.01, 5.0))
def test_a_reading_that_all_show_alike_tells_nothing(p, level):
    share = np.array(p) / sum(p)
    field = survivors(list(share), [n % 2 for n in range(len(p))])
    for told in field.gain(np.full((len(p), len(p)), level)):
        assert told == pytest.approx(0.0, abs=1e-9)


@given(weights, st.integers(0, 2**32 - 1))
def test_what_is_told_of_a_decision_is_no_more_than_of_the_fault(p, seed):
    """Any partition of outcomes: each sample reads the outcome that it shows."""
    share = np.array(p) / sum(p)
    shows = np.random.default_rng(seed).integers(0, 3, len(p))
    like = (shows[:, None] == shows[None, :]) + 1e-12
    decisions = [n % 2 for n in range(len(p))]
    on_decision, on_fault, decisive = survivors(list(share), decisions).gain(like)
    assert -1e-6 <= on_decision <= on_fault + 1e-6 <= entropy(share) + 2e-6
    assert -1e-9 <= decisive <= 1 - max(share[n::2].sum() for n in (0, 1)) + 1e-6


def test_single_precision_tells_the_same():
    rng = np.random.default_rng(5)
    like = rng.random((6, 4, 4)) + 0.01
    field = survivors([0.4, 0.3, 0.2, 0.1], [0, 0, 1, 2])
    for fine, coarse in zip(field.gain(like), field.gain(like.astype(np.float32)), strict=True):
        assert coarse == pytest.approx(fine, rel=1e-3, abs=1e-5)


def test_every_live_reading_proposed_costs_what_its_state_costs():
    """Nothing is proposed below the time that its state takes, nor outside what the unit has."""
    said = posterior(Evidence(TWO, visit_of(VOLTS, CALL, amps(300, "E2", 0.0))))
    field = survivors_of(said)
    assert field.p.sum() <= 1 + 1e-9 and len(field.members) == len(field.p)
    seen = 0
    for readable in readable_states(said, field):
        for proposal in live_readings(field, readable):
            seen += 1
            assert proposal.minutes > readable.minutes
            assert proposal.at in named_points(TWO) or ":" in proposal.at
            shares = [outcome.probability for outcome in proposal.outcomes]
            assert sum(shares) == pytest.approx(1.0, abs=0.08)
            for outcome in proposal.outcomes:
                assert outcome.low <= outcome.high
                assert sum(share for _, share in outcome.decisions) <= 1 + 1e-9
    assert seen > 20
