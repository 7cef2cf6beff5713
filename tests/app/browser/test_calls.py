"""Six kinds of call in a real browser: three on a desk, three on a phone."""

from __future__ import annotations

import pytest

from tests.app.browser.conftest import PHONE, sign_in
from tests.app.calls import IN_BROWSER, in_few_touches, read_back
from tests.app.conftest import PASSWORD
from tests.app.touching import Touching


@pytest.mark.parametrize("number", range(len(IN_BROWSER)), ids=[c.__name__ for c in IN_BROWSER])
def test_a_call_goes_through_to_its_end(page, base, newcomer, earlier, number):
    form = "narrow" if number % 2 else "wide"
    if form == "narrow":
        page.set_viewport_size(PHONE)
    sign_in(page, base, newcomer().account.login, PASSWORD)
    hands = Touching(earlier, page=page, base=base, form=form)
    IN_BROWSER[number](hands)
    read_back(hands)
    assert in_few_touches(hands), (hands.touches, hands.readings)
