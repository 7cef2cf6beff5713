"""The owner's sheet: one visit in plain words, in the owner's language, with its own pictures in it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cached_property
from zoneinfo import ZoneInfo

from flask_babel import format_date, format_decimal, gettext

from plentar.core.door import found_in_its_course, unread
from plentar.core.guided.retest import retest_lines
from plentar.core.judgement import Finding, FindingCode, Level
from plentar.core.quantity import Quantity
from plentar.core.unit.unit import Unit
from plentar.drawing.standalone import standalone
from plentar.files.sheet_settings import SheetSettings
from plentar.store.record import VisitRecord
from plentar.web.drawings import data_address, svg_address
from plentar.web.handover import plain
from plentar.web.visits.view import BenchView

#: Findings that are no owner's business.
_INNER = frozenset({FindingCode.CONTRADICTION, FindingCode.HOUSE_TIME})


@dataclass(frozen=True, slots=True)
class FoundRow:
    """One finding: how pressing, in words; for the style ``level``."""

    level: str
    pressing: str
    text: str


@dataclass(frozen=True)
class OwnerSheet:
    """What one visit says to the owner. ``pictures`` are of its photos, by key."""

    record: VisitRecord
    shop: str
    by: str
    settings: SheetSettings
    timezone: str
    pictures: Mapping[str, bytes] = field(default_factory=dict)

    @property
    def unit(self) -> Unit:
        return self.record.unit

    @cached_property
    def bench(self) -> BenchView:
        return BenchView(self.record)

    @property
    def day(self) -> str:
        """The day of the visit, by the shop's own clock."""
        there = self.record.row.started_at.astimezone(ZoneInfo(self.timezone))
        return str(format_date(there.date(), "long", rebase=False))

    @property
    def came(self) -> str:
        return plain.words(plain.CAME.get(self.record.row.complaint or "", gettext("A visit")))

    @property
    def left(self) -> str:
        if self.record.row.outcome is None:
            return str(gettext("The visit is not over yet."))
        return plain.words(plain.LEFT[self.record.row.outcome])

    @cached_property
    def found(self) -> list[FoundRow]:
        """What was found: before anything was mended, and what stands now, the worst first."""
        told: dict[str, Finding] = {}
        for finding in found_in_its_course(self.bench.judgement):
            if finding.code not in _INNER and finding.level is not Level.OK:
                surely = finding.level is not Level.WATCH
                said = plain.found_words(self.unit, finding.code, finding.component, surely=surely)
                told.setdefault(said, finding)
        order = [Level.STOP_NOW, Level.REPAIR, Level.WATCH]
        rows = sorted(told.items(), key=lambda row: order.index(row[1].level))
        return [FoundRow(f.level.value, plain.words(plain.PRESSING[f.level]), t) for t, f in rows]

    @property
    def unread(self) -> list[str]:
        """What was not checked, as an owner reads it."""
        kinds = dict.fromkeys(code.partition(":")[0] for code in unread(self.bench.judgement))
        return [plain.words(plain.UNREAD[kind]) for kind in kinds]

    @property
    def done(self) -> list[str]:
        said = (plain.done_words(self.unit, event) for event in self.bench.visit.events)
        return list(dict.fromkeys(filter(None, said)))

    @cached_property
    def compared(self) -> list[tuple[str, str, str]]:
        """Strips before and after: part, amps before, amps after."""
        rows = []
        for line in retest_lines(self.bench.evidence, self.record.elapsed_s):
            step = line.step
            if step.taken is None or step.quantity not in (Quantity.AMPS, Quantity.TEMP_F):
                continue
            before = self._shown(step.quantity, line.before.reading.value) if line.before else "—"
            after = self._shown(step.quantity, step.taken.reading.value)
            rows.append((self._read_where(step.at), before, after))
        return rows

    def _read_where(self, at: str) -> str:
        if at == "supply-air":
            return str(gettext("Air that leaves the unit"))
        if at == "return-air":
            return str(gettext("Air that comes back"))
        name = plain.part_name(self.unit, at)
        return name[:1].upper() + name[1:]

    def _shown(self, quantity: Quantity, value: float) -> str:
        if quantity is Quantity.TEMP_F:
            celsius = self.settings.scale == "C"
            shown = (value - 32) / 1.8 if celsius else value
            return f"{format_decimal(round(shown))} °{self.settings.scale}"
        return f"{format_decimal(round(value, 1))} {quantity.sign}"

    @property
    def undone(self) -> list[tuple[str, str, str]]:
        """What is left: when, what, and what is safe meanwhile; with a day where there is one."""
        rows = []
        for line in self.record.work:
            if line.open:
                when = plain.words(plain.WHEN[line.when])
                if line.due_on:
                    when = f"{when}, {format_date(line.due_on, 'medium', rebase=False)}"
                rows.append((when, self._line(line.text, line.source), line.meanwhile))
        return rows

    @property
    def declined(self) -> list[str]:
        """What was found and the owner did not want."""
        return [self._line(n.text, n.source) for n in self.record.work if n.stands == "declined"]

    def _line(self, text: str, source: str) -> str:
        """A line that came from a finding in the finding's plain words; else as it was typed."""
        level, _, rest = source.partition(" ")
        code, _, component = rest.partition(" ")
        if level in set(Level) and code in set(FindingCode):
            surely = level != Level.WATCH
            return plain.found_words(self.unit, FindingCode(code), component, surely=surely)
        return text

    @property
    def told(self) -> list[str]:
        return [said.name for said in self.record.told]

    @cached_property
    def drawing(self) -> str:
        return svg_address(standalone(self.unit, self.bench.drawn.on_record, control=False))

    @property
    def photos(self) -> list[tuple[str, str]]:
        """The photos: address and words."""
        return [
            (data_address(self.pictures[photo.key], "image/jpeg"), photo.text or photo.part or photo.shows)
            for photo in self.record.photos
            if photo.key in self.pictures
        ]
