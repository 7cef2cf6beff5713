"""A guided test in the judge's place: its steps, the one that comes next as a card, what it says."""

from __future__ import annotations

from dataclasses import dataclass

from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.guided import Guided, Step
from plentar.core.guided.one_call import one_call_test
from plentar.core.guided.retest import retest
from plentar.core.guided.rise import rise_test
from plentar.core.guided.sag import sag_test
from plentar.core.judgement import Hazard
from plentar.core.quantity import Quantity
from plentar.core.supply.control_budget import control_budget
from plentar.drawing.budget import budget_stack
from plentar.web.showing import verdict
from plentar.web.visits.guided_tests import CALLS, RETEST, SAG, tests_of
from plentar.web.visits.judging import CAUTIONS, SHAPES, Card
from plentar.web.visits.setting_words import fields_of, place_in_words, steps_of
from plentar.web.visits.view import BenchView
from plentar.words import phrase


@dataclass(frozen=True, slots=True)
class StepRow:
    """One step: where it is touched, what was due and read, its verdict as a mark."""

    title: str
    href: str
    due: str
    read: str
    mark: Markup
    note: str
    state: str


class TestView:
    __test__ = False  # no test of ours: pytest passes it by

    def __init__(self, view: BenchView, test: str) -> None:
        self.view, self.test = view, test
        self.title = dict(tests_of(view.unit, mended=True))[test]

    @cached_property
    def guided(self) -> Guided:
        kind, _, circuit = self.test.partition(":")
        evidence, now_s = self.view.evidence, self.view.record.elapsed_s
        if kind == SAG:
            return sag_test(evidence, now_s, circuit)
        if kind == RETEST:
            return retest(evidence, now_s)
        return one_call_test(evidence, now_s) if kind == CALLS else rise_test(evidence, now_s)

    @property
    def rows(self) -> list[StepRow]:
        """Every step in order."""
        return [self._row(step) for step in self.guided.steps]

    @property
    def done(self) -> str:
        steps = self.guided.steps
        return phrase("visits.guided.of", sum=sum(s.done for s in steps), len=len(steps))

    @property
    def stop(self) -> str:
        """Why it does not go on: its own reason, or a stop that stands open on this visit."""
        proving = self.test == RETEST and all(safe.mended for safe in self.view.make_safe)
        said = phrase("visits.guided.make-safe-first-what") if self.view.stopped and not proving else ""
        return str(self.guided.stop or said)

    @property
    def over(self) -> bool:
        return self.guided.next is None and not self.stop

    @property
    def still_called(self) -> str:
        return " + ".join(sorted(self.view.state.calls)) if self.over else ""

    @property
    def card(self) -> Card | None:
        step = self.guided.next
        if step is None or self.stop:
            return None
        unit, quantity = self.view.unit, step.quantity
        hazard = _hazard(step)
        fields = {"at": step.at, "quantity": str(quantity), **fields_of(step.setting)}
        place = place_in_words(unit, step.at, quantity)
        return Card(
            phrase("visits.guided.done", kicker=self.kicker, done=self.done),
            True,
            str(step.title),
            f"{place} · {quantity.setting}",
            tuple(steps_of(step.setting)),
            f"{CAUTIONS[hazard]}{_also(str(step.note))}",
            SHAPES[hazard],
            "",
            "",
            (),
            fields,
            step.watched,
            step.at,
            step.timed,
        )

    @property
    def kicker(self) -> str:
        return phrase("visits.guided.read-again") if self.test == RETEST else phrase("visits.guided.next")

    @property
    def budget(self) -> Markup:
        return Markup(budget_stack(control_budget(self.view.unit))) if self.test == CALLS else Markup("")

    def _row(self, step: Step) -> StepRow:
        said = step.verdict
        judged = said is not None and bool(step.due.ranges)
        mark = verdict(said.word, said.good, said.provisional) if said and judged else Markup("")
        state = "worst" if step.worst else "coming" if step is self.guided.next else ""
        return StepRow(
            str(step.title),
            f"{self.view.link(step.at)}&quantity={step.quantity}",
            str(step.due.text()) or ("steady" if step.watched else "—"),
            str(step.quantity.shown(step.taken.reading.value) if step.taken else step.seen or step.left_out),
            mark,
            str(step.note),
            state,
        )


def _also(note: str) -> str:
    """A step's own word after the caution."""
    return f" {note[:1].upper()}{note[1:]}." if note else ""


def _hazard(step: Step) -> Hazard:
    if step.quantity.dead_only:
        return Hazard.DEAD
    return Hazard.CLAMP if step.quantity in (Quantity.AMPS, Quantity.TEMP_F) else Hazard.LIVE
