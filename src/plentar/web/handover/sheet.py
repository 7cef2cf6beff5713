"""The owner's sheet: one visit in plain words, in the owner's language, with its own pictures in it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from zoneinfo import ZoneInfo

from babel.dates import format_date
from babel.numbers import format_decimal
from werkzeug.utils import cached_property

from plentar.core.door import all_found, found_before_work, unread
from plentar.core.guided.retest import retest_lines
from plentar.core.guided.retest_line import Line
from plentar.core.handover.cleared import cleared_of
from plentar.core.judgement import Finding, FindingCode, Level
from plentar.core.quantity import Quantity
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import STAGE_OFF, Did, Event
from plentar.drawing.standalone import standalone
from plentar.files.sheet_settings import SheetSettings
from plentar.store.carried import CARRIED
from plentar.store.record import VisitRecord
from plentar.web.drawings import data_address, svg_address
from plentar.web.handover import plain
from plentar.web.visits.view import BenchView
from plentar.words import locale, measures, phrase

#: Findings that are no owner's business.
_INNER = frozenset({FindingCode.CONTRADICTION, FindingCode.HOUSE_TIME})


@dataclass(frozen=True, slots=True)
class FoundRow:
    """One finding: how pressing, in words; for the style ``level``."""

    level: str
    pressing: str
    text: str


def _of_owner(finding: Finding) -> bool:
    return finding.code not in _INNER and finding.level is not Level.OK


def _carried(event: Event) -> bool:
    """It is how the visit before left the unit, and nobody's work of this one."""
    return isinstance(event, Did) and event.t_s == 0.0 and event.note.startswith(CARRIED)


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
        return str(format_date(there.date(), "long", locale=locale()))

    @property
    def came(self) -> str:
        return plain.words(plain.CAME.get(self.record.row.complaint or "", phrase("owner.visit")))

    @property
    def left(self) -> str:
        if self.record.row.outcome is None:
            return phrase("handover.sheet.visit-not-over-yet")
        return plain.words(plain.LEFT[self.record.row.outcome])

    @cached_property
    def found(self) -> list[FoundRow]:
        """What was found and stands, the worst first."""
        told: dict[str, Finding] = {}
        for finding in filter(_of_owner, all_found(self.bench.judgement)):
            told.setdefault(self._said(finding), finding)
        order = [Level.STOP_NOW, Level.REPAIR, Level.WATCH]
        rows = sorted(told.items(), key=lambda row: order.index(row[1].level))
        return [FoundRow(f.level.value, plain.words(plain.PRESSING[f.level]), t) for t, f in rows]

    def _said(self, finding: Finding) -> str:
        surely = finding.level is not Level.WATCH
        return plain.found_words(self.unit, finding.code, finding.component, surely=surely)

    @cached_property
    def _retest(self) -> tuple[Line, ...]:
        return retest_lines(self.bench.evidence, self.record.elapsed_s)

    @property
    def put_right(self) -> list[tuple[str, str]]:
        """What was found and is gone by the work: whether a reading has shown it, and what it was."""
        judgement = self.bench.judgement
        before = filter(_of_owner, found_before_work(judgement))
        gone = cleared_of(self.unit, before, all_found(judgement), self._retest)
        stands = {row.text for row in self.found}
        told = {self._said(one.finding): one.proved for one in gone}
        shown, not_shown = (
            phrase("handover.sheet.put-right"),
            phrase("handover.sheet.worked-not-read-again"),
        )
        return [(shown if proved else not_shown, t) for t, proved in told.items() if t not in stands]

    @property
    def unread(self) -> list[str]:
        """What was not checked, as an owner reads it."""
        kinds = dict.fromkeys(code.partition(":")[0] for code in unread(self.bench.judgement))
        return [plain.words(plain.UNREAD[kind]) for kind in kinds]

    @property
    def done(self) -> list[str]:
        own = (event for event in self.bench.visit.events if not _carried(event))
        said = (plain.done_words(self.unit, event) for event in own)
        return list(dict.fromkeys(filter(None, said)))

    @property
    def from_before(self) -> list[str]:
        """What an earlier visit left so, and still is."""
        left = {e.part for e in self.bench.visit.events if isinstance(e, Did) and _carried(e)}
        words = plain.DONE[STAGE_OFF]
        still = sorted(left & self.bench.state.stages_off)
        names = (plain.part_name(self.unit, part) for part in still)
        return [plain.words(words, part=name[:1].upper() + name[1:]) for name in names]

    @cached_property
    def compared(self) -> list[tuple[str, str, str, str]]:
        """Pairs of one state: part, the state, before, after; what an owner feels comes first."""
        felt = ("supply-air", "return-air", "blower")
        pairs = [
            line
            for line in self._retest
            if line.before and line.step.taken and line.step.quantity in (Quantity.AMPS, Quantity.TEMP_F)
        ]
        pairs.sort(key=lambda line: felt.index(line.step.at) if line.step.at in felt else len(felt))
        rows = [
            (
                self._read_where(line.step.at),
                self._state(line),
                self._shown(line.step.quantity, line.before.reading.value),
                self._shown(line.step.quantity, line.step.taken.reading.value),
            )
            for line in pairs
            if line.before and line.step.taken
        ]
        return [*self._heat_given(pairs), *rows]

    def _heat_given(self, pairs: list[Line]) -> Iterator[tuple[str, str, str, str]]:
        """Of a unit whose every strip was read before and after: its heat, kW at the rated volts."""
        by_strip = {line.step.at: line for line in pairs if line.step.at in self.unit.element_by_id}
        heats = all(line.calls & self.unit.heat_calls for line in by_strip.values())
        if not by_strip or not heats or len(by_strip) < len(self.unit.elements):
            return
        watts = [0.0, 0.0]
        for element in self.unit.elements:
            line = by_strip[element.id]
            for at, taken in enumerate((line.before, line.step.taken)):
                watts[at] += taken.reading.value * self._volts(element.circuit) if taken else 0.0
        before, after = (
            phrase("handover.sheet.kw", kw=format_decimal(round(w / 1000, 1), locale=locale())) for w in watts
        )
        yield (phrase("handover.sheet.heat-unit-gives"), phrase("handover.sheet.heat"), before, after)

    def _volts(self, circuit: str) -> float:
        read = self.bench.evidence.latest(circuit, Quantity.VOLTS)
        return read.reading.value if read else self.unit.circuit_by_id[circuit].rated_volts

    def _state(self, line: Line) -> str:
        if line.calls & self.unit.heat_calls:
            return phrase("handover.sheet.heat")
        return str(phrase("handover.sheet.fan") if line.calls else phrase("handover.sheet.nothing-called"))

    def _read_where(self, at: str) -> str:
        if at == "supply-air":
            return phrase("handover.sheet.air-leaves-unit")
        if at == "return-air":
            return phrase("handover.sheet.air-comes-back")
        name = plain.part_name(self.unit, at)
        return name[:1].upper() + name[1:]

    def _shown(self, quantity: Quantity, value: float) -> str:
        if quantity is Quantity.TEMP_F:
            shown, sign = measures.shown(value, quantity.sign)
            return f"{format_decimal(round(shown), locale=locale())} {sign}"
        return f"{format_decimal(round(value, 1), locale=locale())} {quantity.sign}"

    @property
    def undone(self) -> list[tuple[str, str, str]]:
        """What is left: when, what, and what is safe meanwhile; with a day where there is one."""
        rows = []
        for line in self.record.work:
            if line.open:
                when = plain.words(plain.WHEN[line.when])
                if line.due_on:
                    when = f"{when}, {format_date(line.due_on, 'medium', locale=locale())}"
                rows.append((when, self._line(str(line.text), line.source), str(line.meanwhile)))
        return rows

    @property
    def declined(self) -> list[str]:
        """What was found and the owner did not want."""
        return [self._line(str(n.text), n.source) for n in self.record.work if n.stands == "declined"]

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
