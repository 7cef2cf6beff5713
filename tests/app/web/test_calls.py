"""Twelve kinds of call, as the same forms posted over HTTP and the pages and sheets read back."""

from __future__ import annotations

import pytest

from tests.app.calls import OVER_HTTP, in_few_touches, read_back
from tests.app.hands import Posting


@pytest.mark.parametrize("call", OVER_HTTP, ids=lambda call: call.__name__)
def test_a_call_goes_through_to_its_end(newcomer, earlier, call):
    hands = Posting(earlier, client=newcomer().client)
    call(hands)
    read_back(hands)
    assert in_few_touches(hands), (hands.touches, hands.readings)
