"""What the bench shows: everything computed here, so that templates only place it."""

from __future__ import annotations

import re
from datetime import datetime

from flask import url_for
from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.checks.elements import other_school
from plentar.core.door import suspected_stops
from plentar.core.guided.retest_wanted import touched_by
from plentar.core.judgement import Diagnosis, ElementJudgement, Finding
from plentar.core.quantity import Quantity
from plentar.core.safety.acts import MakeSafe, make_safe
from plentar.core.said import listed
from plentar.core.unit.points import Point, points, resolve, whole_parts
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import tied_across
from plentar.core.visit.events import LOOK_ITEMS, OFF, ON, PROVED_DEAD, bridges_standing
from plentar.drawing.glyphs import power_glyph
from plentar.drawing.surroundings import drawn_points
from plentar.files.diagnosis_json import evidence_digest
from plentar.store.answers import keep_answer, kept_answer
from plentar.store.record import VisitRecord
from plentar.web.database import another_session, database
from plentar.web.judge_pool import PAGE_S, judge_pool, reader_gone
from plentar.web.showing import natural
from plentar.web.visits.around import Around
from plentar.web.visits.drawn import Drawn
from plentar.web.visits.guided_tests import standing_test, tests_of
from plentar.web.visits.log_rows import LogRow
from plentar.web.visits.pad import PadView, Wait
from plentar.web.visits.seen import VisitView
from plentar.words import chosen, phrase
from plentar.words.numbers import clock

_OFF = re.compile(r"\b(breakers?|power|disconnect)\b.*\b(off|out|open|pulled)\b", re.IGNORECASE)
#: How many entries the bench shows; the whole log is a touch away.
SHOWN_LOG = 8


