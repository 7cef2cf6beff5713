"""The campaign in its short form: bent requests, races, blows; what must be none is none."""

from __future__ import annotations

import pytest

from benchmarks.attack import SHORT, attack

pytestmark = pytest.mark.slow


def test_the_short_campaign_finds_nothing():
    result = attack(SHORT, seed=20261126)
    assert not result.wrong
    assert any("acknowledged entries" in line for line in result.lines)
