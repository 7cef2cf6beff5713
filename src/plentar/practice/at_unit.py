"""Somebody before a simulated unit: what was done there so far, and how it stands by that. Nothing runs while nobody
touches it: a state is worked out from the acts."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from plentar.core.errors import BadInput
from plentar.core.said import say
from plentar.core.unit.parts import Wire
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import LIFTED, ON, PROVED_DEAD, Event, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState
from plentar.files.events_json import event_from_json
from plentar.files.unit_json import UnitJson
from plentar.practice.harms import Harm, heat_watts
from plentar.practice.own_acts import BURNT, CLAMP, DISCHARGED, LANDED, LOST, is_event, lost_at
from plentar.practice.scene import Scene
from plentar.practice.transfer import Transfer, transfer
from plentar.stand_ins.wider.clock import LONG_BEFORE_S, Standing
from plentar.stand_ins.wider.world import HiddenUnit

#: A clamp that moves less than this stands still: amps, and of what it shows.
STEADY_A, STEADY = 0.15, 0.02
#: A strip that draws more is on, A.
ON_A = 1.0
#: From here on the air is felt to be warm, W.
WARM_W = 20.0
#: An act in the visit file's terms, its time in it, or one of ``own_acts``.
Act = dict[str, Any]


@dataclass(frozen=True)
class AtUnit:
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
        """The unit as it is now: with what was replaced put right, the wires off that were lost, others where they
        were put, and what that has burnt."""
        whole = self.scene.unit
        faults = list(self.scene.faults)
        for act in self.acts:
            if part := act.get("replaced"):
                parts = {part, whole.circuit.owner_of.get(part, part)}
                faults = [fault for fault in faults if whole.work_on(fault) not in parts]
            elif LOST in act or BURNT in act:
                faults.append(act.get(LOST) or act[BURNT])
        landings = [self.transfer_of(part).landing(on) for part, on in self.landed.items()]
        return HiddenUnit(self.scene.plate, faults, self.scene.seed, landings=landings)

    @cached_property
    def landed(self) -> dict[str, dict[str, str]]:
        """The terminal of each wire of every device whose wires were moved; empty for one that was left off. A wire
        that was lost is none of them until it is put back, which is where it belongs."""
        found: dict[str, dict[str, str]] = {}
        lost = {fault.partition(":")[0] for fault in self.lost}
        for act in self.acts:
            replaced = act.get("replaced", "")
            found.pop(replaced, None)
            if replaced in lost:
                found = {part: self._right(part) | on for part, on in found.items()}
            if LANDED in act:
                found[act[LANDED]] = act["on"]
        return found

    def transfer_of(self, part: str) -> Transfer:
        """The wires of a device that lie on terminals which somebody has chosen."""
        return self._new(part).having(self.landed[part])

    def transfer_to(self, part: str, *, marked: bool) -> Transfer:
        """What goes in for a device, with the wires that are there to go over: unmarked, one may be lost."""
        lost = "" if marked else lost_at(self.unit, self.scene.plate, part, self.scene.seed)
        return self._new(part).losing(lost)

    def _right(self, part: str) -> dict[str, str]:
        return {wire.id: wire.terminal for wire in self._new(part).right}

    def _new(self, part: str) -> Transfer:
        if part not in self.unit.device_by_id:
            raise BadInput("part", say("practice.no-such-part"))
        return transfer(self.unit, self.scene.plate, part, self.scene.seed)

    @property
    def astray(self) -> list[tuple[str, Wire, str]]:
        """The wires that do not lie where they belong: the device, the wire with its right terminal, and where it
        lies."""
        return [
            (part, wire, on[wire.id])
            for part, on in self.landed.items()
            for wire in self.transfer_of(part).wrong(on)
        ]

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
        return [{"t": -LONG_BEFORE_S, "power": PROVED_DEAD}, *stands, calls, *coils, *since]

    @cached_property
    def standing(self) -> Standing:
        return self.inside.at(self.switches(), self.now_s)

    def driver_of(self, point: Point) -> str:
        """The device whose coil moves this contact; empty where none does."""
        if point.kind not in ("switch", "contact"):
            return ""
        if point.component in self.unit.device_by_id:
            return point.component
        return self.unit.control_of_switch[point.name].id

    @property
    def charged(self) -> bool:
        """The motor's capacitor may hold a charge: nobody has discharged it since the power was on."""
        if self.unit.blower is None or self.unit.blower.capacitor_uf is None:
            return False
        last = next((act for act in reversed(self.acts) if DISCHARGED in act or act.get("power") == ON), {})
        return DISCHARGED not in last

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

    @property
    def clamped_switch(self) -> str:
        """The one switch, or the blower, that what the clamp shows is told by; empty where it is none or several."""
        if self.clamped == "blower":
            return "blower"
        element = self.unit.element_by_id.get(self.clamped)
        switches = list(self.unit.rung_switches(element)) if element else []
        return switches[0].id if len(switches) == 1 else ""

    def _clamped_acts(self, until_s: float) -> Iterator[Act]:
        """What the clamp on a strip or the motor shows of the switch behind it: when it came on or went off."""
        switch = self.clamped_switch
        if not switch:
            return
        before: bool | None = None
        for now in self.inside.clock.through(self.switches(), until_s):
            is_on = self.inside.meter.amps(self.clamped, now) > ON_A
            if before is not None and is_on != before and now.t_s > self.now_s:
                yield {"t": round(now.t_s, 1), "observe": "on" if is_on else "off", "part": switch}
            before = is_on

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
