"""What a phone takes along of one unit: its drawing, its points with what is due there as data, its open visit."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.pocket.verdicts import HIGH_VOLTS, LOW_VOLTS, Pocket, Stretch
from plentar.core.tables import thresholds as th
from plentar.core.unit.points import Point, points, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Settings
from plentar.drawing.parts import Scene
from plentar.files.visit_json import SettingsJson
from plentar.store.models import now
from plentar.store.record import VisitRecord
from plentar.store.units import UnitRecord
from plentar.web.drawings import control_side, line_side, surroundings
from plentar.web.people import me
from plentar.web.visits.log_rows import LogRow
from plentar.web.visits.pad import caution_of
from plentar.web.visits.view import BenchView, proof_of
from plentar.words import language, measures, phrase

#: How many of the newest entries of an open visit go along as rows.
ROWS = 40
#: About what the table of a unit takes.
_TABLES: Cache[tuple[Unit, Settings], dict[str, Any]] = Cache(
    "pocket", 32 * MEGABYTE, lambda table: 100 * len(table["stretches"]) + 60 * _cells(table)
)


def bundle(record: UnitRecord, settings: dict[str, Any], visit: VisitRecord | None) -> dict[str, Any]:
    """Everything of a unit that the bench without signal draws and judges by, as plain values.

    ``settings`` are the shop's, of a visit that is begun without signal."""
    unit = visit.unit if visit else record.unit
    judged_by = SettingsJson.model_validate(visit.row.settings if visit else settings).to_core()
    scene = Scene(link=lambda part: f"#at={part}", by_label=False)
    return {
        "unit": str(record.row.id),
        "label": unit.label,
        "place": record.row.place,
        "account": str(me().id),
        "language": language(),
        "made_ms": round(1000 * now().timestamp()),
        "drawing": {
            "line": line_side(unit, scene),
            "control": control_side(unit, scene),
            "around": surroundings(unit, scene),
        },
        "points": [_point(point) for point in _every_point(unit)],
        "circuits": {
            c.id: {"rated": c.rated_volts, "lost_below": th.LOST_VOLTS_SHARE * c.rated_volts}
            for c in unit.circuits
        },
        "calls": list(unit.calls),
        "heat_calls": sorted(unit.heat_calls),
        "slow_coils": [f"{c.id}.coil" for c in unit.controls if c.kind.thermal],
        "parts": [[name, name] for name in sorted(unit.components)],
        "proof": proof_of(unit),
        "verdicts": _TABLES.get_or_make((unit, judged_by), lambda: verdicts(Pocket(unit, judged_by))),
        "visit": None if visit is None else _visit(visit),
    }


def _every_point(unit: Unit) -> Iterable[Point]:
    yield from points(unit)
    for element in unit.elements:
        yield resolve(unit, f"{element.id}.in:ground")


def _point(point: Point) -> dict[str, Any]:
    return {
        "name": point.name,
        "title": str(point.title),
        "kind": point.kind,
        "reads": [
            {
                "quantity": quantity,
                "said": phrase(f"quantity.{quantity}"),
                "sign": measures.sign(quantity.sign),
                "dead_only": quantity.dead_only,
                "caution": caution_of(point, quantity),
            }
            for quantity in point.quantities
        ],
    }


def _visit(record: VisitRecord) -> dict[str, Any]:
    """The open visit: its events, which set the state, and its newest rows as they are read."""
    view = BenchView(record)
    return {
        "id": str(record.row.id),
        "started_ms": round(1000 * record.row.started_at.timestamp()),
        "events": [e.body for e in record.events if not e.struck_at],
        "rows": [_row(row) for row in view.log(ROWS)],
    }


def _row(row: LogRow) -> dict[str, str]:
    return {"when": row.when, "what": row.text, "value": row.value, "due": row.due, "struck": row.reason}


@dataclass
class _Numbered:
    """Stretches that say the same lie once, and are called by number."""

    rows: list[Any] = field(default_factory=list)
    numbers: dict[tuple[Stretch, ...], int] = field(default_factory=dict)

    def number(self, stretches: tuple[Stretch, ...] | None) -> int | None:
        if stretches is None:
            return None
        if stretches not in self.numbers:
            self.numbers[stretches] = len(self.rows)
            self.rows.append([_stretch(one) for one in stretches])
        return self.numbers[stretches]


def verdicts(pocket: Pocket) -> dict[str, Any]:
    """The table as JSON: per setting and ``point quantity`` the circuit and two numbers of ``stretches``, by
    volts that were read and without. A stretch is its beginning in seconds, whether it is provisional, and its
    spans ``[at, per volt, within, word, good]``, the last without an end."""
    numbered = _Numbered()
    settings: dict[str, Mapping[str, Any]] = {}
    for setting in pocket.usual:
        settings[setting.key] = {
            f"{due.point} {due.quantity}": [
                due.circuit,
                numbered.number(due.by_volts),
                numbered.number(due.unread),
            ]
            for due in pocket.due(setting)
        }
    return {
        "rest_s": pocket.rest_s,
        "settled_s": pocket.settled_s,
        "low_share": LOW_VOLTS,
        "high_share": HIGH_VOLTS,
        "settings": settings,
        "stretches": numbered.rows,
    }


def _stretch(one: Stretch) -> list[Any]:
    spans = [
        [*([s.end.at, s.end.per_volt, s.end.within] if s.end else [None, 0, True]), s.word, s.good]
        for s in one.spans
    ]
    return [one.from_s, one.provisional, spans]


def _cells(table: Mapping[str, Any]) -> int:
    return sum(map(len, table["settings"].values()))
