"""The guess at pairs: the pair that is so is among those that are weighed."""

from __future__ import annotations

from random import Random

import numpy as np
import pytest

from plentar.core.events import Calls, Reading, Visit
from plentar.core.evidence import Evidence
from plentar.core.faults import faults_of, find_faults
from plentar.core.judge.hypotheses import work_on
from plentar.core.judge.pairing import together
from plentar.core.judge.scenes import heat_calls
from plentar.core.judge.suspects import Posterior, posterior
from plentar.core.predict import predict
from plentar.core.quantity import Quantity
from plentar.store.demo.plates import plates

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
    events = (Calls(t_s=0.0, calls=heat_calls(unit)),)
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


def test_the_pair_that_is_so_is_weighed_where_no_single_fault_explains_what_was_read():
    needed, weighed = 0, 0
    for number in range(18, 38):
        said, faults = read_all(number)
        unit = said.evidence.unit
        parts = {work_on(unit, fault) for fault in find_faults(unit, faults)}
        tried = [
            {work_on(unit, fault) for fault in pair.ensemble.hypotheses[0].faults}
            for pair in said.pairs
        ]
        if tried:
            needed += 1
            weighed += parts in tried
    assert needed >= 6
    assert weighed >= 0.85 * needed


@pytest.mark.parametrize("number", range(3))
def test_which_of_the_two_comes_first_is_all_the_same(number: int):
    said, _ = read_all(number)
    guess = together(said.atlas, said.told, said.singles.items)
    assert np.allclose(guess, guess.T, atol=1e-4)
