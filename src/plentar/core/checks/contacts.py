"""Contacts by what they carry: the load of the plate against the rating printed on the part."""

from __future__ import annotations

from collections.abc import Iterator

from plentar.core.checks.registry import Result, plate_check
from plentar.core.judgement import Clear, Finding, FindingCode, Level, NotJudged
from plentar.core.quantity import show
from plentar.core.supply.loads import contact_loads
from plentar.core.unit.unit import Unit

NAME = "rating of the contacts"


@plate_check(NAME, FindingCode.CONTACT_RATING)
def contact_rating(unit: Unit) -> Iterator[Result]:
    """Every switch that carries something, and the blower relay's set."""
    for part, rated, load in contact_loads(unit):
        if load is None or rated is None:
            missing = "its rating is not printed" if rated is None else "its motor’s amps not given"
            yield NotJudged(NAME, part, missing)
        elif load <= rated:
            yield Clear(part)
        else:
            text = (
                f"{part} carries {show(load, 'A')} and is made for {show(rated, 'A')}:"
                " a part with the rating for it"
            )
            numbers = {"load_amps": load, "rated_amps": rated}
            yield Finding(FindingCode.CONTACT_RATING, Level.REPAIR, part, text, numbers)
