"""What a careful round of a unit would still read: a sound unit is said as far as it was read."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from plentar.core.checks.joints import pole_of
from plentar.core.quantity import Quantity
from plentar.core.unit.parts import HEAT_CALLS
from plentar.core.unit.points import TIE_WIRE, has_tie_wire
from plentar.core.unit.unit import Unit
from plentar.core.visit.evidence import Evidence, Taken

A, V, OHM = Quantity.AMPS, Quantity.VOLTS, Quantity.OHMS


def unread_of(evidence: Evidence) -> tuple[str, ...]:
    """Codes in the round's order: ``off:E1``, ``to-ground:E1``, ``tie``, ``joint:C1``; empty when all was
    read."""
    return tuple(_unread(evidence))


def _unread(evidence: Evidence) -> Iterator[str]:
    unit = evidence.unit
    taken = [t for t in evidence.taken if t.counts]
    rested = {at for t in taken if _after_heat(t) for at in (t.point.name, t.point.component)}
    for element in unit.elements:
        if not {element.id, element.circuit} & rested:
            yield f"off:{element.id}"
    grounded = {
        t.point.component for t in taken if t.point.kind == "node-ground" and t.reading.quantity is OHM
    }
    for element in unit.elements:
        if element.id not in grounded:
            yield f"to-ground:{element.id}"
    if unit.blower is not None and not _tie_read(evidence, taken):
        yield "tie"
    for circuit in unit.circuits:
        if any(unit.elements_on(circuit.id)) and not any(_of_feed(evidence, t, circuit.id) for t in taken):
            yield f"joint:{circuit.id}"


def _after_heat(taken: Taken) -> bool:
    """Amps once a call for heat has ended, so that a weld would show."""
    ended = taken.state.ended_s.keys() & HEAT_CALLS
    return taken.reading.quantity is A and bool(ended) and not taken.state.calls & HEAT_CALLS


def _tie_read(evidence: Evidence, taken: Sequence[Taken]) -> bool:
    """The blower was seen with heat alone, or its tie by ohms: the set, and the wire to it where there is one."""
    unit = evidence.unit
    nc = f"{unit.relay.id}.nc" if unit.relay else ""
    ohms = {t.point.name for t in taken if t.reading.quantity is OHM}
    by_ohms = nc in ohms and (TIE_WIRE in ohms or not has_tie_wire(unit))
    return by_ohms or any(_with_heat_alone(unit, t, nc) for t in taken)


def _with_heat_alone(unit: Unit, taken: Taken, nc: str) -> bool:
    calls = taken.state.calls
    alone = bool(calls & HEAT_CALLS) and unit.fan_call not in calls
    return alone and taken.point.name in ("blower", nc) and taken.reading.quantity is A


def _of_feed(evidence: Evidence, taken: Taken, circuit_id: str) -> bool:
    """The line side or a pole under heat."""
    under_heat = bool(taken.state.calls & HEAT_CALLS) and taken.reading.quantity is V
    pole = pole_of(evidence, taken)
    return under_heat and (
        taken.point.name == f"{circuit_id}.line" or (pole is not None and pole.id == circuit_id)
    )
