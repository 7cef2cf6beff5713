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
from plentar.core.unit.points import Point, resolve
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import LIFTED, OFF, ON, PROVED_DEAD, RESTORED, Event, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState
from plentar.core.visit.windows import wait_s
from plentar.files.events_json import event_from_json
from plentar.files.unit_json import UnitJson
from plentar.practice.harms import Harm, harms_between, heat_watts
from plentar.practice.own_acts import CLAMP, DISCHARGED, LOST, MISSET, MISSETS, is_event, lost_at
from plentar.practice.scene import Scene
from plentar.stand_ins.wider.clock import Standing
from plentar.stand_ins.wider.world import HiddenUnit

#: What each act takes on the unit's clock, s.
READING_S, POWER_S, PROVE_S, MENDING_S, CALL_S = 20.0, 30.0, 180.0, 900.0, 2.0
WIRES_S, MARKING_S, CLAMP_S, NOTE_S, DISCHARGE_S = 60.0, 120.0, 10.0, 10.0, 30.0
WATCH_S, MOST_SKIP_S, MOST_ACTS = 600.0, 1800.0, 400
#: A clamp that moves less than this stands still: amps, and of what it shows.
STEADY_A, STEADY = 0.15, 0.02
#: From here on the air is felt to be warm, W.
WARM_W = 20.0
#: An act in the visit file's terms, its time in it, or one of ``own_acts``.
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
    def done(self) -> tuple[tuple[Act, Event | None], ...]:
        """Every act, and the event that it is in a visit, if it is one."""
        return tuple(
            (act, event_from_json(act, str(number)) if is_event(act) else None)
            for number, act in enumerate(self.acts)
        )

    @cached_property
    def visit(self) -> Visit:
        events = tuple(event for _, event in self.done if event is not None)
        return Visit(complaint=self.scene.complaint, events=events)

    @cached_property
    def evidence(self) -> Evidence:
        return Evidence(self.unit, self.visit)

    @property
    def state(self) -> PanelState:
        return self.evidence.state_at(self.now_s)

    @property
    def replaced(self) -> tuple[str, ...]:
        return tuple(act["replaced"] for act in self.acts if "replaced" in act)

    @property
    def readings(self) -> int:
        """How many readings were taken."""
        return sum("read" in act for act in self.acts)

    @property
    def lost(self) -> tuple[str, ...]:
        """The wires that were lost at repairs, as faults."""
        return tuple(act[LOST] for act in self.acts if LOST in act)

    @cached_property
    def inside(self) -> HiddenUnit:
        """The unit as it is now: with what was replaced put right, and the wires off that were lost."""
        whole = self.scene.unit
        faults = list(self.scene.faults)
        for act in self.acts:
            if part := act.get("replaced"):
                parts = {part, whole.circuit.owner_of.get(part, part)}
                faults = [fault for fault in faults if whole.work_on(fault) not in parts]
            elif LOST in act:
                faults.append(act[LOST])
        return HiddenUnit(self.scene.plate, faults, self.scene.seed)

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
        then = self.evidence.state_at(t_s)
        coils = [{"t": t_s, "wires": LIFTED, "part": coil} for coil in sorted(then.coils_off)]
        stands = [{"t": t_s, "wires": LIFTED}] if then.lifted else []
        calls = {"t": t_s, "calls": sorted(then.calls)}
        return [{"t": t_s, "power": PROVED_DEAD}, *stands, calls, *coils, *since]

    @cached_property
    def standing(self) -> Standing:
        return self.inside.at(self.switches(), self.now_s)

    # What is done. Each gives the bench as it is afterwards, or raises BadInput.

    def measure(self, at: str, quantity: Quantity) -> Bench:
        """One reading. Ohms, a tone or µF where it is not proved dead is harm, and no reading."""
        self._read_there(at, quantity)
        if (harmed := self._on_live(at, quantity)) is not None:
            return harmed
        if quantity is Quantity.UF and self.charged:
            return self._harmed(Harm(self.now_s, "charged", at))
        return self._read(at, quantity, {}, READING_S)

    def drive(self, at: str, quantity: Quantity) -> Bench:
        """A contact with its coil fed from a bench supply, for as long as its window is. Harm, and no reading, where
        it is not proved dead, or the coil is still wired: the transformer would make line volts of 24."""
        point = self._read_there(at, quantity)
        device = self.driver_of(point)
        if not device or not quantity.dead_only:
            raise BadInput("quantity", say("practice.not-driven-there", point=point.title))
        if (harmed := self._on_live(at, quantity)) is not None:
            return harmed
        if self.state.calls:
            raise BadInput("quantity", say("practice.end-calls-first"))
        if f"{device}.coil" not in self.state.coils_off:
            return self._harmed(Harm(self.now_s, "fed-backwards", device))
        fed_s = wait_s(self.unit, point, self.visit.events, self.state, driven=True)
        fed = replace(self, now_s=round(self.now_s + fed_s, 1))
        return fed._read(at, quantity, {"driven": True, "driven_s": fed_s}, READING_S)

    def misread(self, at: str, way: str) -> Bench:
        """The meter is set otherwise than it should be; it shows what a real one shows."""
        if way not in MISSETS:
            raise BadInput("way", say("practice.no-such-setting"))
        misset = MISSETS[way]
        self._read_there(at, misset.instead_of)
        if (harmed := self._on_live(at, misset.instead_of)) is not None:
            return harmed
        value = misset.share and misset.share * self._shown(misset.instead_of, at)
        shown = "OL" if math.isinf(value) else f"{value:.{misset.places}f}"
        return self._done({"t": self.now_s, MISSET: way, "at": at, "shows": shown}, READING_S)

    def clamp(self, at: str) -> Bench:
        """The clamp is left on a wire; or, where it is on it, taken off."""
        if at == self.clamped:
            return self._done({"t": self.now_s, CLAMP: ""}, CLAMP_S)
        self._read_there(at, Quantity.AMPS)
        return self._done({"t": self.now_s, CLAMP: at}, CLAMP_S)

    def driver_of(self, point: Point) -> str:
        """The device whose coil moves this contact; empty where none does."""
        if point.kind not in ("switch", "contact"):
            return ""
        if point.component in self.unit.device_by_id:
            return point.component
        return self.unit.control_of_switch[point.name].id

    def _read_there(self, at: str, quantity: Quantity) -> Point:
        point = resolve(self.unit, at)
        if quantity not in point.quantities:
            raise BadInput("quantity", say("practice.not-read-there", point=point.title))
        return point

    def _on_live(self, at: str, quantity: Quantity) -> Bench | None:
        if not quantity.dead_only or self.state.proved_dead:
            return None
        live = self.state.live and not math.isnan(volts := self.inside.meter.held(at, self.standing))
        return self._harmed(Harm(self.now_s, "ohms-live", at, round(volts) if live else 0))

    def _shown(self, quantity: Quantity, at: str, *, driven: bool = False) -> float:
        return self.inside.read(quantity.value, at, self.switches(), self.now_s, driven=driven)

    def _read(self, at: str, quantity: Quantity, also: Act, takes_s: float) -> Bench:
        shown = self._shown(quantity, at, driven="driven" in also)
        value = shown > 0 if quantity is Quantity.TONE else "OL" if math.isinf(shown) else shown
        return self._done({"t": self.now_s, "read": quantity.value, "at": at, "value": value} | also, takes_s)

    def power(self, state: str, circuit: str = "") -> Bench:
        """A breaker, or all of them; or proved dead, which takes its time and needs them open."""
        if circuit and circuit not in self.unit.circuit_by_id:
            raise BadInput("circuit", say("practice.no-such-part"))
        if state not in (ON, OFF, PROVED_DEAD):
            raise BadInput("state", say("practice.no-such-state"))
        if state == PROVED_DEAD and self.state.live:
            raise BadInput("state", say("practice.open-breakers-first"))
        if state == ON and self.state.coils_off:
            raise BadInput("state", say("practice.coils-wires-first"))
        act = {"t": self.now_s, "power": state} | ({"circuit": circuit} if circuit else {})
        return self._done(act, PROVE_S if state == PROVED_DEAD else POWER_S)

    def call(self, call: str) -> Bench:
        """A thermostat's call is raised, or ended where it stood."""
        if call not in self.unit.calls:
            raise BadInput("call", say("practice.no-such-call"))
        calls = sorted(self.state.calls ^ {call})
        return self._done({"t": self.now_s, "calls": calls}, CALL_S)

    def wires(self, state: str, coil: str = "") -> Bench:
        """The thermostat's wires off at the board, calls by jumper then, or back; or the two of a coil. With the
        power on it is harm, and nothing is done."""
        if coil and coil not in {f"{device}.coil" for device in self.unit.device_by_id}:
            raise BadInput("part", say("practice.no-such-part"))
        if state not in (LIFTED, RESTORED):
            raise BadInput("state", say("practice.no-such-state"))
        if self.state.live or (coil and not self.state.proved_dead):
            return self._harmed(Harm(self.now_s, "wires-live", coil.removesuffix(".coil") or "R"))
        if (state == LIFTED) == (coil in self.state.coils_off if coil else self.state.lifted):
            raise BadInput("state", say("practice.wires-are-so"))
        act = {"t": self.now_s, "wires": state} | ({"part": coil} if coil else {})
        return self._done(act, WIRES_S)

    @property
    def charged(self) -> bool:
        """The motor's capacitor may hold a charge: nobody has discharged it since the power was on."""
        if self.unit.blower is None or self.unit.blower.capacitor_uf is None:
            return False
        last = next((act for act in reversed(self.acts) if DISCHARGED in act or act.get("power") == ON), {})
        return DISCHARGED not in last

    def discharge(self) -> Bench:
        """Through a resistor. With the power on it is harm, and nothing is done."""
        if self.unit.blower is None or self.unit.blower.capacitor_uf is None:
            raise BadInput("act", say("practice.no-capacitor"))
        if not self.state.proved_dead:
            return self._harmed(Harm(self.now_s, "hands-live", "blower"))
        return self._done({"t": self.now_s, DISCHARGED: "blower"}, DISCHARGE_S)

    def leave(self) -> Bench:
        """Whoever goes leaves no jumper behind, and no wire off its terminal: each is harm."""
        now_s, state = self.now_s, self.state
        left = [Harm(now_s, "wires-left", coil.removesuffix(".coil")) for coil in sorted(state.coils_off)]
        if state.lifted:
            left.append(Harm(now_s, "jumper-left" if state.calls else "wires-left", "R"))
        return replace(self, harms=(*self.harms, *left))

    def watch(self, part: str) -> Bench:
        """Ten minutes before an element or a limit with the call steady: does its current come and go."""
        if part not in self.unit.element_by_id and part not in {x.id for x in self.unit.limits}:
            raise BadInput("at", say("practice.not-watched-there"))
        over = self._later(WATCH_S)
        action = "cycling" if over.inside.cycles(part, over.switches(), over.now_s) else "steady"
        return over._done({"t": over.now_s, "observe": action, "part": part}, 0.0)

    def note_still(self) -> Bench:
        """What anybody sees goes into the record: the blower stands still."""
        if "still" not in self.seen:
            raise BadInput("act", say("practice.blower-runs"))
        return self._done({"t": self.now_s, "observe": "off", "part": "blower"}, NOTE_S)

    def wait(self, seconds: float) -> Bench:
        if not 0 < seconds <= MOST_SKIP_S:
            raise BadInput("seconds", say("practice.wait-so-long"))
        return self._later(seconds)

    def replace(self, part: str, *, marked: bool = True) -> Bench:
        """A part is replaced: proved dead, else it is harm and nothing is done. Where its wires are not marked and
        moved one at a time, one may be lost; nobody is told."""
        if part not in self.unit.components:
            raise BadInput("part", say("practice.no-such-part"))
        if not self.state.proved_dead:
            return self._harmed(Harm(self.now_s, "hands-live", part))
        if part == "blower" and self.charged:
            return self._harmed(Harm(self.now_s, "charged", part))
        lost = "" if marked else lost_at(self.unit, self.scene.plate, part, self.scene.seed)
        mended = self._done({"t": self.now_s, "replaced": part}, MENDING_S + (MARKING_S if marked else 0.0))
        return replace(mended, acts=(*mended.acts, {"t": mended.now_s, LOST: lost})) if lost else mended

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

    # The clamp that was left on.

    @property
    def clamped(self) -> str:
        """The wire that the clamp is on, empty for none."""
        return next((act[CLAMP] for act in reversed(self.acts) if CLAMP in act), "")

    @property
    def trace(self) -> tuple[tuple[float, float], ...]:
        """What the clamp has shown since it was put on, or since the last repair: each time from which it showed
        something else, s, and amps; ``now`` last."""
        if not self.clamped:
            return ()
        since_s = max(act["t"] for act in self.acts if CLAMP in act or "replaced" in act)
        shown: list[tuple[float, float]] = []
        for now in self.inside.clock.through(self.switches(), self.now_s):
            if now.t_s < since_s:
                shown = []
            amps = self.inside.meter.read("amps", self.clamped, now)
            t_s = max(now.t_s, since_s)
            if shown and abs(shown[-1][1] - amps) <= max(STEADY_A, STEADY * amps):
                continue
            shown = [one for one in shown if one[0] < t_s] + [(t_s, amps)]
        return (*shown, (self.now_s, shown[-1][1]))

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
