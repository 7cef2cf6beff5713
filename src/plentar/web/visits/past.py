"""What was read at a point before, for the pad: last time's value in the state that stands now, and
whether the readings there move."""

from __future__ import annotations

from plentar.core.door import History, PanelState, histories
from plentar.core.parts import HEAT_CALLS
from plentar.core.points import Point
from plentar.core.quantity import Quantity
from plentar.store.record import VisitRecord
from plentar.store.visits import records_of_unit
from plentar.web.database import database
from plentar.web.showing import local
from plentar.web.units.history import in_words, visits_of


def past_at(record: VisitRecord, point: Point, quantity: Quantity, state: PanelState) -> str:
    """Such as “last time 20.4 A, October 2025 · ▲ falls by 0.8 A a year”; empty where nobody has read
    it on an earlier visit."""
    row = record.row
    records = records_of_unit(database(), row.shop_id, row.unit_id)
    before = [r for r in records if r.row.started_at < row.started_at]
    last = _last(before, point.name, quantity, heated=bool(state.calls & HEAT_CALLS))
    if not last:
        return ""
    moves = next(
        (h for h in histories(visits_of([*before, record])) if _is_of(h, point, quantity)), None
    )
    said = in_words(moves, local(row.started_at).date()) if moves and moves.drifts else ""
    return " · ".join(filter(None, (last, said)))


def _last(before: list[VisitRecord], at: str, quantity: Quantity, *, heated: bool) -> str:
    for visit in reversed(visits_of(before)):
        read = [t for t in visit.evidence.at(at, quantity)
                if bool(t.state.calls & HEAT_CALLS) == heated or quantity.dead_only]  # fmt: skip
        if read:
            return f"last time {quantity.shown(read[-1].reading.value)}, {visit.day:%B %Y}"
    return ""


#: The series that a quantity at a kind of point belongs to.
_KIND = {
    (Quantity.AMPS, "element"): "amps", (Quantity.OHMS, "element"): "ohms",
    (Quantity.OHMS, "coil"): "coil", (Quantity.UF, "capacitor"): "uf",
}  # fmt: skip


def _is_of(history: History, point: Point, quantity: Quantity) -> bool:
    return history.kind == _KIND.get((quantity, point.kind)) and history.part == point.component
