"""A visit as it stands, for whatever shows it: judged, with its switches, its model and its log."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from typing import cast

from flask import url_for
from werkzeug.utils import cached_property

from plentar.core.circuit.predict import Prediction
from plentar.core.door import judge_evidence, judge_reading, model_of, unread
from plentar.core.judgement import Judgement, ReadingJudgement
from plentar.core.said import listed, say
from plentar.core.unit.naming import said_of
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import Calls, Event, Reading, Visit, unit_after
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState
from plentar.store.record import StoredEvent, VisitRecord
from plentar.web.visits.log_rows import LogRow

_UNREAD = {
    "off": "visits.seen.amps-after-calls-end",
    "to-ground": "visits.seen.ground",
    "tie": "visits.seen.blower-heat-alone",
    "joint": "visits.seen.joints-under-heat",
}


class VisitView:
    """Cheap to make; each part is computed when somebody asks for it."""

    def __init__(self, record: VisitRecord) -> None:
        self.record, self.unit = record, record.unit

    @cached_property
    def visit(self) -> Visit:
        return self.record.core()

    @cached_property
    def evidence(self) -> Evidence:
        """The readings, each in the state that it was taken in."""
        return Evidence(self.unit, self.visit)

    @cached_property
    def judgement(self) -> Judgement:
        return judge_evidence(self.evidence)

    @property
    def unread(self) -> str:
        """What a careful round would still read, in words; empty when all was."""
        said: dict[str, list[str]] = {}
        for code in unread(self.judgement):
            what, _, part = code.partition(":")
            said.setdefault(what, []).append(part)
        return str(
            listed(
                (
                    say(_UNREAD[what], parts=listed(said_of(self.unit, part) for part in parts))
                    for what, parts in said.items()
                ),
                ";",
            )
        )

    @cached_property
    def state(self) -> PanelState:
        return self.evidence.state_at(self.record.elapsed_s)

    @cached_property
    def model(self) -> Prediction:
        return model_of(self.unit, self.visit.events, self.record.elapsed_s)

    @cached_property
    def link(self) -> Callable[[str], str]:
        return lambda part: f"{self.base}?at={part}"

    @cached_property
    def base(self) -> str:
        return url_for("visits.bench", visit_id=self.record.row.id)

    @cached_property
    def callable(self) -> list[tuple[str, str, str]]:
        """The thermostat's terminals on this unit: name, pressed or not, what a touch does."""
        asked = self.state.calls
        return [
            (call, str(call in asked).lower(), "ended" if call in asked else "raised")
            for call in self.unit.calls
        ]

    def log(self, at_most: int | None = None) -> list[LogRow]:
        """The newest events first, struck readings among them; all, or so many."""
        newest = self.record.events[::-1]
        return [self.row(event) for event in newest[:at_most]]

    def row(self, event: StoredEvent) -> LogRow:
        core = self.record.core_event(event)
        if isinstance(core, Calls) and self.evidence.state_at(core.t_s).lifted:
            return LogRow(event, str(core.words_by_jumper()))
        words = core.words(self._unit_at(core))
        return LogRow(event, str(words), self._judged(core) if isinstance(core, Reading) else None)

    def judged(self, client_id: uuid.UUID) -> ReadingJudgement:
        """The reading that was entered under a client's id, and its verdict."""
        [event] = (e for e in self.record.events if e.client_id == str(client_id))
        return self._judged(cast(Reading, self.record.core_event(event)))

    def _judged(self, reading: Reading) -> ReadingJudgement:
        """A struck reading is held against what was due as well, but is no evidence."""
        return judge_reading(self.evidence, self.evidence.take(reading))

    def _unit_at(self, event: Event) -> Unit:
        """The unit that an event was entered on: a part of it may have been replaced since."""
        if self.unit is self.record.plate:
            return self.unit
        before = (e for e in self.record.events if e.t_s <= event.t_s and not e.struck_at)
        return unit_after(self.record.plate, map(self.record.core_event, before))
