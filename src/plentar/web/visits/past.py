"""What was read at a point before, for the pad: last time's value in the state that stands now, and
whether the readings there move."""

from __future__ import annotations

from plentar.core.history.series import History
from plentar.core.quantity import Quantity
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.points import Point
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState
from plentar.store.record import VisitRecord
from plentar.store.visits import read_before
from plentar.web.database import database
from plentar.web.showing import local
from plentar.web.units.history import history_at, in_words
from plentar.words import phrase
from plentar.words.dates import month


def past_at(record: VisitRecord, point: Point, quantity: Quantity, state: PanelState) -> str:
    """Such as “last time 20.4 A, October 2025 · ▲ falls by 0.8 A a year”; empty where nobody has read
    it on an earlier visit."""
    last = _last(record, point.name, quantity, heated=bool(state.calls & HEAT_CALLS))
    if not last:
        return ""
    moves = next((h for h in history_at(record) if _is_of(h, point, quantity)), None)
    said = in_words(moves, local(record.row.started_at).date()) if moves and moves.drifts else ""
    return " · ".join(filter(None, (last, said)))


def _last(record: VisitRecord, at: str, quantity: Quantity, *, heated: bool) -> str:
    row = record.row
    for visit in read_before(database(), row.shop_id, row.unit_id, row.started_at, at):
        read = [
            t
            for t in Evidence(visit.unit, visit.core()).at(at, quantity)
            if bool(t.state.calls & HEAT_CALLS) == heated or quantity.dead_only
        ]
        if read:
            day = local(visit.row.started_at)
            return phrase(
                "visits.past.last-time", shown=quantity.shown(read[-1].reading.value), day=month(day)
            )
    return ""


#: The series that a quantity at a kind of point belongs to.
_KIND = {
    (Quantity.AMPS, "element"): "amps",
    (Quantity.OHMS, "element"): "ohms",
    (Quantity.OHMS, "coil"): "coil",
    (Quantity.UF, "capacitor"): "uf",
}


def _is_of(history: History, point: Point, quantity: Quantity) -> bool:
    return history.kind == _KIND.get((quantity, point.kind)) and history.part == point.component
