"""Episodes: every single fault of every demo home, hidden in the wider world's specimen of it and found by following
the judge's first proposal. Beside it the same by a fixed order, and the fewest readings that could do."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor

import numpy as np

from benchmarks.wider import Result, followed, table
from plentar.core.judge.hypotheses.hypothesis import work_on
from plentar.core.judge.shown.complaints import complaint_likelihood
from plentar.core.judge.shown.workspace import workspace_of
from plentar.core.judgement import NONE
from plentar.core.unit.unit import Unit
from plentar.stand_ins.hidden import hidden_unit
from plentar.stand_ins.wider.specimen import faults_of
from plentar.store.demo.plates import plates

#: The home that is wrong as it hangs: without a tie its heat runs without the blower.
UNSOUND = 13
#: Outcomes that one reading can have at most, for the bound.
MOST_OUTCOMES = 6


def measure() -> Iterator[str]:
    homes = [home for home in sorted(plates()) if home != UNSOUND]
    with ProcessPoolExecutor() as pool:
        results = [result for found in pool.map(home_of, homes) for result in found]
    yield from table(results)
    bounds = [_bound(plates()[r.plate], r.complaint) for r in results]
    yield f"fewest readings that could do: mean {np.mean(bounds):.1f}"


def home_of(home: int, *, quick: bool = False) -> Sequence[Result]:
    """Every single fault of one home; only found, where it is to be quick."""
    unit = plates()[home]
    faults = faults_of(hidden_unit(unit, ()).inside.plate)
    return [followed(home, hidden_unit(unit, [fault]), fault, quick=quick) for fault in faults]


def _bound(unit: Unit, complaint: str) -> float:
    """Bits of the decision before the first reading, over those of the best reading there is."""
    workspace = workspace_of(unit)
    weights = complaint_likelihood(workspace, complaint) * [h.weight for h in workspace.singles.hypotheses]
    decided: dict[str, float] = defaultdict(float)
    for hypothesis, weight in zip(workspace.singles.hypotheses, weights / weights.sum(), strict=True):
        name = work_on(unit, hypothesis.faults[0]) if hypothesis.faults else NONE
        decided[name] += float(weight)
    bits = -sum(p * math.log2(p) for p in decided.values())
    return bits / math.log2(MOST_OUTCOMES)
