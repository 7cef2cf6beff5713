"""How long parts last: a published table worked through, and the laws of the estimate."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from plentar.core.door import LEAST_FAILURES, Watched, enough, kaplan_meier, still_in_at

#: Weeks of remission in a trial of 1963, as textbooks of survival have them;
#: a plus: still in remission then.
REMISSION = "6 6 6 6+ 7 9+ 10 10+ 11+ 13 16 17+ 19+ 20+ 22 23 25+ 32+ 32+ 34+ 35+"


def test_a_published_table():
    watched = [Watched(float(t.rstrip("+")), not t.endswith("+")) for t in REMISSION.split()]
    steps = kaplan_meier(watched)
    assert [s.years for s in steps] == [6, 7, 10, 13, 16, 22, 23]
    assert [s.at_risk for s in steps] == [21, 17, 15, 12, 11, 7, 6]
    assert [round(s.still_in, 3) for s in steps] == [
        0.857,
        0.807,
        0.753,
        0.690,
        0.627,
        0.538,
        0.448,
    ]
    assert steps[0].low == pytest.approx(0.620, abs=1e-3)
    assert steps[0].high == pytest.approx(0.952, abs=1e-3)
    assert still_in_at(steps, 5.9) is None and still_in_at(steps, 21.0) == steps[4]


PARTS = st.lists(
    st.builds(Watched, st.integers(1, 30).map(float), st.booleans()), min_size=1, max_size=60
)


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
            assert s.still_in == pytest.approx(
                sum(w.years > s.years for w in watched) / len(watched)
            )
    assert enough(watched) == (sum(w.replaced for w in watched) >= LEAST_FAILURES)
