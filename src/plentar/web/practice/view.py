"""A practice on its page: the drawing, the meter, what is seen, what was done, and the end."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from flask import url_for
from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.checks.relay_bench import WORDS
from plentar.core.door import judge_reading, model_of
from plentar.core.guided.retest import retest_lines
from plentar.core.guided.retest_line import Line
from plentar.core.quantity import Quantity
from plentar.core.relay_bench.proof import Wrong
from plentar.core.unit.naming import said_of
from plentar.core.unit.points import Point, resolve
from plentar.core.unit.points import points as named
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import LIFTED, ON, PROVED_DEAD, RESTORED, Reading
from plentar.drawing.parts import Badge, Scene
from plentar.practice.at_unit import Act
from plentar.practice.coach import next_here, stands_still
from plentar.practice.debrief import named_right
from plentar.practice.harms import Harm
from plentar.practice.own_acts import CLAMP, DISCHARGED, LANDED, MISSET, MISSETS, PROVED, UNTOLD
from plentar.store.models import Practice
from plentar.web.drawings import control_side, line_side, surroundings
from plentar.web.judge_pool import Busy, judge_pool
from plentar.web.practice.learning import known_lessons
from plentar.web.practice.rows import bench_of
from plentar.web.practice.trace import Trace, trace_of
from plentar.web.practice.wires import WiresView
from plentar.web.showing import verdict
from plentar.web.visits.judging import Card, card_of
from plentar.web.visits.pad import caution_of
from plentar.words import language, phrase
from plentar.words.numbers import clock
from plentar.words.visits import complaint_in_words

#: How long is skipped with one touch: seconds, and what the button says.
SKIPS = ((10, "+0:10"), (60, "+1:00"), (300, "+5:00"))


@dataclass(frozen=True, slots=True)
class Row:
    """One act: when, what, and of a reading its value, what was due and the verdict."""

    when: str
    what: str
    value: str = ""
    due: str = ""
    mark: str = ""


@dataclass(frozen=True, slots=True)
class Coach:
    """A hint: a card, or lines without one."""

    card: Card | None = None
    lines: tuple[str, ...] = ()
    #: The judge gave no answer: it may be asked again.
    busy: bool = False


class PracticeView:
    """Cheap to make; each part is worked out when a template asks for it."""

    def __init__(self, row: Practice, at: str = "", *, new_harms: int = 0) -> None:
        self.row, self.bench, self._at = row, bench_of(row), at
        #: The wires that are in hand, None where nobody moves any.
        self.wires_in_hand: WiresView | None = None
        #: What the newest act did that hurts.
        self.warned = [self._harm(h) for h in self.bench.harms[len(self.bench.harms) - new_harms :]]

    @property
    def unit(self) -> Unit:
        return self.bench.unit

    @cached_property
    def at(self) -> str:
        """The point in hand, empty where it is none of this unit's."""
        return self._at if self._at in {point.name for point in self.points} else ""

    @cached_property
    def points(self) -> list[Point]:
        grounds = [resolve(self.unit, f"{e.id}.in:ground") for e in self.unit.elements]
        return [*named(self.unit), *grounds]

    @property
    def base(self) -> str:
        return url_for("practice.bench", practice_id=self.row.id)

    @property
    def complaint(self) -> str:
        return complaint_in_words(self.bench.scene.complaint)

    @property
    def clock(self) -> str:
        return clock(self.bench.now_s)

    @property
    def over(self) -> bool:
        return self.row.ended_at is not None

    @property
    def lesson(self) -> Mapping[str, str]:
        """What the lesson says, in the reader's language; empty where it is none."""
        named = self.row.scene.get("lesson", "")
        lesson = known_lessons().named(named) if named else None
        return lesson.said(language()) if lesson is not None else {}

    # The unit as it stands.

    @property
    def live(self) -> bool:
        return self.bench.state.live

    @property
    def power_words(self) -> str:
        state = self.bench.state
        key = PROVED_DEAD if state.proved_dead else ON if state.live else "off"
        return phrase(f"strip-power.{key}")

    @property
    def proved_dead(self) -> bool:
        return self.bench.state.proved_dead

    @property
    def skips(self) -> tuple[tuple[int, str], ...]:
        return SKIPS

    @property
    def wires(self) -> tuple[str, str]:
        """The thermostat's wires: what a touch makes of them, and its words."""
        lifted = self.bench.state.lifted
        return (RESTORED if lifted else LIFTED, phrase(f"practice.wires.{'back' if lifted else 'off'}"))

    @property
    def may_note_still(self) -> bool:
        """The blower should run, stands still, and nobody has put that on record."""
        return stands_still(self.bench)

    @property
    def breakers(self) -> list[tuple[str, str, str]]:
        """Each breaker of several: its circuit, what a touch makes of it, and the words."""
        power = self.bench.state.power
        if len(power) < 2:
            return []
        return [
            (name, "off", phrase("pocket.say.open-one", id=name))
            if now == ON
            else (name, "on", phrase("pocket.say.close-one", id=name))
            for name, now in power.items()
        ]

    @property
    def calls(self) -> list[tuple[str, bool]]:
        return [(call, call in self.bench.state.calls) for call in self.unit.calls]

    @property
    def seen(self) -> list[str]:
        """What is seen and heard."""
        words = [phrase(f"practice.seen.{one}") for one in sorted(self.bench.seen)]
        words += [phrase("practice.seen.burnt", part=said_of(self.unit, part)) for part in self.bench.burnt]
        return words

    @cached_property
    def scene(self) -> Scene:
        """The contacts as a sound unit would stand: what is hidden is not drawn."""
        return Scene(
            link=lambda part: f"{self.base}?at={part}",
            badges=self._badges,
            power=self.bench.state.power,
            selected=self.at,
            model=model_of(self.unit, self.bench.visit.events, self.bench.now_s),
        )

    @property
    def _badges(self) -> dict[str, Badge]:
        """The newest reading of each point with its verdict."""
        evidence, badges = self.bench.evidence, {}
        for taken in evidence.taken:
            if taken.counts:
                said = judge_reading(evidence, taken).verdict
                shown = str(taken.reading.quantity.shown(taken.reading.value))
                badges[taken.reading.at] = Badge(shown, said.word, said.good, said.provisional)
        return badges

    @property
    def drawings(self) -> list[tuple[str, Markup]]:
        return [
            ("line", line_side(self.unit, self.scene)),
            ("control", control_side(self.unit, self.scene)),
            ("around", surroundings(self.unit, self.scene)),
        ]

    # The meter.

    @property
    def point(self) -> Point | None:
        return next((point for point in self.points if point.name == self.at), None)

    @property
    def quantities(self) -> list[tuple[str, str, bool, str]]:
        """What can be read there: value, words, whether it needs it dead, the caution."""
        point = self.point
        assert point is not None
        return [(q, phrase(f"quantity.{q}"), q.dead_only, caution_of(point, q)) for q in point.quantities]

    @property
    def may_watch(self) -> bool:
        return self.point is not None and self.point.kind in ("element", "limit")

    @property
    def driven(self) -> list[tuple[str, str]]:
        """What can be read there with the coil fed from a bench supply: value, words."""
        if self.point is None or not self.bench.driver_of(self.point):
            return []
        return [
            (q, phrase("practice.driven", quantity=words)) for q, words, dead, _ in self.quantities if dead
        ]

    @property
    def coil(self) -> tuple[str, str] | None:
        """A coil's own two wires: what a touch makes of them, and its words."""
        if (
            self.point is None
            or not self.at.endswith(".coil")
            or self.point.component not in self.unit.device_by_id
        ):
            return None
        off = self.at in self.bench.state.coils_off
        return (RESTORED if off else LIFTED, phrase(f"practice.coil.{'back' if off else 'off'}"))

    @property
    def may_clamp(self) -> bool:
        return self.point is not None and Quantity.AMPS in self.point.quantities

    @property
    def may_discharge(self) -> bool:
        """The capacitor is asked for here, dead, and holds its charge."""
        here = self.point is not None and Quantity.UF in self.point.quantities
        return here and self.bench.state.proved_dead and self.bench.charged

    @property
    def missets(self) -> list[tuple[str, str]]:
        """Ways to set the meter otherwise that this point has: value, words."""
        known = self.point.quantities if self.point is not None else ()
        return [
            (way, phrase(f"practice.misset.{way}")) for way, one in MISSETS.items() if one.instead_of in known
        ]

    @cached_property
    def trace(self) -> Trace | None:
        return trace_of(self.bench)

    @property
    def shown(self) -> Row | None:
        """What the meter shows at the point in hand."""
        here = [n for n, act in enumerate(self.bench.acts) if act.get("at") == self.at]
        return self._row(here[-1]) if here else None

    # What was done.

    @property
    def rows(self) -> list[Row]:
        """All of it, the newest first, but what nobody has seen."""
        acts = self.bench.acts
        return [self._row(n) for n in reversed(range(len(acts))) if not UNTOLD & set(acts[n])]

    def _row(self, number: int) -> Row:
        act, event = self.bench.done[number]
        if event is None:
            return self._own(act)
        what = str(event.words(self.unit))
        if not isinstance(event, Reading):
            return Row(clock(event.t_s), what)
        taken = self.bench.evidence.take_then(event)
        said = judge_reading(self.bench.evidence, taken).verdict
        return Row(
            clock(event.t_s),
            str(taken.point.title),
            str(event.quantity.shown(event.value)),
            str(said.due.text()),
            verdict(said.word, said.good, said.provisional),
        )

    def _own(self, act: Act) -> Row:
        """An act that no visit has."""
        when = clock(act["t"])
        if CLAMP in act:
            at = act[CLAMP]
            code = "practice.clamp-on" if at else "practice.clamp-off"
            return Row(when, phrase(code, at=str(resolve(self.unit, at).title) if at else ""))
        if DISCHARGED in act:
            return Row(when, phrase("practice.discharged"))
        if LANDED in act:
            on = [terminal for terminal in act["on"].values() if terminal]
            part = said_of(self.unit, act[LANDED])
            return Row(when, phrase("practice.landed", part=part, on=len(on), off=len(act["on"]) - len(on)))
        if PROVED in act:
            return Row(
                when, phrase("practice.proved", part=said_of(self.unit, act[PROVED]), found=_found(act))
            )
        title = str(resolve(self.unit, act["at"]).title)
        shows = f"{act['shows']} {MISSETS[act[MISSET]].unit}" if act["shows"] != "OL" else "OL"
        return Row(when, f"{title}, {phrase(f'practice.misset.{act[MISSET]}')}", shows)

    @property
    def harms(self) -> list[str]:
        return [self._harm(harm) for harm in self.bench.harms]

    def _harm(self, harm: Harm) -> str:
        at = said_of(self.unit, harm.at.split(":")[0].removesuffix(".in")) if harm.at else ""
        text = phrase(f"practice.harm.{harm.code}", at=at, value=f"{harm.value:g}")
        return f"{clock(harm.t_s)} {text}"

    # Coaching.

    @cached_property
    def coach(self) -> Coach:
        """What the judge would read next, or what is to be said where there is no such card."""
        try:
            answer = judge_pool().diagnose(self.bench.evidence, self.row.shop_id)
            if answer.left_out:  # asked again it goes on from there
                answer = judge_pool().diagnose(self.bench.evidence, self.row.shop_id)
        except Busy:
            return Coach(lines=(phrase("practice.coach-busy"),), busy=True)
        stops = tuple(str(stop.text) for stop in answer.stops)
        reading = next_here(answer)
        if reading is not None:
            return Coach(card_of(self.unit, reading, phrase("practice.next"), first=True), stops)
        if answer.left_out:
            return Coach(lines=(*stops, phrase("practice.coach-busy")), busy=True)
        rest = tuple(str(said) for said in (*answer.advice, answer.held) if said)
        return Coach(lines=(*stops, *(rest or (phrase("practice.coach-nothing"),))))

    # The end.

    @property
    def parts(self) -> list[tuple[str, str]]:
        """What can be replaced or named, and its words."""
        return [(part, str(said_of(self.unit, part))) for part in sorted(self.unit.components)]

    @property
    def replaceable(self) -> list[tuple[str, str]]:
        """What can be replaced: a switch goes with its device."""
        return [(part, words) for part, words in self.parts if part not in self.unit.switch_by_id]

    @cached_property
    def retest(self) -> list[Line]:
        """After a repair, what is to be read again, or timed with the clamp left on, and is not through."""
        every = retest_lines(self.bench.evidence, self.bench.now_s)
        return [line for line in every if line.state in ("open", "fail")]

    @property
    def moved(self) -> list[tuple[str, str, str]]:
        """Devices whose wires were moved: their words, and what their wiring was proved to be since then, empty where
        it was not."""
        found = []
        for part in self.bench.landed:
            last = next(
                act for act in reversed(self.bench.acts) if part in (act.get(LANDED), act.get(PROVED))
            )
            found.append((part, str(said_of(self.unit, part)), _found(last) if PROVED in last else ""))
        return found

    @property
    def right(self) -> bool:
        return named_right(self.bench, self.row.named or [])


def _found(proved: Act) -> str:
    """What came of a wiring that was gone over."""
    wrong = "; ".join(str(WORDS[Wrong(code)]) for code in proved["wrong"])
    return f"▲ {wrong}" if wrong else f"● {phrase('practice.proved-right')}"