class BenchView(VisitView):
    """A visit's page. Cheap to make; each part is computed when a template asks for it."""

    def __init__(self, record: VisitRecord, patience_s: float = PAGE_S) -> None:
        super().__init__(record)
        self.patience_s = patience_s

    def other_school(self, element: ElementJudgement) -> str:
        """What the other tolerance says of an element, where it differs."""
        return str(other_school(self.evidence, element))

    @property
    def make_safe(self) -> list[MakeSafe]:
        """What to do first: each open stop that was read, with its acts."""
        return [make_safe(self.evidence, self.state, stop) for stop in self.stopped]

    @property
    def fed_through_tie(self) -> str:
        """What is to be known where the blower and its tap hang on two breakers; empty elsewhere."""
        both = sorted(tied_across(self.unit))
        return phrase("visits.view.meet-blowers-tie-one", both=listed(both)) if both else ""

    @property
    def not_over(self) -> list[MakeSafe]:
        """The stops that were answered and have not ended."""
        open_ = set(map(id, self.stopped))
        return [make_safe(self.evidence, self.state, f) for f in self.standing if id(f) not in open_]

    @property
    def make_suspected_safe(self) -> list[MakeSafe]:
        """The same for what the leading suspect means."""
        return [make_safe(self.evidence, self.state, stop) for stop in self.suspected]

    @property
    def stopped(self) -> tuple[Finding, ...]:
        """The open stops that the readings show."""
        return self.judgement.stops

    @property
    def standing(self) -> tuple[Finding, ...]:
        """The stops that have not ended, answered ones among them: not in service with one."""
        return self.judgement.standing

    @property
    def diagnosis(self) -> Diagnosis:
        """The judge's answer to this evidence; raises Busy."""
        return self._answer[0]

    @property
    def answered_at(self) -> datetime | None:
        """When it was given, where it was given before."""
        return self._answer[1]

    @cached_property
    def _answer(self) -> tuple[Diagnosis, datetime | None]:
        """As it was kept, else asked for, which is the slow part, and kept where it is whole."""
        row, digest = self.record.row, evidence_digest(self.unit, self.visit)
        kept = kept_answer(database(), row.id, digest)
        if kept is not None:
            return kept
        answer = judge_pool().diagnose(self.evidence, row.shop_id, reader_gone(), self.patience_s)
        if not answer.left_out:
            with another_session() as own:
                keep_answer(own, row, digest, answer)
                own.commit()
        return answer, None

    @property
    def suspected(self) -> tuple[Finding, ...]:
        """The open stops that the leading suspect means; none by half an answer."""
        whole = not self.diagnosis.left_out
        return suspected_stops(self.judgement, self.diagnosis) if whole else ()

    def wait(self, after_s: float) -> Wait | None:
        """How long until ``after_s`` after the last change of power or calls; None for at once."""
        if after_s <= 0:
            return None
        changed = [e.t_s for e in self.visit.events if e.is_switch]
        due_s = (changed[-1] if changed else 0.0) + after_s
        return Wait(max(0.0, due_s - self.record.elapsed_s))

    @property
    def power_state(self) -> str:
        """Of the whole unit: on, off, proved-dead."""
        if self.state.proved_dead:
            return PROVED_DEAD
        return ON if self.state.live else OFF

    @property
    def some_off(self) -> bool:
        """A breaker is off, by the record."""
        return any(power != ON for power in self.state.power.values())

    @property
    def power_words(self) -> str:
        """The same as people say it."""
        return phrase(f"strip-power.{self.power_state}")

    @property
    def power_mark(self) -> Markup:
        """The same as a shape."""
        return Markup(power_glyph(self.power_state))

    @property
    def prove_href(self) -> str:
        """Where an unit that is off is proved dead; empty where it isn't off."""
        first = self.unit.elements[0].id
        return f"{self.link(first)}&quantity=ohms" if self.power_state == OFF else ""

    @property
    def not_judged(self) -> list[tuple[str, str]]:
        waiting: dict[str, list[str]] = {}
        for missing in self.judgement.not_judged:
            of = missing.component
            part = phrase(f"look.{of}") if of in LOOK_ITEMS else chosen(of)
            what = phrase("check-of-part", check=missing.check, part=part) if of else str(missing.check)
            waiting.setdefault(str(missing.because), []).append(what)
        return [(because, ", ".join(checks)) for because, checks in waiting.items()]

    def at(self, pad: PadView | None) -> str:
        return pad.point.name if pad else ""

    @cached_property
    def heat_since(self) -> float | None:
        """Seconds that heat has been called for, or None."""
        began = [s for call, s in self.state.since_s.items() if call.startswith("W")]
        return self.state.t_s - min(began) if began else None

    @cached_property
    def drawn(self) -> Drawn:
        return Drawn(self)

    @cached_property
    def other_points(self) -> list[tuple[str, str]]:
        """Points that the drawing does not show, with their addresses."""
        drawn = drawn_points(self.unit)
        grounded = [f"{e.id}.in" for e in self.unit.elements] + ["R", *self.unit.calls]
        grounded += sorted(whole_parts(self.unit), key=natural)
        others = [p for p in points(self.unit) if p.name not in drawn]
        others += [resolve(self.unit, f"{name}:ground") for name in grounded]
        return [(str(point.title), self.link(point.name)) for point in others]

    @cached_property
    def newest(self) -> LogRow:
        """The newest entry."""
        return self.log(1)[0]

    @property
    def recent(self) -> list[LogRow]:
        """The newest entries."""
        return self.log(SHOWN_LOG)

    @property
    def older(self) -> int:
        """How many entries the bench does not show."""
        return max(0, len(self.record.events) - SHOWN_LOG)

    @cached_property
    def test(self) -> str:
        return standing_test(self.unit, self.record.row.id)

    def judge_href(self, todo: str | None = "") -> str:
        """What stands in the judge's place: the test, or what the judge says."""
        if self.test:
            return f"{self.base}/test"
        return f"{self.base}/judge?todo={todo}" if todo else f"{self.base}/judge"

    @property
    def repaired(self) -> bool:
        """Something was worked on that is to be read again."""
        return any(touched_by(event) for event in self.visit.events)

    @property
    def tests(self) -> list[tuple[str, str]]:
        return tests_of(self.unit, mended=self.repaired)

    @property
    def bridges(self) -> list[str]:
        """What is bridged now: never left so."""
        return sorted(bridges_standing(self.visit.events))

    @property
    def unit_href(self) -> str:
        return url_for("units.show", unit_id=self.record.row.unit_id)

    def plate_of(self, point: Point) -> str:
        tie = f"{self.unit.relay.id}.nc" if self.unit.relay else ""
        elsewhere = {
            "tie": tie,
            "contact": point.name,
            "air": "unit",
            "primary": "transformer",
            "capacitor": "capacitor",
        }
        part = elsewhere.get(point.kind, point.component).removesuffix(".line")
        if part in self.unit.device_by_id:
            part = f"{part}.coil"
        return f"{self.unit_href}?part={'unit' if part == 'C' else part}"

    def bench_of(self, point: Point) -> str:
        """The relay bench of a point's device: its address; empty where it has none."""
        switch = self.unit.control_of_switch.get(point.component)
        device = switch.id if switch else point.component
        return f"{self.base}/devices/{device}" if device in self.unit.device_by_id else ""

    @cached_property
    def around(self) -> Around:
        """How the unit was left before, and whether its plate was mended meanwhile."""
        return Around(self.record)

    @property
    def notes(self) -> list[tuple[str, str, str]]:
        """What was noted of parts, and changes of the plate: time, part, words."""
        said = [(body["t"], body["part"], body["text"]) for body in self.record.noted("note")]
        said += [
            (body["t"], "", phrase("visits.view.plate-was-wrong-all", body=body["was"], body_2=body["now"]))
            for body in self.record.noted("plate")
        ]
        return [(clock(t_s), part, text) for t_s, part, text in sorted(said)]

    def off_is_said(self, how: str) -> bool:
        """A stop was answered with its breaker off, and the bench has it on."""
        return self.state.live and bool(_OFF.search(how))

    @property
    def proof(self) -> dict[str, str]:
        """The checks of *proved dead*."""
        return proof_of(self.unit)

    def gated(self, quantity: Quantity) -> bool:
        """It is read only proved dead, and the unit is not."""
        return quantity.dead_only and not self.state.proved_dead


def proof_of(unit: Unit) -> dict[str, str]:
    """What is ticked to prove a unit dead: every supply's breaker, then the three checks."""
    breakers = {f"off-{c.id}": phrase("visits.view.breaker-off-locked-tagged", c=c.id) for c in unit.circuits}
    return breakers | {
        "known-live": phrase("visits.view.1-meter-proved-known"),
        "all-dead": phrase("visits.view.2-frame-known-earth"),
        "known-live-again": phrase("visits.view.3-meter-proved-again"),
    }
