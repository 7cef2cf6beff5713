"""What the bench shows: everything computed here, so that templates only place it."""

from __future__ import annotations

import re
import uuid
from collections.abc import Callable
from dataclasses import replace
from functools import cached_property
from typing import Any

from flask import url_for
from flask_wtf.csrf import generate_csrf
from markupsafe import Markup

from plentar.core.door import (
    Asked,
    Evidence,
    MakeSafe,
    PanelState,
    Prediction,
    ampere_scales,
    control_budget,
    due_at,
    judge_checked,
    judge_reading,
    make_safe,
    model_of,
    other_school,
    state_at,
    state_in_words,
    suspected_stops,
)
from plentar.core.events import (
    DRIVEN,
    DRIVEN_KINDS,
    LIFTED,
    OFF,
    ON,
    PROVED_DEAD,
    RESTORED,
    Calls,
    Event,
    Reading,
    Visit,
    bridges_standing,
    unit_after,
)
from plentar.core.judgement import Diagnosis, ElementJudgement, Finding, Judgement
from plentar.core.parts import HEAT_CALLS
from plentar.core.points import Point, points, resolve, whole_parts
from plentar.core.quantity import Quantity, minutes
from plentar.core.unit import Unit
from plentar.drawing.ampere import ampere_scale
from plentar.drawing.budget import budget_stack
from plentar.drawing.glyphs import power_glyph
from plentar.drawing.parts import Badge, Handle, Scene
from plentar.drawing.surroundings import drawn_points
from plentar.store.record import StoredEvent, VisitRecord
from plentar.web.drawings import changed_parts, control_side, line_side, surroundings
from plentar.web.judge_pool import PAGE_S, judge_pool, reader_gone
from plentar.web.visits.around import Around
from plentar.web.visits.guided_tests import standing_test, tests_at, tests_of
from plentar.web.visits.log_rows import LogRow
from plentar.web.visits.pad import PadView, VerdictView, Wait
from plentar.web.visits.past import past_at

_OFF = re.compile(r"\b(breakers?|power|disconnect)\b.*\b(off|out|open|pulled)\b", re.IGNORECASE)
#: How many earlier readings of a point the pad repeats; the log has them all.
SHOWN_BEFORE = 3
#: How many entries the bench shows; the whole log is a touch away.
SHOWN_LOG = 8


