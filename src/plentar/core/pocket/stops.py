"""Which readings raise a stop, as data: the stops' own automaton is asked what each reading alone makes of a unit in
its usual settings, from which value on. Who has no program at hand latches and bars by it.

What takes two readings is left to the program, but for heat without the blower. A phone holds a stop longer than
the program may, and never raises one that the program would not.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from plentar.core.checks.air import blower_due_s
from plentar.core.judgement import Finding
from plentar.core.pocket.verdicts import CALLED_S, Pocket, Setting
from plentar.core.quantity import Quantity
from plentar.core.safety.acts import make_safe
from plentar.core.safety.latch import open_of, standing
from plentar.core.safety.reach import circuits_of, loads_of
from plentar.core.safety.table import STOPS, Bar
from plentar.core.said import Said, listed
from plentar.core.unit.points import Point
from plentar.core.unit.unit import Unit
from plentar.core.visit.against_record import ShownLive, shown_live
from plentar.core.visit.draws import dead_blower_amps, floor_of
from plentar.core.visit.events import ON, PROVED_DEAD, Reading, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState

A, V, OHM, TONE = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TONE
#: Read at its largest and its smallest by a meter of the trade, in the quantity's unit.
_LEAST, _MOST = 0.0, {A: 400.0, V: 1000.0, Quantity.VOLTS_DC: 1000.0, Quantity.TEMP_F: 900.0}
#: Of ohms a small reading is the bad one.
_MOST_OHMS = 1e9


@dataclass(frozen=True, slots=True)
class StopKind:
    """A stop that a reading may raise: what it asks for first, and what it bars."""

    code: str
    component: str
    acts: Said
    bars: frozenset[Bar]
    circuits: frozenset[str]
    loads: frozenset[str]


@dataclass(frozen=True, slots=True)
class Raises:
    """A reading from ``least`` (or, of ohms, below ``below``) on raises these stops."""

    point: str
    quantity: Quantity
    stops: tuple[StopKind, ...]
    least: float | None = None
    below: float | None = None


@dataclass(frozen=True, slots=True)
class WithoutBlower:
    """Heat drawn at a point from its amps on, the blower's amps below its floor in the same setting, so many
    seconds after the call or with none."""

    draws: Mapping[str, float]
    still_below: float
    due_s: float
    stop: StopKind


@dataclass(frozen=True)
class PocketStops:
    """The stops of one unit that need no judge. Times in seconds."""

    pocket: Pocket

    @property
    def unit(self) -> Unit:
        return self.pocket.unit

    def raised(self, setting: Setting) -> Iterator[Raises]:
        """What each reading alone raises in a setting that has stood until no window is open."""
        t_s = CALLED_S + self.pocket.settled_s
        for point in self.pocket.points:
            for quantity in point.quantities:
                if self._is_asked(setting, point, quantity):
                    yield from self._edge(setting, point, quantity, t_s)

    def _is_asked(self, setting: Setting, point: Point, quantity: Quantity) -> bool:
        """A feed's amps are judged beside the volts, and what is read on the 24 V side beside the calls."""
        if quantity.dead_only:
            return setting.power == PROVED_DEAD and point.kind == "node-ground"
        if setting.power != ON:
            return quantity in (A, V)
        return point.kind in ("element", "switch", "limit", "link") and quantity is A

    def _edge(self, setting: Setting, point: Point, quantity: Quantity, t_s: float) -> Iterator[Raises]:
        def stops(value: float) -> tuple[Finding, ...]:
            reading = Reading(t_s=t_s, quantity=quantity, at=point.name, value=value)
            return open_of(standing(self._with(setting, reading)))

        before = {_key(stop) for stop in stops(_MOST_OHMS if quantity.dead_only else _LEAST)}
        worst = _LEAST if quantity is OHM else 1.0 if quantity is TONE else _MOST[quantity]
        new = [stop for stop in stops(worst) if _key(stop) not in before]
        if not new:
            return

        def has(value: float) -> bool:
            return {_key(stop) for stop in new} <= {_key(stop) for stop in stops(value)}

        kinds = tuple(self._kind(setting, stop, t_s) for stop in new)
        if setting.power != ON and not quantity.dead_only:
            yield Raises(point.name, quantity, kinds, least=self._shown(point, quantity, ShownLive.LIVE))
        elif quantity is TONE:
            yield Raises(point.name, quantity, kinds, least=1.0)
        elif quantity is OHM:
            yield Raises(point.name, quantity, kinds, below=_flips(has, worst, _MOST_OHMS))
        else:
            yield Raises(point.name, quantity, kinds, least=_flips(has, worst, _LEAST))

    def _with(self, setting: Setting, reading: Reading) -> Evidence:
        visit = self.pocket.evidence(setting).visit
        return Evidence(self.unit, Visit(settings=visit.settings, events=(*visit.events, reading)))

    def _kind(self, setting: Setting, stop: Finding, t_s: float) -> StopKind:
        evidence = self.pocket.evidence(setting)
        return kind_of(evidence, evidence.state_at(t_s), stop)

    def void(self) -> dict[str, float]:
        """From which volts or amps on a point that is off by the record is no proof of dead, by ``point quantity``."""
        return {
            f"{point.name} {quantity}": least
            for point in self.pocket.points
            for quantity in point.quantities
            if quantity in (A, V) and (least := self._shown(point, quantity, ShownLive.VOID)) is not None
        }

    def _shown(self, point: Point, quantity: Quantity, level: ShownLive) -> float | None:
        """The least reading that shows this with every breaker off by the record; None where none does."""
        dead = {circuit.id: PROVED_DEAD for circuit in self.unit.circuits}

        def shows(value: float) -> bool:
            reading = Reading(t_s=0.0, quantity=quantity, at=point.name, value=value)
            return shown_live(self.unit, dead, reading) >= level

        most = _MOST[quantity]
        return _flips(shows, most, _LEAST) if shows(most) else None

    def without_blower(self) -> WithoutBlower | None:
        """The one stop of two readings; None where the plate has no blower."""
        unit = self.unit
        if unit.blower is None or not unit.elements:
            return None
        heat = next(s for s in self.pocket.usual if s.calls and s.calls == unit.heat_calls)
        first = unit.elements[0]
        t_s = CALLED_S + self.pocket.settled_s
        drawn = Reading(t_s=t_s, quantity=A, at=first.id, value=10 * floor_of(first))
        stands = Reading(t_s=t_s, quantity=A, at="blower", value=0.0)
        visit = self.pocket.evidence(heat).visit
        events = (*visit.events, drawn, stands)
        evidence = Evidence(unit, Visit(settings=visit.settings, events=events))
        stop = next((s for s in open_of(standing(evidence)) if s.component == "blower"), None)
        if stop is None:
            return None
        draws = {e.id: floor_of(e) for e in unit.elements}
        kind = self._kind(heat, stop, t_s)
        return WithoutBlower(draws, dead_blower_amps(unit), blower_due_s(unit), kind)

    @cached_property
    def table(self) -> dict[str, tuple[Raises, ...]]:
        """By setting."""
        return {setting.key: tuple(self.raised(setting)) for setting in self.pocket.usual}


def kind_of(evidence: Evidence, state: PanelState, stop: Finding) -> StopKind:
    """A stop with what it asks for in this state, and what it bars."""
    rule, unit = STOPS[stop.code], evidence.unit
    return StopKind(
        stop.code,
        stop.component,
        listed(make_safe(evidence, state, stop).acts, " "),
        rule.bars,
        frozenset(circuits_of(unit, stop.component)),
        frozenset(loads_of(unit, stop)),
    )


def _key(stop: Finding) -> tuple[str, str]:
    return stop.code, stop.component


def _flips(has: Callable[[float], bool], yes: float, no: float) -> float:
    """The first number, from ``no`` on towards ``yes``, at which it is so; to the last digit."""
    while True:
        middle = (yes + no) / 2
        if middle in (yes, no) or math.nextafter(no, yes) == yes:
            return yes
        yes, no = (middle, no) if has(middle) else (yes, middle)
