"""Somebody at work on a simulated unit: what each act does, on the unit's own clock. Nothing runs while nobody
touches it: a state is worked out from the acts."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace

from plentar.core.errors import BadInput
from plentar.core.quantity import Quantity
from plentar.core.said import say
from plentar.core.unit.points import Point, resolve
from plentar.core.visit.events import LIFTED, OFF, ON, PROVED_DEAD, RESTORED
from plentar.core.visit.windows import wait_s
from plentar.practice.at_unit import Act, AtUnit
from plentar.practice.harms import Harm, harms_between
from plentar.practice.own_acts import BURNT, CLAMP, DISCHARGED, LANDED, LOST, MISSET, MISSETS, PROVED, lost_at

#: What each act takes on the unit's clock, s.
READING_S, POWER_S, PROVE_S, MENDING_S, CALL_S = 20.0, 30.0, 180.0, 900.0, 2.0
WIRES_S, MARKING_S, CLAMP_S, NOTE_S, DISCHARGE_S = 60.0, 120.0, 10.0, 10.0, 30.0
WATCH_S, MOST_SKIP_S, MOST_ACTS, PROVING_S = 600.0, 1800.0, 400, 60.0


class Bench(AtUnit):
    """The same, and what is done there. Each act gives the bench as it is afterwards, or raises BadInput."""

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

    def replace(self, part: str, *, marked: bool = True, on: Mapping[str, str] | None = None) -> Bench:
        """A part is replaced: proved dead, else it is harm and nothing is done. Where its wires are not marked and
        moved one at a time, one may be lost; nobody is told. ``on`` is the terminal that each wire of a device is put
        on; None: where it belongs."""
        if part not in self.unit.components or part in self.unit.switch_by_id:
            raise BadInput("part", say("practice.no-such-part"))
        if not self.state.proved_dead:
            return self._harmed(Harm(self.now_s, "hands-live", part))
        if part == "blower" and self.charged:
            return self._harmed(Harm(self.now_s, "charged", part))
        if on is not None:
            self.transfer_to(part, marked=marked).check(on)
        lost = "" if marked else lost_at(self.unit, self.scene.plate, part, self.scene.seed)
        mended = self._done({"t": self.now_s, "replaced": part}, MENDING_S + (MARKING_S if marked else 0.0))
        also: list[Act] = [{"t": mended.now_s, LOST: lost}] if lost else []
        also += [{"t": mended.now_s, LANDED: part, "on": dict(on)}] if on is not None else []
        return replace(mended, acts=(*mended.acts, *also))

    def move(self, part: str, on: Mapping[str, str]) -> Bench:
        """The wires of a device that was replaced go to other terminals: proved dead, else it is harm."""
        if part not in self.landed:
            raise BadInput("part", say("practice.not-replaced"))
        self.transfer_of(part).check(on)
        if not self.state.proved_dead:
            return self._harmed(Harm(self.now_s, "hands-live", part))
        moved = sum(self.landed[part][wire] != terminal for wire, terminal in on.items())
        if not moved:
            raise BadInput("on", say("practice.wires-are-so"))
        return self._done({"t": self.now_s, LANDED: part, "on": dict(on)}, WIRES_S * moved)

    def prove(self, part: str) -> Bench:
        """The wiring of a device that was replaced is gone over, terminal by terminal."""
        if part not in self.landed:
            raise BadInput("part", say("practice.not-replaced"))
        if not self.state.proved_dead:
            return self._harmed(Harm(self.now_s, "hands-live", part))
        on = self.landed[part]
        wrong = [str(code) for code in self.transfer_of(part).wrongs(on)]
        return self._done({"t": self.now_s, PROVED: part, "wrong": wrong}, PROVING_S)

    def _done(self, act: Act, takes_s: float) -> Bench:
        if len(self.acts) >= MOST_ACTS:
            raise BadInput("act", say("practice.too-long"))
        return replace(self, acts=(*self.acts, act))._later(takes_s)

    def _later(self, seconds: float) -> Bench:
        """Time goes by; what it does to the unit and to whoever stands there is harm, each once. What a clamp that
        was left on shows goes into the record."""
        done_s = round(self.now_s + seconds, 1)
        harms = {(harm.code, harm.t_s): harm for harm in self.harms}
        for harm in harms_between(self.inside, self.switches(), self.now_s, done_s):
            harms[harm.code, harm.t_s] = harm
        later = replace(self, now_s=done_s, harms=tuple(harms.values()))
        burnt = [fault for fault in later.standing.burnt if fault not in self.left]
        also: list[Act] = [{"t": done_s, BURNT: fault} for fault in burnt]
        return replace(later, acts=(*later.acts, *self._clamped_acts(done_s), *also))

    def _harmed(self, harm: Harm) -> Bench:
        return replace(self, harms=(*self.harms, harm))
