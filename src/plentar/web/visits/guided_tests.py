"""Which guided tests a unit can be put through, where a touch offers them, and which one stands."""

from __future__ import annotations

import uuid

from flask import session

from plentar.core.errors import BadInput
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit
from plentar.words import phrase

SAG, CALLS, RISE, RETEST = "sag", "calls", "rise", "retest"
#: Where a touch offers which test, by the kind of point.
_AT = {
    "circuit": SAG,
    "line": SAG,
    "feed": SAG,
    "secondary": CALLS,
    "primary": CALLS,
    "terminal": CALLS,
    "coil": CALLS,
    "air": RISE,
    "limit": RISE,  # what clicks is a question of the air first
    "blower": RISE,
    "capacitor": RISE,
}
#: What of the look around shows in the air; the rest shows in volts.
_OF_THE_AIR = frozenset({"filter", "indoor-coil", "wheel", "speed-tap", "capacitor"})
_KEPT = "guided"


def tests_of(unit: Unit, *, mended: bool) -> list[tuple[str, str]]:
    """The tests that a unit can be put through: what each is called by, and its words; the retest
    where something was mended."""
    fed = [c.id for c in unit.circuits if any(unit.elements_on(c.id))]
    found = [(f"{SAG}:{name}", phrase("visits.guided-tests.sag-test", name=name)) for name in fed]
    if unit.calls:
        found.append((CALLS, phrase("visits.guided-tests.one-call-time")))
    if unit.elements and unit.heat_calls:
        found.append((RISE, phrase("visits.guided-tests.rise-test")))
    if mended:
        found.append((RETEST, phrase("visits.guided-tests.retest")))
    return found


def tests_at(unit: Unit, point: Point) -> list[tuple[str, str]]:
    kind = _AT.get(point.kind)
    if point.kind == "node-node" and ".line." in point.name:
        kind = SAG
    owner = point.component.removesuffix(".line")
    return [(name, words) for name, words in tests_of(unit, mended=True) if name in (kind, f"{kind}:{owner}")]


def test_for(unit: Unit, item: str) -> tuple[str, str] | None:
    """The test that shows how much it matters that an item of the look around is poor."""
    kind = RISE if item in _OF_THE_AIR else SAG
    return next((one for one in tests_of(unit, mended=True) if one[0].startswith(kind)), None)


def standing_test(unit: Unit, visit_id: uuid.UUID) -> str:
    """The test that this browser is in, on this visit; empty where there is none."""
    kept = session.get(_KEPT) or ["", ""]
    known = {name for name, _ in tests_of(unit, mended=True)}
    return kept[1] if kept[0] == str(visit_id) and kept[1] in known else ""


def stand_in(unit: Unit, visit_id: uuid.UUID, test: str) -> None:
    """Begin a test, or with nothing leave it. Raises BadInput at ``test`` for one there is not."""
    if test and test not in {name for name, _ in tests_of(unit, mended=True)}:
        raise BadInput("test", phrase("visits.guided-tests.this-unit-has-no"))
    session[_KEPT] = [str(visit_id), test]
