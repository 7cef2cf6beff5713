"""How long parts last: a published table worked through, and the laws of the estimate."""

from __future__ import annotations

import warnings
from importlib import import_module

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.history.shop import own_frequencies, trade_frequency
from plentar.core.history.survival import LEAST_FAILURES, Watched, enough, kaplan_meier, still_in_at
from plentar.core.judge.shown.workspace import workspace_of
from plentar.core.judge.weigh.priors import priors_of
from plentar.core.visit.events import Settings, Visit
from plentar.core.visit.evidence import Evidence
from tests.kits import Kit, build_kit

#: Weeks of remission in a trial of 1963, as textbooks of survival have them;
#: a plus: still in remission then.
REMISSION = "6 6 6 6+ 7 9+ 10 10+ 11+ 13 16 17+ 19+ 20+ 22 23 25+ 32+ 32+ 34+ 35+"


def test_a_published_table():
    watched = [Watched(float(t.rstrip("+")), not t.endswith("+")) for t in REMISSION.split()]
    steps = kaplan_meier(watched)
    assert [s.years for s in steps] == [6, 7, 10, 13, 16, 22, 23]
    assert [s.at_risk for s in steps] == [21, 17, 15, 12, 11, 7, 6]
    assert [round(s.still_in, 3) for s in steps] == [0.857, 0.807, 0.753, 0.690, 0.627, 0.538, 0.448]
    assert steps[0].low == pytest.approx(0.620, abs=1e-3)
    assert steps[0].high == pytest.approx(0.952, abs=1e-3)
    assert still_in_at(steps, 5.9) is None and still_in_at(steps, 21.0) == steps[4]


PARTS = st.lists(st.builds(Watched, st.integers(1, 30).map(float), st.booleans()), min_size=1, max_size=60)


@given(PARTS)
def test_the_laws_of_the_estimate(watched):
    steps = kaplan_meier(watched)
    shares = [1.0, *(s.still_in for s in steps)]
    assert shares == sorted(shares, reverse=True)
    for s in steps:
        assert 0 <= s.low <= s.still_in <= s.high <= 1
        assert s.at_risk == sum(w.years >= s.years for w in watched)
    if all(w.replaced for w in watched):  # nothing is cut off: the plain share
        for s in steps:
            assert s.still_in == pytest.approx(sum(w.years > s.years for w in watched) / len(watched))
    assert enough(watched) == (sum(w.replaced for w in watched) >= LEAST_FAILURES)


@pytest.mark.slow
@given(PARTS)
def test_another_program_has_the_same_estimate(watched):
    """scipy's, with its interval on the same scale."""
    stats = import_module("scipy.stats")
    steps = kaplan_meier(watched)
    ended = [w.years for w in watched if w.replaced]
    other = stats.ecdf(stats.CensoredData(ended, right=[w.years for w in watched if not w.replaced])).sf
    told = {q: p for q, p in zip(other.quantiles, other.probabilities, strict=True) if q in set(ended)}
    assert told == {s.years: pytest.approx(s.still_in) for s in steps}
    with np.errstate(all="ignore"), warnings.catch_warnings():
        warnings.simplefilter("ignore")
        band = other.confidence_interval(method="log-log")
    for s in steps:
        low, high = (float(edge.evaluate(s.years)) for edge in (band.low, band.high))
        if 0 < s.still_in < 1:
            assert (s.low, s.high) == pytest.approx((low, high))


def test_a_shops_own_frequencies_are_shrunk_toward_the_trades():
    """Of 24 replaced by the trade's shares of 200 years each 19.2 and 4.8 were due, and 20 and 4 were
    made: (20 + 8) / (19.2 + 8) and (4 + 8) / (4.8 + 8)."""

    def parts(replaced: int) -> list[Watched]:
        return [Watched(2.0, n < replaced) for n in range(100)]

    trade = {"sequencer": 40.0, "element": 10.0}
    own = own_frequencies({"sequencer": parts(20), "element": parts(4)}, trade)
    assert own == {"sequencer": 1.029, "element": 0.938}
    assert own_frequencies({"sequencer": parts(4), "element": parts(3)}, trade) == {}
    assert own_frequencies({"sequencer": parts(100), "element": parts(0)}, trade)["element"] == 0.286
    assert trade_frequency("element") == 10.0, "6 open, 2 high, 1 low, 1 to ground"
    assert trade_frequency("sequencer", 2) > trade_frequency("sequencer", 1) > trade_frequency("link")


def test_its_own_frequency_multiplies_the_odds_of_its_parts_and_no_others():
    unit = build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "")
    workspace = workspace_of(unit)

    def priors(**own: float) -> dict[str, float]:
        settings = Settings(frequencies=tuple(own.items()))
        evidence = Evidence(unit, Visit(complaint="no-heat", settings=settings))
        names = ["+".join(f.id for f in h.faults) for h in workspace.singles.hypotheses]
        return dict(zip(names, priors_of(evidence, workspace), strict=True))

    plain, own = priors(), priors(sequencer=2.0)
    assert {name for name in plain if own[name] != plain[name]} == {
        name for name in plain if name.startswith("S1")
    }
    assert own["S1.2:stuck-open"] == 2 * plain["S1.2:stuck-open"]
