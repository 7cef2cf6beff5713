"""Which readings raise a stop, as data: the stops' own automaton is asked what each reading alone makes of a unit in
its usual settings, from which value on. Who has no program at hand latches and bars by it.

What takes several readings is in ``pairs``, but for heat without the blower. A phone holds a stop longer than the
program may, and never raises one that the program would not.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
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
from plentar.core.visit.draws import dead_blower_amps, draw_of, floor_of
from plentar.core.visit.events import ON, PROVED_DEAD, Reading
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import PanelState

A, V, OHM, TONE = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS, Quantity.TONE
#: Read at its largest and its smallest by a meter of the trade, in the quantity's unit.
_LEAST, _MOST = 0.0, {A: 400.0, V: 1000.0, Quantity.VOLTS_DC: 1000.0, Quantity.TEMP_F: 900.0}
#: Where a clamp shows heat; the last two with what else a feed carries.
_DRAWN_AT = frozenset({"element", "switch", "limit", "link", "circuit", "feed"})
_FEEDS = frozenset({"circuit", "feed"})
#: More of its rated volts no supply has, which a stop of its own would not say.
MOST_VOLTS = 1.3
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
        """What is read on the 24 V side is judged beside the calls."""
        if quantity.dead_only:
            return setting.power == PROVED_DEAD and point.kind == "node-ground"
        if setting.power != ON:
            return quantity in (A, V)
        return point.kind in _DRAWN_AT and quantity is A

    def _edge(self, setting: Setting, point: Point, quantity: Quantity, t_s: float) -> Iterator[Raises]:
        """A feed's amps are judged by the volts at its lugs: the more, the more amps it may draw."""
        if not (setting.power == ON and point.kind in _FEEDS):
            yield from self._edge_at(setting, point, quantity, t_s, None)
            return
        found = [
            row for share in (None, MOST_VOLTS) for row in self._edge_at(setting, point, quantity, t_s, share)
        ]
        if found:
            yield max(found, key=lambda row: row.least or 0.0)

    def _edge_at(
        self, setting: Setting, point: Point, quantity: Quantity, t_s: float, share: float | None
    ) -> Iterator[Raises]:
        def stops(value: float) -> tuple[Finding, ...]:
            reading = Reading(t_s=t_s, quantity=quantity, at=point.name, value=value)
            return open_of(standing(_with(self.pocket.evidence(setting, share), reading)))

        before = {_key(stop) for stop in stops(_MOST_OHMS if quantity.dead_only else _LEAST)}
        worst = _LEAST if quantity is OHM else 1.0 if quantity is TONE else _MOST[quantity]
        new = [stop for stop in stops(worst) if _key(stop) not in before]
        if not new:
            return

        def has(value: float) -> bool:
            return {_key(stop) for stop in new} <= {_key(stop) for stop in stops(value)}

        kinds = tuple(_kind(self.pocket, setting, stop, t_s) for stop in new)
        if setting.power != ON and not quantity.dead_only:
            yield Raises(point.name, quantity, kinds, least=self._shown(point, quantity, ShownLive.LIVE))
        elif quantity is TONE:
            yield Raises(point.name, quantity, kinds, least=1.0)
        elif quantity is OHM:
            yield Raises(point.name, quantity, kinds, below=flips(has, worst, _MOST_OHMS))
        else:
            yield Raises(point.name, quantity, kinds, least=flips(has, worst, _LEAST))

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
        return flips(shows, most, _LEAST) if shows(most) else None

    def without_blower(self) -> WithoutBlower | None:
        """Heat and a still blower; None where the plate has no blower."""
        unit = self.unit
        if unit.blower is None or not unit.elements:
            return None
        heat = next(s for s in self.pocket.usual if s.calls and s.calls == unit.heat_calls)
        first = unit.elements[0]
        readings = [(A, first.id, 10 * floor_of(first)), (A, "blower", 0.0)]
        kinds = [k for k in kinds_raised(self.pocket, heat, readings) if k.component == "blower"]
        if not kinds:
            return None
        draws = {
            p.name: least for p in self.pocket.points if (least := self._draws_from(heat, p)) is not None
        }
        return WithoutBlower(draws, dead_blower_amps(unit), blower_due_s(unit), kinds[0])

    def _draws_from(self, setting: Setting, point: Point) -> float | None:
        """From which amps on this point shows heat; None where none do."""
        if point.kind not in _DRAWN_AT or A not in point.quantities:
            return None
        before = self.pocket.evidence(setting)

        def draws(amps: float) -> bool:
            reading = Reading(t_s=CALLED_S + 1, quantity=A, at=point.name, value=amps)
            evidence = _with(before, reading)
            return draw_of(evidence, evidence.taken[-1]) is not None

        return flips(draws, _MOST[A], _LEAST) if draws(_MOST[A]) else None

    @cached_property
    def table(self) -> dict[str, tuple[Raises, ...]]:
        """By setting."""
        return {setting.key: tuple(self.raised(setting)) for setting in self.pocket.usual}


def kinds_raised(
    pocket: Pocket, setting: Setting, readings: Sequence[tuple[Quantity, str, float]]
) -> list[StopKind]:
    """What readings (quantity, point, value) raise together in a setting that has stood until no window is
    open."""
    t_s = CALLED_S + pocket.settled_s
    taken = [Reading(t_s=t_s, quantity=q, at=at, value=value) for q, at, value in readings]
    evidence = _with(pocket.evidence(setting), *taken)
    return [_kind(pocket, setting, stop, t_s) for stop in open_of(standing(evidence))]


def _with(evidence: Evidence, *readings: Reading) -> Evidence:
    return Evidence(evidence.unit, replace(evidence.visit, events=(*evidence.visit.events, *readings)))


def _kind(pocket: Pocket, setting: Setting, stop: Finding, t_s: float) -> StopKind:
    evidence = pocket.evidence(setting)
    return kind_of(evidence, evidence.state_at(t_s), stop)


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


def flips(has: Callable[[float], bool], yes: float, no: float) -> float:
    """The first number, from ``no`` on towards ``yes``, at which it is so; to the last digit."""
    while True:
        middle = (yes + no) / 2
        if middle in (yes, no) or math.nextafter(no, yes) == yes:
            return yes
        yes, no = (middle, no) if has(middle) else (yes, middle)
