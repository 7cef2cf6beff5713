"""Somebody at work on a simulated unit: what each act does, on the unit's own clock. Nothing runs while nobody
touches it: a state is worked out from the acts."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.said import say
from plentar.core.unit.points import resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import PROVED_DEAD, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState
from plentar.files.events_json import event_from_json
from plentar.files.unit_json import UnitJson
from plentar.practice.harms import Harm, harms_between, heat_watts
from plentar.practice.scene import Scene
from plentar.stand_ins.wider.clock import Standing
from plentar.stand_ins.wider.world import HiddenUnit

#: What each act takes on the unit's clock, s.
READING_S, POWER_S, PROVE_S, MENDING_S, CALL_S = 20.0, 30.0, 180.0, 900.0, 2.0
WATCH_S, MOST_SKIP_S, MOST_ACTS = 600.0, 1800.0, 400
#: From here on the air is felt to be warm, W.
WARM_W = 20.0
#: An act in the visit file's terms, its time in it.
Act = dict[str, Any]


@dataclass(frozen=True)
class Bench:
    """A scene, the acts so far in the visit file's terms, the time by the unit's clock, and the harm done."""

    scene: Scene
    acts: tuple[Act, ...] = ()
    now_s: float = 0.0
    harms: tuple[Harm, ...] = ()

    @cached_property
    def unit(self) -> Unit:
        return UnitJson.model_validate(dict(self.scene.plate)).to_core()

    @cached_property
    def visit(self) -> Visit:
        return Visit(
            complaint=self.scene.complaint,
            events=tuple(event_from_json(act, str(number)) for number, act in enumerate(self.acts)),
        )

    @cached_property
    def evidence(self) -> Evidence:
        return Evidence(self.unit, self.visit)

    @property
    def state(self) -> PanelState:
        return self.evidence.state_at(self.now_s)

    @property
    def replaced(self) -> tuple[str, ...]:
        return tuple(act["replaced"] for act in self.acts if "replaced" in act)

    @cached_property
    def inside(self) -> HiddenUnit:
        """The unit as it is now, with what was replaced put right."""
        whole = self.scene.unit
        parts = {whole.circuit.owner_of.get(part, part) for part in self.replaced} | set(self.replaced)
        return whole.mended(parts)

    @property
    def left(self) -> tuple[str, ...]:
        """The faults that are still in it."""
        return tuple(broken.id for broken in self.inside.specimen.faults)

    def switches(self) -> list[Act]:
        """What sets the unit as it is now: since the last repair, which is done proved dead and cold."""
        repaired = max((n for n, act in enumerate(self.acts) if "replaced" in act), default=-1)
        since = [act for act in self.acts[repaired + 1 :] if {"power", "calls", "wires"} & set(act)]
        if repaired < 0:
            return since
        t_s = self.acts[repaired]["t"]
        calls = sorted(self.evidence.state_at(t_s).calls)
        return [{"t": t_s, "power": PROVED_DEAD}, {"t": t_s, "calls": calls}, *since]

    @cached_property
    def standing(self) -> Standing:
        return self.inside.at(self.switches(), self.now_s)

    # What is done. Each gives the bench as it is afterwards, or raises BadInput.

    def measure(self, at: str, quantity: Quantity) -> Bench:
        """One reading. Ohms, a tone or µF where it is not proved dead is harm, and no reading."""
        point = resolve(self.unit, at)
        if quantity not in point.quantities:
            raise BadInput("quantity", say("practice.not-read-there", point=point.title))
        if quantity.dead_only and not self.state.proved_dead:
            live = self.state.live and not math.isnan(volts := self.inside.meter.held(at, self.standing))
            return self._harmed(Harm(self.now_s, "ohms-live", at, round(volts) if live else 0))
        value = self.inside.read(quantity.value, at, self.switches(), self.now_s)
        written = "OL" if math.isinf(value) else value
        act = {"t": self.now_s, "read": quantity.value, "at": at, "value": written}
        return self._done(act, READING_S)

    def power(self, state: str, circuit: str = "") -> Bench:
        """A breaker, or all of them; or proved dead, which takes its time and needs them open."""
        if circuit and circuit not in self.unit.circuit_by_id:
            raise BadInput("circuit", say("practice.no-such-part"))
        if state == PROVED_DEAD and self.state.live:
            raise BadInput("state", say("practice.open-breakers-first"))
        act = {"t": self.now_s, "power": state} | ({"circuit": circuit} if circuit else {})
        return self._done(act, PROVE_S if state == PROVED_DEAD else POWER_S)

    def call(self, call: str) -> Bench:
        """A thermostat's call is raised, or ended where it stood."""
        if call not in self.unit.calls:
            raise BadInput("call", say("practice.no-such-call"))
        calls = sorted(self.state.calls ^ {call})
        return self._done({"t": self.now_s, "calls": calls}, CALL_S)

    def watch(self, part: str) -> Bench:
        """Ten minutes before an element or a limit with the call steady: does its current come and go."""
        if part not in self.unit.element_by_id and part not in {x.id for x in self.unit.limits}:
            raise BadInput("at", say("practice.not-watched-there"))
        over = self._later(WATCH_S)
        action = "cycling" if over.inside.cycles(part, over.switches(), over.now_s) else "steady"
        return over._done({"t": over.now_s, "observe": action, "part": part}, 0.0)

    def wait(self, seconds: float) -> Bench:
        if not 0 < seconds <= MOST_SKIP_S:
            raise BadInput("seconds", say("practice.wait-so-long"))
        return self._later(seconds)

    def replace(self, part: str) -> Bench:
        """A part is replaced: proved dead, else it is harm and nothing is done."""
        if part not in self.unit.components:
            raise BadInput("part", say("practice.no-such-part"))
        if not self.state.proved_dead:
            return self._harmed(Harm(self.now_s, "hands-live", part))
        return self._done({"t": self.now_s, "replaced": part}, MENDING_S)

    def _done(self, act: Act, takes_s: float) -> Bench:
        if len(self.acts) >= MOST_ACTS:
            raise BadInput("act", say("practice.too-long"))
        return replace(self, acts=(*self.acts, act))._later(takes_s)

    def _later(self, seconds: float) -> Bench:
        """Time goes by; what it does to the unit and to whoever stands there is harm, each once."""
        done_s = round(self.now_s + seconds, 1)
        harms = {(harm.code, harm.t_s): harm for harm in self.harms}
        for harm in harms_between(self.inside, self.switches(), self.now_s, done_s):
            harms[harm.code, harm.t_s] = harm
        return replace(self, now_s=done_s, harms=tuple(harms.values()))

    def _harmed(self, harm: Harm) -> Bench:
        return replace(self, harms=(*self.harms, harm))

    # What is seen and heard without a meter.

    @property
    def seen(self) -> frozenset[str]:
        """``air`` or ``still``, ``heat``, ``chatters``: what eyes, ears and a hand in the air tell."""
        now = self.standing
        words = {"air" if now.air else "still"}
        if now.air and heat_watts(self.inside, now) > WARM_W:
            words.add("heat")
        if now.chatters:
            words.add("chatters")
        return frozenset(words)

    @property
    def burnt(self) -> Sequence[str]:
        """Parts that show by their colour that they were hot."""
        return sorted({f.component for f in self.inside.specimen.faults if f.mode in ("burnt", "loose")})
