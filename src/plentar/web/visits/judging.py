"""The judge on the bench: next readings as cards, suspects, what to do, the look around."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from flask import url_for
from werkzeug.utils import cached_property

from plentar.core.judge.diagnosis import chance_in_words, reads_in_words
from plentar.core.judgement import (
    NEXT_LEFT_OUT,
    NONE,
    OTHER,
    PAIRS_LEFT_OUT,
    Diagnosis,
    Hazard,
    NextReading,
    Sureness,
    Suspect,
    WhatElse,
)
from plentar.core.said import listed, say
from plentar.core.unit.missing_print import FULL_LOAD, LEAST_AIR, TAP, WINDOW, missing_print
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import LOOK_ITEMS, LOOK_STATES
from plentar.store.answers import kept_answer
from plentar.web.database import database
from plentar.web.judge_pool import judge_pool, reader_gone
from plentar.web.visits.guided_tests import test_for
from plentar.web.visits.setting_words import fields_of, lowered, place_in_words, steps_of
from plentar.web.visits.view import BenchView
from plentar.web.visits.work import Deed, mending
from plentar.words import phrase

#: What may be missing of an answer in which every single fault was weighed.
AFTER_SINGLES = frozenset({PAIRS_LEFT_OUT, NEXT_LEFT_OUT})
#: Suspects shown at once; the others are a touch away.
FEW = 4
CAUTIONS = {
    Hazard.CLAMP: say("visits.judging.one-conductor-jaw-both"),
    Hazard.LIVE: say("visits.judging.live-parts-gloves-insulated"),
    Hazard.DEAD: say("visits.judging.every-breaker-off-locked"),
}
SHAPES = {Hazard.CLAMP: "○", Hazard.LIVE: "▲", Hazard.DEAD: "■"}


@dataclass(frozen=True, slots=True)
class Card:
    kicker: str
    first: bool
    title: str
    setting: str
    steps: tuple[str, ...]
    caution: str
    shape: str
    why: str
    minutes: str
    outcomes: tuple[tuple[str, str, float], ...]
    fields: dict[str, str]
    observe: bool
    at: str
    #: It is timed, on the tape.
    on_tape: bool = False


@dataclass(frozen=True, slots=True)
class LookItem:
    """One item of the look at the whole unit, with what was said of it last."""

    item: str
    title: str
    state: str
    choices: tuple[tuple[str, str], ...]
    #: Where it is poor, the guided test that shows how much it matters: its name and words.
    test: tuple[str, str] | None = None


@dataclass(frozen=True, slots=True)
class SuspectRow:
    """One suspect: its share as a bar and in words, where it is shown, and why."""

    words: str
    width: str
    percent: str
    href: str
    because: tuple[str, ...]


class JudgeView:
    """What the judge says of a visit, for its place on the bench."""

    def __init__(self, view: BenchView, todo: str = "") -> None:
        self.view = view
        #: After a repair: the first line of the retest that is not through, before anything else.
        self.retest_card: Card | None = None
        known = view.unit.components
        #: Parts that were clear when another of them was mended, and are not done yet.
        self.todo_parts = [part for part in todo.split(",") if part in known]

    @property
    def todo(self) -> list[Deed]:
        return [deed for part in self.todo_parts for deed in mending(self.view.unit, part)]

    @property
    def deeds(self) -> list[Deed]:
        return [deed for part in self.parts for deed in mending(self.view.unit, part)]

    @property
    def diagnosis(self) -> Diagnosis:
        return self.view.diagnosis

    @cached_property
    def cards(self) -> list[Card]:
        """The proposals, the best first."""
        lead = (
            phrase("visits.judging.confirm")
            if self.likely
            else phrase("visits.judging.name-closer")
            if self.clear
            else phrase("visits.judging.next")
        )
        proof = [self.retest_card] if self.retest_card else []
        own = [
            card_of(
                self.view.unit,
                reading,
                "Or" if number or proof else lead,
                first=not (number or proof or self.clear),
            )
            for number, reading in enumerate(self.diagnosis.next)
        ]
        return [*proof, *own]

    @property
    def clear(self) -> bool:
        return bool(self.diagnosis.decision)

    @cached_property
    def asked(self) -> tuple[str, str] | None:
        """What nobody has read off the unit and would decide most now, in one line, and the plate to keep
        it on."""
        suspects = {s.fault: s.probability for s in self.diagnosis.suspects}
        missing = missing_print(self.view.unit, suspects)
        if missing is None or self.clear:
            return None
        taps = listed(self.view.unit.possible_taps, "or")
        said = {
            TAP: phrase("visits.judging.which-strip-feeds-relay", taps=taps),
            WINDOW: phrase("visits.judging.how-long-may-take", part=missing.part),
            FULL_LOAD: phrase("visits.judging.motors-full-load-amps"),
            LEAST_AIR: phrase("visits.judging.kits-least-airflow-not"),
        }[missing.what]
        href = url_for("units.show", unit_id=self.view.record.row.unit_id, part=missing.part)
        return said, href

    @property
    def likely(self) -> str:
        """What is likely by inference alone, in words; empty where nothing is."""
        likely = self.diagnosis.state is Sureness.LIKELY and self.diagnosis.parts
        return self.leading[0].words if likely else ""

    @property
    def weighed(self) -> bool:
        """Every reading was weighed against every single fault: only then is anything listed."""
        return set(self.diagnosis.left_out) <= AFTER_SINGLES

    @cached_property
    def before(self) -> tuple[datetime, list[SuspectRow]] | None:
        """What was listed last, while this is not weighed yet: its time, and the first of it."""
        kept = None if self.weighed else kept_answer(database(), self.view.record.row.id)
        if kept is None:
            return None
        diagnosis, answered_at = kept
        rows = [self._suspect(s) for s in diagnosis.suspects if s.fault != OTHER][:FEW]
        return answered_at, rows

    @property
    def cut(self) -> str:
        """What the time did not suffice for; empty where the answer is whole."""
        return ", ".join(map(str, self.diagnosis.left_out))

    @property
    def nothing_to_read(self) -> str:
        """What to say where no reading is proposed and nothing is clear."""
        if self.cards or self.clear or self.cut:
            return ""
        if self.diagnosis.held:
            return str(self.diagnosis.held)
        first, *_, other = self.diagnosis.suspects
        if self._alike_first or first.probability < other.probability:
            return phrase("visits.judging.no-reading-would-change")
        words = self.leading[0].words
        leads = phrase("visits.judging.leads", words=words[:1].upper(), words_2=words[1:])
        return phrase("visits.judging.no-reading-would-change-2", leads=leads)

    @cached_property
    def what_else(self) -> WhatElse:
        """What else may be wrong once something is found; slower still, and asked for after."""
        shop_id = self.view.record.row.shop_id
        return judge_pool().what_else(self.view.evidence, shop_id, reader_gone())

    @property
    def more_cards(self) -> list[Card]:
        """What to read beside what was found, the best first."""
        return [
            card_of(self.view.unit, reading, "Or" if number else phrase("visits.judging.also"), first=False)
            for number, reading in enumerate(self.what_else.next)
        ]

    @property
    def more_fold(self) -> str:
        """What the cards behind the first are folded under."""
        return phrase("visits.judging.more-read", len=len(self.more_cards) - 1)

    @property
    def what_else_words(self) -> str:
        if self.more_cards:
            chance = chance_in_words(self.what_else.chance)
            return phrase("visits.judging.while-you-here-about", chance=chance)
        if not self.what_else.in_time:
            return phrase("visits.judging.time-was-up-before")
        if self.what_else.full:
            return phrase("visits.judging.two-faults-once-many")
        return phrase("visits.judging.whatever-reading-could-show")

    @cached_property
    def _leading(self) -> list[Suspect]:
        return [s for s in self.diagnosis.suspects if s.fault != OTHER][:FEW]

    @property
    def leading(self) -> list[SuspectRow]:
        together = self._alike_first
        if together is None:
            return [self._suspect(s) for s in self._leading]
        others = [s for s in self._leading if s not in together]
        return [self._together(together), *map(self._suspect, others)]

    @cached_property
    def _alike_first(self) -> list[Suspect] | None:
        """The leading suspect with those that no reading tells from it; None where there are none."""
        first = self.diagnosis.suspects[0].fault
        group = next((group for group in self.diagnosis.alike if first in group), ())
        return [s for s in self.diagnosis.suspects if s.fault in group] or None

    def _together(self, group: list[Suspect]) -> SuspectRow:
        """Several suspects as one line."""
        share = 100 * sum(suspect.probability for suspect in group)
        words = listed((suspect.words for suspect in group), "or")
        return SuspectRow(
            phrase("visits.judging.no-reading-tells-them", words=words),
            f"{share:.1f}",
            f"{share:.0f} %",
            self._suppose(group[0]),
            tuple(map(str, group[0].because)),
        )

    @property
    def rest(self) -> list[SuspectRow]:
        shown = [*self._leading, *(self._alike_first or ())]
        return [self._suspect(s) for s in self.diagnosis.suspects if s not in shown]

    def _suspect(self, suspect: Suspect) -> SuspectRow:
        share = 100 * suspect.probability
        return SuspectRow(
            str(suspect.words),
            f"{share:.1f}",
            f"{share:.0f} %",
            self._suppose(suspect),
            tuple(map(str, suspect.because)),
        )

    def _suppose(self, suspect: Suspect) -> str:
        """Where a suspect is shown on the drawing; empty for what can't be."""
        if suspect.fault in (NONE, OTHER):
            return ""
        return url_for("visits.suppose", visit_id=self.view.record.row.id, fault=suspect.fault)

    @property
    def parts(self) -> list[str]:
        """The parts to work on once it is clear, as they can be recorded as replaced."""
        known = self.view.unit.components
        named = [name.removesuffix(".supply") for name in self.diagnosis.decision.split("+")]
        return [name for name in named if name in known]

    @cached_property
    def look(self) -> list[LookItem]:
        said = {seen.item: seen.state for seen in self.view.visit.looked}
        return [
            LookItem(
                item,
                phrase(f"look.{item}"),
                said.get(item, ""),
                tuple(
                    (state, str(state == said.get(item)).lower())
                    for state in (LOOK_STATES if burns else LOOK_STATES[:2])
                ),
                test_for(self.view.unit, item) if said.get(item) in LOOK_STATES[1:] else None,
            )
            for item, burns in LOOK_ITEMS.items()
        ]

    @property
    def look_first(self) -> bool:
        """Nobody has looked, and nothing points anywhere yet: the look stands open."""
        return not self.looked and not self.diagnosis.suspects[0].because

    @property
    def looked(self) -> int:
        return sum(1 for item in self.look if item.state)


def card_of(unit: Unit, reading: NextReading, kicker: str, first: bool) -> Card:
    """A proposal in words, with the fields that take it up."""
    quantity = reading.quantity
    title = place_in_words(unit, reading.at, quantity)
    watch = (
        phrase("visits.judging.clamp")
        if reading.hazard is Hazard.CLAMP
        else phrase("visits.judging.probes-across")
    )
    setting = quantity.setting if quantity else phrase("visits.judging.watch", watch=watch)
    place = lowered(title)
    said = (
        phrase(f"reading-card.{quantity}", place=place)
        if quantity
        else phrase("reading-card.watch", place=place)
    )
    fields = {"at": reading.at, "quantity": str(quantity or ""), **fields_of(reading.setting)}
    return Card(
        kicker,
        first,
        said,
        str(setting),
        tuple(steps_of(reading.setting)),
        str(CAUTIONS[reading.hazard]),
        SHAPES[reading.hazard],
        str(reading.why),
        phrase("visits.judging.min", value=round(reading.minutes) or phrase("under-one")),
        tuple((str(reads_in_words(o, quantity)), str(o.means), o.probability) for o in reading.outcomes),
        fields,
        bool(reading.observe),
        reading.at,
    )
