"""The retest: what was found bad, and what the repair could have disturbed, read once more.

Proved dead first, what a meter tells without power; then the fan, the heat with the fan, and the end of
the call. A line is through once its reading since the last repair is as it should be. Heat is called
with the fan: whether heat alone brings it on, the relay's sets tell by ohms.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from plentar.core.airflow import air_rise_f
from plentar.core.draws import motor_amps
from plentar.core.due import Due, Range, Word
from plentar.core.due.ends import above, below
from plentar.core.due.rules import due_of
from plentar.core.evidence import Evidence, Taken
from plentar.core.guided import Guided, Step, lines
from plentar.core.guided.asking import Asking, Stage
from plentar.core.meter import ACCURACY
from plentar.core.parts import Element
from plentar.core.points import resolve
from plentar.core.quantity import Band, Quantity, show
from plentar.core.ratings import BTUH_PER_WATT
from plentar.core.state import longest_on_s
from plentar.core.tables import thresholds as th

A, V, OHM, TEMP = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TEMP_F
#: A window is given so long before what should have moved is read, s; the air settles in five minutes.
GRACE_S, AIR_S = 10.0, 300.0
#: The rise of strips that work on the air that is due, as a share of it.
RISE_SHARE = Band(0.7, 1.3)


@dataclass(frozen=True, slots=True)
class Line:
    """One line of the list: the step, why it is on it, and the newest reading of before."""

    step: Step
    because: str
    before: Taken | None = None

    @property
    def state(self) -> str:
        """``open`` until it is read; then ``pass`` or ``fail``."""
        said = self.step.verdict
        if said is None:
            return "open"
        if said.good is not None:
            return "pass" if said.good else "fail"
        return "pass" if said.word is Word.NOT_JUDGED or not self.step.due.ranges else "fail"

    @property
    def key(self) -> str:
        """What it is told apart by, where it is answered instead of read."""
        driven = " driven" if self.step.setting.driven else ""
        return f"{self.step.quantity} {self.step.at} {self.because}{driven}"


def retest_lines(evidence: Evidence, now_s: float) -> tuple[Line, ...]:
    """The list, in the order in which it is read; empty where nothing was mended."""
    if not any(event.mended for event in evidence.visit.events):
        return ()
    return tuple(_List(evidence, now_s).lines())


def retest(evidence: Evidence, now_s: float) -> Guided:
    """The list as a test that is gone through; its result is before and after."""
    every = retest_lines(evidence, now_s)
    steps = tuple(replace(line.step, note=line.because) for line in every)
    told = [
        (line.step.title, f"{_shown(line.before)} → {_shown(line.step.taken)}")
        for line in every if line.step.taken is not None
    ]  # fmt: skip
    failed = [line for line in every if line.state == "fail"]
    stop = (
        f"{failed[0].step.title} is not as it should be: the repair is not done" if failed else ""
    )
    return Guided(steps, lines(*told), stop)


def _shown(taken: Taken | None) -> str:
    return "not read" if taken is None else taken.reading.quantity.shown(taken.reading.value)


class _List:
    def __init__(self, evidence: Evidence, now_s: float) -> None:
        self.evidence, self.unit = evidence, evidence.unit
        mended = [event for event in evidence.visit.events if event.mended]
        self.parts = {event.mended for event in mended}
        self.since_s = max(event.t_s for event in mended)
        self.asking = Asking(evidence, now_s, self.since_s)
        self.strips = [e for e in self.unit.elements if self._touched(e)]

    def _touched(self, element: Element) -> bool:
        """The repair was in its rung, on what drives or feeds it, or on what all of them share."""
        unit, rung = self.unit, set(element.rung)
        own = rung | {element.circuit, f"{element.id}.wire"}
        for switch in unit.rung_switches(element):
            control = unit.control_of_switch[switch.id]
            while True:
                own |= {control.id, control.call or "", control.through or ""}
                if control.through is None:
                    break
                control = unit.control_of_switch[control.through]
        shared = {"R", "transformer", "control-fuse", "airflow", "blower", "capacitor"}
        shared |= {unit.relay.id} if unit.relay else set()
        return bool(self.parts & (own | shared))

    @property
    def moves_air(self) -> bool:
        """The repair was on what moves the air or brings it on."""
        relay = self.unit.relay
        own = {"airflow", "blower", "capacitor", "G", *(p.id for p in self.unit.limits)}
        return bool(self.parts & (own | ({relay.id} if relay else set())))

    def lines(self) -> Iterator[Line]:
        """Every line once, each setting's lines together."""
        seen: set[tuple[str, Quantity, frozenset[str], bool, bool]] = set()
        wanted = [*self._bad(), *self._disturbed()]
        for stage, at, quantity, title, because in sorted(wanted, key=lambda one: _order(one[0])):
            key = (at, quantity, stage.calls, stage.dead, stage.driven)
            if key in seen:
                continue
            seen.add(key)
            step = self.asking.step(stage, at, quantity, title)
            yield Line(self._with_due(step, stage), because, self._before(at, quantity, stage))

    def _before(self, at: str, quantity: Quantity, stage: Stage) -> Taken | None:
        old = [
            t for t in self.evidence.taken
            if t.reading.at == at and t.reading.quantity is quantity
            and t.reading.t_s <= self.since_s and t.reading.driven == stage.driven
        ]  # fmt: skip
        same = [t for t in old if bool(t.state.calls) == bool(stage.calls)]
        return next(iter([*reversed(same), *reversed(old)]), None)

    def _bad(self) -> Iterator[tuple[Stage, str, Quantity, str, str]]:
        """Every point that read wrong before the repair, in the setting in which it did."""
        newest: dict[tuple[str, Quantity, bool, frozenset[str]], Taken] = {}
        for taken in self.evidence.taken:
            reading = taken.reading
            if reading.t_s <= self.since_s and taken.point.quantities:
                newest[reading.at, reading.quantity, reading.driven, taken.state.calls] = taken
        for (at, quantity, driven, _), taken in newest.items():
            if due_of(self.evidence, taken).judge(taken.reading.value).good is False:
                yield self._as_then(taken, driven), at, quantity, taken.point.title, "it was bad"

    def _as_then(self, taken: Taken, driven: bool) -> Stage:
        if taken.reading.quantity.dead_only or taken.state.proved_dead:
            return Stage(dead=True, driven=driven)
        calls, fan = taken.state.calls, self.unit.fan_call
        heats = bool(calls & self.unit.heat_calls)
        calls = calls | {fan} if heats and fan else calls
        wait_s = self.on_s if heats else self.off_s if not calls else self.fan_s
        return Stage(calls, wait_s)

    @property
    def on_s(self) -> float:
        """By then every strip that is called must draw."""
        unit = self.unit
        longest = [
            longest_on_s(unit, unit.control_of_switch[s.id], s.id)
            for e in unit.elements for s in unit.rung_switches(e)
        ]  # fmt: skip
        return max([*longest, self.fan_s]) + GRACE_S

    @property
    def off_s(self) -> float:
        """By then everything must be off."""
        longest = [s.off_s.high for c in self.unit.controls for s in c.switches]
        relay = self.unit.relay
        return max([*longest, relay.off_s.high if relay else 0.0]) + GRACE_S

    @property
    def fan_s(self) -> float:
        """By then the fan must run on its call."""
        return (self.unit.relay.on_s.high if self.unit.relay else 1.0) + GRACE_S

    def _disturbed(self) -> Iterator[tuple[Stage, str, Quantity, str, str]]:
        unit, relay = self.unit, self.unit.relay
        fan = unit.fan_call
        for name in sorted(self.parts & set(unit.device_by_id)):
            yield Stage(dead=True), f"{name}.coil", OHM, f"Coil of {name}", "it is new"
        if relay is not None and relay.id in self.parts:
            sides = ["no"]
            if (
                relay.kind.normally_closed
                and unit.blower
                and unit.blower.interlock.kind == "nc-contact"
            ):
                sides.append("nc")
            for side in sides:
                for driven in (False, True):
                    how = "driven" if driven else "at rest"
                    title = f"{relay.id}.{side} {how}"
                    yield (
                        Stage(dead=True, driven=driven),
                        f"{relay.id}.{side}",
                        OHM,
                        title,
                        "both sets",
                    )
        if fan is not None and (self.moves_air or not self.strips):
            stage = Stage(frozenset({fan}), self.fan_s)
            yield stage, "blower", A, f"Blower on {fan} alone", "each function once more"
        if self.strips and unit.heat_calls:
            yield from self._under_heat()
        yield from self._at_rest()

    def _under_heat(self) -> Iterator[tuple[Stage, str, Quantity, str, str]]:
        unit = self.unit
        heat = frozenset({*unit.heat_calls, *([unit.fan_call] if unit.fan_call else [])})
        for element in self.strips:
            yield Stage(heat, self.on_s), element.id, A, f"Amps of {element.id}", "its strip"
        for circuit in dict.fromkeys(element.circuit for element in self.strips):
            yield (
                Stage(heat, self.on_s),
                circuit,
                V,
                f"Lugs of {circuit} under full load",
                "its feed",
            )
        yield Stage(heat, self.on_s), "R", V, "R to C, all of them called", "control power"
        if unit.blower is not None and unit.blower.air_cfm:
            settled = Stage(heat, max(self.on_s, AIR_S))
            yield settled, "return-air", TEMP, "Return air", "the rise"
            yield settled, "supply-air", TEMP, "Supply air, out of sight of the strips", "the rise"

    def _at_rest(self) -> Iterator[tuple[Stage, str, Quantity, str, str]]:
        """The call off: every strip at zero, and the blower after its run-on."""
        unit, rest = self.unit, Stage(frozenset(), self.off_s)
        fed = dict.fromkeys(e.circuit for e in self.strips)
        for circuit in fed:
            yield rest, circuit, A, f"Feed of {circuit}, nothing called", "the call off"
        if unit.blower is not None and unit.blower.circuit not in fed:
            yield rest, "blower", A, "Blower, nothing called", "the call off"

    def _with_due(self, step: Step, stage: Stage) -> Step:
        """What the plate alone does not give: the rise, and a feed at rest."""
        if step.at == "supply-air":
            return replace(step, due=self._rise_due(stage) or step.due)
        if step.quantity is A and step.at in self.unit.circuit_by_id and not stage.calls:
            return replace(step, due=self._still_due(step))
        return step

    def _still_due(self, step: Step) -> Due:
        """Less than the least that hangs on the feed, the motor among it."""
        strips = [e.rating.amps(e.rated_volts) for e in self.unit.elements_on(step.at)]
        motor = motor_amps(self.unit, step.at)
        least = min([*strips, *([motor] if motor else [])], default=2 * th.DEAD_AMPS.value) / 2
        least = min(least, th.DEAD_AMPS.value)
        return Due(step.due.point, A, (
            Range(Band(0.0, below(least)), Word.IN_BAND, True, "nothing draws"),
            Range(Band(least, math.inf), Word.HIGH, False, "something still draws with nothing called"),
        ), nominal=0.0)  # fmt: skip

    def _rise_due(self, stage: Stage) -> Due | None:
        """By what the return air was, the rated watts and the rated air."""
        back = self.asking.read(stage, "return-air", TEMP)
        blower = self.unit.blower
        if back is None or blower is None or not blower.air_cfm:
            return None
        watts = sum(e.rated_watts for e in self.unit.elements)
        altitude_ft = self.evidence.visit.settings.altitude_ft
        rise_f = air_rise_f(BTUH_PER_WATT * watts, blower.air_cfm, altitude_ft)
        start, probe = back.reading.value, ACCURACY[TEMP].error(back.reading.value)
        low = start + RISE_SHARE.low * rise_f - probe
        high = start + RISE_SHARE.high * rise_f + probe
        due = f"due rise {show(rise_f, '°F')} at {show(blower.air_cfm, 'CFM', 4)}"
        return Due(resolve(self.unit, "supply-air"), TEMP, (
            Range(Band(-100.0, below(low)), Word.LOW, False, f"too little rise: {due}"),
            Range(Band(low, high), Word.IN_BAND, True, due),
            Range(Band(above(high), math.inf), Word.HIGH, False, f"too much rise, too little air: {due}"),
        ), nominal=start + rise_f)  # fmt: skip


def _order(stage: Stage) -> tuple[bool, bool, bool, int, float]:
    """Dead before live, the fan before heat, and the call off last."""
    return (
        not stage.dead,
        stage.driven,
        not (stage.dead or stage.calls),
        len(stage.calls),
        stage.after_s,
    )
