"""Twelve kinds of call, as the same forms posted over HTTP and the pages read."""

from __future__ import annotations

import pytest

from tests.calls import OVER_HTTP
from tests.hands import Posting


@pytest.mark.parametrize("call", OVER_HTTP, ids=lambda call: call.__name__)
def test_a_call_goes_through_to_its_end(newcomer, earlier, call):
    call(Posting(earlier, client=newcomer().client))
