"""What a phone takes along of one unit: its drawing, its points with what is due there as data, its open visit."""

from __future__ import annotations

from typing import Any

from plentar.core.pocket.stops import kind_of
from plentar.core.pocket.verdicts import Pocket
from plentar.core.safety.latch import standing
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.points import Point
from plentar.core.visit.events import Visit
from plentar.core.visit.evidence import Evidence
from plentar.drawing.parts import Scene
from plentar.files.visit_json import SettingsJson
from plentar.store.models import now
from plentar.store.record import VisitRecord
from plentar.store.units import UnitRecord
from plentar.store.visits import records_of_unit
from plentar.web.database import database
from plentar.web.drawings import control_side, line_side, surroundings
from plentar.web.pocket.after_work import retest_after, wires_of_devices
from plentar.web.pocket.plan import plan_of
from plentar.web.pocket.tables import judged_by, kind_to_json
from plentar.web.showing import local
from plentar.web.visits.log_rows import LogRow
from plentar.web.visits.pad import caution_of
from plentar.web.visits.view import BenchView, proof_of
from plentar.words import measures, phrase
from plentar.words.dates import month

#: What is seen or heard to act.
ACTS = frozenset({"switch", "blower"})
#: Of so many finished visits the readings go along.
PAST_VISITS = 3
#: How many of the newest entries of an open visit go along as rows.
ROWS = 40


def bundle(record: UnitRecord, settings: dict[str, Any], visit: VisitRecord | None) -> dict[str, Any]:
    """Everything of a unit that the bench without signal draws and judges by, as plain values.

    ``settings`` are the shop's, of a visit that is begun without signal."""
    unit = visit.unit if visit else record.unit
    settings_now = SettingsJson.model_validate(visit.row.settings if visit else settings).to_core()
    evidence = Evidence(unit, visit.core() if visit else Visit(settings=settings_now))
    now_s = visit.elapsed_s if visit else 0.0
    scene = Scene(link=lambda part: f"#at={part}")
    return {
        "unit": str(record.row.id),
        "label": unit.label,
        "place": record.row.place,
        "made_ms": round(1000 * now().timestamp()),
        "drawing": {
            "line": line_side(unit, scene),
            "control": control_side(unit, scene),
            "around": surroundings(unit, scene),
        },
        "points": [_point(point) for point in Pocket(unit, settings_now).points],
        "parts": sorted(unit.components),
        "proof": proof_of(unit),
        "past": _past(record),
        **judged_by(unit, settings_now),
        "retest": retest_after(evidence, now_s),
        "wires": wires_of_devices(unit),
        "stops": _standing(evidence, now_s),
        "visit": None if visit is None else _visit(visit),
    }


def _past(record: UnitRecord) -> dict[str, str]:
    """What was read last on the newest finished visits, by ``point quantity heat``: with heat called or without."""
    found: dict[str, str] = {}
    visits = [v for v in records_of_unit(database(), record.row.shop_id, record.row.id) if v.row.closed_at]
    for visit in visits[-PAST_VISITS:]:
        day = month(local(visit.row.started_at))
        for taken in Evidence(visit.unit, visit.core()).taken:
            reading, heated = taken.reading, bool(taken.state.calls & HEAT_CALLS)
            if taken.counts:
                shown = reading.quantity.shown(reading.value)
                key = f"{reading.at} {reading.quantity} {str(heated).lower()}"
                found[key] = phrase("visits.past.last-time", shown=shown, day=day)
    return found


def _point(point: Point) -> dict[str, Any]:
    return {
        "name": point.name,
        "title": str(point.title),
        "acts": point.kind in ACTS,
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
        "plan": plan_of(record.unit, view.evidence, record.row.shop_id),
    }


def _row(row: LogRow) -> dict[str, str]:
    return {"when": row.when, "what": row.text, "value": row.value, "due": row.due, "struck": row.reason}


def _standing(evidence: Evidence, now_s: float) -> list[dict[str, Any]]:
    """The stops that stand when it is taken along: the plate's, and those of the open visit."""
    state = evidence.state_at(now_s)
    return [
        kind_to_json(evidence.unit, kind_of(evidence, state, stop.finding))
        | {
            "text": str(stop.finding.text),
            "answered": stop.answered,
            "permit": stop.way_back,
            "t": stop.finding.t_s,
        }
        for stop in standing(evidence)
    ]
