"""One scale of amps for a circuit: what it carries, what it must be made for, what it is made for."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum

from plentar.core.quantity import Quantity
from plentar.core.said import Said, say
from plentar.core.supply.conductors import allowed_amps, largest_breaker_amps, terminal_amps
from plentar.core.supply.loads import Supplied, supplied
from plentar.core.supply.meanwhile import Meanwhile, meanwhile
from plentar.core.supply.sizing import Sized, needs_of
from plentar.core.tables import thresholds as th
from plentar.core.visit.evidence import Evidence


class Side(StrEnum):
    """Which of the two a mark is: a need, or what there is for it."""

    NEEDS = "needs"
    HAS = "has"


@dataclass(frozen=True, slots=True)
class Mark:
    """One figure on the scale, A. ``least`` is what it must reach, ``most`` what it may not pass;
    None where it is held against nothing."""

    label: Said
    amps: float
    side: Side
    least: float | None = None
    most: float | None = None

    @property
    def good(self) -> bool | None:
        """It lies where it should; None where nothing is asked of it."""
        if self.least is None and self.most is None:
            return None
        short = self.least is not None and self.amps < self.least
        over = self.most is not None and self.amps > self.most
        return not short and not over


@dataclass(frozen=True, slots=True)
class AmpereScale:
    """The marks of one circuit or feeder, and what it needs; which stage to leave off until it has
    that, and the elements that are left off now."""

    id: str
    marks: tuple[Mark, ...]
    needs: Sized
    meanwhile: Meanwhile | None
    left_off: tuple[str, ...]

    @property
    def in_order(self) -> bool:
        """No mark lies where it should not."""
        return all(mark.good is not False for mark in self.marks)


def ampere_scales(evidence: Evidence) -> tuple[AmpereScale, ...]:
    """A scale for each circuit that carries something, and for the feeder."""
    off = evidence.state_at(math.inf).stages_off
    unit = evidence.unit
    both = zip(supplied(unit), supplied(unit, off), strict=True)
    return tuple(_scale(evidence, one, left) for one, left in both if one.load.total > 0)


def _scale(evidence: Evidence, one: Supplied, left: Supplied) -> AmpereScale:
    unit, needs = evidence.unit, needs_of(one)
    off = evidence.state_at(math.inf).stages_off
    own = [e.id for c in one.circuits for e in unit.elements_on(c) if e.id in off]
    marks = tuple(_marks(evidence, one, needs, left if own else None))
    return AmpereScale(one.id, marks, needs, meanwhile(unit, one.circuits), tuple(own))


def _marks(evidence: Evidence, one: Supplied, needs: Sized, left: Supplied | None) -> Iterator[Mark]:
    load, breaker, wire = one.load, one.breaker_amps, one.conductor
    least, most = needs.breaker_amps[0], one.plate.max_breaker_amps if one.plate else None
    yield Mark(say("supply.ampere.load-rated"), load.total, Side.NEEDS)
    if left is not None:
        yield Mark(say("supply.ampere.load-what-left-off"), left.load.total, Side.NEEDS)
    measured = _measured(evidence, one)
    if measured is not None:
        yield Mark(say("supply.ampere.load-measured"), measured, Side.NEEDS)
    by_plate = any(
        c.plate and c.plate.min_circuit_amps for c in evidence.unit.circuits if c.id in one.circuits
    )
    yield Mark(
        say("supply.ampere.plate-minimum") if by_plate else say("supply.ampere.125"), load.minimum, Side.NEEDS
    )
    allowed = allowed_amps(wire, breaker) if wire else None
    if breaker is not None:
        yield Mark(say("supply.ampere.breaker"), breaker, Side.HAS, least, most)
        yield Mark(say("supply.ampere.80-breaker"), th.BREAKER_SHARE * breaker, Side.HAS)
    if wire is not None:
        ends = terminal_amps(wire, breaker)
        yield Mark(say("supply.ampere.awg-terminals", awg=wire.awg), ends, Side.HAS, load.minimum)
        if allowed is not None:
            yield Mark(say("supply.ampere.awg-lies", awg=wire.awg), allowed, Side.HAS, load.total)
            protects = largest_breaker_amps(wire, breaker)
            if protects is not None and breaker is not None:
                yield Mark(say("supply.ampere.largest-breaker"), protects, Side.HAS, breaker)
    if most is not None:
        yield Mark(say("supply.ampere.plate-maximum"), most, Side.HAS)


def _measured(evidence: Evidence, one: Supplied) -> float | None:
    """The newest amps of every strip, and of the blower where it is on this supply."""
    unit, total = evidence.unit, 0.0
    for circuit in one.circuits:
        for element in unit.elements_on(circuit):
            taken = evidence.latest(element.id, Quantity.AMPS)
            if taken is None or not taken.state.calls:
                return None
            total += taken.reading.value
        if unit.blower is not None and unit.blower.circuit == circuit:
            blower = evidence.latest("blower", Quantity.AMPS)
            if blower is None:
                return None
            total += blower.reading.value
    return total
