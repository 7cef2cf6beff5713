"""Which stages to leave off until a circuit is put right, and what it draws then."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass
from itertools import combinations

from plentar.core.said import NOTHING, Said, figure, listed, plain, say
from plentar.core.supply.conductors import allowed_amps, largest_breaker_amps, next_size_amps, terminal_amps
from plentar.core.supply.loads import Supplied, supplied
from plentar.core.unit.unit import Unit
from plentar.core.visit.state import first_call

#: So many elements of a circuit are left off at most.
MOST_LEFT_OFF = 4


@dataclass(frozen=True, slots=True)
class Meanwhile:
    """The elements to leave off, the calls that would bring them, and what is drawn then, A."""

    elements: tuple[str, ...]
    calls: tuple[str, ...]
    load_amps: float
    of_amps: float
    #: The breaker of now and the largest for its wire, where it is too large for it all the same.
    unprotected: tuple[float, float] | None = None

    @property
    def words(self) -> Said:
        called = f" ({', '.join(self.calls)})" if self.calls else ""
        return say(
            "supply.meanwhile.leave-off",
            elements=listed(self.elements, "and"),
            called=called,
            load_amps=figure(self.load_amps, "A"),
            of_amps=figure(self.of_amps, "A"),
            breaker=self._breaker,
        )

    @property
    def _breaker(self) -> Said:
        if self.unprotected is None:
            return NOTHING
        now, most = self.unprotected
        return say("supply.meanwhile.breaker-still-does-not", now=plain(now), most=plain(most))


def meanwhile(unit: Unit, circuits: Collection[str]) -> Meanwhile | None:
    """The fewest watts to leave off of some circuits so that breaker and wire of them, and of the
    feeder, carry the rest; None where nothing has to be, or all of it would."""
    own = [e for c in circuits for e in unit.elements_on(c)]
    watts = {e.id: e.rated_watts for e in own}
    ways = sorted(_ways([e.id for e in own]), key=lambda way: (sum(watts[e] for e in way), way))
    for way in ways:
        left = [one for one in supplied(unit, frozenset(way)) if set(one.circuits) & set(circuits)]
        if all(_carries(one) for one in left):
            tightest = max(left, key=lambda one: one.load.total / _of_amps(one))
            return _said(unit, way, tightest) if way else None
    return None


def _ways(elements: list[str]) -> Iterator[tuple[str, ...]]:
    """Any few of the elements, but never all of them."""
    for many in range(min(len(elements), MOST_LEFT_OFF + 1)):
        yield from combinations(elements, many)


def _carries(one: Supplied) -> bool:
    breaker, wire = one.breaker_amps, one.conductor
    if breaker is not None:
        size = next_size_amps(one.load.minimum)
        if size is None or size > breaker:
            return False
    allowed = allowed_amps(wire, breaker) if wire else None
    if wire is None or allowed is None:
        return True
    return allowed >= one.load.total and terminal_amps(wire, breaker) >= one.load.minimum


def _of_amps(one: Supplied) -> float:
    """What it may carry: its breaker or its wire, whichever is less."""
    allowed = allowed_amps(one.conductor, one.breaker_amps) if one.conductor else None
    limits = [amps for amps in (one.breaker_amps, allowed) if amps]
    return min(limits, default=1e9)


def _said(unit: Unit, way: tuple[str, ...], one: Supplied) -> Meanwhile:
    """The calls are named where leaving them unhooked does the same."""
    by_call: dict[str, set[str]] = {}
    for element in unit.elements:
        for switch in unit.rung_switches(element):
            call = first_call(unit, unit.control_of_switch[switch.id])
            by_call.setdefault(call, set()).add(element.id)
    calls = tuple(call for call, fed in sorted(by_call.items()) if fed == set(way))
    return Meanwhile(way, calls, one.load.total, _of_amps(one), _unprotected(one))


def _unprotected(one: Supplied) -> tuple[float, float] | None:
    most = largest_breaker_amps(one.conductor, one.breaker_amps) if one.conductor else None
    if one.breaker_amps is None or most is None or one.breaker_amps <= most:
        return None
    return one.breaker_amps, most
