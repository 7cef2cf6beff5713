"""What is due at every point in the usual settings of a unit, as data: who has no program at hand judges by it.

``expected`` is asked itself, for each stretch of time since the call and at several volts; a point whose edges are
no straight lines of the volts at its lugs is left out and waits for the program. A setting begins at rest: for
``rest_s`` nothing was called with every breaker on. Or it has stood so long that no window is open.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from plentar.core.circuit.faults import effects_of
from plentar.core.circuit.moments import moments_until
from plentar.core.circuit.wiring import wire_up
from plentar.core.expected import Asked, Expected, Word
from plentar.core.expected.blower import STARTING_S
from plentar.core.expected.rules import expected_at
from plentar.core.quantity import Quantity
from plentar.core.tables import thresholds as th
from plentar.core.unit.points import Point, resolve
from plentar.core.unit.points import points as named
from plentar.core.unit.unit import Unit
from plentar.core.visit.events import OFF, PROVED_DEAD, Calls, Event, Power, Reading, Settings, Visit
from plentar.core.visit.evidence import Evidence
from plentar.core.visit.state import all_off_s, all_on_s, longest_on_s, typical_grace_s

#: Shares of the rated volts between which an edge is a straight line of the volts, or it is left out.
LOW_VOLTS, HIGH_VOLTS = 0.8, 1.12
_TRIED = (LOW_VOLTS, HIGH_VOLTS, 0.87, 0.94, 1.0, 1.06)
#: An edge that is off its line by more than this share is none.
STRAIGHT = 1e-9
#: When the volts are read, and when the call begins, s.
_READ_S, CALLED_S = 1.0, 10.0
_SETTLES_S = 3600.0
_UNPOWERED = (OFF, PROVED_DEAD)


@dataclass(frozen=True, slots=True)
class Edge:
    """The end of a range: ``at`` + ``per_volt`` × volts at the lugs; ``within``: it belongs to the range."""

    at: float
    per_volt: float
    within: bool


@dataclass(frozen=True, slots=True)
class Span:
    """A range up to ``end``, None for the last, with its verdict."""

    end: Edge | None
    word: Word
    good: bool | None


@dataclass(frozen=True, slots=True)
class Stretch:
    """What is due from so many seconds after the setting began; without spans nothing is judged."""

    from_s: float
    provisional: bool
    spans: tuple[Span, ...]


@dataclass(frozen=True, slots=True)
class DueAt:
    """One quantity at one point in one setting: by volts that were read at ``circuit``, and without. None: it
    waits for the program."""

    point: str
    quantity: Quantity
    circuit: str
    by_volts: tuple[Stretch, ...] | None
    unread: tuple[Stretch, ...] | None


@dataclass(frozen=True, slots=True)
class Setting:
    """``power`` of every circuit and what is called."""

    power: str
    calls: frozenset[str]

    @property
    def key(self) -> str:
        return f"{self.power}:{'+'.join(sorted(self.calls))}"


@dataclass(frozen=True)
class Pocket:
    """The table of one unit as one shop judges it. Times in seconds."""

    unit: Unit
    settings: Settings

    @property
    def rest_s(self) -> float:
        """So long after its call ended a unit is at rest."""
        return all_off_s(self.unit) + th.TYPED_WITHIN_S

    @cached_property
    def settled_s(self) -> float:
        """After this no window of any setting is open, whatever was called before."""
        return max([self.rest_s, *(s for setting in self.usual for s in self._bounds(setting))]) + 1

    @cached_property
    def usual(self) -> tuple[Setting, ...]:
        """Nothing, the fan, the first stage, both, all heat with and without the fan, cooling; off, proved dead."""
        unit = self.unit
        fan = frozenset({unit.fan_call}) if unit.fan_call else frozenset[str]()
        heat = sorted(unit.heat_calls)
        first, every = frozenset(heat[:1]), frozenset(heat)
        cool = frozenset({"Y"}) & frozenset(unit.calls)
        called = [
            frozenset[str](),
            fan,
            first,
            first | fan,
            every,
            every | fan,
            *([cool | fan] if cool else []),
        ]
        on = [Setting("on", calls) for calls in dict.fromkeys(called)]
        return (*on, *(Setting(power, frozenset()) for power in _UNPOWERED))

    def due(self, setting: Setting) -> Iterator[DueAt]:
        """Every quantity at every point that is read in this setting."""
        bounds = self._bounds(setting)
        times = [(b + a) / 2 for b, a in pairwise([*bounds, bounds[-1] + 20])]
        unread = self.evidence(setting, None)
        read = [self.evidence(setting, share) for share in _TRIED]
        for point in self.points:
            circuit = self._circuit_of(point)
            for quantity in point.quantities:
                if quantity.dead_only != (setting.power == PROVED_DEAD) and quantity is not Quantity.VOLTS:
                    continue
                asked = [_asked(unread, point, quantity, t_s) for t_s in times]
                yield DueAt(
                    point.name,
                    quantity,
                    circuit,
                    _joined(bounds, [self._by_volts(read, point, quantity, t_s, circuit) for t_s in times]),
                    _joined(bounds, [_constant(expected) for expected in asked]),
                )

    @cached_property
    def points(self) -> list[Point]:
        unit = self.unit
        grounds = [f"{e.id}.in:ground" for e in unit.elements] + [
            f"{c.id}.{leg}:ground" for c in unit.circuits for leg in ("l1", "l2")
        ]
        return [*named(unit), *(resolve(unit, name) for name in grounds)]

    def _circuit_of(self, point: Point) -> str:
        """Whose volts a point is judged by."""
        unit = self.unit
        owner = point.component.removesuffix(".line")
        if owner in unit.circuit_by_id:
            return owner
        if owner in unit.element_by_id:
            return unit.element_by_id[owner].circuit
        through = next(iter(unit.elements_through(owner)), None)
        return through.circuit if through else unit.circuits[0].id

    def evidence(self, setting: Setting, share: float | None = None) -> Evidence:
        """The setting from rest, the volts at every kit's lugs read before at this share of the rated."""
        events: list[Event] = []
        if share is not None:
            events += [
                Reading(t_s=_READ_S, quantity=Quantity.VOLTS, at=c.id, value=share * c.rated_volts)
                for c in self.unit.circuits
            ]
        if setting.power in _UNPOWERED:
            events.append(Power(t_s=CALLED_S, state=setting.power))
        elif setting.calls:
            events.append(Calls(t_s=CALLED_S, calls=setting.calls))
        return Evidence(self.unit, Visit(settings=self.settings, events=tuple(events)))

    def _bounds(self, setting: Setting) -> list[float]:
        """Seconds after the beginning of a setting between which nothing changes, the first 0."""
        unit = self.unit
        if not setting.calls:
            return [0.0]
        found = {0.0, STARTING_S, all_on_s(unit)}
        for control in unit.controls:
            for switch in control.switches:
                window_s = longest_on_s(unit, control, switch.id)
                found |= {window_s, window_s + typical_grace_s(unit, control, switch.id)}
        wiring = wire_up(unit)
        switches = [e for e in self.evidence(setting, None).visit.events if e.is_switch]
        moments = moments_until(wiring, effects_of(wiring, ()), switches, CALLED_S + _SETTLES_S)
        found |= {moment.t_s - CALLED_S for moment in moments if moment.t_s > CALLED_S}
        return sorted(s for s in found if s < _SETTLES_S)

    def _by_volts(
        self, read: Sequence[Evidence], point: Point, quantity: Quantity, t_s: float, circuit: str
    ) -> Stretch | None:
        """The spans as lines of the volts, through the lowest and the highest that were tried and no other."""
        rated = self.unit.circuit_by_id[circuit].rated_volts
        least, most = (_asked(evidence, point, quantity, t_s) for evidence in read[:2])
        low, high = LOW_VOLTS * rated, HIGH_VOLTS * rated
        if not _alike(least, most):
            return None
        spans = tuple(
            Span(_line(low, one.band.high, high, two.band.high), one.word, one.good)
            for one, two in zip(least.ranges, most.ranges, strict=True)
        )
        steady = all(span.end is None or not span.end.per_volt for span in spans)
        for evidence, share in zip(read[2:], () if steady else _TRIED[2:], strict=False):
            between = _asked(evidence, point, quantity, t_s)
            if not _alike(least, between) or not _on_line(spans, between, share * rated):
                return None
        return Stretch(0.0, least.provisional, spans)


