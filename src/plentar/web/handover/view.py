"""What the page shows on which a visit ends: everything that has to be said before a unit is left."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any

from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.door import all_found
from plentar.core.guided.retest import retest_lines
from plentar.core.guided.retest_line import Line
from plentar.core.handover.asked_once import Easy, reasons_to_ask, to_look_at_again
from plentar.core.handover.meanwhile_ways import ways_meanwhile
from plentar.core.handover.suggest import decided, suggested
from plentar.core.handover.work import WorkLine
from plentar.core.said import Said, say
from plentar.core.unit.naming import said_of
from plentar.core.visit.events import LOOK_ITEMS, LOOK_STATES, STAGE_ON
from plentar.files.said_json import SaidJson
from plentar.store.record import VisitRecord
from plentar.web.people import me
from plentar.web.showing import natural, verdict
from plentar.web.visits.view import BenchView
from plentar.words import language, phrase
from plentar.words.numbers import clock

#: What is not through yet of the retest.
NOT_THROUGH = ("open", "fail")
#: Before that every screen was English.
SPOKE_ENGLISH_UNTIL = datetime(2026, 12, 1, tzinfo=UTC)
#: What a form sends of a line.
_FIELDS = ("when", "text", "part", "stands", "parts", "meanwhile", "due_on", "minutes", "price", "source")
_SHAPES = {"pass": "✓", "fail": "✕", "open": "○", "answered": "—"}
_WORDS = {
    "pass": say("handover.view.due"),
    "fail": say("handover.view.not-due"),
    "open": say("handover.view.not-read"),
    "answered": say("handover.view.left-out"),
}


@dataclass(frozen=True, slots=True)
class RetestRow:
    """One line of the retest: before and after beside what is due."""

    line: Line
    href: str
    due: str
    before: str
    after: str
    mark: Markup
    state: str

    @property
    def words(self) -> str:
        return f"{_SHAPES[self.state]} {_WORDS[self.state]}"

    @property
    def said(self) -> str:
        """The same with the reason behind it."""
        why = self.line.step.left_out or (self.line.says if self.state == "fail" else "")
        return f"{_WORDS[self.state]}{f': {why}' if why else ''}"

    @property
    def open(self) -> bool:
        return self.state in NOT_THROUGH


class HandoverView:
    def __init__(self, record: VisitRecord) -> None:
        self.record, self.bench = record, BenchView(record)
        self.unit, self.base = record.unit, self.bench.base

    @property
    def ends(self) -> list[tuple[str, str, str, bool]]:
        """The sections of the page: where, what, how far, and whether it is said."""
        now = [line for line in self.lines if line.open and line.when == "now"]
        open_lines = sum(line.open for line in self.lines)
        found = [
            (
                "work",
                phrase("handover.view.done"),
                phrase("handover.view.open", open_lines=open_lines)
                if open_lines
                else phrase("handover.view.nothing-open"),
                not now,
            )
        ]
        if asked := len(self.look_again) + len(self.easy):
            found.append(
                (
                    "again",
                    phrase("handover.view.once-more"),
                    phrase("handover.view.asked", asked=asked),
                    False,
                )
            )
        if self.retest:
            found.append(
                ("retest", phrase("handover.view.read-again"), self.retest_said, not self.not_through)
            )
        found.append(
            ("photos", phrase("handover.view.photos"), str(len(self.record.photos)), bool(self.record.photos))
        )
        return [*found, ("left", phrase("handover.view.unit-left"), phrase("handover.view.not-set"), False)]

    @property
    def currency(self) -> str:
        return str(me().shop_sheets.get("currency", ""))

    @property
    def dated(self) -> bool:
        return any(line.due_on and line.open for line in self.lines)

    def fields(self, line: WorkLine, **other: str) -> dict[str, Any]:
        values = {name: getattr(line, name) for name in _FIELDS} | other | {"line": line.id}
        values["text_said"] = self.suggestion(line)
        return {name: value for name, value in values.items() if value not in (None, "")}

    def written_in(self, line: WorkLine) -> str:
        """The language of a line's words where it is known and not the page's: a suggestion that was stored as
        words is of the time when Plentar spoke English alone."""
        as_words = line.source and not isinstance(line.text, Said)
        old = self.record.row.started_at < SPOKE_ENGLISH_UNTIL
        return "en" if as_words and old and language() != "en" else ""

    def suggestion(self, line: WorkLine) -> str:
        """The text of a line as code and values, for its form to send back; empty where it was typed."""
        said = SaidJson.of(line.text) if isinstance(line.text, Said) else None
        return said.model_dump_json() if said else ""

    def line_said(self, line: WorkLine) -> str:
        """What else a line says: its part, its day, minutes, price, what is safe meanwhile."""
        said = [
            phrase(f"parts.{line.parts}") if line.parts else "",
            str(line.due_on or ""),
            phrase("handover.view.min", minutes=f"{line.minutes:g}") if line.minutes is not None else "",
            f"{line.price:,.2f} {self.currency}".strip() if line.price is not None else "",
            phrase("handover.view.meanwhile", meanwhile=line.meanwhile) if line.meanwhile else "",
        ]
        return " · ".join(filter(None, said))

    @property
    def lines(self) -> tuple[WorkLine, ...]:
        return self.record.work

    @cached_property
    def _known(self) -> frozenset[str]:
        return frozenset(line.source for line in self.lines if line.source)

    @property
    def suggested(self) -> tuple[WorkLine, ...]:
        """Lines that the findings and a repair suggest; what is on the list of the retest is read
        again first."""
        unread = {row.line.step.due.point.component for row in self.retest if row.state == "open"}
        findings = [f for f in all_found(self.bench.judgement) if f.component not in unread]
        return suggested(self.unit, self.bench.visit, findings, self._known)

    @property
    def decided(self) -> tuple[WorkLine, ...]:
        """Lines that the judge suggests; slow."""
        return decided(self.unit, self.bench.diagnosis, self._known)

    def ways(self, part: str) -> tuple[str, ...]:
        """What is safe meanwhile."""
        return tuple(map(str, ways_meanwhile(self.unit, part)))

    def mended_since(self, line: WorkLine) -> bool:
        own = line.part.split(".")[0]
        return any(
            event.mended.split(".")[0] == own and event.t_s >= line.t_s
            for event in self.bench.visit.events
            if event.mended and line.part
        )

    @property
    def look_again(self) -> list[tuple[str, str, tuple[str, ...]]]:
        """What was poor before the repair: the item, its name, what it may be now."""
        return [
            (item, phrase(f"look.{item}"), LOOK_STATES if LOOK_ITEMS[item] else LOOK_STATES[:2])
            for item in to_look_at_again(self.bench.visit)
        ]

    @property
    def easy(self) -> tuple[Easy, ...]:
        """Easy repairs whose reason nobody has said."""
        noted = [(body["t"], body["part"]) for body in self.record.noted("note")]
        return reasons_to_ask(self.unit, self.bench.visit, noted)

    @cached_property
    def retest(self) -> list[RetestRow]:
        """The list of the retest; empty where nothing was mended."""
        every = retest_lines(self.bench.evidence, self.record.elapsed_s)
        return [self._row(line) for line in every]

    @property
    def not_through(self) -> list[RetestRow]:
        return [row for row in self.retest if row.open]

    @property
    def retest_said(self) -> str:
        """Such as “2 read, 5 left out, 1 open”."""
        count = Counter(row.state for row in self.retest)
        said = {
            "pass": phrase("handover.view.read"),
            "fail": phrase("handover.view.not-due"),
            "answered": phrase("handover.view.left-out"),
            "open": phrase("handover.view.still-open"),
        }
        return ", ".join(f"{count[state]} {words}" for state, words in said.items() if count[state])

    def _row(self, line: Line) -> RetestRow:
        step = line.step
        said = step.verdict
        mark = verdict(said.word, said.good, said.provisional) if said else Markup("")
        before = line.before
        return RetestRow(
            line,
            f"{self.base}/tape" if step.timed else f"{self.bench.link(step.at)}&quantity={step.quantity}",
            str(step.due.text())
            or (phrase("seen.steady") if step.watched else str(step.due.absent) if step.timed else "—"),
            str(step.quantity.shown(before.reading.value)) if before else "—",
            str(step.quantity.shown(step.taken.reading.value) if step.taken else step.seen) or "—",
            mark,
            line.state,
        )

    @property
    def stages_off(self) -> list[str]:
        """Strips that are left off, each closed out by an act of its own."""
        return [e.id for e in self.unit.elements if e.id in self.bench.state.stages_off]

    @property
    def stage_on(self) -> str:
        return STAGE_ON

    @property
    def photos(self) -> list[tuple[str, str, str]]:
        """The photos: address, key, and what they show."""
        return [
            (
                f"{self.base}/photos/{photo.key}.jpg",
                photo.key,
                " · ".join(filter(None, (photo.shows, photo.part, photo.text))),
            )
            for photo in self.record.photos
        ]

    @property
    def reopened(self) -> list[str]:
        return [
            phrase(
                "handover.view.opened-again", body=clock(body["t"]), body_2=body["by"], body_3=body["reason"]
            )
            for body in self.record.noted("reopened")
        ]

    @property
    def workable(self) -> list[tuple[str, str]]:
        return [(part, str(said_of(self.unit, part))) for part in sorted(self.unit.workable, key=natural)]
