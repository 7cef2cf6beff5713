"""What nobody has read is asked for when what is suspected begins to rest on it, one thing at a time."""

from __future__ import annotations

from dataclasses import replace

import pytest

from plentar.core.unit import kits
from plentar.core.unit.kits import Kit
from plentar.core.unit.missing_print import missing_print
from plentar.core.unit.usual_print import as_usually_printed

BARE = kits.build_kit(Kit((5000.0, 5000.0), 240, "double-sequencers"), "two", "")
KNOWN = as_usually_printed(BARE)
FULL = replace(KNOWN, blower=replace(KNOWN.blower, fla=4.0, min_cfm=900))


@pytest.mark.parametrize(
    ("unit", "suspects", "asked"),
    [
        (BARE, {"BR:nc-stuck-open": 0.3, "S1.2:stuck-open": 0.3}, ("tap", "BR.nc")),
        (BARE, {"S1.2:stuck-open": 0.3, "none": 0.6}, ("window", "S1.2")),
        (BARE, {"S1:slow": 0.2}, ("window", "S1.1")),
        (BARE, {"E2:open": 0.9}, None),
        (BARE, {"BR:nc-stuck-open": 0.05}, None),
        (KNOWN, {"blower:locked": 0.5}, ("full-load", "blower")),
        (KNOWN, {"TL1:weak+S1:slow": 0.5}, ("least-air", "blower")),
        (FULL, {"airflow:low": 0.9, "blower:locked": 0.1}, None),
    ],
)
def test_one_thing_is_asked_for_once_it_matters(unit, suspects, asked):
    found = missing_print(unit, suspects)
    assert (None if found is None else (found.what, found.part)) == asked
