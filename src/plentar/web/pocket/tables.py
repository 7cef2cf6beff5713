"""What a phone judges and stops by, as JSON: the tables of ``core/pocket`` and what they are read with."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields
from typing import Any

from plentar.core.cache import MEGABYTE, Cache
from plentar.core.pocket.pairs import FIGURES, FeedJoint, Joint, Legs, PocketPairs
from plentar.core.pocket.stops import PocketStops, StopKind
from plentar.core.pocket.verdicts import HIGH_VOLTS, LOW_VOLTS, Pocket, Span, Stretch
from plentar.core.pocket.windows import watched
from plentar.core.quantity import Quantity
from plentar.core.safety.bars import FAN_AFTER_HEAT_S
from plentar.core.tables import thresholds as th
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import behind
from plentar.core.visit.events import Settings
from plentar.web.visits.work import mark_or_words
from plentar.words import language
from plentar.words.visits import finding_in_words

#: About what a cell and a stretch take.
_CELL_BYTES, _STRETCH_BYTES = 60, 100
_TABLES: Cache[tuple[Unit, Settings, str], dict[str, Any]] = Cache(
    "pocket", 32 * MEGABYTE, lambda table: _bytes(table["verdicts"])
)


def judged_by(unit: Unit, settings: Settings) -> dict[str, Any]:
    """Everything that a verdict or a stop of this unit is decided by without the program; worked out once."""
    return _TABLES.get_or_make((unit, settings, language()), lambda: _made(unit, settings))


def _made(unit: Unit, settings: Settings) -> dict[str, Any]:
    pocket = Pocket(unit, settings)
    stops = PocketStops(pocket)
    return {
        "circuits": {
            c.id: {"rated": c.rated_volts, "lost_below": th.LOST_VOLTS_SHARE * c.rated_volts}
            for c in unit.circuits
        },
        "calls": list(unit.calls),
        "heat_calls": sorted(unit.heat_calls),
        "fan_call": unit.fan_call,
        "strips": sorted({e.circuit for e in unit.elements}),
        "dead_only": [q for q in Quantity if q.dead_only],
        "slow_coils": [f"{c.id}.coil" for c in unit.controls if c.kind.thermal],
        "verdicts": verdicts(pocket),
        "void": stops.void(),
        "fed_by": {point.name: sorted(behind(unit, point.name)) for point in pocket.points},
        "stop_table": stop_table(stops),
        "windows": windows(unit),
    }


@dataclass
class _Numbered:
    """What says the same lies once, and is called by number: spans, and courses of stretches of them."""

    spans: dict[Span, int] = field(default_factory=dict)
    courses: dict[tuple[Stretch, ...], int] = field(default_factory=dict)

    def number(self, course: tuple[Stretch, ...] | None) -> int | None:
        if course is None:
            return None
        for stretch in course:
            for span in stretch.spans:
                self.spans.setdefault(span, len(self.spans))
        return self.courses.setdefault(course, len(self.courses))

    def to_json(self) -> dict[str, Any]:
        """Spans ``[at, per volt, within, word, good]``, a last one without ``at``; courses of stretches
        ``[from_s, provisional, numbers of spans]``."""
        return {
            "spans": [
                [*([s.end.at, s.end.per_volt, s.end.within] if s.end else [None, 0, True]), s.word, s.good]
                for s in self.spans
            ],
            "courses": [
                [[one.from_s, one.provisional, [self.spans[span] for span in one.spans]] for one in course]
                for course in self.courses
            ],
        }


def stop_table(stops: PocketStops) -> dict[str, Any]:
    """Per setting and ``point quantity``: from which reading on, or below which, which of ``kinds`` are raised."""
    kinds: list[dict[str, Any]] = []
    numbers: dict[tuple[str, str], int] = {}

    def number(kind: StopKind) -> int:
        key = kind.code, kind.component
        if key not in numbers:
            numbers[key] = len(kinds)
            kinds.append(kind_to_json(stops.unit, kind))
        return numbers[key]

    settings = {
        key: {
            f"{row.point} {row.quantity}": [row.least, row.below, [number(kind) for kind in row.stops]]
            for row in rows
        }
        for key, rows in stops.table.items()
    }
    still = stops.without_blower()
    without = still and {
        "draws": still.draws,
        "still_below": still.still_below,
        "due_s": still.due_s,
        "kind": number(still.stop),
    }
    pairs = PocketPairs(stops.pocket)
    together = {**FIGURES, "still_s": pairs.still_s} | {
        name: [_fields(row) | {"kind": number(row.stop)} for row in rows]
        for name, rows in (("joints", pairs.joints()), ("feeds", pairs.feeds()), ("legs", pairs.legs()))
    }
    return {
        "settings": settings,
        "without_blower": without,
        "together": together,
        "kinds": kinds,
        "fan_after_heat_s": FAN_AFTER_HEAT_S,
    }


def _fields(row: Joint | FeedJoint | Legs) -> dict[str, Any]:
    return {one.name: getattr(row, one.name) for one in fields(row) if one.name != "stop"}


def windows(unit: Unit) -> dict[str, Any]:
    """What starts each part's clock, and its window, s."""
    moves = [
        asdict(row)
        | {
            "ways": [
                {"calls": way.calls, "after": way.after, "low": way.window_s.low, "high": way.window_s.high}
                for way in row.ways
            ]
        }
        for row in watched(unit)
    ]
    return {"moves": moves, "error_s": th.WATCH_ERROR_S, "off_test_s": th.OFF_TEST_S}


def kind_to_json(unit: Unit, kind: StopKind) -> dict[str, Any]:
    device = unit.control_of_switch.get(kind.component)
    return {
        "code": kind.code,
        "component": kind.component,
        "text": f"{mark_or_words(unit, kind.component)}: {finding_in_words(kind.code)}",
        "acts": str(kind.acts),
        "bars": sorted(kind.bars),
        "circuits": sorted(kind.circuits),
        "loads": sorted(kind.loads),
        "mended_by": [kind.component, *([device.id] if device else [])],
    }


def verdicts(pocket: Pocket) -> dict[str, Any]:
    """The table as JSON: per setting and ``point quantity`` the circuit and the numbers of two courses, by volts
    that were read and without."""
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
        **numbered.to_json(),
    }


def _bytes(table: Mapping[str, Any]) -> int:
    cells = sum(map(len, table["settings"].values()))
    return _STRETCH_BYTES * (len(table["spans"]) + len(table["courses"])) + _CELL_BYTES * cells
