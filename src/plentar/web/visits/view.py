"""What the bench shows: everything computed here, so that templates only place it."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property

from flask import url_for
from markupsafe import Markup

from plentar.core.due import Due, Verdict
from plentar.core.due.rules import due_at
from plentar.core.events import Reading, Visit
from plentar.core.evidence import Evidence
from plentar.core.judge import judge, judge_reading
from plentar.core.judgement import Judgement, Level, ReadingJudgement
from plentar.core.numerals import show
from plentar.core.points import Point, points, resolve
from plentar.core.quantity import Quantity
from plentar.core.state import PanelState, state_at
from plentar.drawing.gauge import gauge
from plentar.drawing.ladder import Badge, Scene, drawn_points
from plentar.files.visit_json import event_from_json
from plentar.store.models import VisitEvent
from plentar.store.visits import VisitRecord
from plentar.web.drawings import both_forms


@dataclass(frozen=True, slots=True)
class LogRow:
    """One event of the visit, in words; readings with due and verdict."""

    event: VisitEvent
    text: str
    judged: ReadingJudgement | None = None

    @property
    def is_reading(self) -> bool:
        """It can be struck out."""
        return "read" in self.event.body


@dataclass(frozen=True, slots=True)
class PadView:
    """The reading pad at one point."""

    point: Point
    quantity: Quantity
    due: Due
    gauge: Markup
    typed: str
    verdict: Verdict | None
    error: str
    stored: bool
    gated: bool
    history: list[LogRow]
    client_id: uuid.UUID


class BenchView:
    """A visit's page. Cheap to make; each part is computed when a template asks for it."""

    def __init__(self, record: VisitRecord) -> None:
        self.record = record
        self.unit = record.unit
        self.visit: Visit = record.core()
        self.evidence = Evidence(record.unit, self.visit)

    @cached_property
    def judgement(self) -> Judgement:
        """The core's answer."""
        return judge(self.unit, self.visit)

    @cached_property
    def state(self) -> PanelState:
        """How the unit stands now."""
        return state_at(self.unit, self.visit.events, self.record.elapsed_s)

    @property
    def stopped(self) -> list[str]:
        """What must be answered before the unit may be left in service."""
        return [f.text for f in self.judgement.findings if f.level is Level.STOP_NOW]

    @cached_property
    def callable(self) -> list[tuple[str, bool, str]]:
        """The thermostat's terminals on this unit: name, whether asked for, the set if flipped."""
        used = {c.call for c in self.unit.controls if c.call}
        used |= {load.call for load in self.unit.other_loads}
        if self.unit.blower and self.unit.blower.relay:
            used.add(self.unit.blower.relay.call)
        asked = self.state.calls
        return [
            (call, call in asked, ",".join(sorted(asked ^ {call})))
            for call in ("W1", "W2", "G", "Y")
            if call in used
        ]

    @cached_property
    def heat_since(self) -> float | None:
        """Seconds that heat has been called for, or None."""
        began = [s for call, s in self.state.since_s.items() if call.startswith("W")]
        return self.state.t_s - min(began) if began else None

    def drawing(self, selected: str = "") -> Markup:
        """The unit with its newest readings."""
        scene = Scene(
            link=self._link, badges=self._badges(), power=self.state.power, selected=selected,
            htmx_target="#pad",
        )  # fmt: skip
        return both_forms(self.unit, scene)

    @cached_property
    def _link(self) -> Callable[[str], str]:
        base = url_for("visits.bench", visit_id=self.record.row.id)
        return lambda part: f"{base}?at={part}"

    def _badges(self) -> dict[str, Badge]:
        badges = {}
        for judged in self.judgement.readings:
            reading, verdict = judged.taken.reading, judged.verdict
            if judged.taken.counts:
                text = show(reading.value, reading.quantity.sign)
                badges[reading.at] = Badge(text, verdict.word, verdict.good, verdict.provisional)
        return badges

    @cached_property
    def other_points(self) -> list[Point]:
        """Points that the drawing does not show."""
        drawn = set(drawn_points(self.unit))
        return [p for p in points(self.unit) if p.name not in drawn] + [
            resolve(self.unit, f"{e.id}.in:ground") for e in self.unit.elements
        ]

    @cached_property
    def log(self) -> list[LogRow]:
        """Every event, newest first, struck readings among them."""
        judged = {r.taken.reading.key: r for r in self.judgement.readings}
        rows = [self._row(event, judged) for event in self.record.events]
        return rows[::-1]

    def _row(self, event: VisitEvent, judged: dict[str, ReadingJudgement]) -> LogRow:
        body = event.body
        if "read" in body:
            found = judged.get(str(event.client_id))
            if found is None:  # struck out: held against what was due, but no evidence
                reading = event_from_json(body)
                assert isinstance(reading, Reading)
                found = judge_reading(self.evidence, self.evidence.take(reading))
            return LogRow(event, found.taken.point.title, found)
        if "calls" in body:
            asked = " + ".join(body["calls"]) or "nothing"
            return LogRow(event, f"thermostat asks for {asked}")
        if "power" in body:
            where = body.get("circuit", "all circuits")
            return LogRow(event, f"power {body['power'].replace('-', ' ')}, {where}")
        if "observe" in body:
            return LogRow(event, f"{body['part']} seen: {body['observe']}")
        return LogRow(event, f"{body['replaced']} replaced")

    def pad(
        self,
        at: str,
        quantity: str | None = None,
        typed: str = "",
        value: float | None = None,
        error: str = "",
        stored: bool = False,
    ) -> PadView:
        """The pad at a point; raises BadInput when there is no such point."""
        point = resolve(self.unit, at)
        chosen = Quantity(quantity) if quantity in list(point.quantities) else self._usual(point)
        due = due_at(self.evidence, self.state, point, chosen)
        gated = chosen in (Quantity.OHMS, Quantity.UF) and not self.state.proved_dead
        return PadView(
            point, chosen, due, Markup(gauge(due, value)), typed,
            None if value is None else due.judge(value), error, stored, gated,
            self._history(at), uuid.uuid4(),
        )  # fmt: skip

    def _usual(self, point: Point) -> Quantity:
        """The quantity that is read here as the unit stands."""
        dead = point.dead_quantity if self.state.proved_dead else None
        return dead or point.live_quantity or point.quantities[0]

    def _history(self, at: str) -> list[LogRow]:
        return [row for row in self.log if row.event.body.get("at") == at]


def readings_of(rows: Sequence[LogRow]) -> list[LogRow]:
    """The readings among a log's rows, oldest first."""
    return [row for row in reversed(rows) if row.is_reading]
