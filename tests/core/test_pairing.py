"""The guess at pairs: the pair that is so is among those that are weighed."""

from __future__ import annotations

from random import Random

import numpy as np
import pytest

from plentar.core.circuit.faults import faults_of, find_faults
from plentar.core.circuit.predict import predict
from plentar.core.judge.hypotheses.hypothesis import work_on
from plentar.core.judge.shown import workspace
from plentar.core.judge.shown.workspace import Workspace, workspace_of
from plentar.core.judge.weigh.pairs import together
from plentar.core.judge.weigh.posterior import Posterior, posterior
from plentar.core.quantity import Quantity
from plentar.core.visit.events import Calls, Reading, Visit
from plentar.core.visit.evidence import Evidence
from plentar.store.demo.plates import plates
from tests.cases import CALL, TWO, amps, visit_of

HOMES = plates()
#: Seconds after the call: every stage is due by then.
SETTLED_S = 400.0


def read_all(number: int) -> tuple[Posterior, set[str]]:
    """A unit with two faults: amps of each element and feed, volts along each rung, R and coils,
    heat called for."""
    rng = Random(f"pairing/{number}")
    unit = HOMES[rng.choice((2, 3, 6, 7, 10))]
    while True:
        faults = rng.sample([f for f in faults_of(unit) if f.mode not in ("slow", "weak")], 2)
        if faults[0].component != faults[1].component:
            break
    events = (Calls(t_s=0.0, calls=unit.heat_calls),)
    shown = {(r.quantity, r.at): r for r in predict(unit, faults, events, SETTLED_S).readings}
    points = [(Quantity.AMPS, e.id) for e in unit.elements]
    points += [(Quantity.AMPS, c.id) for c in unit.circuits]
    points += [(Quantity.VOLTS, part) for e in unit.elements for part in e.rung]
    points += [(Quantity.VOLTS, "R"), (Quantity.AMPS, "R")]
    points += [(Quantity.VOLTS, f"{c.id}.coil") for c in unit.controls]
    taken = tuple(
        Reading(t_s=SETTLED_S + n, quantity=quantity, at=at, value=shown[quantity, at].value)
        for n, (quantity, at) in enumerate(points)
        if not shown[quantity, at].cycling
    )
    visit = Visit(complaint="no-heat", events=(*events, *taken))
    return posterior(Evidence(unit, visit)), {fault.id for fault in faults}


def too_good(said: Posterior) -> list[float]:
    """By how much, in nats, the guess is better than what weighing each pair gave."""
    guess, by_id = together(said.workspace, said.history, said.singles.items), said.workspace.by_id
    both = [(pair, [by_id[f.id] for f in pair.ensemble.hypotheses[0].faults]) for pair in said.pairs]
    return [float(guess[one, two] - pair.of_item[:, 0].sum()) for pair, (one, two) in both]


@pytest.mark.xfail(
    reason="since the vocabulary grew, the guess of one pair of home 7 is seven nats too low", strict=True
)
@pytest.mark.slow
def test_the_pair_that_is_so_is_weighed_where_no_single_fault_explains_what_was_read():
    needed, weighed = 0, 0
    for number in range(18, 28):
        said, faults = read_all(number)
        unit = said.evidence.unit
        parts = {work_on(unit, fault) for fault in find_faults(unit, faults)}
        tried = [
            {work_on(unit, fault) for fault in pair.ensemble.hypotheses[0].faults} for pair in said.pairs
        ]
        # Those that are not weighed may be passed over only if the guess is never too bad.
        assert min(too_good(said), default=0.0) > -1.0
        if not any(said.singles.explained(n).all() for n in range(len(said.singles.log))):
            needed += 1
            weighed += parts in tried
    assert needed >= 2
    assert weighed == needed


@pytest.mark.slow
def test_two_dead_rungs_of_three_where_only_the_feed_tells():
    events = [
        {"t": 0, "calls": ["W1"]},
        *(
            {"t": 300 + 10 * n, "read": kind, "at": at, "value": value}
            for n, (kind, at, value) in enumerate(
                [("amps", "E1", 21.0), ("amps", "E2", 0.0), ("volts", "E2", 236.0), ("amps", "C1", 23.4)]
            )
        ),
    ]
    said = posterior(Evidence(HOMES[7], visit_of(*events, complaint="not-enough-heat")))
    guessed = dict(zip((p.ensemble.hypotheses[0].id for p in said.pairs), too_good(said), strict=True))
    assert abs(guessed["E2:open+E3:open"]) < 3.0


@pytest.mark.parametrize("number", range(3))
@pytest.mark.slow
def test_which_of_the_two_comes_first_is_all_the_same(number: int):
    said, _ = read_all(number)
    guess = together(said.workspace, said.history, said.singles.items)
    assert np.allclose(guess, guess.T, atol=1e-4)


STRIP = {"t": 330, "read": "amps", "at": "E1", "value": 19.0}
ENDED = {"t": 60, "calls": []}


@pytest.mark.parametrize(
    ("first", "second"),
    [
        # The same reading means other things after an earlier one of the same strip.
        ([CALL, STRIP], [CALL, {**STRIP, "t": 310, "value": 22.0}, STRIP]),
        # A call that ended while windows were open is another run than one that goes on.
        pytest.param(
            [CALL, ENDED, {**STRIP, "t": 90}],
            [CALL, {**STRIP, "t": 58, "at": "blower", "value": 0.0}],
            marks=pytest.mark.slow,
        ),
    ],
)
def test_what_is_kept_of_another_visit_changes_nothing(first, second):
    """Judged after another visit as judged afresh."""
    fresh, used = Workspace(TWO), Workspace(TWO)
    posterior(Evidence(TWO, visit_of(*first)), used)
    answers = [posterior(Evidence(TWO, visit_of(*second)), kept) for kept in (fresh, used)]
    assert np.array_equal(*(together(a.workspace, a.history, a.items) for a in answers))
    assert np.array_equal(*(a.probabilities for a in answers))


def test_what_has_outgrown_its_bytes_is_forgotten_and_changes_nothing(monkeypatch):
    evidence = Evidence(TWO, visit_of(CALL, STRIP, amps(320, "C1", 2.3), complaint="no-heat"))
    before = posterior(evidence).probabilities
    kept = workspace_of(TWO)
    assert kept.pairs and len(kept.singles._runs) > 1
    monkeypatch.setattr(workspace, "MOST_ALONE_BYTES", 1)
    assert workspace_of(TWO) is kept
    assert not kept.pairs and len(kept.singles._runs) == 1
    np.testing.assert_allclose(posterior(evidence).probabilities, before, rtol=1e-9)
