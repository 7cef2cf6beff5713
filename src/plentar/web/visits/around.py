"""What stands around a visit: how the one before left the unit, and a plate that changed since."""

from __future__ import annotations

from werkzeug.utils import cached_property

from plentar.files.unit_json import unit_to_json
from plentar.store.record import VisitRecord
from plentar.store.units import UnitRecord, find_unit
from plentar.store.visit_lists import visits_of_unit
from plentar.web.database import database
from plentar.web.units.past import LeftOpen, left_open


class Around:
    """Asked for by whole pages alone; a reading's answer needs none of it."""

    def __init__(self, record: VisitRecord) -> None:
        self._record = record

    @cached_property
    def left(self) -> LeftOpen | None:
        """How the visit before this one left the unit, where something was left."""
        row = self._record.row
        visits = visits_of_unit(database(), row.shop_id, row.unit_id)
        return left_open([visit for visit in visits if visit.started_at < row.started_at])

    @cached_property
    def _unit(self) -> UnitRecord:
        return find_unit(database(), self._record.row.shop_id, self._record.row.unit_id)

    @property
    def mended_plate(self) -> int | None:
        """The number of a newer plate that says something else than the one this visit has."""
        newest = self._unit.version
        if newest.id == self._record.row.version_id:
            return None
        return None if newest.plate == unit_to_json(self._record.unit) else newest.number
