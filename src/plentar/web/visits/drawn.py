"""The drawing of a visit: the unit as its switches stand, with its newest readings and its handles."""

from __future__ import annotations

import uuid
from dataclasses import replace

from flask_wtf.csrf import generate_csrf
from markupsafe import Markup
from werkzeug.utils import cached_property

from plentar.core.door import judge_reading
from plentar.core.visit.events import LIFTED, OFF, ON, PROVED_DEAD, RESTORED, bridges_standing
from plentar.drawing.parts import Badge, Handle, Scene
from plentar.web.drawings import changed_parts, control_side, line_side, surroundings
from plentar.web.visits.pad import VerdictView
from plentar.web.visits.seen import VisitView
from plentar.words import phrase

_BREAKER = {ON: "drawn.breaker-on", OFF: "drawn.breaker-off", PROVED_DEAD: "drawn.breaker-locked"}


class Drawn:
    def __init__(self, view: VisitView) -> None:
        self.view = view

    def line_side(self, selected: str = "") -> Markup:
        """Supply circuits, rungs and blower with their newest readings."""
        return line_side(self.view.unit, self.scene(selected))

    def control_side(self, selected: str = "") -> Markup:
        """The 24 V side with its newest readings."""
        return control_side(self.view.unit, self.scene(selected))

    def surroundings(self, selected: str = "") -> Markup:
        """Supplies from panel to kit, and the air path, with their newest readings."""
        return surroundings(self.view.unit, self.scene(selected))

    @property
    def on_record(self) -> Scene:
        """The same without switches to move: for the report and the file."""
        return replace(self.scene(to_move=False), htmx_target="")

    def again(self, pad: VerdictView) -> Markup:
        """The parts whose reading or verdict a stored reading changed."""
        every = {taken.reading.at for taken in self.view.evidence.taken}
        changed = every if pad.judges_others else {pad.point.name}
        scene = self.scene(pad.point.name, changed, to_move=False)
        return changed_parts(self.view.unit, scene, scene.badges)

    def scene(self, selected: str = "", only: set[str] | None = None, to_move: bool = True) -> Scene:
        """What the drawing shows: contacts and live wires as the healthy unit would stand; with switches to
        move, which take a token of the session."""
        return Scene(
            link=self.view.link,
            badges=self._badges(only),
            power=self.view.state.power,
            selected=selected,
            htmx_target="#pad",
            model=self.view.model,
            handles=self._handles if to_move else {},
            bridged=bridges_standing(self.view.visit.events),
        )

    @cached_property
    def _handles(self) -> dict[str, Handle]:
        """Breakers, calls and lifted wires, as switches on the drawing."""
        handles = {}
        for circuit, power in self.view.state.power.items():
            flip = OFF if power == ON else ON
            label = phrase(_BREAKER[power])
            handles[circuit] = self._handle("power", label, state=flip, circuit=circuit)
        for call, _, touched in self.view.callable:
            mark = "●" if call in self.view.state.calls else "○"
            handles[call] = self._handle("calls", f"{mark} {call}", **{touched: call})
        lifted = self.view.state.lifted
        handles["lifted"] = self._handle(
            "wires",
            phrase("drawn.jumpers" if lifted else "drawn.wires"),
            state=RESTORED if lifted else LIFTED,
        )
        return handles

    def _handle(self, where: str, label: str, **values: str) -> Handle:
        common = {"csrf_token": generate_csrf(), "client_id": str(uuid.uuid4())}
        return Handle(f"{self.view.base}/{where}", common | values, label)

    def _badges(self, only: set[str] | None) -> dict[str, Badge]:
        """The newest reading of each point, or of some."""
        badges = {}
        newest = {taken.reading.at: taken for taken in self.view.evidence.taken if taken.counts}
        for at, taken in newest.items():
            if only is not None and at not in only:
                continue
            verdict = judge_reading(self.view.evidence, taken).verdict
            text = taken.reading.quantity.shown(taken.reading.value)
            badges[at] = Badge(str(text), verdict.word, verdict.good, verdict.provisional)
        return badges