def _asked(evidence: Evidence, point: Point, quantity: Quantity, elapsed_s: float) -> Expected:
    return expected_at(evidence, Asked(point, quantity, evidence.state_at(CALLED_S + elapsed_s)))


def _alike(one: Expected, two: Expected) -> bool:
    """The same verdicts in the same order, and every range begins where the one before it ends."""
    return one.provisional == two.provisional and [(r.word, r.good) for r in one.ranges] == [
        (r.word, r.good) for r in two.ranges
    ]


def _constant(expected: Expected) -> Stretch:
    spans = tuple(Span(_line(0, r.band.high, 0, r.band.high), r.word, r.good) for r in expected.ranges)
    return Stretch(0.0, expected.provisional, spans)


def _line(low_v: float, low: float, high_v: float, high: float) -> Edge | None:
    """The edge through two ends of a range; None where the range has no end."""
    if math.isinf(low):
        return None
    (at_low, within), (at_high, _) = _bound(low), _bound(high)
    per_volt = (at_high - at_low) / (high_v - low_v) if at_high != at_low else 0.0
    return Edge(at_low - per_volt * low_v, per_volt, within)


def _bound(end: float) -> tuple[float, bool]:
    """A bound and whether it is in the range that ends there: the number just below a bound is not."""
    above = math.nextafter(end, math.inf)
    short = len(repr(above)) < len(repr(end))
    return (above, False) if short else (end, True)


def _on_line(spans: Sequence[Span], expected: Expected, volts: float) -> bool:
    ends = [range_.band.high for range_ in expected.ranges]
    lines = [math.inf if s.end is None else s.end.at + s.end.per_volt * volts for s in spans]
    return all(a == b or abs(a - b) <= STRAIGHT * abs(b) for a, b in zip(lines, ends, strict=True))


def _joined(bounds: Sequence[float], found: Sequence[Stretch | None]) -> tuple[Stretch, ...] | None:
    """The stretches one after the other, those that say the same as one; None where one is missing."""
    joined: list[Stretch] = []
    for from_s, stretch in zip(bounds, found, strict=True):
        if stretch is None:
            return None
        if not joined or (stretch.provisional, stretch.spans) != (joined[-1].provisional, joined[-1].spans):
            joined.append(Stretch(from_s, stretch.provisional, stretch.spans))
    return tuple(joined)
