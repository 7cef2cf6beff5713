"""What the report shows beside the bench's own drawing and rows."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.judgement import ElementJudgement
from plentar.core.said import figure
from plentar.core.unit.parts import Circuit
from plentar.core.visit.events import Reading
from plentar.drawing.standalone import standalone
from plentar.store.record import VisitRecord
from plentar.web.drawings import svg_address
from plentar.web.handover.view import HandoverView, RetestRow
from plentar.web.showing import day, day_and_time, verdict
from plentar.web.tape.view import TapeView
from plentar.web.units.history import drifts_in_words, history_at
from plentar.web.visits.circuits import CircuitCard, circuit_cards
from plentar.web.visits.guided import TestView
from plentar.web.visits.log_rows import LogRow, readings_of
from plentar.web.visits.view import BenchView
from plentar.words import chosen, phrase
from plentar.words.numbers import clock, plain, show_span
from plentar.words.visits import complaint_in_words, outcome_in_words


@dataclass(frozen=True, slots=True)
class ElementRow:
    """One element: what its plate says, what was read, what was due."""

    id: str
    plate: str
    read: str
    due: str
    mark: Markup
    other_school: str


class ReportView:
    def __init__(self, record: VisitRecord, shop: str, opened_by: str) -> None:
        self.row = record.row
        self.bench = BenchView(record)
        self.tape = TapeView(record, live=record.row.closed_at is None)
        began = record.row.started_at
        self.who_and_when = f"{shop} · {opened_by} · {day_and_time(began)}"
        self.complaint = complaint_in_words(record.row.complaint)
        self.outcome = outcome_in_words(record.row.outcome)

    @property
    def has_findings(self) -> bool:
        """There is something to say of what was found, or of how the unit was left."""
        judgement = self.bench.judgement
        return bool(judgement.findings or judgement.slips or self.row.left_note or self.row.follow_up)

    @property
    def when(self) -> str:
        return day(self.row.started_at)

    @cached_property
    def handing(self) -> HandoverView:
        return HandoverView(self.bench.record)

    @property
    def retest(self) -> list[RetestRow]:
        return self.handing.retest

    @property
    def todo(self) -> list[str]:
        """The lines of work in words, those that are done and not wanted among them."""
        return [
            " · ".join(
                filter(
                    None,
                    (
                        phrase(f"when.{n.when}"),
                        phrase(f"stands.{n.stands}"),
                        str(n.text),
                        self.handing.line_said(n),
                    ),
                )
            )
            for n in self.handing.lines
        ]

    @property
    def told(self) -> list[str]:
        return [
            phrase(
                "handover.report-view.by",
                said=said.name,
                t=clock(said.t),
                by=said.by,
                how=phrase("handover.report-view.text", what=said.what) if said.what else "",
            )
            for said in self.bench.record.told
        ]

    @property
    def reopened(self) -> list[str]:
        return self.handing.reopened

    @cached_property
    def moves(self) -> list[str]:
        return drifts_in_words(self.bench.unit, history_at(self.bench.record))

    @property
    def times(self) -> list[str]:
        return (
            [
                f"{lane.lane.part}: {' '.join(filter(None, (s.action, s.word, s.text)))}"
                for lane in self.tape.lanes
                for s in lane.said
            ]
            if self.tape.seen
            else []
        )

    @property
    def drawing(self) -> str:
        """The unit with its newest readings, as a picture's address."""
        return svg_address(standalone(self.bench.unit, self.bench.drawn.on_record))

    @property
    def conditions(self) -> list[str]:
        settings = self.bench.visit.settings
        meters = {r.meter for r in self.bench.visit.of_kind(Reading) if r.meter}
        own = ", ".join(f"{kind} × {factor:.2f}" for kind, factor in settings.frequencies)
        return [
            phrase(
                "handover.report-view.amps-elements-band-ft",
                band=settings.band.value,
                altitude_ft=plain(settings.altitude_ft, "ft"),
            ),
            phrase(
                "handover.report-view.how-often-parts-fail",
                how=phrase("handover.report-view.shops-own-repairs", own=own)
                if own
                else phrase("handover.report-view.trade"),
            ),
            phrase("handover.report-view.instruments", meters=", ".join(sorted(meters)))
            if meters
            else phrase("handover.report-view.instruments-not-said"),
        ]

    @cached_property
    def elements(self) -> list[ElementRow]:
        return [self._element(element) for element in self.bench.judgement.elements]

    def _element(self, element: ElementJudgement) -> ElementRow:
        plate = self.bench.unit.element_by_id[element.id]
        due = element.expected_amps
        provisional = element.provisional and element.measured_amps is not None
        return ElementRow(
            element.id,
            phrase(
                "handover.report-view.kw-v",
                rated_watts=f"{plate.rated_watts / 1000:g}",
                rated_volts=f"{plate.rated_volts:g}",
            ),
            str(figure(element.measured_amps, "A")),
            show_span(due.low, due.high, "A"),
            verdict(element.word, element.good, provisional),
            self.bench.other_school(element),
        )

    @cached_property
    def readings(self) -> list[LogRow]:
        """The readings, oldest first, those struck out among them."""
        return readings_of(self.bench.log())

    @cached_property
    def work(self) -> list[tuple[str, str]]:
        """What was done, oldest first, in words; what was struck out stays out."""
        rows = reversed(self.bench.log())
        return [(row.when, row.text) for row in rows if row.is_work and not row.struck]

    @cached_property
    def relay_bench(self) -> list[tuple[str, str]]:
        """What the relay bench said, oldest first: tests, starts, wires moved."""
        rows = reversed(self.bench.log())
        return [(row.when, row.text) for row in rows if row.is_tested and not row.struck]

    @cached_property
    def circuits(self) -> list[CircuitCard]:
        return circuit_cards(self.bench)

    @cached_property
    def tests(self) -> list[TestView]:
        every = (TestView(self.bench, name) for name, _ in self.bench.tests)
        return [test for test in every if test.over and test.guided.result]

    @property
    def runs(self) -> list[str]:
        """What sets each run apart, where there are several."""
        runs = self.tape.runs
        return (
            [phrase("handover.report-view.run", number=number, words=words) for number, words in runs]
            if len(runs) > 1
            else []
        )

    @property
    def plate(self) -> list[tuple[str, str]]:
        unit = self.bench.unit
        controls = [
            (c.id, phrase("handover.report-view.switch", type=chosen(c.type), n=len(c.switches)))
            for c in unit.controls
        ]
        return [(c.id, _circuit(c)) for c in unit.circuits] + controls


def _circuit(circuit: Circuit) -> str:
    words = [
        phrase(
            "handover.report-view.v-breaker",
            rated_volts=f"{circuit.rated_volts:g}",
            amps=_amps(circuit.breaker_amps),
        )
    ]
    if circuit.plate and circuit.plate.min_circuit_amps:
        least, most = circuit.plate.min_circuit_amps, circuit.plate.max_breaker_amps
        words.append(
            phrase("handover.report-view.plate-minimum-maximum", amps=_amps(least), amps_2=_amps(most))
        )
    if circuit.conductor:
        words.append(
            phrase("handover.report-view.awg", awg=circuit.conductor.awg, material=circuit.conductor.material)
        )
    return ", ".join(words)


def _amps(value: float | None) -> str:
    return f"{value:g} A" if value else phrase("handover.report-view.not-given")