class BenchView:
    """A visit's page. Cheap to make; each part is computed when a template asks for it."""

    def __init__(self, record: VisitRecord, patience_s: float = PAGE_S) -> None:
        self.record, self.patience_s = record, patience_s
        self.unit = record.unit

    @cached_property
    def visit(self) -> Visit:
        """The visit as the core judges it."""
        return self.record.core()

    @cached_property
    def judgement(self) -> Judgement:
        """The core's answer."""
        return judge_checked(self.unit, self.visit)

    @property
    def evidence(self) -> Evidence:
        """The readings that the judgement stands on."""
        return self.judgement.evidence

    def other_school(self, element: ElementJudgement) -> str:
        """What the other tolerance says of an element, where it differs."""
        return other_school(self.evidence, element)

    @cached_property
    def state(self) -> PanelState:
        """How the unit stands now."""
        return state_at(self.unit, self.visit.events, self.record.elapsed_s)

    @property
    def make_safe(self) -> list[MakeSafe]:
        """What to do first: each open stop that was read, with its acts."""
        return [make_safe(self.unit, self.state, stop) for stop in self.stopped]

    @property
    def make_suspected_safe(self) -> list[MakeSafe]:
        """The same for what the leading suspect means."""
        return [make_safe(self.unit, self.state, stop) for stop in self.suspected]

    @property
    def heat_calls(self) -> str:
        """What is ended to end the call for heat."""
        return ",".join(sorted(HEAT_CALLS))

    @property
    def stopped(self) -> tuple[Finding, ...]:
        """The open stops that the readings show."""
        return self.judgement.stops

    @cached_property
    def diagnosis(self) -> Diagnosis:
        """The judge's answer; this is the slow part."""
        return judge_pool().diagnose(
            self.evidence, self.record.row.shop_id, reader_gone(), self.patience_s
        )

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
    def power_words(self) -> str:
        """The same as people say it."""
        return self.power_state.replace("-", " ")

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
        """What is missing, and the checks that wait for it."""
        waiting: dict[str, list[str]] = {}
        for missing in self.judgement.not_judged:
            what = f"{missing.check} {missing.component}".strip()
            waiting.setdefault(missing.because, []).append(what)
        return [(because, ", ".join(checks)) for because, checks in waiting.items()]

    def at(self, pad: PadView | None) -> str:
        """The point that is chosen on the drawing."""
        return pad.point.name if pad else ""

    @cached_property
    def callable(self) -> list[tuple[str, str, str]]:
        """The thermostat's terminals on this unit: name, pressed or not, what a touch does."""
        asked = self.state.calls
        return [
            (call, str(call in asked).lower(), "ended" if call in asked else "raised")
            for call in self.unit.calls
        ]

    @cached_property
    def heat_since(self) -> float | None:
        """Seconds that heat has been called for, or None."""
        began = [s for call, s in self.state.since_s.items() if call.startswith("W")]
        return self.state.t_s - min(began) if began else None

    def drawing(self, selected: str = "") -> Markup:
        """Supply circuits, rungs and blower with their newest readings."""
        return line_side(self.unit, self.scene(selected))

    def control_drawing(self, selected: str = "") -> Markup:
        """The 24 V side with its newest readings."""
        return control_side(self.unit, self.scene(selected))

    def surroundings(self, selected: str = "") -> Markup:
        """Supplies from panel to kit, and the air path, with their newest readings."""
        return surroundings(self.unit, self.scene(selected))

    @property
    def record_scene(self) -> Scene:
        """The same without switches to move: for the report and the file."""
        return replace(self.scene(), handles={}, htmx_target="")

    def redrawn(self, pad: VerdictView) -> Markup:
        """The parts whose reading or verdict a stored reading changed."""
        every = {taken.reading.at for taken in self.evidence.taken}
        changed = every if pad.judges_others else {pad.point.name}
        scene = self.scene(pad.point.name, changed)
        return changed_parts(self.unit, scene, scene.badges)

    def scene(self, selected: str = "", only: set[str] | None = None) -> Scene:
        """What the drawing shows: contacts and live wires as the healthy unit would stand."""
        return Scene(
            link=self.link, badges=self._badges(only), power=self.state.power, selected=selected,
            htmx_target="#pad", model=self.model,
            handles=self._handles if only is None else {},
        )  # fmt: skip

    @cached_property
    def model(self) -> Prediction:
        """The healthy unit now, as its switches stand."""
        return model_of(self.unit, self.visit.events, self.record.elapsed_s)

    @cached_property
    def _handles(self) -> dict[str, Handle]:
        """Breakers, calls and lifted wires, as switches on the drawing."""
        handles = {}
        for circuit, power in self.state.power.items():
            flip = OFF if power == ON else ON
            label = {ON: "● breaker", OFF: "○ breaker", PROVED_DEAD: "○ locked"}[power]
            handles[circuit] = self._handle("power", label, state=flip, circuit=circuit)
        for call, _, touched in self.callable:
            mark = "●" if call in self.state.calls else "○"
            handles[call] = self._handle("calls", f"{mark} {call}", **{touched: call})
        lifted = self.state.lifted
        handles["lifted"] = self._handle(
            "wires",
            "○ jumpers" if lifted else "● wires",
            state=RESTORED if lifted else LIFTED,
        )
        return handles

    def _handle(self, where: str, label: str, **values: str) -> Handle:
        common = {"csrf_token": generate_csrf(), "client_id": str(uuid.uuid4())}
        return Handle(f"{self.base}/{where}", common | values, label)

    @cached_property
    def link(self) -> Callable[[str], str]:
        """Where a touched part leads."""
        return lambda part: f"{self.base}?at={part}"

    @cached_property
    def base(self) -> str:
        """The visit's address, below which all its others lie."""
        return url_for("visits.bench", visit_id=self.record.row.id)

    def _badges(self, only: set[str] | None) -> dict[str, Badge]:
        """The newest reading of each point, or of some."""
        badges = {}
        newest = {taken.reading.at: taken for taken in self.evidence.taken if taken.counts}
        for at, taken in newest.items():
            if only is not None and at not in only:
                continue
            verdict = judge_reading(self.evidence, taken).verdict
            text = taken.reading.quantity.shown(taken.reading.value)
            badges[at] = Badge(text, verdict.word, verdict.good, verdict.provisional)
        return badges

    @cached_property
    def other_points(self) -> list[tuple[str, str]]:
        """Points that the drawing does not show, with their addresses."""
        drawn = drawn_points(self.unit)
        grounded = [f"{e.id}.in" for e in self.unit.elements] + ["R", *self.unit.calls]
        grounded += sorted(whole_parts(self.unit))
        others = [p for p in points(self.unit) if p.name not in drawn]
        others += [resolve(self.unit, f"{name}:ground") for name in grounded]
        return [(point.title, self.link(point.name)) for point in others]

    def log(self, at_most: int | None = None) -> list[LogRow]:
        """The newest events first, struck readings among them; all, or so many."""
        newest = self.record.events[::-1]
        return [self._row(event) for event in newest[:at_most]]

    def _row(self, event: StoredEvent) -> LogRow:
        core = self.record.core_event(event)
        if isinstance(core, Calls) and self.evidence.state_at(core.t_s).lifted:
            return LogRow(event, core.words_by_jumper())
        words = core.words(self._unit_at(core))
        if isinstance(core, Reading):
            # A struck reading is held against what was due as well, but is no evidence.
            judged = judge_reading(self.evidence, self.evidence.take(core))
            return LogRow(event, words, judged)
        return LogRow(event, words)

    def _unit_at(self, event: Event) -> Unit:
        """The unit that an event was entered on: a part of it may have been replaced since."""
        if self.unit is self.record.plate:
            return self.unit
        before = (e for e in self.record.events if e.t_s <= event.t_s and not e.struck_at)
        return unit_after(self.record.plate, map(self.record.core_event, before))

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

    def pad(
        self,
        at: str,
        quantity: str | None = None,
        typed: str = "",
        error: str = "",
        driven: bool = False,
    ) -> PadView:
        """The pad at a point; raises BadInput when there is no such point."""
        asked = self._asked(at, quantity, driven)
        point, chosen = asked.point, asked.quantity
        return PadView(
            **self._due(asked), error=error, link=self.link(at), typed=typed,
            gated=self.gated(chosen), history=self._history(at),
            driven=asked.driven if _by_driving(asked) else None, to_ground=self._to_ground(point),
            tests=tuple(tests_at(self.unit, point)), scale=self._scale(point),
            past="" if typed or error else past_at(self.record, point, chosen, self.state),
        )  # fmt: skip

    def said(
        self,
        at: str,
        quantity: str | None,
        value: float | None,
        error: str = "",
        stored: bool = False,
        driven: bool = False,
    ) -> VerdictView:
        """What a number at a point means; raises BadInput when there is no such point."""
        asked = self._asked(at, quantity, driven)
        return VerdictView(**self._due(asked), value=value, error=error, stored=stored)

    def _asked(self, at: str, quantity: str | None, driven: bool) -> Asked:
        point = resolve(self.unit, at)
        chosen = Quantity(quantity) if quantity in list(point.quantities) else self._usual(point)
        asked = Asked(point, chosen, self.state, driven=driven)
        return asked if _by_driving(asked) else replace(asked, driven=False)

    def _due(self, asked: Asked) -> dict[str, Any]:
        return {
            "point": asked.point, "quantity": asked.quantity, "due": due_at(self.evidence, asked),
            "state": state_in_words(self.state, driven=asked.driven),
        }  # fmt: skip

    def _scale(self, point: Point) -> Markup:
        """Beside the supply its scale of amps, beside the transformer its stack."""
        if point.kind in ("circuit", "line", "feed"):
            owner = point.component.removesuffix(".line")
            own = (one for one in ampere_scales(self.evidence) if one.id == owner)
            return Markup("".join(map(ampere_scale, own)))
        if point.kind in ("secondary", "primary"):
            return Markup(budget_stack(control_budget(self.unit)))
        return Markup("")

    @cached_property
    def test(self) -> str:
        """The guided test that this browser is in."""
        return standing_test(self.unit, self.record.row.id)

    def judge_href(self, todo: str | None = "") -> str:
        """What stands in the judge's place: the test, or what the judge says."""
        if self.test:
            return f"{self.base}/test"
        return f"{self.base}/judge?todo={todo}" if todo else f"{self.base}/judge"

    @property
    def tests(self) -> list[tuple[str, str]]:
        """The guided tests that there are."""
        return tests_of(self.unit, mended=any(event.mended for event in self.visit.events))

    @property
    def bridges(self) -> list[str]:
        """What is bridged now: never left so."""
        return sorted(bridges_standing(self.visit.events))

    @property
    def unit_href(self) -> str:
        """The unit's own page."""
        return url_for("units.show", unit_id=self.record.row.unit_id)

    def plate_of(self, point: Point) -> str:
        """The panel of a point's part on the unit's page."""
        elsewhere = {"contact": point.name, "air": "unit", "primary": "transformer",
                     "capacitor": "capacitor"}  # fmt: skip
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
            (
                body["t"],
                "",
                f"plate {body['was']} was wrong all along: judged by plate {body['now']}",
            )
            for body in self.record.noted("plate")
        ]
        return [(minutes(t_s), part, text) for t_s, part, text in sorted(said)]

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

    def _to_ground(self, point: Point) -> str:
        """Where a part is read to ground, its wires lifted; empty where that is not asked."""
        name = {"element": f"{point.name}.in", "terminal": point.name, "coil": point.name,
                "blower": "blower"}.get(point.kind)  # fmt: skip
        return self.link(f"{name}:ground") if name else ""

    def _usual(self, point: Point) -> Quantity:
        """The quantity that is read here as the unit stands."""
        dead = point.dead_quantity if self.state.proved_dead else None
        return dead or point.live_quantity or point.quantities[0]

    def _history(self, at: str) -> list[LogRow]:
        here = [e for e in self.record.events[::-1] if e.body.get("at") == at]
        return [self._row(event) for event in here[:SHOWN_BEFORE]]


def _by_driving(asked: Asked) -> bool:
    """Whether its coil is fed makes a difference here."""
    return asked.quantity in DRIVEN and asked.point.kind in DRIVEN_KINDS


def proof_of(unit: Unit) -> dict[str, str]:
    """What is ticked to prove a unit dead: every supply's breaker, then the three checks."""
    breakers = {f"off-{c.id}": f"Breaker of {c.id} off, locked and tagged" for c in unit.circuits}
    return breakers | {
        "known-live": "1. Meter proved on a known live source",
        "all-dead": "2. Every conductor dead to every other and to ground",
        "known-live-again": "3. Meter proved again",
    }
